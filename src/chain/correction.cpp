// SPDX-License-Identifier: Apache-2.0
// What a calibration's correction does to a reading, and what it leaves uncertain.
#include "correction.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <optional>
#include <utility>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/reading_distribution.hpp"
#include "tamlo/model/detail/accuracy.hpp"
#include "tamlo/quantity/format.hpp"

namespace tamlo::chain {

double corrected(const model::Correction& correction, double reading) {
  if (correction.readings.size() == 1)
    return reading + correction.corrected[0] - correction.readings[0];
  const auto functions = correction_functions(correction, reading);
  double sum = 0.0;
  for (std::size_t j = 0; j < functions.size(); ++j) {
    sum += functions[j] *
           (correction.readings.empty() ? correction.coefficients[j] : correction.corrected[j]);
  }
  return correction.readings.empty() ? reading + sum : sum;
}

std::vector<double> correction_functions(const model::Correction& correction, double reading) {
  if (correction.readings.empty()) {
    std::vector<double> result;
    const double z = (reading - correction.centre) / correction.half_width;
    double power = 1.0;
    for (std::size_t j = 0; j < correction.coefficients.size(); ++j, power *= z)
      result.push_back(power);
    return result;
  }
  if (correction.readings.size() == 1) return {1.0};
  return hats(correction.readings, reading);
}

std::vector<double> hats(std::span<const double> nodes, double reading) {
  std::vector<double> result(nodes.size(), 0.0);
  const auto above = std::ranges::upper_bound(nodes, reading) - nodes.begin();
  const auto i = std::clamp<std::size_t>(static_cast<std::size_t>(above), 1, nodes.size() - 1);
  const double along = (reading - nodes[i - 1]) / (nodes[i] - nodes[i - 1]);
  result[i - 1] = 1.0 - along;
  result[i] = along;
  return result;
}

double nominal_after(const model::Correction& correction, double reading, double x) {
  return correction.of_each_unit ? corrected(correction, reading) : x;
}

double before_correction(const model::Correction& correction, double x) {
  double reading = x;
  for (int round = 0; round < 3; ++round) reading -= corrected(correction, reading) - x;
  return reading;
}

double after_correction(const Chain& chain, double reading) {
  const auto& integer = chain.channel.scaling.integer;
  const bool done = !chain.channel.correction || (integer && integer->corrects);
  return done ? reading : corrected(*chain.channel.correction, reading);
}

namespace {

std::vector<double> functions_at(const Chain& chain, double x) {
  const auto& correction = *chain.channel.correction;
  return correction_functions(correction, before_correction(correction, x));
}

}  // namespace

double calibration_uncertainty_at(const Chain& chain, double x) {
  const auto& correction = chain.channel.correction;
  if (!correction) return 0.0;
  if (correction->covariance.empty()) return correction->standard_uncertainty;
  const auto functions = functions_at(chain, x);
  const auto k = functions.size();
  double variance = 0.0;
  for (std::size_t a = 0; a < k; ++a) {
    for (std::size_t b = 0; b < k; ++b)
      variance += functions[a] * functions[b] * correction->covariance[a * k + b];
  }
  return std::sqrt(std::max(variance, 0.0));
}

std::vector<double> followed_at(const Chain& chain, double x) {
  std::vector<double> result(chain.sources.size(), 0.0);
  if (chain.followed.empty()) return result;
  const auto functions = functions_at(chain, x);
  for (std::size_t s = 0; s < result.size(); ++s) {
    for (std::size_t j = 0; j < chain.followed[s].size(); ++j)
      result[s] += functions[j] * chain.followed[s][j];
  }
  return result;
}

namespace {

// Where it is not known how the correction was found, all that was there at the calibration is
// taken to be followed.
void drop_tolerances(Chain& chain) {
  std::vector<Source> kept;
  std::vector<std::optional<std::size_t>> place;
  for (auto& source : chain.sources) {
    const bool gone = source.kind() == Kind::tolerance;
    place.push_back(gone ? std::nullopt : std::optional(kept.size()));
    if (!gone) kept.push_back(std::move(source));
  }
  chain.sources = std::move(kept);
  chain.named.quantisation = place[chain.named.quantisation].value();
  for (auto* named : {&chain.named.integers, &chain.named.decimals}) {
    if (*named) *named = place[**named];
  }
  std::vector<Correlation> correlations;
  for (const auto& [a, b, r] : chain.correlations) {
    if (place[a] && place[b]) correlations.push_back({*place[a], *place[b], r});
  }
  chain.correlations = std::move(correlations);
}

// What each tolerance did to the readings at the positions, as the functions of the correction
// follow it. A meter at the pin has not seen the parts before it.
std::vector<std::vector<double>> followed_by(const Chain& chain,
                                             const model::Correction& correction) {
  const auto n = correction.positions.size();
  std::vector<double> standards;
  for (const auto& source : chain.sources) standards.push_back(source.standard_uncertainty);
  std::vector<std::vector<double>> at_position;
  for (const double x : correction.positions) at_position.push_back(effects(chain, x, standards));
  std::vector<std::vector<double>> result(chain.sources.size());
  for (std::size_t s = 0; s < chain.sources.size(); ++s) {
    const auto& source = chain.sources[s];
    const bool unseen =
        correction.at_pin && source.in_stage && *source.in_stage < chain.path.before_pin;
    if (source.kind() != Kind::tolerance || unseen) continue;
    for (std::size_t j = 0; j * n < correction.weights.size(); ++j) {
      double sum = 0.0;
      for (std::size_t i = 0; i < n; ++i) sum += correction.weights[j * n + i] * at_position[i][s];
      result[s].push_back(sum == 0.0 ? 0.0 : sum / source.standard_uncertainty);
    }
  }
  return result;
}

}  // namespace

MeterAtPlace meter_at(const Chain& chain, const model::Meter& meter, double place) {
  // Above its ranges it is as wrong as the highest one would be there.
  const auto range = model::range_for(meter, place).value_or(meter.ranges.size() - 1);
  const auto use = model::use_of(meter, chain.conditions.specified_at);
  const auto u = model::uncertainty(meter.ranges[range], place, use);
  MeterAtPlace result;
  std::size_t before = 0;
  for (std::size_t r = 0; r < range; ++r) before += meter.ranges[r].accuracy.limits.size();
  result.limits.assign(before, 0.0);
  for (const double limit : u.limits)
    result.limits.push_back(std::copysign(limit, place - chain.channel.span.unit.offset));
  result.own = std::hypot(u.resolution, reading_noise(chain, place));
  return result;
}

bool is_shape(const Chain& chain, std::size_t source) {
  return chain.sources[source].kind() == Kind::nonlinearity && !by_codes(chain, source);
}

model::Correction correction_by(const Chain& chain, const model::Adjustment& adjustment,
                                const model::Meter* meter) {
  const auto& at = adjustment.at;
  const auto n = at.size();
  model::Correction result{.positions = at, .in_firmware = true, .of_each_unit = true};
  if (n == 2) {
    result.centre = std::midpoint(at[0], at[1]);
    result.half_width = (at[1] - at[0]) / 2.0;
    result.weights = {0.5, 0.5, -0.5, 0.5};  // of the mean and of half the difference
  } else {
    result.weights = {1.0};
  }
  // Variances and covariances of what is read at the places beside the meter.
  std::vector<MeterAtPlace> beside(n);
  std::vector<double> own(n, 0.0), covariance(n * n, 0.0);
  std::size_t limits = 0;
  for (std::size_t i = 0; i < n; ++i) {
    if (meter != nullptr) beside[i] = meter_at(chain, *meter, at[i]);
    limits = std::max(limits, beside[i].limits.size());
    const auto effects = chain::effects(chain, at[i], standards_at(chain, at[i]));
    own[i] = beside[i].own;
    for (std::size_t s = 0; s < effects.size(); ++s) {
      if (is_shape(chain, s)) own[i] = std::hypot(own[i], effects[s]);
    }
  }
  for (auto& each : beside) each.limits.resize(limits, 0.0);
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t k = 0; k < n; ++k) {
      covariance[i * n + k] = i == k ? own[i] * own[i] : 0.0;
      for (std::size_t l = 0; l < limits; ++l)
        covariance[i * n + k] += beside[i].limits[l] * beside[k].limits[l];
    }
  }
  const auto weight = [&](std::size_t j, std::size_t i) { return result.weights[j * n + i]; };
  for (std::size_t a = 0; a < n; ++a) {
    double coefficient = 0.0;
    for (std::size_t i = 0; i < n; ++i) coefficient -= weight(a, i) * bias(chain, at[i]);
    result.coefficients.push_back(coefficient);
    for (std::size_t b = 0; b < n; ++b) {
      double sum = 0.0;
      for (std::size_t i = 0; i < n; ++i) {
        for (std::size_t k = 0; k < n; ++k)
          sum += weight(a, i) * weight(b, k) * covariance[i * n + k];
      }
      result.covariance.push_back(sum);
    }
  }
  // At the worst of the ends of the span.
  for (const double x : {chain.channel.span.low, chain.channel.span.high}) {
    const double z = n == 2 ? (x - result.centre) / result.half_width : 0.0;
    const double variance = n == 2 ? result.covariance[0] + 2.0 * z * result.covariance[1] +
                                         z * z * result.covariance[3]
                                   : result.covariance[0];
    result.standard_uncertainty =
        std::max(result.standard_uncertainty, std::sqrt(std::max(0.0, variance)));
  }
  return result;
}

Chain with_correction(Chain chain, const model::Correction& correction) {
  chain.channel.correction.reset();
  std::vector<std::vector<double>> followed;
  if (correction.positions.empty()) {
    drop_tolerances(chain);
  } else {
    followed = followed_by(chain, correction);
  }
  chain.channel.correction = correction;
  const double standard = correction.standard_uncertainty;
  if (standard > 0.0 || !correction.covariance.empty()) {
    chain.named.calibration = chain.sources.size();
    chain.sources.push_back(
        {.name = correction.of_each_unit ? "adjustment" : "calibration",
         .stage = "firmware",
         .specification =
             "u " +
             quantity::engineering(standard, quantity::difference_unit(chain.channel.span.unit), 3),
         .parameter = chain.firmware.rounding,
         .nature = Nonlinearity{},
         .distribution = quantity::Distribution::normal,
         .limit = standard,
         .standard_uncertainty = standard});
    if (!followed.empty()) followed.emplace_back();
  }
  chain.followed = std::move(followed);
  return chain;
}

}  // namespace tamlo::chain
