// SPDX-License-Identifier: Apache-2.0
// Public calls with numbers that are none, endless or beyond all measure: each gives a finite
// figure or throws an Error, and nothing else. And calls that a user may run side by side.
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <limits>
#include <thread>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/budget/channel_trials.hpp"
#include "tamlo/budget/propagate.hpp"
#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/error.hpp"
#include "tamlo/explore/explore.hpp"
#include "tamlo/firmware/plan.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/regression.hpp"
#include "tamlo/meter/calibrate.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/model/validate.hpp"
#include "tamlo/record/verdict.hpp"
#include "tamlo/signal/capture.hpp"
#include "tamlo/signal/code_density.hpp"
#include "tamlo/signal/histogram.hpp"
#include "tamlo/signal/moments.hpp"
#include "tamlo/signal/sine.hpp"
#include "tamlo/signal/spectrum.hpp"
#include "tamlo/signal/stability.hpp"
#include "tamlo/simulate/sampler.hpp"

namespace tamlo::testing {
namespace {

const double nan = std::numeric_limits<double>::quiet_NaN();
const double infinite = std::numeric_limits<double>::infinity();
const double hostile[] = {nan,     infinite, -infinite, 1e308, -1e308, 1e-320,
                          -1e-320, 0.0,      -1.0,      1e19,  2.0};

using Call = std::function<double(double)>;

// A sound series with one hostile value in it.
std::vector<double> series(double x, std::size_t n = 64) {
  std::vector<double> result(n);
  for (std::size_t i = 0; i < n; ++i) result[i] = std::sin(0.7 * static_cast<double>(i));
  result[n / 2] = x;
  return result;
}

std::vector<std::pair<const char*, Call>> calls(const chain::Chain& chain,
                                                const model::Meter& meter) {
  return {
      {"math::coverage_factor", [](double x) { return math::coverage_factor(x, 5.0); }},
      {"math::coverage_factor dof", [](double x) { return math::coverage_factor(0.95, x); }},
      {"math::chi_squared_survival", [](double x) { return math::chi_squared_survival(x, 3); }},
      {"math::chi_squared_survival of a shift",
       [](double x) { return math::chi_squared_survival(2.0, 3, x); }},
      {"math::chi_squared_quantile", [](double x) { return math::chi_squared_quantile(x, 3.0); }},
      {"math::chi_squared_quantile dof",
       [](double x) { return math::chi_squared_quantile(0.95, x); }},
      {"math::normal_cdf", [](double x) { return math::normal_cdf(x); }},
      {"math::normal_quantile", [](double x) { return math::normal_quantile(x); }},
      {"math::student_quantile", [](double x) { return math::student_quantile(x, 4.0); }},
      {"math::student_quantile dof", [](double x) { return math::student_quantile(0.9, x); }},
      {"math::tolerance_factor", [](double x) { return math::tolerance_factor(10, x, 0.95); }},
      {"math::tolerance_factor confidence",
       [](double x) { return math::tolerance_factor(10, 0.95, x); }},
      {"math::median", [](double x) { return math::median(series(x)); }},
      {"chain::systematic_quantisation_variance",
       [](double x) { return chain::systematic_quantisation_variance(x); }},
      {"chain::quantisation_standard", [](double x) { return chain::quantisation_standard(x, 4); }},
      {"chain::quantisation_standard count",
       [](double x) { return chain::quantisation_standard(0.3, x); }},
      {"chain::code_width_at", [&](double x) { return chain::code_width_at(chain, x); }},
      {"chain::step_at", [&](double x) { return chain::step_at(chain, x); }},
      {"chain::plateau_width_at", [&](double x) { return chain::plateau_width_at(chain, x); }},
      {"chain::voltage", [&](double x) { return chain::voltage(chain, x, chain.nominal); }},
      {"chain::code", [&](double x) { return chain::code(chain, x, chain.nominal); }},
      {"chain::firmware_volts", [&](double x) { return chain::firmware_volts(chain, x); }},
      {"chain::reading", [&](double x) { return chain::reading(chain, x); }},
      {"chain::reading_or_end", [&](double x) { return chain::reading_or_end(chain, x); }},
      {"chain::smooth_reading", [&](double x) { return chain::smooth_reading(chain, x); }},
      {"chain::read", [&](double x) { return chain::read(chain, x, chain.nominal); }},
      {"chain::bias", [&](double x) { return chain::bias(chain, x); }},
      {"chain::quantity_at", [&](double x) { return chain::quantity_at(chain, x); }},
      {"chain::quantity_at_voltage",
       [&](double x) { return chain::quantity_at_voltage(chain, x); }},
      {"chain::noise_in_codes", [&](double x) { return chain::noise_in_codes(chain, x); }},
      {"chain::reading_noise", [&](double x) { return chain::reading_noise(chain, x); }},
      {"chain::converter_magnitude",
       [&](double x) { return chain::converter_magnitude(chain, x); }},
      {"chain::analog_magnitude", [&](double x) { return chain::analog_magnitude(chain, x); }},
      {"chain::folded", [](double x) { return chain::folded(x, 1000.0); }},
      {"chain::folded rate", [](double x) { return chain::folded(50.0, x); }},
      {"quantity::parse_slope",
       [](double x) {
         return quantity::parse_slope(std::to_string(x) + " V/s", quantity::unit("V"));
       }},
      {"budget::tolerance", [](double x) { return budget::tolerance(x, 2); }},
      {"budget::evaluate at",
       [&](double x) { return budget::evaluate(chain, {.at = {x}}).points[0].expanded; }},
      {"budget::evaluate coverage",
       [&](double x) {
         return budget::evaluate(chain, {.at = {12.0}, .coverage = x}).points[0].expanded;
       }},
      {"budget::normal",
       [](double x) {
         return budget::propagate([](std::span<const double> of) { return of[0]; },
                                  {budget::normal("a", 0.0, x)})
             .expanded;
       }},
      {"budget::normal mean",
       [](double x) {
         return budget::propagate([](std::span<const double> of) { return of[0]; },
                                  {budget::normal("a", x, 1.0)})
             .expanded;
       }},
      {"budget::propagate coverage",
       [](double x) {
         return budget::propagate([](std::span<const double> of) { return of[0]; },
                                  {budget::normal("a", 0.0, 1.0)}, x)
             .expanded;
       }},
      {"a model that gives it",
       [](double x) {
         return budget::propagate([x](std::span<const double> of) { return of[0] * x; },
                                  {budget::normal("a", 1.0, 1.0)})
             .expanded;
       }},
      {"meter::compare meter",
       [&](double x) {
         return meter::compare(chain, meter, {{.meter = x, .reading = 5.0}}).rows[0].difference;
       }},
      {"meter::compare reading",
       [&](double x) {
         return meter::compare(chain, meter, {{.meter = 5.0, .reading = x}}).rows[0].difference;
       }},
      {"meter::compare spread",
       [&](double x) {
         const meter::Reading row{.meter = 5.0, .reading = 5.0, .repeats = 4, .spread = x};
         return meter::compare(chain, meter, {row}).rows[0].difference;
       }},
      {"meter::calibrate",
       [&](double x) {
         return meter::calibrate(chain, meter,
                                 {{.meter = 1.0, .reading = 1.1}, {.meter = 5.0, .reading = x}})
             .residual_uncertainty.front()
             .after;
       }},
      {"firmware::plan", [&](double x) { return firmware::plan(chain, {.count = x}).bound; }},
      {"simulate::coherent", [](double x) { return simulate::coherent(x, 1000.0, 4096); }},
      {"simulate::coherent rate", [](double x) { return simulate::coherent(50.0, x, 4096); }},
      {"simulate::bent", [](double x) { return simulate::bent(simulate::Bend::bow, x); }},
      {"signal::nearest_coherent", [](double x) { return signal::nearest_coherent(x, 4096); }},
      {"signal::largest_line", [](double x) { return signal::largest_line(series(x)); }},
      {"signal::fit_four", [](double x) { return signal::fit_four(series(x)).amplitude; }},
      {"signal::stability", [](double x) { return signal::stability(series(x)).lowest; }},
      {"signal::Moments",
       [](double x) {
         signal::Moments moments;
         moments.add(series(x));
         return moments.mean();
       }},
      {"signal::Capture",
       [](double x) {
         signal::Capture capture({.bin_width = 0.01});
         capture.add(series(x));
         return capture.histogram().mean();
       }},
      {"signal::Capture bin",
       [](double x) {
         signal::Capture capture({.bin_width = x});
         capture.add(series(0.5));
         return capture.histogram().mean();
       }},
      {"simulate::Sampler follow",
       [&](double x) {
         simulate::Sampler sampler(chain, chain, simulate::draw(chain, 1, 1),
                                   {.rate = 1000.0, .samples = 8});
         sampler.follow(x);
         return sampler.next(4).back();
       }},
      {"simulate::Sampler rate",
       [&](double x) {
         simulate::Sampler sampler(chain, chain, simulate::draw(chain, 1, 1),
                                   {.rate = x, .samples = 8});
         return sampler.next(4).back();
       }},
  };
}

TEST(HostileCalls, GiveFiniteFiguresOrAnError) {
  const auto chain = chain::build(pack_voltage(), "x");
  const auto meter = bench_meter();
  int made = 0, refused = 0;
  for (const auto& [name, call] : calls(chain, meter)) {
    for (const double x : hostile) {
      ++made;
      try {
        const double figure = call(x);
        EXPECT_TRUE(std::isfinite(figure)) << name << " of " << x << " is " << figure;
      } catch (const Error& error) {
        ++refused;
        EXPECT_STRNE(error.what(), "") << name << " of " << x;
      } catch (const std::exception& error) {
        ADD_FAILURE() << name << " of " << x << " throws " << error.what();
      }
    }
  }
  EXPECT_GE(made, 400);
  EXPECT_GT(refused, made / 3);
}

// The figures of eight calls, one after the other and side by side: the same to the last bit. Built
// with -fsanitize=thread (scripts/prove threads), a stray access of one to what another writes ends
// the run.
TEST(HostileCalls, SideBySideTheySayWhatTheySayAlone) {
  const auto board = pack_voltage();
  const auto meter = bench_meter();
  const std::vector<meter::Reading> rows{{.meter = 1.0, .reading = 1.01},
                                         {.meter = 3.0, .reading = 3.02},
                                         {.meter = 5.0, .reading = 5.04}};
  const std::function<double()> jobs[] = {
      [&] { return budget::evaluate(chain::build(board, "x")).points.back().expanded; },
      [&] {
        return budget::simulate(chain::build(board, "x"), 12.0, {.count = 2000, .threads = 2})
            .symmetric.high;
      },
      [&] { return meter::compare(chain::build(board, "x"), meter, rows).summary.gain->value; },
      [&] {
        return meter::calibrate(chain::build(board, "x"), meter, rows)
            .residual_uncertainty.back()
            .after;
      },
      [&] { return firmware::plan(chain::build(board, "x"), {}).bound; },
      [&] {
        const auto chain = chain::build(board, "x");
        signal::Capture capture(
            record::capture_options(chain, record::Shows::codes, record::Input::steady));
        simulate::Sampler sampler(chain, chain, simulate::draw(chain, 3, 1),
                                  {.stimulus = {.from = 12.0}, .rate = 1000.0, .samples = 4096});
        capture.add(sampler.next(4096));
        return record::judge(chain, record::Shows::codes, {}, capture, 1000.0).steady->noise;
      },
      [&] { return chain::dynamics(chain::build(board, "x")).first_valid + 0.0; },
      [&] { return static_cast<double>(model::validate(board).size()) + 1.0; },
  };
  std::vector<double> alone, together(std::size(jobs) * 2);
  for (const auto& job : jobs) alone.push_back(job());
  {
    std::vector<std::jthread> threads;
    for (std::size_t i = 0; i < together.size(); ++i) {
      threads.emplace_back([&, i] { together[i] = jobs[i % std::size(jobs)](); });
    }
  }
  for (std::size_t i = 0; i < together.size(); ++i) {
    EXPECT_EQ(together[i], alone[i % alone.size()]) << "job " << i % alone.size();
    EXPECT_NE(together[i], 0.0) << "job " << i % alone.size();
  }
}

}  // namespace
}  // namespace tamlo::testing
