// SPDX-License-Identifier: Apache-2.0
// A quantity of several channels: one unit is one draw of all their sources.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <numeric>
#include <optional>
#include <span>
#include <string>

#include "point.hpp"
#include "tamlo/budget/channel_trials.hpp"
#include "tamlo/budget/quantity_budget.hpp"
#include "tamlo/chain/detail/reading_sampler.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/detail/expression.hpp"
#include "tamlo/math/detail/search.hpp"

namespace tamlo::budget {
namespace {

using chain::Chain;

// The channels of a quantity, and its formula as a function of their values alone.
class Formula {
 public:
  Formula(const model::Quantity& quantity, const std::vector<Chain>& chains)
      : formula_(quantity.expression, names_of(chains)), values_(chains.size(), 0.0) {
    for (const auto i : formula_.used()) used_.push_back(&chains[i]);
  }
  const std::vector<const Chain*>& chains() const { return used_; }
  double operator()(const std::vector<double>& x) const {
    for (std::size_t i = 0; i < x.size(); ++i) values_[formula_.used()[i]] = x[i];
    return formula_(values_);
  }
  // What a small change of one channel does, by both sides; the span has the size of the change.
  double slope(std::vector<double> x, std::size_t channel) const {
    const double step = 1e-5 * used_[channel]->channel.span.width();
    const double middle = x[channel];
    x[channel] = middle + step;
    const double above = (*this)(x);
    x[channel] = middle - step;
    return (above - (*this)(x)) / (2.0 * step);
  }

 private:
  static std::vector<std::string> names_of(const std::vector<Chain>& chains) {
    std::vector<std::string> result;
    for (const auto& chain : chains) result.push_back(chain.channel.name);
    return result;
  }
  math::Expression formula_;
  std::vector<const Chain*> used_{};
  mutable std::vector<double> values_;
};

// Places of the channels that give the wanted value: all but one stand at the same part of their
// span, and that one is found by halving.
std::vector<std::vector<double>> places_for(const Formula& formula, double wanted) {
  std::vector<std::vector<double>> result;
  const auto& chains = formula.chains();
  for (const double part : {0.0, 0.25, 0.5, 0.75, 1.0}) {
    for (std::size_t solved = 0; solved < chains.size(); ++solved) {
      std::vector<double> x;
      for (const auto* chain : chains)
        x.push_back(std::lerp(chain->channel.span.low, chain->channel.span.high, part));
      const auto off = [&](double place) {
        x[solved] = place;
        return formula(x) - wanted;
      };
      const auto& span = chains[solved]->channel.span;
      const double low = off(span.low), high = off(span.high);
      if (!std::isfinite(low) || !std::isfinite(high) || low * high > 0.0) continue;
      const auto ends = math::bisect(span.low, span.high, 60,
                                     [&](double place) { return off(place) * low > 0.0; });
      // Where the formula does not depend on this channel there is no place to find.
      if (low == high) continue;
      const double nearest = std::midpoint(ends.low, ends.high);
      const double zero = chains[solved]->channel.span.unit.offset;
      x[solved] = low == 0.0                                       ? span.low
                  : high == 0.0                                    ? span.high
                  : std::abs(nearest - zero) < 1e-9 * span.width() ? zero
                                                                   : nearest;
      result.push_back(x);
    }
  }
  return result;
}

// What may be off in a quantity: each source of its channels, those that they share once, and
// behind them its own limits.
struct Sources {
  std::vector<chain::Source> all{};
  std::vector<std::vector<std::size_t>> of_channel{};  // [channel][source], where it is in `all`
  std::vector<chain::Correlation> correlations{};

