// SPDX-License-Identifier: Apache-2.0
// The way of a signal through the parts before the converter, to the code of unlimited resolution.
#include <algorithm>
#include <cmath>
#include <limits>

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
    for (auto after = i + 1; after < stages.size(); ++after)
      passing = forward(stages[after].law, passing, chain.nominal);
    return code_of_volts(chain, passing.value, chain.nominal);
  }
  return {};
}

math::Interval codes_of_amplifiers(const Chain& chain) {
  constexpr double none = std::numeric_limits<double>::infinity();
  math::Interval result{.low = -none, .high = none};
  const auto& stages = chain.path.stages;
  for (std::size_t i = 0; i < stages.size(); ++i) {
    const auto* law = std::get_if<AmplifierLaw>(&stages[i].law);
    if (law == nullptr || !std::isfinite(law->low)) continue;
    const auto code_of_end = [&](double volts) {
      Signal passing{.value = volts};
      for (auto after = i + 1; after < stages.size(); ++after)
        passing = forward(stages[after].law, passing, chain.nominal);
      return code_of_volts(chain, passing.value, chain.nominal);
    };
    const auto [low, high] = std::minmax({code_of_end(law->low), code_of_end(law->high)});
    result = {.low = std::max(result.low, low), .high = std::min(result.high, high)};
  }
  return result;
}

bool saturates(const Chain& chain, double x) {
  require_number(x, "a quantity within ±1e150");
  Signal passing{.value = x};
  for (const auto& stage : chain.path.stages) {
    if (const auto* law = std::get_if<AmplifierLaw>(&stage.law)) {
      const double out = amplified(*law, passing, chain.nominal);
      const double rounding = 1e-12 * std::abs(out);
      if (out < law->low - rounding || out > law->high + rounding) return true;
    }
    passing = forward(stage.law, passing, chain.nominal);
  }
  return false;
}

}  // namespace tamlo::chain
