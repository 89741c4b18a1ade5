// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/chain.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <numeric>

#include "correction.hpp"
#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/detail/power_of_ten.hpp"

namespace tamlo::chain {

TAMLO_COPIED_HERE(Chain);

Chain referred_to_pin(Chain chain) {
  // The meter is part of what made the voltage that it shows.
  const auto loads = std::erase_if(
      chain.path.stages, [](const PathStage& s) { return std::holds_alternative<LoadLaw>(s.law); });
  chain.path.before_pin -= loads;
  chain.path.known = chain.path.before_pin;
  return chain;
}

math::Interval input_range(const Chain& chain) { return ends(chain.conversion, chain.nominal); }

double full_scale_range(const Chain& chain) {
  const auto range = input_range(chain);
  return range.high - range.low;
}

std::int64_t first_code(const Chain& chain) {
  const bool signed_codes = chain.converter.coding == model::Coding::twos_complement;
  return signed_codes ? -(std::int64_t{1} << (chain.converter.resolution - 1)) : 0;
}

double code_width(const Chain& chain) { return full_scale_range(chain) / chain.conversion.codes; }

std::int64_t last_code(const Chain& chain) {
  return first_code(chain) + (std::int64_t{1} << chain.converter.resolution) - 1;
}

double code_width_at(const Chain& chain, double x) {
  const double code_here = code(chain, x, chain.nominal);
  return std::abs(quantity_at(chain, code_here + 0.5) - quantity_at(chain, code_here - 0.5));
}

Conversion convert(const Chain& chain, double unquantised) {
  require_number(unquantised, "a code within ±1e150");
  const double nearest = std::floor(unquantised + 0.5);
  const double held = std::clamp(nearest, static_cast<double>(first_code(chain)),
                                 static_cast<double>(last_code(chain)));
  return {.code = static_cast<std::int64_t>(held), .clipped = held != nearest};
}

std::int64_t register_value(const Chain& chain, double unquantised) {
  return reported(chain.report, convert(chain, unquantised).code);
}

CountLine count_line(const Chain& chain) {
  const auto& report = chain.report;
  const auto range = input_range(chain);
  const double width = range.high - range.low;
  const auto first = static_cast<double>(report.first);
  if (report.reporting.kind == model::RegisterFormat::Kind::counts) {
    // The counts at the low end of the span stand for what the pin has there.
    const double code_width = width / chain.conversion.codes;
    return {.low = range.low + (report.low_code - first) * code_width,
            .first = static_cast<double>(report.reporting.at_low),
            .per_count = code_width / report.per_code};
  }
  const double counts = chain.conversion.codes * report.per_code;
  const bool full_scale = chain.channel.scaling.convention == model::Convention::full_scale;
  return {.low = range.low,
          .first = first * report.per_code,
          .per_count = width / (full_scale ? counts : counts - 1.0)};
}

double firmware_volts(const Chain& chain, double reported) {
  require_number(reported, "a code within ±1e150");
  const auto line = count_line(chain);
  return line.low + (reported - line.first) * line.per_count;
}

namespace {

double back_through(const std::vector<PathStage>& stages, double volts, Parameters nominal) {
  require_number(volts, "a voltage within ±1e150");
  double value = volts;
  for (auto stage = stages.rbegin(); stage != stages.rend(); ++stage)
    value = inverse(stage->law, value, nominal);
  return value;
}

}  // namespace

double exact_reading(const Chain& chain, double reported) {
  const auto& scaling = chain.channel.scaling;
  if (scaling.integer) {
    return exact(*scaling.integer, reported) * scaling.integer->count +
           chain.channel.span.unit.offset;
  }
  if (scaling.taught) {
    const auto& line = *scaling.taught;
    return line.low_reading + (reported - line.low_code) / (line.high_code - line.low_code) *
                                  (line.high_reading - line.low_reading);
  }
  return back_through(known_stages(chain), firmware_volts(chain, reported), chain.nominal);
}

double smooth_reading(const Chain& chain, double reported) {
  const double result = exact_reading(chain, reported);
  if (std::isfinite(result)) return result;
  // In braces: of two temporaries std::minmax gives references.
  const auto [low, high] = std::minmax({static_cast<double>(chain.report.first_reported),
                                        static_cast<double>(chain.report.last_reported)});
  double none = std::clamp(reported, low, high), some = std::midpoint(low, high);
  const double at_end = exact_reading(chain, none);
  if (std::isfinite(at_end)) return at_end;
  // Where a law has no reading of the end itself, the last value on the way there that has one.
  while (std::abs(none - some) > 1.0) {
    const double middle = std::floor(std::midpoint(none, some));
    if (middle == none || middle == some) break;
    (std::isfinite(exact_reading(chain, middle)) ? some : none) = middle;
  }
  return exact_reading(chain, some);
}

bool whole_means(const Chain& chain) {
  const auto& integer = chain.channel.scaling.integer;
  return (integer && integer->per_code == 1.0) || chain.channel.average.truncated;
}

double reading(const Chain& chain, double reported) {
  require_number(reported, "a code within ±1e150");
  const auto& scaling = chain.channel.scaling;
  // A mean of whole numbers is a multiple of a fraction, up to rounding.
  if (chain.channel.average.truncated) reported = std::floor(reported + 1e-9);
  const auto& unit = chain.channel.span.unit;
  double result = 0.0;
  if (scaling.integer) {
    result = static_cast<double>(evaluate_mean(*scaling.integer, reported).value) *
                 scaling.integer->count +
             unit.offset;
  } else {
    result = exact_reading(chain, reported);
  }
  result = after_correction(chain, result);
  if (!scaling.decimals) return result;
  const double last_place = unit.scale() * math::power_of_ten(-*scaling.decimals);
  // Halves go upward, those too that lie a rounding error below one.
  const double places = (result - unit.offset) / last_place;
  const double half = 0.5 + 1e-9 + 4e-15 * std::abs(places);
  return std::floor(places + half) * last_place + unit.offset;
}

double reading_or_end(const Chain& chain, double reported) {
  const double result = reading(chain, reported);
  if (std::isfinite(result) || chain.channel.scaling.integer) return result;
  return after_correction(chain, smooth_reading(chain, std::floor(reported)));
}

namespace {

double uncorrected(const Chain& chain, double volts, Parameters p) {
  const double reported = chain.report.offset + chain.report.gain * code_of_volts(chain, volts, p);
  return smooth_reading(chain, reported) + chain.firmware.arithmetic.mean +
         p[chain.firmware.rounding];
}

// Calibrated, the unit reads right as it is: what is left is how far it moves from there. An
// adjustment of each unit takes away what it says of the nominal reading.
double removed(const Chain& chain, double x, double volts) {
  const auto& correction = chain.channel.correction;
  if (!correction) return 0.0;
  const double reading = uncorrected(chain, volts, chain.nominal);
  return reading - nominal_after(*correction, reading, x);
}

}  // namespace

double read_untared(const Chain& chain, double x, Parameters p) {
  const double result = uncorrected(chain, voltage(chain, x, p), p);
  if (!chain.channel.correction) return result;
  return result - removed(chain, x, voltage(chain, x, chain.nominal));
}

double read(const Chain& chain, double x, Parameters p) {
  const double result = read_untared(chain, x, p);
  const auto& tare = chain.channel.scaling.tare;
  return tare ? result - (read_untared(chain, *tare, p) - *tare) : result;
}

Place place(const Chain& chain, double x) {
  const double volts = voltage(chain, x, chain.nominal);
  return {.x = x, .volts = volts, .removed = removed(chain, x, volts)};
}

double read_moved(const Chain& chain, const Place& at, Parameters p, std::size_t moved) {
  const bool later = moved >= chain.path.parameters;
  const double result = uncorrected(chain, later ? at.volts : voltage(chain, at.x, p), p);
  return chain.channel.correction ? result - at.removed : result;
}

double bias(const Chain& chain, double x) { return read(chain, x, chain.nominal) - x; }

double quantity_at(const Chain& chain, double unquantised) {
  require_number(unquantised, "a code within ±1e150");
  const double from_low = unquantised - static_cast<double>(first_code(chain));
  return quantity_at_voltage(chain, inverse(chain.conversion, from_low, chain.nominal));
}

double quantity_at_voltage(const Chain& chain, double volts) {
  return back_through(chain.path.stages, volts, chain.nominal);
}

const std::vector<PathStage>& known_stages(const Chain& chain) {
  return chain.path.believed.empty() ? chain.path.stages : chain.path.believed;
}

double noise_in_codes(const Chain& chain, double x) {
  double variance = 0.0;
  auto p = chain.nominal;
  for (const auto& source : chain.sources) {
    if (source.kind() != Kind::noise) continue;
    const double value = code_effect(chain, x, source, source.standard_uncertainty, p);
    variance += value * value;
  }
  return std::sqrt(variance);
}

std::vector<double> standards_at(const Chain& chain, double x) {
  return standards_at(chain, x, noise_in_codes(chain, x));
}

std::vector<double> standards_at(const Chain& chain, double x, double noise) {
  std::vector<double> result;
  result.reserve(chain.sources.size());
  for (const auto& source : chain.sources) {
    const bool sine = source.kind() == Kind::interference;
    const double converted = sine ? interference_limit_at(chain, source, x) / std::numbers::sqrt2
                                  : source.standard_uncertainty;
    result.push_back(converted * filter_gain_at(chain, source, x));
  }
  if (chain.named.calibration)
    result[*chain.named.calibration] = calibration_uncertainty_at(chain, x);
  // A firmware in integers rounds the mean to a code again, and averaging gives no steps between.
  const double width = chain.report.width;
  result[chain.named.quantisation] =
      width * quantisation_standard(noise * chain.firmware.dither / width,
                                    whole_means(chain) ? 1.0 : chain.firmware.averaged);
  return result;
}

double reading_noise(const Chain& chain, double x) {
  const auto each = effects(chain, x, standards_at(chain, x));
  double variance = 0.0;
  for (std::size_t i = 0; i < each.size(); ++i) {
    if (random(chain.sources[i].kind())) variance += each[i] * each[i];
  }
  return std::sqrt(variance);
}

double allowed_at(const Chain& chain, const quantity::Limit& accuracy, double x) {
  if (accuracy.basis == quantity::Basis::code) return accuracy.size * code_width_at(chain, x);
  return quantity::size_at(accuracy, chain.channel.span, x);
}

math::Interval worst_case(const Chain& chain, double x,
                          double (*figure)(const Chain&, double, Parameters)) {
  const double nominal = figure(chain, x, chain.nominal);
  auto lowest = chain.nominal, highest = chain.nominal;
  double unbounded = 0.0;
  for (const auto& source : chain.sources) {
    if (source.kind() == Kind::quantisation) continue;
    const bool bounded = source.distribution != quantity::Distribution::normal;
    const bool sine = source.kind() == Kind::interference;
    const double size = sine      ? interference_limit_at(chain, source, x)
                        : bounded ? source.limit
                                  : source.standard_uncertainty;
    auto moved = chain.nominal;
    moved[source.parameter] += size;
    const double by = figure(chain, x, moved) - nominal;
    if (!bounded) {
      unbounded += by * by;
      continue;
    }
    const double towards = by < 0.0 ? -size : size;
    highest[source.parameter] += towards;
    lowest[source.parameter] -= towards;
  }
  const double either_side =
      math::coverage_factor(0.95, std::numeric_limits<double>::infinity()) * std::sqrt(unbounded);
  return {.low = figure(chain, x, lowest) - either_side,
          .high = figure(chain, x, highest) + either_side};
}

}  // namespace tamlo::chain
