// SPDX-License-Identifier: Apache-2.0
#include "decision.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <utility>

#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::meter {
namespace {

constexpr std::size_t most_rows = 400;
// Chi-squared of one degree of freedom at 95 %: what lies closer than that is not told apart.
constexpr double apart = 3.841458820694124;

// So many of very many rows, taken evenly.
template <class Each>
std::vector<Each> thinned(const std::vector<Each>& rows) {
  const auto step = (rows.size() + most_rows - 1) / most_rows;
  std::vector<Each> result;
  for (std::size_t i = 0; i < rows.size(); i += step) result.push_back(rows[i]);
  return result;
}

// How the readings speak for one of them. With c its effect, V the covariance of all rows and r
// what is unexpected: the score c^T V^-1 r has the variance c^T V^-1 c in a sound channel.
struct ScoreTest {
  PossibleCause of{};
  std::vector<double> answer{};  // V^-1 c
  double score = 0.0, information = 0.0;

  double normalised() const { return score / std::sqrt(information); }
  double chi_squared_reduction() const { return score * score / information; }
  /// Where it must be if it alone is to blame, in its standard uncertainties.
  double moved() const { return score / information; }
};

std::vector<ScoreTest> score(const std::vector<PossibleCause>& all, const RowFigures& evidence,
                             const math::InverseCovariance& inverse) {
  const auto unexpected = evidence.unexpected();
  std::vector<ScoreTest> result;
  for (const auto& candidate : all) {
    ScoreTest score_test{.of = candidate, .answer = inverse.times(candidate.effect)};
    score_test.score = dot(score_test.answer, unexpected);
    score_test.information = dot(score_test.answer, candidate.effect);
    // What the readings cannot see at all is no suspect.
    if (score_test.information > 1e-6) result.push_back(std::move(score_test));
  }
  std::ranges::stable_sort(result, std::ranges::greater{}, &ScoreTest::chi_squared_reduction);
  return result;
}

// How many different directions there are: of two whose scores correlate by 0.95 one counts.
int directions(const std::vector<ScoreTest>& all) {
  std::vector<std::size_t> kept;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const bool known = std::ranges::any_of(kept, [&](std::size_t k) {
      const double together = dot(all[k].answer, all[i].of.effect);
      return std::abs(together) > 0.95 * std::sqrt(all[k].information * all[i].information);
    });
    if (!known) kept.push_back(i);
  }
  return static_cast<int>(kept.size());
}

std::vector<Suspect> suspects(std::vector<ScoreTest> tests, int directions) {
  std::vector<Suspect> result;
  while (!tests.empty() && result.size() < 3) {
    const auto best = tests.front().chi_squared_reduction();
    Suspect suspect{.chi_squared_reduction = best};
    const double tail = 2.0 * math::normal_cdf(-std::abs(tests.front().normalised()));
    suspect.probability = std::min(1.0, directions * tail);
    std::vector<ScoreTest> rest;
    for (auto& one : tests) {
      if (best - one.chi_squared_reduction() > apart) {
        rest.push_back(std::move(one));
        continue;
      }
      auto named = one.of.named;
      named.moved = one.moved();
      named.limits = one.moved() * one.of.standard_in_limits;
      suspect.sources.push_back(std::move(named));
    }
    std::ranges::stable_sort(suspect.sources, {},
                             [](const auto& source) { return std::abs(source.limits); });
    result.push_back(std::move(suspect));
    tests = std::move(rest);
  }
  return result;
}

Side side_of(const Decision& decision) {
  if (decision.agreement.agrees) return Side::neither;
  if (decision.suspects.empty()) return Side::undetermined;
  const auto& sources = decision.suspects.front().sources;
  const auto of_meter = std::ranges::count_if(sources, &Suspect::Source::of_meter);
  if (of_meter == 0) return Side::channel;
  return of_meter == std::ssize(sources) ? Side::meter : Side::undetermined;
}

