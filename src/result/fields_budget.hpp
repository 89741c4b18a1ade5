// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of budget.
namespace tamlo::result {

template <>
struct Fields<math::Interval> : FieldsOf<math::Interval> {
  static constexpr Field list[] = {field("low", TAMLO_AT(low), difference, ""),
                                   field("high", TAMLO_AT(high), difference, "")};
};

template <>
struct Fields<budget::Adjusted> : FieldsOf<budget::Adjusted> {
  static constexpr Field list[] = {
      field("none", TAMLO_AT(none), difference, "as built"),
      field("zero", TAMLO_AT(zero), difference, "after a zero adjustment"),
      field("two_point", TAMLO_AT(two_point), difference, "after a two-point adjustment")};
};

template <>
struct Fields<budget::Resolution> : FieldsOf<budget::Resolution> {
  static constexpr Field list[] = {
      field("effective", TAMLO_AT(effective), unbounded_in("bit"), ""),
      field("noise_free", TAMLO_AT(noise_free), unbounded_in("bit"), "6.6 standard deviations"),
      field("accuracy", TAMLO_AT(accuracy), unbounded_in("bit"), ""),
      field("enob", TAMLO_AT(enob), unbounded_in("bit"), "of single conversions")};
};

/// Trials of a point, and how much wider the closed form is.
struct TrialsOf : budget::PointTrials {
  double wider = 0.0;
};
template <>
struct Fields<TrialsOf> : FieldsOf<TrialsOf> {
  static constexpr Field list[] = {
      field("count", TAMLO_AT(of.count), ""),
      field("mean", TAMLO_AT(of.mean), difference, "of the errors"),
      field("combined", TAMLO_AT(of.combined), difference, "standard uncertainty"),
      field("symmetric", TAMLO_AT(of.symmetric), "probabilistically symmetric interval"),
      field("shortest", TAMLO_AT(of.shortest), "shortest interval"),
      field("settled", TAMLO_AT(of.settled), "no more trials were needed"),
      field("wider", TAMLO_AT(wider), unbounded,
            "closed form's interval than the symmetric one, as a part"),
      field("closed_form_valid", TAMLO_AT(closed_form_valid), "JCGM 101, clause 8")};
};

/// A source and what it does at a place.
struct Share {
  const chain::Source* source;
  const budget::Contribution* of;
};
template <>
struct Fields<Share> : FieldsOf<Share> {
  static constexpr Field list[] = {
      field("source", TAMLO_GET(t.source->name), ""),
      field("stage", TAMLO_GET(t.source->stage), "where in the chain it acts"),
      field("distribution", TAMLO_GET(t.source->distribution), ""),
      field("specification", TAMLO_GET(t.source->specification), "as the board has it"),
      field("limit", TAMLO_GET(t.of->limit), "half-width, in the unit of its parameter"),
      field("standard_uncertainty", TAMLO_GET(t.of->standard_uncertainty),
            "in a reading, in the unit of its parameter"),
      field("sensitivity", TAMLO_GET(t.of->sensitivity), difference,
            "contribution over standard uncertainty"),
      field("contribution", TAMLO_GET(t.of->contribution), difference, "with its sign"),
      field("worst", TAMLO_GET(t.of->worst), difference, "what its whole limit does"),
      field("share", TAMLO_GET(t.of->share), "part of the variance"),
      field("kind", TAMLO_GET(t.source->kind()), "")};
};

template <>
struct Fields<budget::MinorSources> : FieldsOf<budget::MinorSources> {
  static constexpr Field list[] = {
      field("count", TAMLO_AT(count), ""),
      field("contribution", TAMLO_AT(contribution), difference, "of all"),
      field("share", TAMLO_AT(share), "part of the variance")};
};

template <>
struct Fields<chain::BiasPart> : FieldsOf<chain::BiasPart> {
  static constexpr Field list[] = {
      field("name", TAMLO_AT(name), ""),
      field("size", TAMLO_AT(size), difference, "of the bias, with its sign"),
      field("remedy", TAMLO_AT(remedy), "what takes it away")};
};

/// A point of a budget, with the budget that it is of.
struct BudgetPoint {
  const budget::Budget* budget;
  const budget::Point* point;
};
template <>
struct Fields<BudgetPoint> : FieldsOf<BudgetPoint> {
  static std::vector<Share> shares(const T& t) {
    std::vector<Share> result;
    for (const auto i : by_share(*t.point)) {
      result.push_back({&t.budget->sources[i], &t.point->contributions[i]});
    }
    return result;
  }
  static std::optional<TrialsOf> trials(const budget::Point& point) {
    if (!point.trials) return {};
    return TrialsOf{*point.trials, point.trials->wider(point.expanded)};
  }
  static std::optional<double> ratio(double value, double to) {
    return to > 0.0 ? std::optional(value / to) : std::nullopt;
  }
  static constexpr Field list[] = {
      field("at", TAMLO_GET(t.point->at), quantity_value, "place of the quantity"),
      field("reading", TAMLO_GET(t.point->reading), quantity_value, "in the mean"),
      field("bias", TAMLO_GET(t.point->bias), difference, "what it is always off"),
      field("bias_parts", TAMLO_GET(t.point->bias_parts), "what has a name of it: self-heating, leads, wires, a load, integers"),
      field("combined", TAMLO_GET(t.point->combined), difference, "combined standard uncertainty"),
      field("dof", TAMLO_GET(t.point->dof), unbounded, "effective degrees of freedom; none: infinite"),
      field("coverage", TAMLO_GET(t.point->coverage), "probability"),
      field("coverage_factor", TAMLO_GET(t.point->coverage_factor), ""),
      field("expanded", TAMLO_GET(t.point->expanded), difference, "expanded uncertainty"),
      field("worst_case", TAMLO_GET(t.point->worst_case), "at the corners of all limits"),
      field("code_width", TAMLO_GET(t.point->code_width), difference, ""),
      field("expanded_of_span", TAMLO_GET(ratio(t.point->expanded, t.budget->span.width())), "expanded uncertainty over the span"),
      field("expanded_of_reading", [](const T& t) {
            const auto& unit = t.budget->span.unit;
            return unit.offset == 0.0 ? ratio(t.point->expanded, std::abs(t.point->at))
                                      : std::nullopt;
          }, "expanded uncertainty over the quantity"),
      field("expanded_in_codes", TAMLO_GET(ratio(t.point->expanded, t.point->code_width)), in("LSB"), ""),
      field("clipped", TAMLO_GET(t.point->clipped), "an end of an amplifier or of the codes, or a clamp, holds the reading"),
      field("overflows", TAMLO_GET(t.point->overflows()), "the firmware's integers overflow within reach"),
      field("method", TAMLO_GET(t.point->method), ""),
      field("roughness", TAMLO_GET(t.point->roughness), "why trials and not the closed form"),
      field("units", TAMLO_GET(t.point->units > 0 ? std::optional(t.point->units) : std::nullopt), "that were tried, by trials"),
      field("adjusted", TAMLO_GET(t.point->adjusted), "expanded uncertainty after an adjustment"),
      field("adjusted_bias", TAMLO_GET(t.point->adjusted_bias), "bias after an adjustment"),
      field("resolution", TAMLO_GET(t.point->resolution), ""),
      field("trials", TAMLO_GET(trials(*t.point)), "that were asked for"),
      field("limit", TAMLO_GET(t.point->limit), difference, "what the target allows"),
      field("error", TAMLO_GET(t.point->error()), difference, "|bias| and expanded uncertainty, or the worst case"),
      field("judged_by", TAMLO_GET(t.point->by), "what `error` is"),
      field("margin_ratio", [](const T& t) {
            const auto margin = t.point->margin();
            return margin ? ratio(*margin, *t.point->limit) : std::nullopt;
          }, "margin over limit"),
      field("margin", TAMLO_GET(t.point->margin()), difference, "what the target leaves"),
      field("minor_sources", TAMLO_GET(minor_sources(*t.point)), "those under 0.05 % of the variance each"),
      field("contributions", TAMLO_GET(shares(t)), "the largest first")};
};

template <>
struct Fields<budget::Shrink> : FieldsOf<budget::Shrink> {
  static constexpr Field list[] = {
      field("source", TAMLO_AT(source), ""),
      field("share", TAMLO_AT(share), "part of the variance"),
      field("part", TAMLO_AT(part),
            "of its limit at which the target is just met; none: not even 0")};
};

template <>
struct Fields<budget::Lever> : FieldsOf<budget::Lever> {
  static constexpr Field list[] = {
      field("change", TAMLO_AT(change), "as one would write it"),
      field("at", TAMLO_AT(at), quantity_value, "worst place of the changed channel"),
      field("error", TAMLO_AT(error), difference, "|bias| and expanded uncertainty there"),
      field("limit", TAMLO_AT(limit), difference, "of the target"),
      field("left", TAMLO_GET(t.limit ? std::optional(*t.limit - t.error) : std::nullopt),
            difference, "of the target"),
      field("suffices", TAMLO_AT(suffices), "the target is met over the whole span"),
      field("latency", TAMLO_AT(latency), in("s"), "of the changed channel; 0: not known"),
      field("latency_before", TAMLO_AT(latency_before), in("s"), "0: not known")};
};

template <>
struct Fields<budget::Advice> : FieldsOf<budget::Advice> {
  static constexpr Field list[] = {
      field("shrinks", TAMLO_AT(shrinks), "how small leading sources would have to be"),
      field("levers", TAMLO_AT(levers), "settings that help, the best first")};
};

/// A budget under one condition, which has a unit of its own.
struct ConditionPoint {
  budget::UnderCondition of;
  double condition;
};
template <>
struct Fields<ConditionPoint> : FieldsOf<ConditionPoint> {
  static constexpr Field list[] = {
      field("condition", TAMLO_AT(condition), "in condition_unit"),
      field("at", TAMLO_AT(of.at), quantity_value, "the worst place"),
      field("bias", TAMLO_AT(of.bias), difference, ""),
      field("expanded", TAMLO_AT(of.expanded), difference, ""),
      field("margin", TAMLO_AT(of.margin), difference, "what the target leaves; 0 without one")};
};

/// One condition, with the unit of the channel.
struct ConditionRows {
  const OverCondition* over;
  quantity::Unit unit;
};
template <>
struct Fields<ConditionRows> : FieldsOf<ConditionRows> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static std::vector<ConditionPoint> points(const T& t) {
    std::vector<ConditionPoint> result;
    for (const auto& point : t.over->points) {
      result.push_back({point, quantity::in_unit(point.condition, t.over->condition_unit)});
    }
    return result;
  }
  static constexpr Field list[] = {
      field("condition", TAMLO_GET(t.over->condition), "temperature or age"),
      field("condition_unit", TAMLO_GET(t.over->condition_unit), ""),
      field("points", TAMLO_GET(points(t)), "")};
};

