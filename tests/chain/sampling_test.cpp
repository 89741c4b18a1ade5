// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/sampling.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <functional>

#include "boards.hpp"
#include "tamlo/chain/dynamics.hpp"

namespace tamlo::chain {
namespace {

// The circuit, step by step: a source of 1 V and `resistance` to the pin, with a capacitor there or
// none, and a switch to a capacitor that held 0 V. After so many samples of the pin: what is left.
double stepped(const Sampling& of, double resistance, int samples) {
  double pin = of.pin_capacitor > 0.0 ? 1.0 : 0.0, held = 0.0;
  for (int sample = 0; sample < samples; ++sample) {
    held = 0.0;
    const auto run = [&](double time, bool closed) {
      // Half-step (midpoint) rule, fine beside the fastest time constant.
      const double slow = resistance * of.pin_capacitor;
      const double fastest = of.pin_capacitor == 0.0
                                 ? (resistance + of.switch_resistance) * of.capacitor
                             : closed ? std::min(of.switch_resistance * of.capacitor, slow)
                                      : slow;
      const int steps = static_cast<int>(std::ceil(time / fastest * 100.0)) + 1;
      const double dt = time / steps;
      const auto slope = [&](double v_pin, double v_held, double& d_pin, double& d_held) {
        if (of.pin_capacitor > 0.0) {
          const double flow = closed ? (v_pin - v_held) / of.switch_resistance : 0.0;
          d_pin = ((1.0 - v_pin) / resistance - flow) / of.pin_capacitor;
          d_held = flow / of.capacitor;
        } else {
          d_pin = 0.0;
          d_held =
              closed ? (1.0 - v_held) / ((resistance + of.switch_resistance) * of.capacitor) : 0.0;
        }
      };
      for (int i = 0; i < steps; ++i) {
        double a, b, c, d;
        slope(pin, held, a, b);
        slope(pin + a * dt / 2.0, held + b * dt / 2.0, c, d);
        pin += c * dt;
        held += d * dt;
      }
    };
    run(of.time, true);
    const double sampled = held;
    if (sample + 1 == samples) return 1.0 - sampled;
    run(std::max(of.period - of.time, 0.0), false);
  }
  return 1.0;
}

// "source 10 kohm, 8 pF, 12 bits: the time to half a code width by formula and by a step-by-step
// circuit simulation agree within 1 %": 13 ln 2 time constants.
TEST(Sampling, TimeToHalfACode) {
  Sampling of{.time = 1e-6, .switch_resistance = 1e3, .capacitor = 8e-12};
  const double formula = time_to_settle(of, 10e3, 0.5 / 4096.0);
  EXPECT_NEAR(formula, 13.0 * std::log(2.0) * 11e3 * 8e-12, 1e-15);
  double low = 0.0, high = 1e-5;
  for (int i = 0; i < 40; ++i) {
    of.time = (low + high) / 2.0;
    (stepped(of, 10e3, 1) < 0.5 / 4096.0 ? high : low) = of.time;
  }
  EXPECT_NEAR(high / formula, 1.0, 0.01);
}

TEST(Sampling, WithACapacitorAtThePin) {
  // From charge sharing that recovers in time, to one that piles up from sample to sample.
  const Sampling cases[] = {{.time = 1e-6,
                             .period = 1e-3,
                             .switch_resistance = 2e3,
                             .capacitor = 8e-12,
                             .pin_capacitor = 10e-9},
                            {.time = 1e-6,
                             .period = 20e-6,
                             .switch_resistance = 2e3,
                             .capacitor = 8e-12,
                             .pin_capacitor = 10e-9},
                            {.time = 3e-6,
                             .period = 10e-6,
                             .switch_resistance = 1e3,
                             .capacitor = 20e-12,
                             .pin_capacitor = 100e-12},
                            {.time = 0.02e-6,
                             .period = 50e-6,
                             .switch_resistance = 5e3,
                             .capacitor = 8e-12,
                             .pin_capacitor = 1e-9}};
  for (const auto& of : cases) {
    for (const double resistance : {500.0, 10e3}) {
      const double simulated = stepped(of, resistance, 60);
      EXPECT_NEAR(unsettled(of, resistance), simulated, 1e-3 * std::abs(simulated) + 1e-9)
          << of.period << " " << resistance;
    }
  }
  EXPECT_TRUE(std::isinf(time_to_settle(cases[1], 1e9, 1e-6)));
}

// A neighbour in the scan shows through: once in the reading's bias, once as an uncertainty, and as
// the chain's own forward half has it.
TEST(Sampling, TheNeighbourEntersTheChain) {
  auto b = testing::board({.span = "0..2.4 V", .top = "100 kohm", .bottom = "100 kohm"});
  auto& adc = b.converters.front();
  adc.clock = model::Clock{.source = 1e6, .divider = 1};
  adc.conversion = 13.0;
  adc.sampling_capacitor = 8e-12;
  b.channels.front().sampling = 2.0;
  auto other = b.channels.front();
  other.name = "before";
  other.frontend.clear();
  other.span = testing::range("0.5..1.5 V");
  b.channels.push_back(other);
  const auto chain = build(b, "x");
  const double left = std::exp(-2e-6 / (50e3 * 8e-12));
  const auto& source = chain.sources.at(testing::source(chain, "rest of before"));
  EXPECT_DOUBLE_EQ(source.limit, 0.5);
  // Pin at 0.5 V, the neighbour at 1 V on average: that much is added, twice at the divider's top.
  EXPECT_NEAR(bias(chain, 1.0), 2.0 * left * (1.0 - 0.5), 1e-12);
  const auto d = dynamics(chain);
  ASSERT_TRUE(d.settling);
  EXPECT_NEAR(d.settling->left_in_codes, left * 4096.0, 1e-9);
  EXPECT_DOUBLE_EQ(d.timing.scan_period, 30e-6);
  // Alone on its converter nothing foreign is in the capacitor.
  b.channels.pop_back();
  EXPECT_EQ(bias(build(b, "x"), 1.0), 0.0);
}

}  // namespace
}  // namespace tamlo::chain
