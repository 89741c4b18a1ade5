// SPDX-License-Identifier: Apache-2.0
#include "tamlo/simulate/unit.hpp"

#include <cmath>
#include <numbers>

#include "draw.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/math/random.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/simulate/detail/stimulus.hpp"

namespace tamlo::simulate {

double deviation(const chain::Source& source, math::RandomStream& stream) {
  switch (source.distribution) {
    case quantity::Distribution::uniform:
      return source.limit * (2.0 * stream.uniform() - 1.0);
    case quantity::Distribution::normal:
      return source.standard_uncertainty * stream.normal();
    case quantity::Distribution::triangular:
      return source.limit * (stream.uniform() + stream.uniform() - 1.0);
    case quantity::Distribution::arcsine:
      return source.limit * std::sin(std::numbers::pi * (2.0 * stream.uniform() - 1.0));
  }
  return 0.0;
}

VirtualUnit draw(const chain::Chain& chain, std::uint64_t seed, std::uint64_t number) {
  math::RandomStream stream(seed, number);
  std::vector<std::pair<std::size_t, double>> deviations;
  for (std::size_t s = 0; s < chain.sources.size(); ++s) {
    if (chain::random(chain.sources[s].kind())) continue;
    deviations.emplace_back(s, deviation(chain.sources[s], stream));
  }
  return with_deviations(chain, deviations);
}

VirtualUnit nominal(const chain::Chain& chain) { return {.parameters = chain.nominal}; }

bool move(VirtualUnit& unit, const chain::Chain& chain, std::string_view parameter, double by,
          bool relative) {
  for (std::size_t i = 0; i < chain.parameters.size(); ++i) {
    if (chain.parameters[i].name != parameter) continue;
    unit.parameters[i] += relative ? by * chain.nominal[i] : by;
    return true;
  }
  return false;
}

VirtualUnit with_deviations(const chain::Chain& chain,
                            const std::vector<std::pair<std::size_t, double>>& deviations) {
  auto unit = nominal(chain);
  unit.deviations.assign(chain.sources.size(), 0.0);
  for (const auto& [source, size] : deviations) {
    unit.parameters[chain.sources[source].parameter] += size;
    unit.deviations[source] += size;
  }
  return unit;
}

UnitReader::Place::Place(const chain::Chain& chain, double x)
    : sampler(chain, x), followed(chain::followed_at(chain, x)) {
  if (chain.named.calibration) {
    const double stated = chain.sources[*chain.named.calibration].standard_uncertainty;
    if (stated > 0.0) calibration = chain::calibration_uncertainty_at(chain, x) / stated;
  }
}

UnitReader::UnitReader(const chain::Chain& chain, const chain::Chain& firmware, double x)
    : chain_(chain), firmware_(firmware), place_(chain, x) {
  if (const auto& tare = firmware.channel.scaling.tare) tare_.emplace(chain, *tare);
}

double UnitReader::register_value(const Place& place, const VirtualUnit& unit,
                                  math::RandomStream& noise) const {
  auto p = unit.parameters;
  if (!unit.deviations.empty()) {
    double& added = p[chain_.firmware.rounding];
    for (std::size_t s = 0; s < place.followed.size(); ++s)
      added -= place.followed[s] * unit.deviations[s];
    if (const auto& calibration = chain_.named.calibration)
      added += (place.calibration - 1.0) * unit.deviations[*calibration];
  }
  const double code = place.sampler.code(p);
  double result = 0.0;
  place.sampler.draw_reported({&code, 1}, static_cast<std::uint64_t>(noise.uniform() * 0x1p53), 0,
                              {&result, 1});
  return result;
}

double UnitReader::register_value(const VirtualUnit& unit, math::RandomStream& noise) const {
  return register_value(place_, unit, noise);
}

double UnitReader::read(const VirtualUnit& unit, math::RandomStream& noise) const {
  const auto shown = [&](const Place& place) {
    return chain::reading_or_end(firmware_, register_value(place, unit, noise));
  };
  const double result = shown(place_);
  return tare_ ? result - (shown(*tare_) - *firmware_.channel.scaling.tare) : result;
}

double read(const chain::Chain& chain, const chain::Chain& firmware, const VirtualUnit& unit,
            double x, math::RandomStream& noise) {
  return UnitReader(chain, firmware, x).read(unit, noise);
}

using std::numbers::pi;

Course::Course(const Stimulus& stimulus, const chain::Chain& chain, double duration)
    : stimulus_(stimulus), duration_(duration), lowpasses_(chain.path.time_constants) {
  const auto passed = [&](double frequency) -> Passed {
    return {.gain = chain::analog_magnitude(chain, frequency),
            .phase = lowpasses_.phase(frequency)};
  };
  sine_ = passed(stimulus.frequency);
  hum_ = passed(stimulus.hum_frequency);
}

double Course::at(double time) const {
  const auto& s = stimulus_;
  const double middle = (s.from + s.to) / 2.0, half = (s.to - s.from) / 2.0;
  double x = s.from;
  switch (s.input) {
    case signal::Input::steady:
      break;
    case signal::Input::ramp: {
      // Settled: it comes as late as the low-passes are slow.
      const double rounds = s.rounds * (time - lowpasses_.delay()) / duration_;
      x = std::lerp(s.from, s.to, rounds <= 0.0 ? 0.0 : rounds - std::floor(rounds));
      break;
    }
    case signal::Input::sine:
      x = middle + half * sine_.gain * std::sin(2.0 * pi * s.frequency * time + sine_.phase);
      break;
    case signal::Input::step:
      x = std::lerp(s.from, s.to, lowpasses_.after_step(time - step_at()));
      break;
  }
  x += s.drift * time;
  if (s.hum != 0.0) {
    x += s.hum * hum_.gain * std::sin(2.0 * pi * s.hum_frequency * time + hum_.phase);
  }
  return x;
}

BenchMeter::BenchMeter(const model::Meter& meter, std::uint64_t seed) : meter_(meter) {
  math::RandomStream stream(seed, 0);
  for (const auto& range : meter.ranges) {
    auto& of_range = deviations_.emplace_back();
    for (std::size_t i = 0; i < range.accuracy.limits.size(); ++i) {
      of_range.push_back(stream.normal());
    }
  }
}

std::optional<double> BenchMeter::show(double x) const {
  const auto at = model::range_for(meter_, x);
  if (!at) return {};
  const auto u = model::uncertainty(meter_.ranges[*at], x);
  double shown = x;
  for (std::size_t i = 0; i < u.limits.size(); ++i) shown += u.limits[i] * deviations_[*at][i];
  const double digit = model::digit(meter_.ranges[*at]);
  // On the scale that it shows: of a thermometer in degC, no whole digits of K.
  const double zero = meter_.ranges[*at].full_scale.unit.offset;
  return digit > 0.0 ? zero + std::round((shown - zero) / digit) * digit : shown;
}

}  // namespace tamlo::simulate
