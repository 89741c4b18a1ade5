// SPDX-License-Identifier: Apache-2.0
// Faults that leave a mark in the readings themselves: an end of the codes, a bit that never moves,
// two rows in each other's place.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "signatures.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::meter {
namespace {

constexpr std::size_t most_swapped = 120;

std::string place(const DiagnosisContext& context, std::size_t row) {
  const auto& unit = context.chain.channel.span.unit;
  auto text = quantity::significant(context.evidence.at[row], unit, 4);
  return unit.symbol.empty() ? text : text + " " + unit.symbol;
}

// The code that a reading was made of, as the firmware scales.
double code_of(const DiagnosisContext& context, double reading) {
  return chain::code(context.chain, reading, context.chain.nominal);
}

// What a code is worth in the reading, there.
double step(const DiagnosisContext& context, std::size_t row) {
  return chain::code_width_at(context.chain, context.evidence.at[row]);
}

// How far the code of a row may be from the nominal one, in codes.
double reach(const DiagnosisContext& context, std::size_t row) {
  double variance =
      context.evidence.channel.variances[row] + context.evidence.measured.variances[row];
  for (const auto& column : context.evidence.channel.columns) variance += column[row] * column[row];
  return 3.0 * std::sqrt(variance) / step(context, row);
}

// The channel stands at an end of its codes while the meter goes on.
void clipping(std::vector<Signature>& found, const DiagnosisContext& context) {
  const auto first = static_cast<double>(chain::first_code(context.chain));
  const auto last = static_cast<double>(chain::last_code(context.chain));
  auto evidence = context.evidence;
  std::size_t at_end = 0, where = 0;
  for (std::size_t i = 0; i < evidence.rows(); ++i) {
    const double code = code_of(context, context.readings[i].reading);
    const double should = code_of(context, evidence.at[i]);
    const bool above = code > last - 1.0 && should > last + reach(context, i);
    const bool below = code < first + 1.0 && should < first - reach(context, i);
    if (!above && !below) continue;
    // A row at an end says nothing more: as if it were as expected.
    evidence.difference[i] = evidence.effects.bias[i];
    where = i;
    ++at_end;
  }
  if (at_end == 0) return;
  Signature result{.fault = "clipping: the converter is at an end of its codes",
                   .evidence = fmt::format("{} row{}, such as {}", at_end, quantity::plural(at_end),
                                           place(context, where))};
  result.chi_squared = math::chi_squared(evidence.unexpected(), evidence.all());
  result.probability =
      math::chi_squared_survival(result.chi_squared, static_cast<int>(evidence.rows()));
  found.push_back(std::move(result));
}

// Whole codes of all rows; nothing where any is a mean of several.
std::optional<std::vector<std::int64_t>> whole_codes(const DiagnosisContext& context) {
  std::vector<std::int64_t> result;
  for (const auto& reading : context.readings) {
    const double code = code_of(context, reading.reading);
    if (!(std::abs(code - std::round(code)) < 0.02)) return {};
    result.push_back(static_cast<std::int64_t>(std::round(code)) -
                     chain::first_code(context.chain));
  }
  return result;
}

// A low bit that is the same in every code, although the rows are many.
void low_bits(std::vector<Signature>& found, const DiagnosisContext& context) {
  const auto codes = whole_codes(context);
  const int bits = context.chain.converter.resolution;
  if (!codes) return;
  const auto n = static_cast<double>(codes->size());
  int stuck = 0;
  for (int k = 0; k < bits - 1; ++k) {
    const auto bit = [&](std::int64_t code) { return (code >> k) & 1; };
    const bool same =
        std::ranges::all_of(*codes, [&](auto code) { return bit(code) == bit(codes->front()); });
    // By chance alone: 2^-(n - 1) for each bit.
    if (!same || bits * std::pow(2.0, 1.0 - n) > 1e-3) break;
    ++stuck;
  }
  if (stuck == 0) return;
  found.push_back({.fault = stuck == 1
                                ? "missing bit: the lowest bit never moves"
                                : fmt::format("missing bits: the lowest {} bits never move", stuck),
                   .evidence = fmt::format("the same in the codes of all {} rows", codes->size()),
                   .chi_squared = context.chi_squared,
                   .probability = 1.0});
}

// A high bit that stands still: every row whose code should have it otherwise is off by its weight.
void high_bits(std::vector<Signature>& found, const DiagnosisContext& context) {
  for (int k = 0; k < context.chain.converter.resolution; ++k) {
    const double weight = std::pow(2.0, k);
    for (const int stands : {0, 1}) {
      auto evidence = context.evidence;
      std::size_t off = 0;
      bool weighty = true;
      for (std::size_t i = 0; i < evidence.rows() && weighty; ++i) {
        const double from_low = code_of(context, evidence.at[i]) +
                                evidence.effects.bias[i] / step(context, i) -
                                static_cast<double>(chain::first_code(context.chain));
        const double within = std::fmod(from_low + 0.5, 2.0 * weight);
        const int bit = within >= weight ? 1 : 0;
        const double edge = std::min({std::abs(within - weight), within, 2.0 * weight - within});
        weighty = weight > 2.0 * reach(context, i);
        if (edge < reach(context, i)) {
          evidence.measured.variances[i] += std::pow(weight * step(context, i) / 2.0, 2);
        }
        if (bit == stands) continue;
        evidence.effects.bias[i] += (stands - bit) * weight * step(context, i);
        ++off;
      }
      if (!weighty || off == 0) continue;
      keep_if_it_explains(found, context,
                          {.fault = fmt::format("missing bit: bit {} is always {}", k, stands),
                           .evidence = fmt::format("{} row{} off by {:.0f} codes", off,
                                                   quantity::plural(off), weight)},
                          evidence);
    }
  }
}

// Two readings in each other's place.
void swapped_rows(std::vector<Signature>& found, const DiagnosisContext& context) {
  const auto n = context.evidence.rows();
  if (!context.claimed || n < 3 || n > most_swapped) return;
  std::vector<std::vector<double>> inverse;
  for (std::size_t i = 0; i < n; ++i) {
    std::vector<double> one(n, 0.0);
    one[i] = 1.0;
    inverse.push_back(context.inverse.times(one));
  }
  const auto answer = context.inverse.times(context.evidence.unexpected());
  double best = context.chi_squared;
  std::size_t a = 0, b = 0;
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t j = i + 1; j < n; ++j) {
      const double by = context.readings[j].reading - context.readings[i].reading;
      const double now = context.chi_squared + 2.0 * by * (answer[i] - answer[j]) +
                         by * by * (inverse[i][i] + inverse[j][j] - 2.0 * inverse[i][j]);
      if (now >= best) continue;
      best = now;
      a = i;
      b = j;
    }
  }
  if (a == b || context.chi_squared - best < 20.0) return;
  auto evidence = context.evidence;
  const double by = context.readings[b].reading - context.readings[a].reading;
  evidence.difference[a] += by;
  evidence.difference[b] -= by;
  keep_if_it_explains(found, context,
                      {.fault = "swapped rows: two readings stand in each other's place",
                       .evidence = fmt::format("{} and {}", place(context, a), place(context, b))},
                      evidence);
}

}  // namespace

std::vector<Signature> marks(const DiagnosisContext& context) {
  std::vector<Signature> found;
  clipping(found, context);
  low_bits(found, context);
  return found;
}

std::vector<Signature> high_bits_and_swaps(const DiagnosisContext& context) {
  std::vector<Signature> found;
  high_bits(found, context);
  swapped_rows(found, context);
  return found;
}

}  // namespace tamlo::meter
