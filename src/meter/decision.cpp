// SPDX-License-Identifier: Apache-2.0
#include "decision.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include "tamlo/math/coverage.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::meter {
namespace {

constexpr std::size_t most_rows = 400;
// Chi-squared of one degree of freedom at 95 %: what lies closer than that is not told apart.
constexpr double apart = 3.841458820694124;

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

std::vector<ScoreTest> score(const std::vector<PossibleCause>& all, const Evidence& evidence,
                             const math::InverseCovariance& inverse) {
  const auto unexpected = evidence.unexpected();
  std::vector<ScoreTest> result;
  for (const auto& candidate : all) {
    ScoreTest of{.of = candidate, .answer = inverse.times(*candidate.effect)};
    of.score = dot(of.answer, unexpected);
    of.information = dot(of.answer, *candidate.effect);
    // What the readings cannot see at all is no suspect.
    if (of.information > 1e-6) result.push_back(std::move(of));
  }
  std::ranges::stable_sort(result, std::ranges::greater{}, &ScoreTest::chi_squared_reduction);
  return result;
}

// How many different directions there are: of two whose scores correlate by 0.95 one counts.
int directions(const std::vector<ScoreTest>& all) {
  std::vector<std::size_t> kept;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const bool known = std::ranges::any_of(kept, [&](std::size_t k) {
      const double together = dot(all[k].answer, *all[i].of.effect);
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
    Suspect of{.chi_squared_reduction = best};
    const double tail = 2.0 * math::normal_cdf(-std::abs(tests.front().normalised()));
    of.probability = std::min(1.0, directions * tail);
    std::vector<ScoreTest> rest;
    for (auto& one : tests) {
      if (best - one.chi_squared_reduction() > apart) {
        rest.push_back(std::move(one));
        continue;
      }
      auto named = one.of.named;
      named.moved = one.moved();
      named.limits = one.moved() * one.of.standard_in_limits;
      of.sources.push_back(std::move(named));
    }
    std::ranges::stable_sort(of.sources, {},
                             [](const auto& source) { return std::abs(source.limits); });
    result.push_back(std::move(of));
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

}  // namespace

std::vector<PossibleCause> possible_causes(const chain::Chain& chain, const model::Meter& meter,
                                           const Evidence& evidence) {
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
                      .effect = &evidence.channel.columns[j]});
  }
  for (std::size_t j = 0; j < evidence.limit_of.size(); ++j) {
    const auto [range, number] = evidence.limit_of[j];
    const auto& of = meter.ranges[range];
    const auto& limit = of.accuracy.limits[number];
    auto name = fmt::format("meter {} {}", meter.name, quantity::to_string(limit));
    if (meter.ranges.size() > 1) {
      name += fmt::format(" on its range of {}",
                          quantity::engineering(of.full_scale.or_zero(), of.full_scale.unit, 4));
    }
    result.push_back({.named = {.name = std::move(name), .of_meter = true},
                      .standard_in_limits = quantity::standard_uncertainty(1.0, limit.distribution,
                                                                           limit.coverage_factor),
                      .effect = &evidence.measured.columns[j]});
  }
  return result;
}

std::vector<Reading> thinned(const std::vector<Reading>& readings) {
  const auto step = (readings.size() + most_rows - 1) / most_rows;
  std::vector<Reading> result;
  for (std::size_t i = 0; i < readings.size(); i += step) result.push_back(readings[i]);
  return result;
}

Decision decide(const chain::Chain& chain, const model::Meter& meter,
                const std::vector<Reading>& readings, const Evidence& of_all_rows,
                double coverage) {
  Decision result;
  auto& agreement = result.agreement;
  agreement = {.chi_squared = math::chi_squared(of_all_rows.unexpected(), of_all_rows.all()),
               .dof = static_cast<int>(of_all_rows.rows())};
  agreement.probability = math::chi_squared_survival(agreement.chi_squared, agreement.dof);

  const auto rows = thinned(readings);
  const bool all = rows.size() == readings.size();
  const auto evidence = all ? of_all_rows : gather(chain, meter, rows, coverage);
  const math::InverseCovariance inverse(evidence.all());
  const auto candidates = possible_causes(chain, meter, evidence);
  auto tests = score(candidates, evidence, inverse);
  const int different = directions(tests);
  result.suspects = suspects(std::move(tests), different);

  const double rare = (1.0 - coverage) / 2.0;
  agreement.agrees = agreement.probability >= rare &&
                     (result.suspects.empty() || result.suspects.front().probability >= rare);
  result.side = side_of(result);
  return result;
}

}  // namespace tamlo::meter
