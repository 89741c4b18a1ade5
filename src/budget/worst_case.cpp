// SPDX-License-Identifier: Apache-2.0
#include <algorithm>
#include <cmath>
#include <limits>

#include "point.hpp"
#include "tamlo/chain/discrete.hpp"

namespace tamlo::budget {

using chain::Kind;

Corners::Corners(const chain::Chain& chain, double x) : chain_(chain), x_(x) {
  const auto n = chain.sources.size();
  size_.assign(n, 0.0);
  auto here = chain.nominal, tare = chain.nominal;
  const auto& tared = chain.channel.scaling.tare;
  const auto at = chain::place(chain, x);
  const auto at_tare = tared ? chain::place(chain, *tared) : at;
  nominal_ = reading(here, tare);
  above_.assign(n, nominal_);
  below_.assign(n, nominal_);
  for (std::size_t s = 0; s < n; ++s) {
    const auto& source = chain.sources[s];
    if (source.distribution == quantity::Distribution::normal) continue;
    // Of what averages, the limit shrinks as its standard uncertainty does.
    size_[s] = source.limit * (source.kind() == Kind::interference ? source.filter_gain() : 1.0);
    const double nominal = chain.nominal[source.parameter];
    const auto moved = [&](double sign) {
      here[source.parameter] = nominal + sign * size_[s];
      tare[source.parameter] = nominal + sign_of_tare(s) * sign * size_[s];
      const double result = chain::read_moved(chain, at, here, source.parameter);
      if (!tared) return result;
      return result - (chain::read_moved(chain, at_tare, tare, source.parameter) - *tared);
    };
    above_[s] = moved(1.0);
    below_[s] = moved(-1.0);
    here[source.parameter] = tare[source.parameter] = nominal;
  }
}

double Corners::bend(const std::vector<Contribution>& contributions) const {
  double shift = 0.0;
  for (std::size_t s = 0; s < size_.size(); ++s) {
    if (!bounded(s)) continue;
    const double part = contributions[s].standard_uncertainty / chain_.sources[s].limit;
    shift += ((above_[s] + below_[s]) / 2.0 - nominal_) * part * part;
  }
  return shift;
}

// A tare has a deviation of its own of what belongs to the place, at its worst the opposite one.
double Corners::sign_of_tare(std::size_t source) const {
  return chain::own_of_place(chain_.sources[source].kind()) ? -1.0 : 1.0;
}

std::vector<double> Corners::parameters(const Signs& signs, bool of_tare) const {
  auto p = chain_.nominal;
  for (std::size_t s = 0; s < signs.size(); ++s) {
    const double sign = of_tare ? sign_of_tare(s) * signs[s] : signs[s];
    if (sign != 0.0) p[chain_.sources[s].parameter] += sign * size_[s];
  }
  return p;
}

double Corners::reading(chain::Parameters here, chain::Parameters of_tare) const {
  const double result = chain::read_untared(chain_, x_, here);
  const auto& tare = chain_.channel.scaling.tare;
  return tare ? result - (chain::read_untared(chain_, *tare, of_tare) - *tare) : result;
}

double Corners::reading(const Signs& signs) const {
  return reading(parameters(signs, false), parameters(signs, true));
}

Corners::Signs Corners::corner(double direction, bool search) const {
  Signs signs(size_.size(), 0.0);
  const auto better = [&](double a, double b) { return direction * a > direction * b; };
  for (std::size_t s = 0; s < size_.size(); ++s) {
    if (better(above_[s], nominal_)) signs[s] = 1.0;
    if (better(below_[s], signs[s] > 0.0 ? above_[s] : nominal_)) signs[s] = -1.0;
  }
  if (!search) return signs;
  // What one source does may depend on where another is: until none does more another way.
  auto here = parameters(signs, false), tare = parameters(signs, true);
  double best = reading(here, tare);
  for (int round = 0, changed = 1; changed > 0 && round < 4; ++round) {
    changed = 0;
    for (std::size_t s = 0; s < size_.size(); ++s) {
      if (size_[s] == 0.0) continue;
      double& of_here = here[chain_.sources[s].parameter];
      double& of_tare = tare[chain_.sources[s].parameter];
      const double start_here = of_here - signs[s] * size_[s];
      const double start_tare = of_tare - sign_of_tare(s) * signs[s] * size_[s];
      const auto put = [&](double sign) {
        of_here = start_here + sign * size_[s];
        of_tare = start_tare + sign_of_tare(s) * sign * size_[s];
      };
      double kept = signs[s];
      for (const double tried : {-1.0, 0.0, 1.0}) {
        if (tried == signs[s]) continue;
        put(tried);
        const double of = reading(here, tare);
        if (!better(of, best)) continue;
        best = of;
        kept = tried;
        ++changed;
      }
      signs[s] = kept;
      put(kept);
    }
  }
  return signs;
}

WorstCase Corners::find(bool search) {
  lowest_ = corner(-1.0, search);
  highest_ = corner(1.0, search);
  return {.low = reading(lowest_) - x_, .high = reading(highest_) - x_};
}

WorstCase Corners::of_codes(double shift) const {
  const auto& tare = chain_.channel.scaling.tare;
  const double corrected_here = chain::correction_in_codes(chain_, x_);
  const double corrected_tare = tare ? chain::correction_in_codes(chain_, *tare) : 0.0;
  const auto at_codes = [&](double x, const Signs& signs, bool of_tare, double by) {
    auto p = parameters(signs, of_tare);
    p[chain_.conversion.quantisation] = chain_.nominal[chain_.conversion.quantisation];
    const double code =
        chain::code(chain_, x, p) + (of_tare ? corrected_tare : corrected_here) + by;
    return chain::reading(chain_, static_cast<double>(chain::register_value(chain_, code)));
  };
  WorstCase result{.low = std::numeric_limits<double>::infinity(),
                   .high = -std::numeric_limits<double>::infinity()};
  for (const auto* signs : {&lowest_, &highest_}) {
    for (const double by : {-shift, shift}) {
      double error = at_codes(x_, *signs, false, by) - x_;
      if (tare) error -= at_codes(*tare, *signs, true, -by) - *tare;
      result.low = std::min(result.low, error);
      result.high = std::max(result.high, error);
    }
  }
  return result;
}

}  // namespace tamlo::budget