// The ranges of a meter share its reference: one limit of all of them moves together.
void add_reference_of_meter(std::vector<PossibleCause>& causes, const model::Meter& meter,
                            const RowFigures& evidence) {
  std::map<std::size_t, std::vector<std::size_t>> columns_of;  // of each limit, over the ranges
  for (std::size_t j = 0; j < evidence.limit_of.size(); ++j)
    columns_of[evidence.limit_of[j].second].push_back(j);
  for (const auto& [number, columns] : columns_of) {
    if (columns.size() < 2) continue;
    const auto& limit =
        meter.ranges[evidence.limit_of[columns.front()].first].accuracy.limits[number];
    PossibleCause cause{.named = {.name = fmt::format("meter {} {} on all its ranges", meter.name,
                                                      quantity::to_string(limit)),
                                  .of_meter = true},
                        .standard_in_limits = quantity::standard_uncertainty(
                            1.0, limit.distribution, limit.coverage_factor),
                        .effect = std::vector<double>(evidence.rows(), 0.0)};
    for (const auto j : columns) {
      for (std::size_t i = 0; i < evidence.rows(); ++i)
        cause.effect[i] += evidence.measured.columns[j][i];
    }
    causes.push_back(std::move(cause));
  }
}

// Two causes at once: of all pairs that explain as much as any, the one that moves least.
CausesTogether causes_together(const std::vector<ScoreTest>& tests, const Agreement& agreement,
                               std::size_t rows, double chi_squared) {
  constexpr double improbable = 0.01;
  constexpr std::size_t most_tried = 48;
  CausesTogether result{.chi_squared_left = chi_squared, .probability = agreement.probability};
  if (tests.empty() || rows < 3) return result;
  const auto dof = static_cast<int>(rows);
  result.chi_squared_left = std::max(0.0, chi_squared - tests.front().chi_squared_reduction());
  result.probability = math::chi_squared_survival(result.chi_squared_left, dof - 1);
  if (result.probability >= improbable) return result;
  struct Pair {
    std::size_t first, second;
    double reduction, moved_first, moved_second, limits;
  };
  std::vector<Pair> pairs;
  double best = 0.0;
  const auto count = std::min(tests.size(), most_tried);
  for (std::size_t i = 0; i < count; ++i) {
    for (std::size_t j = i + 1; j < count; ++j) {
      const auto &a = tests[i], &b = tests[j];
      const double shared = dot(a.answer, b.of.effect);
      const double determinant = a.information * b.information - shared * shared;
      if (determinant < 0.02 * a.information * b.information) continue;  // not told apart
      const double first = (b.information * a.score - shared * b.score) / determinant;
      const double second = (a.information * b.score - shared * a.score) / determinant;
      pairs.push_back(
          {i, j, first * a.score + second * b.score, first, second,
           std::abs(first * a.of.standard_in_limits) + std::abs(second * b.of.standard_in_limits)});
      best = std::max(best, pairs.back().reduction);
    }
  }
  const Pair* least = nullptr;
  for (const auto& pair : pairs) {
    if (best - pair.reduction > apart) continue;
    if (least == nullptr || pair.limits < least->limits) least = &pair;
  }
  if (least == nullptr) return result;
  const auto name = [&](std::size_t test, double moved) {
    auto source = tests[test].of.named;
    source.moved = moved;
    source.limits = moved * tests[test].of.standard_in_limits;
    result.pair.push_back(std::move(source));
  };
  name(least->first, least->moved_first);
  name(least->second, least->moved_second);
  result.pair_chi_squared_left = std::max(0.0, chi_squared - least->reduction);
  return result;
}

}  // namespace

std::vector<PossibleCause> possible_causes(const chain::Chain& chain, const model::Meter& meter,
                                           const RowFigures& evidence) {
  std::vector<PossibleCause> result;
  const auto at_pin = chain::referred_to_pin(chain);
  auto p = chain.nominal;
  const double middle = chain.channel.span.middle();
  for (std::size_t j = 0; j < evidence.source_of.size(); ++j) {
    const auto& source = chain.sources[evidence.source_of[j]];
    const bool before_pin =
        chain::code_effect(at_pin, middle, source, source.standard_uncertainty, p) == 0.0;
    result.push_back({.named = {.name = source.name, .before_pin = before_pin},
                      .standard_in_limits = source.standard_uncertainty / source.limit,
                      .effect = evidence.channel.columns[j]});
  }
  add_reference_of_meter(result, meter, evidence);
  for (std::size_t j = 0; j < evidence.limit_of.size(); ++j) {
    const auto [range, number] = evidence.limit_of[j];
    const auto& used = meter.ranges[range];
    const auto& limit = used.accuracy.limits[number];
    auto name = fmt::format("meter {} {}", meter.name, quantity::to_string(limit));
    if (meter.ranges.size() > 1) {
      name += fmt::format(" on its range of {}", quantity::engineering(used.full_scale.or_zero(),
                                                                       used.full_scale.unit, 4));
    }
    result.push_back({.named = {.name = std::move(name), .of_meter = true},
                      .standard_in_limits = quantity::standard_uncertainty(1.0, limit.distribution,
                                                                           limit.coverage_factor),
                      .effect = evidence.measured.columns[j]});
  }
  return result;
}