template <>
struct Fields<ChannelBudget> : FieldsOf<ChannelBudget> {
  static Units units(const T& t) { return {.quantity = t.budget.unit}; }
  static std::vector<BudgetPoint> points(const T& t) {
    std::vector<BudgetPoint> result;
    for (const auto& point : t.budget.points) result.push_back({&t.budget, &point});
    return result;
  }
  static std::vector<ConditionRows> over(const T& t) {
    std::vector<ConditionRows> result;
    for (const auto& each : t.over) result.push_back({&each, t.budget.unit});
    return result;
  }
  static std::vector<double> places(const budget::Budget& budget_of_channel) {
    std::vector<double> result;
    for (const double x : budget_of_channel.adjusted_at)
      result.push_back(quantity::in_unit(x, budget_of_channel.unit));
    return result;
  }
  static std::string verdict(const budget::Budget& budget_of_channel) {
    if (!budget_of_channel.points.front().limit) return "no target";
    return budget_of_channel.target_met() ? "met" : "missed";
  }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(budget.channel), ""),
      field("unit", TAMLO_AT(budget.unit), "of the quantity"),
      field("changed", TAMLO_AT(changed), "of the board that --what-if or --set made"),
      field("of_ideal_parts", TAMLO_AT(budget.of_ideal_parts),
            "no part of the channel has a limit"),
      field("adjusted_with", TAMLO_AT(budget.adjusted_with),
            "meter of an adjustment; empty: an ideal one"),
      field("adjusted_at", TAMLO_GET(places(t.budget)),
            "places, in unit, of an adjustment that each unit gets"),
      field("verdict", TAMLO_GET(verdict(t.budget)), "met, missed or no target"),
      field("points", TAMLO_GET(points(t)), "that were asked for"),
      field("worst_place", TAMLO_GET(BudgetPoint{&t.budget, &t.budget.worst_place}),
            "of the whole span"),
      field("over", TAMLO_GET(over(t)), "a condition"),
      field("advice", TAMLO_AT(advice), "what to change first")};
};

