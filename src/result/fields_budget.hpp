// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of budget.
namespace tamlo::result {

template <>
struct Fields<math::Interval> {
  using T = math::Interval;
  static constexpr auto list = std::make_tuple(field("low", &T::low, difference, ""),
                                               field("high", &T::high, difference, ""));
};

template <>
struct Fields<budget::Adjusted> {
  using T = budget::Adjusted;
  static constexpr auto list = std::make_tuple(
      field("none", &T::none, difference, "as built"),
      field("zero", &T::zero, difference, "after a zero adjustment"),
      field("two_point", &T::two_point, difference, "after a two-point adjustment"));
};

template <>
struct Fields<budget::Resolution> {
  using T = budget::Resolution;
  static constexpr auto list = std::make_tuple(
      field("effective", &T::effective, unbounded_in("bit"), ""),
      field("noise_free", &T::noise_free, unbounded_in("bit"), "6.6 standard deviations"),
      field("accuracy", &T::accuracy, unbounded_in("bit"), ""),
      field("enob", &T::enob, unbounded_in("bit"), "of single conversions"));
};

/// Trials of a point, and how much wider the closed form is.
struct TrialsOf : budget::PointTrials {
  double wider = 0.0;
};
template <>
struct Fields<TrialsOf> {
  using T = TrialsOf;
  static constexpr auto list = std::make_tuple(
      field(
          "count", [](const T& t) { return t.of.count; }, ""),
      field(
          "mean", [](const T& t) { return t.of.mean; }, difference, "of the errors"),
      field(
          "combined", [](const T& t) { return t.of.combined; }, difference, "standard uncertainty"),
      field(
          "symmetric", [](const T& t) { return t.of.symmetric; },
          "probabilistically symmetric interval"),
      field(
          "shortest", [](const T& t) { return t.of.shortest; }, "shortest interval"),
      field(
          "settled", [](const T& t) { return t.of.settled; }, "no more trials were needed"),
      field("wider", &T::wider, unbounded,
            "closed form's interval than the symmetric one, as a part"),
      field("closed_form_valid", &T::closed_form_valid, "JCGM 101, clause 8"));
};

/// A source and what it does at a place.
struct Share {
  const chain::Source* source;
  const budget::Contribution* of;
};
template <>
struct Fields<Share> {
  using T = Share;
  static constexpr auto list = std::make_tuple(
      field(
          "source", [](const T& t) { return t.source->name; }, ""),
      field(
          "stage", [](const T& t) { return t.source->stage; }, "where in the chain it acts"),
      field(
          "distribution", [](const T& t) { return t.source->distribution; }, ""),
      field(
          "specification", [](const T& t) { return t.source->specification; },
          "as the board has it"),
      field(
          "limit", [](const T& t) { return t.of->limit; },
          "half-width, in the unit of its parameter"),
      field(
          "standard_uncertainty", [](const T& t) { return t.of->standard_uncertainty; },
          "in a reading, in the unit of its parameter"),
      field(
          "sensitivity", [](const T& t) { return t.of->sensitivity; }, difference,
          "contribution over standard uncertainty"),
      field(
          "contribution", [](const T& t) { return t.of->contribution; }, difference,
          "with its sign"),
      field(
          "worst", [](const T& t) { return t.of->worst; }, difference, "what its whole limit does"),
      field(
          "share", [](const T& t) { return t.of->share; }, "part of the variance"),
      field(
          "kind", [](const T& t) { return t.source->kind(); }, ""));
};

template <>
struct Fields<budget::MinorSources> {
  using T = budget::MinorSources;
  static constexpr auto list = std::make_tuple(
      field("count", &T::count, ""), field("contribution", &T::contribution, difference, "of all"),
      field("share", &T::share, "part of the variance"));
};

template <>
struct Fields<chain::BiasPart> {
  using T = chain::BiasPart;
  static constexpr auto list =
      std::make_tuple(field("name", &T::name, ""),
                      field("size", &T::size, difference, "of the bias, with its sign"),
                      field("remedy", &T::remedy, "what takes it away"));
};

/// A point of a budget, with the budget that it is of.
struct BudgetPoint {
  const budget::Budget* budget;
  const budget::Point* point;
};
template <>
struct Fields<BudgetPoint> {
  using T = BudgetPoint;
  static std::vector<Share> shares(const T& t) {
    std::vector<Share> result;
    for (const auto i : by_share(*t.point)) {
      result.push_back({&t.budget->sources[i], &t.point->contributions[i]});
    }
    return result;
  }
  static std::optional<TrialsOf> trials(const budget::Point& of) {
    if (!of.trials) return {};
    return TrialsOf{*of.trials, of.trials->wider(of.expanded)};
  }
  static std::optional<double> ratio(double of, double to) {
    return to > 0.0 ? std::optional(of / to) : std::nullopt;
  }
  static constexpr auto list = std::make_tuple(
      field(
          "at", [](const T& t) { return t.point->at; }, quantity_value, "place of the quantity"),
      field(
          "reading", [](const T& t) { return t.point->reading; }, quantity_value, "in the mean"),
      field(
          "bias", [](const T& t) { return t.point->bias; }, difference, "what it is always off"),
      field(
          "bias_parts", [](const T& t) { return t.point->bias_parts; },
          "what has a name of it: self-heating, leads, wires, a load, integers"),
      field(
          "combined", [](const T& t) { return t.point->combined; }, difference,
          "combined standard uncertainty"),
      field(
          "dof", [](const T& t) { return t.point->dof; }, unbounded,
          "effective degrees of freedom; none: infinite"),
      field(
          "coverage", [](const T& t) { return t.point->coverage; }, "probability"),
      field(
          "coverage_factor", [](const T& t) { return t.point->coverage_factor; }, ""),
      field(
          "expanded", [](const T& t) { return t.point->expanded; }, difference,
          "expanded uncertainty"),
      field(
          "worst_case", [](const T& t) { return t.point->worst_case; },
          "at the corners of all limits"),
      field(
          "code_width", [](const T& t) { return t.point->code_width; }, difference, ""),
      field(
          "expanded_of_span",
          [](const T& t) { return ratio(t.point->expanded, t.budget->span.width()); },
          "expanded uncertainty over the span"),
      field(
          "expanded_of_reading",
          [](const T& t) {
            const auto& unit = t.budget->span.unit;
            return unit.offset == 0.0 ? ratio(t.point->expanded, std::abs(t.point->at))
                                      : std::nullopt;
          },
          "expanded uncertainty over the quantity"),
      field(
          "expanded_in_codes",
          [](const T& t) { return ratio(t.point->expanded, t.point->code_width); }, in("LSB"), ""),
      field(
          "clipped", [](const T& t) { return t.point->clipped; },
          "an end of the codes or a clamp holds the reading"),
      field(
          "overflows", [](const T& t) { return t.point->overflows(); },
          "the firmware's integers overflow within reach"),
      field(
          "method", [](const T& t) { return t.point->method; }, ""),
      field(
          "roughness", [](const T& t) { return t.point->roughness; },
          "why trials and not the closed form"),
      field(
          "units",
          [](const T& t) {
            return t.point->units > 0 ? std::optional(t.point->units) : std::nullopt;
          },
          "that were tried, by trials"),
      field(
          "adjusted", [](const T& t) { return t.point->adjusted; },
          "expanded uncertainty after an adjustment"),
      field(
          "adjusted_bias", [](const T& t) { return t.point->adjusted_bias; },
          "bias after an adjustment"),
      field(
          "resolution", [](const T& t) { return t.point->resolution; }, ""),
      field(
          "trials", [](const T& t) { return trials(*t.point); }, "that were asked for"),
      field(
          "limit", [](const T& t) { return t.point->limit; }, difference, "what the target allows"),
      field(
          "error", [](const T& t) { return std::abs(t.point->bias) + t.point->expanded; },
          difference, "|bias| and expanded uncertainty"),
      field(
          "margin_ratio",
          [](const T& t) {
            const auto margin = t.point->margin();
            return margin ? ratio(*margin, *t.point->limit) : std::nullopt;
          },
          "margin over limit"),
      field(
          "margin", [](const T& t) { return t.point->margin(); }, difference,
          "what the target leaves"),
      field(
          "minor_sources", [](const T& t) { return minor_sources(*t.point); },
          "those under 0.05 % of the variance each"),
      field(
          "contributions", [](const T& t) { return shares(t); }, "the largest first"));
};

template <>
struct Fields<budget::Shrink> {
  using T = budget::Shrink;
  static constexpr auto list = std::make_tuple(
      field("source", &T::source, ""), field("share", &T::share, "part of the variance"),
      field("part", &T::part, "of its limit at which the target is just met; none: not even 0"));
};

template <>
struct Fields<budget::Lever> {
  using T = budget::Lever;
  static constexpr auto list = std::make_tuple(
      field("change", &T::change, "as one would write it"),
      field("at", &T::at, quantity_value, "worst place of the changed channel"),
      field("error", &T::error, difference, "|bias| and expanded uncertainty there"),
      field("limit", &T::limit, difference, "of the target"),
      field(
          "left",
          [](const T& t) { return t.limit ? std::optional(*t.limit - t.error) : std::nullopt; },
          difference, "of the target"),
      field("suffices", &T::suffices, "the target is met over the whole span"),
      field("latency", &T::latency, in("s"), "of the changed channel; 0: not known"),
      field("latency_before", &T::latency_before, in("s"), "0: not known"));
};

template <>
struct Fields<budget::Advice> {
  using T = budget::Advice;
  static constexpr auto list =
      std::make_tuple(field("shrinks", &T::shrinks, "how small leading sources would have to be"),
                      field("levers", &T::levers, "settings that help, the best first"));
};

/// A budget under one condition, which has a unit of its own.
struct ConditionPoint {
  budget::UnderCondition of;
  double condition;
};
template <>
struct Fields<ConditionPoint> {
  using T = ConditionPoint;
  static constexpr auto list = std::make_tuple(
      field("condition", &T::condition, "in condition_unit"),
      field(
          "at", [](const T& t) { return t.of.at; }, quantity_value, "the worst place"),
      field(
          "bias", [](const T& t) { return t.of.bias; }, difference, ""),
      field(
          "expanded", [](const T& t) { return t.of.expanded; }, difference, ""),
      field(
          "margin", [](const T& t) { return t.of.margin; }, difference,
          "what the target leaves; 0 without one"));
};

/// One condition, with the unit of the channel.
struct ConditionRows {
  const OverCondition* over;
  quantity::Unit unit;
};
template <>
struct Fields<ConditionRows> {
  using T = ConditionRows;
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static std::vector<ConditionPoint> points(const T& t) {
    std::vector<ConditionPoint> result;
    for (const auto& of : t.over->points) {
      result.push_back({of, quantity::in_unit(of.condition, t.over->condition_unit)});
    }
    return result;
  }
  static constexpr auto list = std::make_tuple(
      field(
          "condition", [](const T& t) { return t.over->condition; }, "temperature or age"),
      field(
          "condition_unit", [](const T& t) { return t.over->condition_unit; }, ""),
      field(
          "points", [](const T& t) { return points(t); }, ""));
};

template <>
struct Fields<ChannelBudget> {
  using T = ChannelBudget;
  static Units units(const T& t) { return {.quantity = t.budget.unit}; }
  static std::vector<BudgetPoint> points(const T& t) {
    std::vector<BudgetPoint> result;
    for (const auto& point : t.budget.points) result.push_back({&t.budget, &point});
    return result;
  }
  static std::vector<ConditionRows> over(const T& t) {
    std::vector<ConditionRows> result;
    for (const auto& of : t.over) result.push_back({&of, t.budget.unit});
    return result;
  }
  static std::string verdict(const budget::Budget& of) {
    if (!of.points.front().limit) return "no target";
    return of.target_met() ? "met" : "missed";
  }
  static constexpr auto list = std::make_tuple(
      field(
          "channel", [](const T& t) { return t.budget.channel; }, ""),
      field(
          "unit", [](const T& t) { return t.budget.unit; }, "of the quantity"),
      field("changed", &T::changed, "of the board that --what-if or --set made"),
      field(
          "of_ideal_parts", [](const T& t) { return t.budget.of_ideal_parts; },
          "no part of the channel has a limit"),
      field(
          "adjusted_with", [](const T& t) { return t.budget.adjusted_with; },
          "meter of an adjustment; empty: an ideal one"),
      field(
          "verdict", [](const T& t) { return verdict(t.budget); }, "met, missed or no target"),
      field(
          "points", [](const T& t) { return points(t); }, "that were asked for"),
      field(
          "worst_place",
          [](const T& t) {
            return BudgetPoint{&t.budget, &t.budget.worst_place};
          },
          "of the whole span"),
      field(
          "over", [](const T& t) { return over(t); }, "a condition"),
      field("advice", &T::advice, "what to change first"));
};

template <>
struct Fields<Budgets> {
  static constexpr auto list = std::make_tuple(field("channels", &Budgets::channels, ""));
};

}  // namespace tamlo::result
