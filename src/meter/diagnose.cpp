// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/diagnose.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <cmath>

#include "evidence.hpp"
#include "signatures.hpp"
#include "tamlo/math/coverage.hpp"

namespace tamlo::meter {
namespace {

constexpr std::size_t most_rows = 400;
// Chi-squared of one degree of freedom at 95 %: what lies closer than that is not told apart.
constexpr double apart = 3.841458820694124;

std::vector<Reading> thinned(const std::vector<Reading>& readings) {
  const auto step = (readings.size() + most_rows - 1) / most_rows;
  std::vector<Reading> result;
  for (std::size_t i = 0; i < readings.size(); i += step) result.push_back(readings[i]);
  return result;
}

// How the readings press on one source. With c its effect, V the covariance of all rows and r what
// is unexpected: pressure = c^T V^-1 r, of variance c^T V^-1 c in a sound channel.
struct Pressed {
  std::size_t source = 0;
  std::vector<double> answer{};  // V^-1 c
  double pressure = 0.0, information = 0.0;

  double score() const { return pressure / std::sqrt(information); }
  double explains() const { return pressure * pressure / information; }
  /// Where it must be if it alone is to blame, in its standard uncertainties.
  double moved() const { return pressure / information; }
};

std::vector<Pressed> press(const Evidence& evidence, const math::InverseCovariance& inverse) {
  const auto unexpected = evidence.unexpected();
  std::vector<Pressed> result;
  for (std::size_t j = 0; j < evidence.channel.columns.size(); ++j) {
    const auto& effect = evidence.channel.columns[j];
    Pressed of{.source = evidence.source_of[j], .answer = inverse.times(effect)};
    of.pressure = dot(of.answer, unexpected);
    of.information = dot(of.answer, effect);
    // What the readings cannot see at all is no suspect.
    if (of.information > 1e-6) result.push_back(std::move(of));
  }
  std::ranges::sort(result, std::ranges::greater{}, &Pressed::explains);
  return result;
}

// How many different directions the sources have: of two whose scores correlate by 0.95 one counts.
int directions(const std::vector<Pressed>& all, const Evidence& evidence) {
  std::vector<std::size_t> kept;
  const auto column = [&](std::size_t source) -> const std::vector<double>& {
    const auto at = std::ranges::find(evidence.source_of, source) - evidence.source_of.begin();
    return evidence.channel.columns[static_cast<std::size_t>(at)];
  };
  for (std::size_t i = 0; i < all.size(); ++i) {
    const bool known = std::ranges::any_of(kept, [&](std::size_t k) {
      const double together = dot(all[k].answer, column(all[i].source));
      return std::abs(together) > 0.95 * std::sqrt(all[k].information * all[i].information);
    });
    if (!known) kept.push_back(i);
  }
  return static_cast<int>(kept.size());
}

std::vector<Suspect> suspects(std::vector<Pressed> pressed, const chain::Chain& chain,
                              int directions) {
  const auto at_pin = chain::known_at_pin(chain);
  auto p = chain.nominal;
  const auto before_pin = [&](const chain::Source& source) {
    const double middle = chain.channel.span.middle();
    return chain::code_effect(at_pin, middle, source, source.standard, p) == 0.0;
  };
  std::vector<Suspect> result;
  while (!pressed.empty() && result.size() < 3) {
    const auto best = pressed.front().explains();
    Suspect of{.explains = best};
    const double tail = 2.0 * math::normal_below(-std::abs(pressed.front().score()));
    of.probability = std::min(1.0, directions * tail);
    std::vector<Pressed> rest;
    for (auto& one : pressed) {
      if (best - one.explains() > apart) {
        rest.push_back(std::move(one));
        continue;
      }
      const auto& source = chain.sources[one.source];
      of.sources.push_back({.name = source.name,
                            .moved = one.moved(),
                            .limits = one.moved() * source.standard / source.limit,
                            .before_pin = before_pin(source)});
    }
    std::ranges::stable_sort(of.sources, {},
                             [](const auto& source) { return std::abs(source.limits); });
    result.push_back(std::move(of));
    pressed = std::move(rest);
  }
  return result;
}

}  // namespace

Diagnosis diagnose(const model::Board& board, const std::string& channel, const model::Meter& meter,
                   const std::vector<Reading>& readings, double coverage) {
  if (readings.empty()) {
    throw CompareError(fmt::format("there are no readings of channel {}", channel));
  }
  const auto chain = beside(board, channel, meter);
  const auto rows = thinned(readings);
  const auto evidence = gather(chain, meter, rows, coverage);
  const math::InverseCovariance inverse(evidence.all());
  const auto unexpected = evidence.unexpected();

  Diagnosis result;
  result.agreement = {.chi_squared = dot(unexpected, inverse.times(unexpected)),
                      .dof = static_cast<int>(rows.size())};
  result.agreement.probability =
      math::chi_squared_above(result.agreement.chi_squared, result.agreement.dof);
  result.agreement.agrees = result.agreement.probability >= 1.0 - coverage;

  auto pressed = press(evidence, inverse);
  const int different = directions(pressed, evidence);
  result.suspects = suspects(std::move(pressed), chain, different);
  const double rare = (1.0 - coverage) / 2.0;
  result.fault = result.agreement.probability < rare ||
                 (!result.suspects.empty() && result.suspects.front().probability < rare);
  result.signatures = signatures({.board = board,
                                  .channel = channel,
                                  .meter = meter,
                                  .readings = rows,
                                  .chain = chain,
                                  .evidence = evidence,
                                  .inverse = inverse,
                                  .chi_squared = result.agreement.chi_squared,
                                  .claimed = result.fault,
                                  .coverage = coverage});
  result.fault = result.fault || !result.signatures.empty();
  return result;
}

}  // namespace tamlo::meter