  Sources(const model::Quantity& quantity, const Formula& formula) {
    std::map<std::string, std::size_t> known;
    for (const auto* chain : formula.chains()) {
      auto& places = of_channel.emplace_back();
      for (auto source : chain->sources) {
        if (!source.shared) source.name = chain->channel.name + ": " + source.name;
        const auto [at, added] = known.try_emplace(source.name, all.size());
        places.push_back(at->second);
        if (added) all.push_back(std::move(source));
      }
      for (const auto& [first, second, r] : chain->correlations)
        correlations.push_back({places[first], places[second], r});
    }
    const auto& limits = quantity.error.limits;
    for (std::size_t i = 0; i < limits.size(); ++i) {
      all.push_back({.name = quantity.name + ": own error" +
                             (limits.size() > 1 ? fmt::format(" {}", i + 1) : std::string()),
                     .nature = chain::nature_of(limits[i]),
                     .distribution = limits[i].distribution,
                     .limit = 1.0,
                     .standard_uncertainty = quantity::standard_uncertainty(
                         1.0, limits[i].distribution, limits[i].coverage_factor)});
    }
  }
};

// Limits of the quantity's own as inputs: deviations about 0.
std::vector<Input> own_inputs(const model::Quantity& quantity, const Formula& formula, double at) {
  const auto& span = quantity.span;
  const chain::Scale scale{.relative = std::abs(at - span.unit.offset), .span = span.width()};
  std::vector<Input> result;
  for (const auto& limit : quantity.error.limits) {
    const double half = chain::half_width(limit, scale, formula.chains().front()->conditions);
    result.push_back({.standard_uncertainty = quantity::standard_uncertainty(
                          half, limit.distribution, limit.coverage_factor),
                      .shape = shape_of(limit.distribution),
                      .half_width = half});
  }
  return result;
}

// What a source does to the quantity through all channels that have it.
struct Part {
  double contribution = 0.0, worst = 0.0;
  bool bounded = true;
};

// The closed form at one place; whole limits, which take longer, only with corners.
struct Closed {
  std::vector<Part> parts{};               // of each source
  double variance = 0.0, unrelated = 0.0;  // the latter as if nothing were shared
};

Closed closed_form(const model::Quantity& quantity, const Formula& formula, const Sources& sources,
                   const std::vector<double>& x, double k, bool with_corners) {
  Closed result{.parts = std::vector<Part>(sources.all.size())};
  for (std::size_t j = 0; j < x.size(); ++j) {
    const auto& chain = *formula.chains()[j];
    const double slope = formula.slope(x, j);
    const auto effects = chain::effects(chain, x[j], chain::standards_at(chain, x[j]));
    std::optional<Corners> corners;
    if (with_corners) corners.emplace(chain, x[j]);
    for (std::size_t i = 0; i < effects.size(); ++i) {
      auto& part = result.parts[sources.of_channel[j][i]];
      const double moved = slope * effects[i];
      result.unrelated += moved * moved;
      part.contribution += moved;
      if (!corners) continue;
      part.bounded = part.bounded && corners->bounded(i);
      part.worst += corners->bounded(i) ? slope * corners->of_limit(i) : k * moved;
    }
    for (const auto& [first, second, r] : chain.correlations) {
      const double both = 2.0 * r * slope * slope * effects[first] * effects[second];
      result.unrelated += both;
      result.variance += both;
    }
  }
  const auto own = own_inputs(quantity, formula, formula(x));
  for (std::size_t i = 0; i < own.size(); ++i) {
    result.parts[sources.all.size() - own.size() + i] = {
        .contribution = own[i].standard_uncertainty, .worst = own[i].half_width};
    result.unrelated += own[i].standard_uncertainty * own[i].standard_uncertainty;
  }
  for (const auto& part : result.parts) result.variance += part.contribution * part.contribution;
  return result;
}

// Errors of the quantity over the units.
std::vector<double> drawn(const model::Quantity& quantity, const Formula& formula,
                          const std::vector<double>& x, const QuantityRequest& request) {
  const auto errors = sample_together(formula.chains(), x, request.units, request.seed);
  const double exact = formula(x);
  const auto own = own_inputs(quantity, formula, exact);
  const auto add_own = [&](std::uint64_t first, std::span<double> y) {
    constexpr std::uint64_t seed_of_own = 0x6f776e657272ULL;
    std::ranges::fill(y, -exact);
    for (std::size_t i = 0; i < own.size(); ++i)
      add_deviations(own[i], request.seed ^ seed_of_own, i, first, y, y);
  };
  auto result = sample(add_own, request.units);
  std::vector<double> readings(x.size());
  for (std::size_t t = 0; t < result.size(); ++t) {
    for (std::size_t j = 0; j < x.size(); ++j) readings[j] = x[j] + errors[j][t];
    result[t] += formula(readings);
  }
  return result;
}

QuantityPoint point_at(const model::Quantity& quantity, const Formula& formula,
                       const Sources& sources, const std::vector<double>& x,
                       const QuantityRequest& request) {
  const double k = math::coverage_factor(request.coverage, HUGE_VAL);
  const auto closed = closed_form(quantity, formula, sources, x, k, true);
  QuantityPoint point{.at = formula(x), .by = quantity.target.by};
  for (std::size_t j = 0; j < x.size(); ++j) {
    const auto& channel = formula.chains()[j]->channel;
    point.places.push_back({channel.name, x[j], channel.span.unit});
  }
  const auto figures = summary(drawn(quantity, formula, x, request), request.coverage);
  if (!std::isfinite(figures.deviation)) {
    throw DataError(
        fmt::format("{}: has no value at some readings of its channels", quantity.name));
  }
  point.bias = figures.mean;
  point.combined = figures.deviation;
  point.expanded = figures.expanded;
  point.unrelated = k * std::sqrt(closed.unrelated);
  double bounded = 0.0, unbounded = 0.0;
  for (std::size_t i = 0; i < closed.parts.size(); ++i) {
    const auto& part = closed.parts[i];
    point.contributions.push_back(part.contribution);
    if (part.bounded) {
      bounded += std::abs(part.worst);
    } else {
      unbounded += part.worst * part.worst;
    }
    point.sources.push_back(
        {sources.all[i].name, part.contribution,
         closed.variance > 0.0 ? part.contribution * part.contribution / closed.variance : 0.0});
  }
  const double reach = std::max(bounded + std::sqrt(unbounded), point.expanded);
  point.worst_case = {point.bias - reach, point.bias + reach};
  std::ranges::stable_sort(point.sources, std::greater<>{}, &QuantitySource::share);
  if (quantity.target.accuracy)
    point.limit = quantity::size_at(*quantity.target.accuracy, quantity.span, point.at);
  return point;
}

}  // namespace

double QuantityPoint::error() const { return error_by(by, bias, expanded, worst_case); }

MinorSources minor_sources(const QuantityPoint& point) {
  MinorSources result;
  double squares = 0.0;
  for (const auto& source : point.sources) {
    if (!is_minor(source.share)) continue;
    ++result.count;
    result.share += source.share;
    squares += source.contribution * source.contribution;
  }
  result.contribution = std::sqrt(squares);
  return result;
}

const QuantityPoint& QuantityBudget::worst() const {
  return *std::ranges::max_element(points, {}, [](const QuantityPoint& point) {
    const double error = point.error();
    return point.limit && error > 0.0 ? error / *point.limit : error;
  });
}

bool QuantityBudget::target_met() const {
  return std::ranges::all_of(
      points, [](const QuantityPoint& p) { return !p.limit || p.error() <= *p.limit; });
}

QuantityBudget evaluate(const model::Quantity& quantity, const std::vector<Chain>& chains,
                        const QuantityRequest& request) {
  require(request.units >= 100, "100 units at least");
  const Formula formula(quantity, chains);
  const auto& span = quantity.span;
  QuantityBudget result{.quantity = quantity.name,
                        .expression = quantity.expression,
                        .unit = span.unit,
                        .span = span,
                        .coverage = request.coverage,
                        .units = request.units};
  // Readings of many conversions: fewer units, so that a point is not to take minutes.
  constexpr double most_conversions = 2e7, least_units = 400.0;
  double effort = 1.0;
  for (const auto* chain : formula.chains())
    effort += chain::ReadingSampler(*chain, chain->channel.span.middle()).effort();
  auto affordable = request;
  affordable.units = std::min(
      request.units, static_cast<std::uint64_t>(std::max(least_units, most_conversions / effort)));
  result.units = affordable.units;
  const double k = math::coverage_factor(request.coverage, HUGE_VAL);
  const Sources sources(quantity, formula);
  const auto at = request.at.empty() ? std::vector{span.low, span.middle(), span.high} : request.at;
  for (const double wanted : at) {
    const auto places = places_for(formula, wanted);
    if (places.empty()) continue;
    const auto worst = std::ranges::max_element(places, {}, [&](const std::vector<double>& x) {
      const double variance = closed_form(quantity, formula, sources, x, k, false).variance;
      return std::isfinite(variance) ? variance : -1.0;
    });
    result.points.push_back(point_at(quantity, formula, sources, *worst, affordable));
  }
  if (result.points.empty()) {
    throw DataError(
        fmt::format("{}: no readings of its channels give a value of its span", quantity.name));
  }
  result.sources = sources.all;
  result.correlations = sources.correlations;
  return result;
}

}  // namespace tamlo::budget
