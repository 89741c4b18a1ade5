// SPDX-License-Identifier: Apache-2.0
// Diagnosis, and faults that show in the noise of repeats: another number of conversions averaged,
// or the mains.
#include "tamlo/meter/diagnose.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include "decision.hpp"
#include "row_figures.hpp"
#include "signatures.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/quantity/format.hpp"

namespace tamlo::meter {

Diagnosis diagnose(const model::Board& board, const Evidence& evidence,
                   const std::vector<OtherChannel>& others) {
  const auto& [chain, meter, readings, coverage, of_all_rows, decision] = evidence.parts();
  Diagnosis result{.agreement = decision.agreement,
                   .fault = !decision.agreement.agrees,
                   .side = decision.side,
                   .suspects = decision.suspects,
                   .together = decision.together};
  result.of_quantity = is_quantity(chain);
  if (result.of_quantity) return result;
  const auto& [rows, figures] = decision.rows;
  const math::InverseCovariance inverse(figures.all());
  const std::vector<OtherChannel> no_others;  // rows that were thinned go with none
  result.signatures =
      signatures({.board = board,
                  .channel = chain.channel.name,
                  .meter = meter,
                  .readings = rows,
                  .others = rows.size() == readings.size() ? others : no_others,
                  .chain = chain,
                  .evidence = figures,
                  .inverse = inverse,
                  .chi_squared = math::chi_squared(figures.unexpected(), figures.all()),
                  .left_by_one = result.together.chi_squared_left,
                  .claimed = result.fault,
                  .coverage = coverage});
  return result;
}

Diagnosis diagnose(const model::Board& board, const std::string& channel, const model::Meter& meter,
                   const std::vector<Reading>& readings, double coverage,
                   const std::vector<OtherChannel>& others) {
  return diagnose(
      board, Evidence(chain_as_metered(board, channel, meter), meter, readings, coverage), others);
}

namespace {

// Of noise that is as predicted one in a thousand sets of repeats looks like a fault.
constexpr double rare = 0.001;
constexpr int least_dof = 5;

// Probability of a spread at least as far from what was predicted, to that side.
double tail(double observed, double predicted, int dof) {
  const double above = math::chi_squared_survival(dof * squared(observed / predicted), dof);
  return std::min(above, 1.0 - above);
}

// ObservedNoise of a reading that averages so many conversions, beside that of one as described.
std::optional<double> noise_of_average(const DiagnosisContext& context, int count) {
  auto board = context.board;
  auto& channel = *std::ranges::find(board.channels, context.channel, &model::Channel::name);
  channel.average.time.reset();
  channel.average.count = count;
  try {
    const auto changed = chain_as_metered(board, context.channel, context.meter);
    const double middle = context.chain.channel.span.middle();
    return chain::reading_noise(changed, middle) / chain::reading_noise(context.chain, middle);
  } catch (const Error&) {
    return {};
  }
}

}  // namespace

std::vector<Signature> noise_faults(const DiagnosisContext& context) {
  std::vector<Signature> result;
  const auto noise = noise_observed(context.evidence, context.readings);
  if (noise.dof < least_dof || !(noise.predicted > 0.0) || !(noise.observed > 0.0)) return result;
  if (tail(noise.observed, noise.predicted, noise.dof) >= rare / 2.0) return result;
  const auto unit = quantity::difference_unit(context.chain.channel.span.unit);
  const auto evidence = fmt::format("repeats spread by {}, {} was predicted",
                                    quantity::engineering(noise.observed, unit, 3),
                                    quantity::engineering(noise.predicted, unit, 3));
  const auto add = [&](std::string fault) {
    result.push_back({.fault = std::move(fault),
                      .evidence = evidence,
                      .chi_squared = context.chi_squared,
                      .probability = 1.0});
  };
  // The number of conversions, a power of two, whose noise comes nearest.
  const int described = chain::decimation(context.chain.firmware.digital);
  int nearest = 0;
  double best = 0.05;
  for (int count = 1; count <= 1024; count *= 2) {
    const auto ratio = count == described ? std::nullopt : noise_of_average(context, count);
    if (!ratio) continue;
    const double likely = tail(noise.observed, *ratio * noise.predicted, noise.dof);
    if (likely <= best) continue;
    best = likely;
    nearest = count;
  }
  if (nearest > 0) {
    add(fmt::format("wrong number averaged: it looks like {} conversion{} in place of {}", nearest,
                    quantity::plural(nearest), described));
  }
  if (noise.observed > noise.predicted) {
    const double more = std::sqrt(2.0 * (squared(noise.observed) - squared(noise.predicted)));
    const auto& mains = context.chain.conditions.mains;
    add(fmt::format("interference: as of {} with an amplitude of {} in the readings",
                    mains ? fmt::format("the mains of {:.4g} Hz", mains->or_zero()) : "a sine",
                    quantity::engineering(more, unit, 2)));
  }
  return result;
}

}  // namespace tamlo::meter
