// SPDX-License-Identifier: Apache-2.0
#include <algorithm>
#include <cmath>

#include "chain/correction.hpp"
#include "point.hpp"
#include "tamlo/budget/channel_trials.hpp"

namespace tamlo::budget {

using chain::Chain;
using chain::Kind;

Adjustment::Adjustment(const Chain& chain) : span_(chain.channel.span), at_zero_(span_.zero()) {
  const auto effects = [&](double x) {
    return chain::effects(chain, x, chain::standards_at(chain, x));
  };
  zero_ = effects(at_zero_);
  low_ = effects(span_.low);
  high_ = effects(span_.high);
  const double places[] = {at_zero_, span_.low, span_.high};
  for (int i = 0; i < 3; ++i) {
    const auto variant = with_integers_at(chain, places[i], 0.0);
    bias_[i] = chain::bias(variant ? *variant : chain, places[i]);
    if (chain.adjusted_with) meter_[i] = chain::meter_at(chain, *chain.adjusted_with, places[i]);
    const auto& here_effects = i == 0 ? zero_ : i == 1 ? low_ : high_;
    for (std::size_t s = 0; s < here_effects.size(); ++s) {
      if (chain::is_shape(chain, s)) shape_[i] = std::hypot(shape_[i], here_effects[s]);
    }
  }
  std::size_t most = 0;
  for (const auto& meter : meter_) most = std::max(most, meter.limits.size());
  for (auto& meter : meter_) meter.limits.resize(most, 0.0);
}

double Adjustment::calibration_variance(const Chain& chain, double x) const {
  if (!chain.adjusted_with) return 0.0;
  const auto meter = chain::meter_at(chain, *chain.adjusted_with, x);
  double variance = meter.own * meter.own;
  for (const double limit : meter.limits) variance += limit * limit;
  return variance;
}

Adjusted Adjustment::adjust(double x, double error, double zero, double low, double high) const {
  const double fraction = (x - span_.low) / span_.width();
  return {error, error - zero, error - std::lerp(low, high, fraction)};
}

Adjusted Adjustment::effect(const Chain& chain, std::size_t source, double x, double effect) const {
  if (chain::is_shape(chain, source)) {
    // At a place of the adjustment itself the shape there is the one that was taken away.
    Adjusted part{1.0, 1.0, 1.0};
    for (const auto& each : weights(x)) {
      if (each.place != x) continue;
      part.zero -= each.zero;
      part.two_point -= each.two_point;
    }
    return {effect, effect * part.zero, effect * part.two_point};
  }
  if (chain.sources[source].kind() != Kind::tolerance) return {effect, effect, effect};
  return adjust(x, effect, zero_[source], low_[source], high_[source]);
}

Adjusted Adjustment::bias(double x, double bias) const {
  return adjust(x, bias, bias_[0], bias_[1], bias_[2]);
}

std::vector<Adjustment::Weight> Adjustment::weights(double x) const {
  const double fraction = (x - span_.low) / span_.width();
  return {{.place = at_zero_, .zero = 1.0, .two_point = 0.0},
          {.place = span_.low, .zero = 0.0, .two_point = 1.0 - fraction},
          {.place = span_.high, .zero = 0.0, .two_point = fraction}};
}

const std::vector<double>& Adjustment::errors_at(const Chain& chain, double place,
                                                 std::size_t units) const {
  auto& known = errors_[place];
  if (known.size() != units) known = sample_expected(chain, place, units);
  return known;
}

// A limit of the meter is one unknown for the whole of a range; what is new at every reading is
// independent.
Adjusted Adjustment::own_variance(double x, bool with_shape) const {
  Adjusted result;
  const auto parts = weights(x);
  for (std::size_t limit = 0; limit < meter_[0].limits.size(); ++limit) {
    double zero = 0.0, two_point = 0.0;
    for (std::size_t i = 0; i < parts.size(); ++i) {
      zero += parts[i].zero * meter_[i].limits[limit];
      two_point += parts[i].two_point * meter_[i].limits[limit];
    }
    result.zero += zero * zero;
    result.two_point += two_point * two_point;
  }
  for (std::size_t i = 0; i < parts.size(); ++i) {
    const double shape = parts[i].place == x ? 0.0 : shape_[i];
    const double own = std::hypot(meter_[i].own, with_shape ? shape : 0.0);
    result.zero += std::pow(parts[i].zero * own, 2);
    result.two_point += std::pow(parts[i].two_point * own, 2);
  }
  return result;
}

}  // namespace tamlo::budget
