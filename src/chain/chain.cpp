// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/chain.hpp"

#include <algorithm>
#include <cmath>

namespace tamlo::chain {
Ends input_range(const Chain& chain) { return ends(chain.conversion, chain.nominal); }

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

double voltage(const Chain& chain, double x, Parameters p) { return signal(chain, x, p).value; }

Signal signal(const Chain& chain, double x, Parameters p) {
  Signal result{.value = x};
  for (const auto& stage : chain.stages) result = forward(stage.law, result, p);
  return result;
}

double code(const Chain& chain, double x, Parameters p) {
  return static_cast<double>(first_code(chain)) +
         forward(chain.conversion, voltage(chain, x, p), p);
}

Conversion convert(const Chain& chain, double unlimited) {
  const double nearest = std::floor(unlimited + 0.5);
  const double held = std::clamp(nearest, static_cast<double>(first_code(chain)),
                                 static_cast<double>(last_code(chain)));
  return {.code = static_cast<std::int64_t>(held), .clipped = held != nearest};
}

double firmware_volts(const Chain& chain, double code) {
  const bool full_scale = chain.channel.scaling.convention == model::Convention::full_scale;
  const double divisor = full_scale ? chain.conversion.codes : chain.conversion.codes - 1.0;
  const auto range = input_range(chain);
  const double from_low = code - static_cast<double>(first_code(chain));
  return range.low + from_low * (range.high - range.low) / divisor;
}

double reading(const Chain& chain, double code) {
  return quantity_at_voltage(chain, firmware_volts(chain, code));
}

double read(const Chain& chain, double x, Parameters p) {
  return reading(chain, code(chain, x, p));
}

double bias(const Chain& chain, double x) { return read(chain, x, chain.nominal) - x; }

double quantity_at(const Chain& chain, double unlimited) {
  const double from_low = unlimited - static_cast<double>(first_code(chain));
  return quantity_at_voltage(chain, inverse(chain.conversion, from_low, chain.nominal));
}

double quantity_at_voltage(const Chain& chain, double volts) {
  double value = volts;
  for (auto stage = chain.stages.rbegin(); stage != chain.stages.rend(); ++stage) {
    value = inverse(stage->law, value, chain.nominal);
  }
  return value;
}

double noise_in_codes(const Chain& chain, double x) {
  double variance = 0.0;
  auto p = chain.nominal;
  for (const auto& source : chain.sources) {
    if (source.kind != Kind::noise) continue;
    const double nominal = p[source.parameter];
    p[source.parameter] = nominal + source.standard;
    const double above = code(chain, x, p);
    p[source.parameter] = nominal - source.standard;
    const double below = code(chain, x, p);
    p[source.parameter] = nominal;
    variance += (above - below) * (above - below) / 4.0;
  }
  return std::sqrt(variance);
}

double allowed_at(const Chain& chain, const quantity::Limit& accuracy, double x) {
  const auto& span = chain.channel.span;
  switch (accuracy.basis) {
    case quantity::Basis::relative:
      return accuracy.size * std::abs(x - span.unit.offset);
    case quantity::Basis::span:
      return accuracy.size * span.width();
    case quantity::Basis::code:
      return accuracy.size * code_width_at(chain, x);
    default:
      return accuracy.size;
  }
}

Extremes worst_case(const Chain& chain, double x,
                    double (*figure)(const Chain&, double, Parameters)) {
  const double nominal = figure(chain, x, chain.nominal);
  auto lowest = chain.nominal, highest = chain.nominal;
  for (const auto& source : chain.sources) {
    if (random(source.kind)) continue;
    const bool bounded = source.distribution != quantity::Distribution::normal;
    const double size = bounded ? source.limit : 3.0 * source.standard;
    auto moved = chain.nominal;
    moved[source.parameter] += size;
    const double towards = figure(chain, x, moved) < nominal ? -size : size;
    highest[source.parameter] += towards;
    lowest[source.parameter] -= towards;
  }
  return {.low = figure(chain, x, lowest), .high = figure(chain, x, highest)};
}

}  // namespace tamlo::chain
