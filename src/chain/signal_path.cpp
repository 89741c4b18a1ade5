// SPDX-License-Identifier: Apache-2.0
// The way of a signal through the parts before the converter, to the code of unlimited resolution,
// and what of a sine or of noise gets through.
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "tamlo/chain/chain.hpp"

namespace tamlo::chain {

double voltage(const Chain& chain, double x, Parameters p) { return signal(chain, x, p).value; }

Signal signal(const Chain& chain, double x, Parameters p) {
  require_number(x, "a quantity within ±1e150");
  Signal result{.value = x};
  for (std::size_t i = 0; i < chain.path.stages.size(); ++i) {
    result = forward(chain.path.stages[i].law, result,
                     i < chain.path.known ? Parameters(chain.nominal) : p);
  }
  return result;
}

double code_of_volts(const Chain& chain, double volts, Parameters p) {
  return static_cast<double>(first_code(chain)) + forward(chain.conversion, volts, p);
}

double code(const Chain& chain, double x, Parameters p) {
  return code_of_volts(chain, voltage(chain, x, p), p);
}

namespace {

// The nominal code of a signal that leaves a stage.
double code_behind(const Chain& chain, std::size_t stage, Signal passing) {
  for (auto after = stage + 1; after < chain.path.stages.size(); ++after)
    passing = forward(chain.path.stages[after].law, passing, chain.nominal);
  return code_of_volts(chain, passing.value, chain.nominal);
}

// The law of a stage that is an amplifier whose output has ends; else nullptr.
const AmplifierLaw* ending(const PathStage& stage) {
  const auto* law = std::get_if<AmplifierLaw>(&stage.law);
  return law != nullptr && std::isfinite(law->low) ? law : nullptr;
}

}  // namespace

std::optional<double> code_of_resistance(const Chain& chain, double ohms) {
  const auto& stages = chain.path.stages;
  for (std::size_t i = 0; i < stages.size(); ++i) {
    Signal passing{.value = ohms};
    if (const auto* heated = std::get_if<SelfHeatedLaw>(&stages[i].law)) {
      passing =
          std::visit([&](const auto& feed) { return forward(Law(feed), passing, chain.nominal); },
                     heated->feed);
    } else if (std::holds_alternative<SensorDividerLaw>(stages[i].law) ||
               std::holds_alternative<ExcitationLaw>(stages[i].law)) {
      passing = forward(stages[i].law, passing, chain.nominal);
    } else {
      continue;
    }
    return code_behind(chain, i, passing);
  }
  return {};
}

math::Interval codes_of_amplifiers(const Chain& chain) {
  constexpr double none = std::numeric_limits<double>::infinity();
  math::Interval result{.low = -none, .high = none};
  const auto& stages = chain.path.stages;
  for (std::size_t i = 0; i < stages.size(); ++i) {
    const auto* law = ending(stages[i]);
    if (law == nullptr) continue;
    const auto [low, high] = std::minmax(
        {code_behind(chain, i, {.value = law->low}), code_behind(chain, i, {.value = law->high})});
    result = {.low = std::max(result.low, low), .high = std::min(result.high, high)};
  }
  return result;
}

bool saturates(const Chain& chain, double x) {
  require_number(x, "a quantity within ±1e150");
  if (std::ranges::none_of(chain.path.stages, ending)) return false;
  Signal passing{.value = x};
  for (const auto& stage : chain.path.stages) {
    if (const auto* law = ending(stage)) {
      const double out = amplified(*law, passing, chain.nominal);
      const double rounding = 1e-12 * std::abs(out);
      if (out < law->low - rounding || out > law->high + rounding) return true;
    }
    passing = forward(stage.law, passing, chain.nominal);
  }
  return false;
}

std::vector<double> time_constants_at(const Chain& chain, double x) {
  std::vector<double> result;
  Signal passing{.value = x};
  for (const auto& part : chain.path.stages) {
    passing = forward(part.law, passing, chain.nominal);
    if (const auto* lowpass = std::get_if<LowpassLaw>(&part.law))
      result.push_back(passing.resistance * chain.nominal[lowpass->capacitor]);
  }
  return result;
}

namespace {

double through_lowpasses(const std::vector<double>& time_constants, double frequency) {
  double result = 1.0;
  for (const double tau : time_constants)
    result /= std::hypot(1.0, 2.0 * std::numbers::pi * frequency * tau);
  return result;
}

}  // namespace

double interference_limit_at(const Chain& chain, const Source& source, double x) {
  if (!chain.path.time_constants_vary) return source.limit;
  const double frequency = source.interference()->frequency;
  return source.limit * through_lowpasses(time_constants_at(chain, x), frequency) /
         through_lowpasses(chain.path.time_constants, frequency);
}

double filter_gain_at(const Chain& chain, const Source& source, double x) {
  const auto* noise = source.noise();
  const bool varies = noise != nullptr && noise->correlated_over > 0.0 && noise->corner == 0.0 &&
                      chain.path.time_constants_vary && chain.firmware.digital.rate > 0.0;
  if (!varies) return source.filter_gain();
  const double slowest = std::ranges::max(time_constants_at(chain, x));
  const double keeps =
      slowest > 0.0 ? std::exp(-1.0 / (slowest * chain.firmware.digital.rate)) : 0.0;
  return std::sqrt(noise_gain(chain.firmware.digital, keeps));
}

double converter_magnitude(const Chain& chain, double frequency) {
  if (!chain.converter.data_rate) return 1.0;
  const double turns = std::numbers::pi * frequency / *chain.converter.data_rate;
  const double one = turns == 0.0 ? 1.0 : std::sin(turns) / turns;
  return std::pow(std::abs(one), chain.converter.sinc_order);
}

double analog_magnitude(const Chain& chain, double frequency) {
  return through_lowpasses(chain.path.time_constants, frequency) *
         converter_magnitude(chain, frequency);
}

}  // namespace tamlo::chain
