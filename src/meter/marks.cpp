// SPDX-License-Identifier: Apache-2.0
// Faults that leave a mark in the readings themselves: an end of the codes, a bit that never moves,
// two rows in each other's place.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "signatures.hpp"
#include "tamlo/math/coverage.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::meter {
namespace {

constexpr std::size_t most_swapped = 120;

std::string place(const Scene& scene, std::size_t row) {
  const auto& unit = scene.chain.channel.span.unit;
  auto text = quantity::significant(scene.evidence.at[row], unit, 4);
  return unit.symbol.empty() ? text : text + " " + unit.symbol;
}

// The code that a reading was made of, as the firmware scales.
double code_of(const Scene& scene, double reading) {
  return chain::code(scene.chain, reading, scene.chain.nominal);
}

// What a code is worth in the reading, there.
double step(const Scene& scene, std::size_t row) {
  return chain::code_width_at(scene.chain, scene.evidence.at[row]);
}

// How far the code of a row may be from the nominal one, in codes.
double reach(const Scene& scene, std::size_t row) {
  double variance = scene.evidence.channel.variances[row] + scene.evidence.measured.variances[row];
  for (const auto& column : scene.evidence.channel.columns) variance += column[row] * column[row];
  return 3.0 * std::sqrt(variance) / step(scene, row);
}

// The channel stands at an end of its codes while the meter goes on.
void clipping(std::vector<Signature>& found, const Scene& scene) {
  const auto first = static_cast<double>(chain::first_code(scene.chain));
  const auto last = static_cast<double>(chain::last_code(scene.chain));
  auto evidence = scene.evidence;
  std::size_t at_end = 0, where = 0;
  for (std::size_t i = 0; i < evidence.rows(); ++i) {
    const double code = code_of(scene, scene.readings[i].reading);
    const double should = code_of(scene, evidence.at[i]);
    const bool above = code > last - 1.0 && should > last + reach(scene, i);
    const bool below = code < first + 1.0 && should < first - reach(scene, i);
    if (!above && !below) continue;
    // A row at an end says nothing more: as if it were as expected.
    evidence.difference[i] = evidence.effects.bias[i];
    where = i;
    ++at_end;
  }
  if (at_end == 0) return;
  Signature result{.fault = "clipping: the converter is at an end of its codes",
                   .evidence = fmt::format("{} row{}, such as {}", at_end, at_end == 1 ? "" : "s",
                                           place(scene, where))};
  result.chi_squared = math::chi_squared(evidence.unexpected(), evidence.all());
  result.probability =
      math::chi_squared_above(result.chi_squared, static_cast<int>(evidence.rows()));
  found.push_back(std::move(result));
}

// Whole codes of all rows; nothing where any is a mean of several.
std::optional<std::vector<std::int64_t>> whole_codes(const Scene& scene) {
  std::vector<std::int64_t> result;
  for (const auto& reading : scene.readings) {
    const double code = code_of(scene, reading.reading);
    if (!(std::abs(code - std::round(code)) < 0.02)) return {};
    result.push_back(static_cast<std::int64_t>(std::round(code)) - chain::first_code(scene.chain));
  }
  return result;
}

// A low bit that is the same in every code, although the rows are many.
void low_bits(std::vector<Signature>& found, const Scene& scene) {
  const auto codes = whole_codes(scene);
  const int bits = scene.chain.converter.resolution;
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
                   .chi_squared = scene.chi_squared,
                   .probability = 1.0});
}

// A high bit that stands still: every row whose code should have it otherwise is off by its weight.
void high_bits(std::vector<Signature>& found, const Scene& scene) {
  for (int k = 0; k < scene.chain.converter.resolution; ++k) {
    const double weight = std::pow(2.0, k);
    for (const int stands : {0, 1}) {
      auto evidence = scene.evidence;
      std::size_t off = 0;
      bool weighty = true;
      for (std::size_t i = 0; i < evidence.rows() && weighty; ++i) {
        const double from_low = code_of(scene, evidence.at[i]) +
                                evidence.effects.bias[i] / step(scene, i) -
                                static_cast<double>(chain::first_code(scene.chain));
        const double within = std::fmod(from_low + 0.5, 2.0 * weight);
        const int bit = within >= weight ? 1 : 0;
        const double edge = std::min({std::abs(within - weight), within, 2.0 * weight - within});
        weighty = weight > 2.0 * reach(scene, i);
        if (edge < reach(scene, i)) {
          evidence.measured.variances[i] += std::pow(weight * step(scene, i) / 2.0, 2);
        }
        if (bit == stands) continue;
        evidence.effects.bias[i] += (stands - bit) * weight * step(scene, i);
        ++off;
      }
      if (!weighty || off == 0) continue;
      keep_if_it_explains(found, scene,
                          {.fault = fmt::format("missing bit: bit {} is always {}", k, stands),
                           .evidence = fmt::format("{} row{} off by {:.0f} codes", off,
                                                   off == 1 ? "" : "s", weight)},
                          evidence);
    }
  }
}

// Two readings in each other's place.
void swapped_rows(std::vector<Signature>& found, const Scene& scene) {
  const auto n = scene.evidence.rows();
  if (!scene.claimed || n < 3 || n > most_swapped) return;
  std::vector<std::vector<double>> inverse;
  for (std::size_t i = 0; i < n; ++i) {
    std::vector<double> one(n, 0.0);
    one[i] = 1.0;
    inverse.push_back(scene.inverse.times(one));
  }
  const auto answer = scene.inverse.times(scene.evidence.unexpected());
  double best = scene.chi_squared;
  std::size_t a = 0, b = 0;
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t j = i + 1; j < n; ++j) {
      const double by = scene.readings[j].reading - scene.readings[i].reading;
      const double now = scene.chi_squared + 2.0 * by * (answer[i] - answer[j]) +
                         by * by * (inverse[i][i] + inverse[j][j] - 2.0 * inverse[i][j]);
      if (now >= best) continue;
      best = now;
      a = i;
      b = j;
    }
  }
  if (a == b || scene.chi_squared - best < 20.0) return;
  auto evidence = scene.evidence;
  const double by = scene.readings[b].reading - scene.readings[a].reading;
  evidence.difference[a] += by;
  evidence.difference[b] -= by;
  keep_if_it_explains(found, scene,
                      {.fault = "swapped rows: two readings stand in each other's place",
                       .evidence = fmt::format("{} and {}", place(scene, a), place(scene, b))},
                      evidence);
}

}  // namespace

std::vector<Signature> marks(const Scene& scene) {
  std::vector<Signature> found;
  clipping(found, scene);
  low_bits(found, scene);
  return found;
}

std::vector<Signature> high_bits_and_swaps(const Scene& scene) {
  std::vector<Signature> found;
  high_bits(found, scene);
  swapped_rows(found, scene);
  return found;
}

}  // namespace tamlo::meter