template <>
struct Fields<budget::QuantityPlace> : FieldsOf<budget::QuantityPlace> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {field("channel", TAMLO_AT(channel), ""),
                                   field("at", TAMLO_AT(at), quantity_value, "in its own unit"),
                                   field("unit", TAMLO_AT(unit), "of the channel")};
};

template <>
struct Fields<budget::QuantitySource> : FieldsOf<budget::QuantitySource> {
  static constexpr Field list[] = {
      field("name", TAMLO_AT(name), "with its channel, where it is not shared"),
      field("contribution", TAMLO_AT(contribution), difference,
            "through all channels, with its sign"),
      field("share", TAMLO_AT(share), "part of the variance")};
};

template <>
struct Fields<budget::QuantityPoint> : FieldsOf<budget::QuantityPoint> {
  static constexpr Field list[] = {
      field("at", TAMLO_AT(at), quantity_value, "value of the quantity"),
      field("places", TAMLO_AT(places), "of its channels, where this value is most uncertain"),
      field("bias", TAMLO_AT(bias), difference, "mean error of the units"),
      field("combined", TAMLO_AT(combined), difference, "combined standard uncertainty"),
      field("expanded", TAMLO_AT(expanded), difference, "expanded uncertainty"),
      field("unrelated", TAMLO_AT(unrelated), difference,
            "expanded uncertainty if the channels had nothing in common"),
      field("worst_case", TAMLO_AT(worst_case), "at the corners of all limits"),
      field("limit", TAMLO_AT(limit), difference, "what the target allows"),
      field("error", TAMLO_GET(t.error()), difference, "|bias| and expanded uncertainty"),
      field("margin_ratio",
            TAMLO_GET(t.limit&&* t.limit > 0.0 ? std::optional(1.0 - t.error() / *t.limit)
                                               : std::nullopt),
            "margin over limit"),
      field("minor_sources", TAMLO_GET(minor_sources(t)),
            "those under 0.05 % of the variance each"),
      field("sources", TAMLO_AT(sources), "the largest first")};
};

template <>
struct Fields<budget::QuantityBudget> : FieldsOf<budget::QuantityBudget> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static std::string verdict(const T& t) {
    if (!t.points.front().limit) return "no target";
    return t.target_met() ? "met" : "missed";
  }
  static constexpr Field list[] = {
      field("quantity", TAMLO_AT(quantity), ""),
      field("is", TAMLO_AT(expression), "formula of channels"),
      field("unit", TAMLO_AT(unit), "of the quantity"),
      field("coverage", TAMLO_AT(coverage), "probability"),
      field("units", TAMLO_AT(units), "that were drawn at each point"),
      field("verdict", TAMLO_GET(verdict(t)), "met, missed or no target"),
      field("points", TAMLO_AT(points), "ends and middle of its span")};
};

template <>
struct Fields<Budgets> : FieldsOf<Budgets> {
  static constexpr const char* command = "budget";
  static constexpr Field list[] = {
      field("channels", TAMLO_AT(channels), ""),
      field("quantities", TAMLO_AT(quantities), "computed from several channels"),
      field("changed_quantities", TAMLO_AT(changed_quantities),
            "the same after --what-if or --set")};
};

}  // namespace tamlo::result