void require_channel(const Evidence& evidence) {
  require(!evidence.of_quantity(),
          "readings of one channel: a quantity of several is compared alone");
}

Decision decide(const chain::Chain& chain, const model::Meter& meter,
                const std::vector<Reading>& readings, const RowFigures& of_all_rows) {
  Decision result;
  auto& agreement = result.agreement;
  agreement = {.chi_squared = math::chi_squared(of_all_rows.unexpected(), of_all_rows.all()),
               .dof = static_cast<int>(of_all_rows.rows())};
  agreement.probability = math::chi_squared_survival(agreement.chi_squared, agreement.dof);

  result.rows.readings = thinned(readings);
  if (result.rows.readings.size() == readings.size()) {
    result.rows.figures = of_all_rows;
  } else {
    auto effects = of_all_rows.effects;
    effects.bias = thinned(effects.bias);
    effects.expanded = thinned(effects.expanded);
    for (auto& effect : effects.of_source) effect = thinned(effect);
    result.rows.figures = figures_of_rows(chain, meter, result.rows.readings, std::move(effects));
    result.rows.figures.coverage = of_all_rows.coverage;
  }
  const auto& evidence = result.rows.figures;
  // Where the channels of a quantity stood is not known, so nothing tells what a part of them did.
  if (is_quantity(chain)) {
    agreement.agrees = agreement.probability >= (1.0 - of_all_rows.coverage) / 2.0;
    result.side = agreement.agrees ? Side::neither : Side::undetermined;
    return result;
  }
  const math::InverseCovariance inverse(evidence.all());
  const auto candidates = possible_causes(chain, meter, evidence);
  auto tests = score(candidates, evidence, inverse);
  const int different = directions(tests);
  result.suspects = suspects(tests, different);

  const double rare = (1.0 - of_all_rows.coverage) / 2.0;
  agreement.agrees = agreement.probability >= rare &&
                     (result.suspects.empty() || result.suspects.front().probability >= rare);
  result.side = side_of(result);
  if (!agreement.agrees) {
    result.together = causes_together(tests, agreement, evidence.rows(),
                                      math::chi_squared(evidence.unexpected(), evidence.all()));
  }
  return result;
}

Evidence::Evidence(const chain::Chain& chain, const model::Meter& meter,
                   std::vector<Reading> readings, double coverage) {
  if (readings.empty()) {
    throw CompareError(fmt::format("there are no readings of channel {}", chain.channel.name));
  }
  auto rows = figures_of_rows(chain, meter, readings, coverage);
  parts_ = gathered(chain, meter, std::move(readings), std::move(rows));
}

Evidence::Evidence(std::shared_ptr<const Parts> parts) : parts_(std::move(parts)) {}

std::shared_ptr<const Evidence::Parts> gathered(const chain::Chain& chain,
                                                const model::Meter& meter,
                                                std::vector<Reading> readings, RowFigures rows) {
  auto decision = decide(chain, meter, readings, rows);
  const double coverage = rows.coverage;
  return std::make_shared<const Evidence::Parts>(Evidence::Parts{.chain = chain,
                                                                 .meter = meter,
                                                                 .readings = std::move(readings),
                                                                 .coverage = coverage,
                                                                 .rows = std::move(rows),
                                                                 .decision = std::move(decision)});
}

bool Evidence::of_quantity() const { return is_quantity(parts_->chain); }
const chain::Chain& Evidence::chain() const { return parts_->chain; }
const std::vector<Reading>& Evidence::readings() const { return parts_->readings; }

}  // namespace tamlo::meter
