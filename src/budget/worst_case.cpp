// SPDX-License-Identifier: Apache-2.0
#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "math/draws.hpp"
#include "point.hpp"
#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/chain/detail/reading_distribution.hpp"
#include "tamlo/chain/detail/reading_sampler.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::budget {

using chain::Chain;
using chain::Kind;

Corners::Corners(const chain::Chain& chain, double x) : chain_(chain), x_(x) {
  const auto n = chain.sources.size();
  size_.assign(n, 0.0);
  auto of_place = chain.nominal, tare = chain.nominal;
  const auto& tared = chain.channel.scaling.tare;
  const auto at = chain::place(chain, x);
  const auto at_tare = tared ? chain::place(chain, *tared) : at;
  nominal_ = reading(of_place, tare);
  followed_here_ = chain::followed_at(chain, x);
  followed_tare_ = chain::followed_at(chain, tared.value_or(x));
  above_.assign(n, nominal_);
  below_.assign(n, nominal_);
  for (std::size_t s = 0; s < n; ++s) {
    const auto& source = chain.sources[s];
    if (source.distribution == quantity::Distribution::normal) continue;
    // Of what averages, the limit shrinks as its standard uncertainty does.
    size_[s] = source.kind() == Kind::interference
                   ? chain::interference_limit_at(chain, source, x) * source.filter_gain()
                   : source.limit;
    const double nominal = chain.nominal[source.parameter];
    const auto moved = [&](double sign) {
      of_place[source.parameter] = nominal + sign * size_[s];
      tare[source.parameter] = nominal + sign_of_tare(s) * sign * size_[s];
      const double result =
          chain::read_moved(chain, at, of_place, source.parameter) + left(s, sign, false);
      if (!tared) return result;
      return result - (chain::read_moved(chain, at_tare, tare, source.parameter) +
                       left(s, sign, true) - *tared);
    };
    above_[s] = moved(1.0);
    below_[s] = moved(-1.0);
    of_place[source.parameter] = tare[source.parameter] = nominal;
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

// What a correction takes away of a source at an end of its limit.
double Corners::left(std::size_t source, double sign, bool of_tare) const {
  return -sign * (of_tare ? followed_tare_ : followed_here_)[source] * size_[source];
}

std::vector<double> Corners::parameters(const Signs& signs, bool of_tare) const {
  auto p = chain_.nominal;
  for (std::size_t s = 0; s < signs.size(); ++s) {
    const double sign = of_tare ? sign_of_tare(s) * signs[s] : signs[s];
    if (sign == 0.0) continue;
    p[chain_.sources[s].parameter] += sign * size_[s];
    p[chain_.firmware.rounding] += left(s, sign, of_tare);
  }
  return p;
}

// Those of a reading that is drawn: what it does by itself stays at its nominal.
std::vector<double> Corners::drawn_parameters(const Signs& signs, bool of_tare) const {
  auto fixed = signs;
  for (std::size_t s = 0; s < fixed.size(); ++s) {
    if (chain::by_codes(chain_, s)) fixed[s] = 0.0;
  }
  return parameters(fixed, of_tare);
}

double Corners::reading(chain::Parameters of_place, chain::Parameters of_tare) const {
  const double result = chain::read_untared(chain_, x_, of_place);
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
  auto of_place = parameters(signs, false), tare = parameters(signs, true);
  double best = reading(of_place, tare);
  for (int round = 0, changed = 1; changed > 0 && round < 4; ++round) {
    changed = 0;
    for (std::size_t s = 0; s < size_.size(); ++s) {
      if (size_[s] == 0.0) continue;
      double& of_here = of_place[chain_.sources[s].parameter];
      double& of_tare = tare[chain_.sources[s].parameter];
      const double start_here = of_here - signs[s] * size_[s];
      const double start_tare = of_tare - sign_of_tare(s) * signs[s] * size_[s];
      double& rounding_here = of_place[chain_.firmware.rounding];
      double& rounding_tare = tare[chain_.firmware.rounding];
      double put_here = left(s, signs[s], false), put_tare = left(s, signs[s], true);
      const auto put = [&](double sign) {
        of_here = start_here + sign * size_[s];
        of_tare = start_tare + sign_of_tare(s) * sign * size_[s];
        // A correction follows tolerances alone, which move another parameter.
        rounding_here += left(s, sign, false) - std::exchange(put_here, left(s, sign, false));
        rounding_tare += left(s, sign, true) - std::exchange(put_tare, left(s, sign, true));
      };
      double kept = signs[s];
      for (const double tried : {-1.0, 0.0, 1.0}) {
        if (tried == signs[s]) continue;
        put(tried);
        const double value = reading(of_place, tare);
        if (!better(value, best)) continue;
        best = value;
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

namespace {

// What is left when nothing is by chance but the phases of what gets in.
Chain without_noise(Chain chain) {
  for (auto& source : chain.sources) {
    if (source.kind() == Kind::noise) source.standard_uncertainty = 0.0;
  }
  return chain;
}

// The lowest and the highest of some values.
struct Reach {
  double low = std::numeric_limits<double>::infinity();
  double high = -std::numeric_limits<double>::infinity();
  void take(double value) { low = std::min(low, value), high = std::max(high, value); }
};

std::vector<double> readings_at(const chain::ReadingSampler& sampler, std::span<const double> codes,
                                std::uint64_t seed) {
  std::vector<double> readings(codes.size());
  for (std::size_t from = 0; from < codes.size(); from += math::draws_block) {
    const auto n = std::min(math::draws_block, codes.size() - from);
    sampler.draw(codes.subspan(from, n), seed, from, std::span(readings).subspan(from, n));
  }
  return readings;
}

}  // namespace

// All where they are at most `some`, of a sine that gets in each at several phases; else `some` by
// chance.
void Corners::further(int some, bool has_phases, const AddCorner& add) const {
  // What a drawn reading does by itself has no end of its own.
  std::vector<std::size_t> moving, moving_at_tare;
  for (std::size_t s = 0; s < size_.size(); ++s) {
    if (size_[s] == 0.0 || chain::by_codes(chain_, s)) continue;
    moving.push_back(s);
    if (chain_.channel.scaling.tare && chain::own_of_place(chain_.sources[s].kind()))
      moving_at_tare.push_back(s);
  }
  const auto ends = moving.size() + moving_at_tare.size();
  const bool all = ends < 16 && 1 << ends <= some;
  math::RandomStream chance(0x636f726e657273ULL, 0);
  const int tries = all && !has_phases ? 1 << ends : some;
  for (int i = 0; i < tries; ++i) {
    unsigned end = 0;
    const auto at_low = [&] {
      return all ? (static_cast<unsigned>(i) >> end++ & 1U) == 0 : chance.uniform() < 0.5;
    };
    Signs here(size_.size());
    for (const auto s : moving) here[s] = at_low() ? -1.0 : 1.0;
    auto there = here;
    for (const auto s : moving_at_tare) {
      if (at_low()) there[s] *= -1.0;
    }
    add(static_cast<std::size_t>(all ? i % (1 << ends) : i), here, there);
  }
}

WorstCase Corners::of_readings(const Shift& shift, bool thorough) const {
  const auto quiet = without_noise(chain_);
  const auto& tare = chain_.channel.scaling.tare;
  const chain::ReadingSampler sampler(quiet, x_), at_tare(quiet, tare.value_or(x_));
  const bool has_phases = sampler.interference() > 0.0;
  // Each corner at some phases, the codes moved either way; as many that are drawn as cost little.
  const int phases = thorough ? 500 : 16, most = thorough ? 1000 : 0;
  constexpr double conversions = 5e5;
  const double costs =
      std::max(sampler.conversions(), sampler.effort() / chain::ReadingSampler::effort_of_a_step);
  const int drawn = static_cast<int>(std::clamp(conversions / costs, 30.0, 1000.0));
  std::vector<double> codes, codes_at_tare;
  std::vector<std::size_t> corners;  // of each of them
  const auto add = [&](std::size_t corner, const Signs& of_place, const Signs& there) {
    const auto p = drawn_parameters(of_place, false), p_tare = drawn_parameters(there, true);
    const double code = sampler.code(p), code_tare = at_tare.code(p_tare);
    for (const double way : {-1.0, 1.0}) {
      codes.push_back(code + way * shift.here);
      codes_at_tare.push_back(code_tare - way * shift.tare);
      corners.push_back(corner);
    }
  };
  const int at_each = has_phases ? std::min(phases, drawn) : 1;
  for (int i = 0; i < at_each; ++i) add(0, lowest_, lowest_);
  for (int i = 0; i < at_each; ++i) add(1, highest_, highest_);
  further(std::min(drawn, most), has_phases,
          [&](std::size_t corner, const Signs& here, const Signs& there) {
            add(2 + corner, here, there);
          });
  const auto readings = readings_at(sampler, codes, 3);
  const auto of_tare =
      tare ? readings_at(at_tare, codes_at_tare, 4) : std::vector<double>(codes.size(), x_);
  // Reading and tare each have a phase of their own: any two of one corner may come together.
  std::vector<std::pair<Reach, Reach>> reaches(*std::ranges::max_element(corners) + 1);
  for (std::size_t i = 0; i < readings.size(); ++i) {
    auto& [of_reading, at_zero] = reaches[corners[i]];
    of_reading.take(readings[i]);
    at_zero.take(of_tare[i]);
  }
  const double zero = tare.value_or(x_);
  Reach result;
  for (const auto& [of_reading, at_zero] : reaches) {
    result.take(of_reading.low - x_ - (at_zero.high - zero));
    result.take(of_reading.high - x_ - (at_zero.low - zero));
  }
  // Readings lie a step apart, and at a phase that was not tried may reach one further.
  if (has_phases) {
    const auto& scaling = chain_.channel.scaling;
    const double step = chain::step_at(chain_, x_);
    const double apart = scaling.integer || scaling.decimals
                             ? step  // means lie closer than codes, unless they are rounded again
                             : step / chain::decimation(chain_.firmware.digital);
    result.low -= apart;
    result.high += apart;
  }
  return {.low = result.low, .high = result.high};
}

void hold_interval(Point& point) {
  point.worst_case.low = std::min(point.worst_case.low, point.bias - point.expanded);
  point.worst_case.high = std::max(point.worst_case.high, point.bias + point.expanded);
}

}  // namespace tamlo::budget
