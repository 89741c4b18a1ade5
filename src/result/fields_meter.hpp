// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of compare.
namespace tamlo::result {

template <>
struct Fields<meter::Row> : FieldsOf<meter::Row> {
  static constexpr Field list[] = {
      field("meter", TAMLO_GET(t.meter), quantity_value, "the quantity, as the meter says"),
      field("reading", TAMLO_GET(t.reading), quantity_value, "of the channel"),
      field("difference", TAMLO_GET(t.difference), difference, "reading less meter"),
      field("expected", TAMLO_GET(t.expected), difference, "known bias of the channel"),
      field("expanded_channel", TAMLO_GET(t.expanded_channel), difference, "of the budget"),
      field("expanded_meter", TAMLO_GET(t.expanded_meter), difference, ""),
      field("normalised_error", TAMLO_GET(t.normalised_error), "E_n"),
      field("limit", TAMLO_GET(t.limit), difference,
            "of the target; the budget itself without one"),
      field("guard_band", TAMLO_GET(t.guard_band), difference,
            "expanded uncertainty of the difference"),
      field("verdict", TAMLO_GET(t.verdict), ""),
      field("accuracy_ratio", TAMLO_GET(t.accuracy_ratio), unbounded,
            "limit over that of the meter"),
      field("channel_part", TAMLO_GET(t.channel_part), "of an unexpected difference"),
      field("repeats", TAMLO_GET(t.repeats), ""),
      field("irreducible", TAMLO_GET(t.irreducible), difference,
            "part of the guard band, by any repeats"),
      field("repeats_needed", TAMLO_GET(t.repeats_needed), "to decide an undecided row")};
};

/// A figure, of the quantity or, a gain, of none.
template <Scale scale>
struct Statement : meter::Figure {};
template <Scale scale>
struct Fields<Statement<scale>> {
  using T = Statement<scale>;
  static constexpr Measure measure{scale};
  static constexpr Field list[] = {
      field("value", TAMLO_GET(t.value), measure, ""),
      field("standard_uncertainty", TAMLO_GET(t.standard_uncertainty), measure,
            "meter and readings"),
      field("budgeted", TAMLO_GET(t.budgeted), measure, "standard uncertainty of the budget"),
      field("expected", TAMLO_GET(t.expected), measure, "from the known bias"),
      field("deviation", TAMLO_GET(t.deviation()),
            "from what was expected, in standard deviations")};
};
using Of = Statement<Scale::difference>;
using Gain = Statement<Scale::plain>;
template <class T>
std::optional<T> statement(const std::optional<meter::Figure>& of) {
  return of ? std::optional(T{*of}) : std::nullopt;
}

template <>
struct Fields<meter::Agreement> : FieldsOf<meter::Agreement> {
  static constexpr Field list[] = {
      field("chi_squared", TAMLO_GET(t.chi_squared), ""),
      field("dof", TAMLO_GET(t.dof), "degrees of freedom"),
      field("probability", TAMLO_GET(t.probability), "of a larger chi-squared in a sound channel"),
      field("agrees", TAMLO_GET(t.agrees), "")};
};

template <>
struct Fields<meter::Shape> : FieldsOf<meter::Shape> {
  static constexpr Field list[] = {
      field("end_point", TAMLO_GET(t.end_point), difference,
            "from the line through the outermost rows"),
      field("end_point_at", TAMLO_GET(t.end_point_at), quantity_value, ""),
      field("best_fit", TAMLO_GET(t.best_fit), difference, "from the line of least squares"),
      field("best_fit_at", TAMLO_GET(t.best_fit_at), quantity_value, ""),
      field("standard_uncertainty", TAMLO_GET(t.standard_uncertainty), difference,
            "of the latter")};
};

template <>
struct Fields<meter::Noise> : FieldsOf<meter::Noise> {
  static constexpr Field list[] = {
      field("observed", TAMLO_GET(t.observed), difference, "standard deviation"),
      field("predicted", TAMLO_GET(t.predicted), difference, "by the budget"),
      field("dof", TAMLO_GET(t.dof), ""),
      field("low", TAMLO_GET(t.low), difference, "of the confidence interval of what was observed"),
      field("high", TAMLO_GET(t.high), difference, "of the same"),
      field("differs", TAMLO_GET(t.differs), "1: more than predicted, -1: less, 0: as predicted")};
};

template <>
struct Fields<meter::Summary> : FieldsOf<meter::Summary> {
  static constexpr Field list[] = {
      field("verdict", TAMLO_GET(t.verdict), ""),
      field("passed", TAMLO_GET(t.passed), "rows"),
      field("failed", TAMLO_GET(t.failed), "rows"),
      field("undecided", TAMLO_GET(t.undecided), "rows"),
      field("offset", TAMLO_GET(Of{t.offset}),
            "of the differences at zero, or their mean without a gain"),
      field("gain", TAMLO_GET(statement<Gain>(t.gain)),
            "change of the difference with the quantity"),
      field("hysteresis", TAMLO_GET(statement<Of>(t.hysteresis)), "rising less falling"),
      field("drift", TAMLO_GET(statement<Of>(t.drift)), "a second"),
      field("shape", TAMLO_GET(t.shape), "from a straight line"),
      field("noise", TAMLO_GET(t.noise), "of repeats"),
      field("accuracy_ratio", TAMLO_GET(t.accuracy_ratio), unbounded, "the smallest of the rows"),
      field("side", TAMLO_GET(t.side), "to blame"),
      field("agreement", TAMLO_GET(t.agreement), "of all rows")};
};

template <>
struct Fields<meter::Suspect::Source> : FieldsOf<meter::Suspect::Source> {
  static constexpr Field list[] = {
      field("source", TAMLO_GET(t.name), ""),
      field("moved", TAMLO_GET(t.moved), "from its nominal, in standard uncertainties"),
      field("limits", TAMLO_GET(t.limits), "the same in its limits"),
      field("before_pin", TAMLO_GET(t.before_pin), "no meter at the pin sees it move"),
      field("of_meter", TAMLO_GET(t.of_meter), "a limit of the meter")};
};

template <>
struct Fields<meter::Suspect> : FieldsOf<meter::Suspect> {
  static constexpr Field list[] = {
      field("chi_squared_reduction", TAMLO_GET(t.chi_squared_reduction), "by the best of them"),
      field("probability", TAMLO_GET(t.probability), "that a sound channel shows as much"),
      field("sources", TAMLO_GET(t.sources), "that these readings cannot tell apart")};
};

template <>
struct Fields<meter::Signature> : FieldsOf<meter::Signature> {
  static constexpr Field list[] = {
      field("fault", TAMLO_GET(t.fault), "in a few words"),
      field("evidence", TAMLO_GET(t.evidence), "what in the readings says so"),
      field("chi_squared", TAMLO_GET(t.chi_squared), unbounded, "with the fault in the chain"),
      field("probability", TAMLO_GET(t.probability), "of a larger one")};
};

template <>
struct Fields<meter::CausesTogether> : FieldsOf<meter::CausesTogether> {
  static constexpr Field list[] = {
      field("chi_squared_left", TAMLO_GET(t.chi_squared_left), "by the best single cause"),
      field("probability", TAMLO_GET(t.probability), "of a larger one"),
      field("pair", TAMLO_GET(t.pair), "the best two causes, where one leaves too much"),
      field("pair_chi_squared_left", TAMLO_GET(t.pair_chi_squared_left), "by both")};
};

template <>
struct Fields<meter::Diagnosis> : FieldsOf<meter::Diagnosis> {
  static constexpr Field list[] = {
      field("fault", TAMLO_GET(t.fault), "the readings do not agree with the budget"),
      field("agreement", TAMLO_GET(t.agreement), ""),
      field("suspects", TAMLO_GET(t.suspects), "likeliest first"),
      field("together", TAMLO_GET(t.together), "what one cause leaves, and two"),
      field("signatures", TAMLO_GET(t.signatures),
            "known faults that explain the readings, best first")};
};

template <>
struct Fields<meter::Change> : FieldsOf<meter::Change> {
  static constexpr Field list[] = {
      field("at", TAMLO_GET(t.at), quantity_value, ""),
      field("earlier", TAMLO_GET(t.earlier), difference, "from the meter"),
      field("later", TAMLO_GET(t.later), difference, "from the meter"),
      field("change", TAMLO_GET(t.change), difference, ""),
      field("expanded", TAMLO_GET(t.expanded), difference, "uncertainty of the change"),
      field("ageing", TAMLO_GET(t.ageing), difference, "expanded, that the budget allows"),
      field("limit", TAMLO_GET(t.limit), difference, "of the target")};
};

template <>
struct Fields<meter::Drift> : FieldsOf<meter::Drift> {
  static constexpr Field list[] = {
      field("elapsed", TAMLO_GET(t.elapsed), in("s"), ""),
      field("significant", TAMLO_GET(t.significant), "some change is larger than its uncertainty"),
      field("within_ageing", TAMLO_GET(t.within_ageing), "ageing explains every change"),
      field("until_missed", TAMLO_GET(t.until_missed), in("s"), "from the later date"),
      field("missed_at", TAMLO_GET(t.until_missed ? std::optional(t.missed_at) : std::nullopt),
            quantity_value, "place of the first miss"),
      field("places", TAMLO_GET(t.places), "ends of the span, its zero and its middle")};
};

template <>
struct Fields<ChannelComparison> : FieldsOf<ChannelComparison> {
  static Units units(const T& t) { return {.quantity = t.comparison.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.comparison.channel), ""),
      field("board_unit", TAMLO_GET(t.board_unit),
            "that the readings are of; empty where none is said"),
      field("unit", TAMLO_GET(t.comparison.unit), "of the quantity"),
      field("meter", TAMLO_GET(t.comparison.meter), ""),
      field("coverage", TAMLO_GET(t.comparison.coverage), ""),
      field("summary", TAMLO_GET(t.comparison.summary), ""),
      field("rows", TAMLO_GET(t.comparison.rows), ""),
      field("diagnosis", TAMLO_GET(t.diagnosis), ""),
      field("since", TAMLO_GET(t.drift), "the readings of an earlier file")};
};

template <Scale scale>
struct SpreadOf : meter::Spread {};
template <Scale scale>
struct Fields<SpreadOf<scale>> {
  using T = SpreadOf<scale>;
  static constexpr Measure measure{scale};
  static constexpr Field list[] = {
      field("mean", TAMLO_GET(t.mean), measure, ""),
      field("deviation", TAMLO_GET(t.deviation), measure, "standard deviation of the units"),
      field("low", TAMLO_GET(t.low), measure, "of the confidence interval of it"),
      field("high", TAMLO_GET(t.high), measure, "of the same"),
      field("predicted", TAMLO_GET(t.predicted), measure, "by the budget and the rows' noise"),
      field("tolerance_low", TAMLO_GET(t.tolerance_low), measure, "of all units"),
      field("tolerance_high", TAMLO_GET(t.tolerance_high), measure, "of all units"),
      field("differs", TAMLO_GET(t.differs), "1: more than predicted, -1: less, 0: as predicted")};
};

template <>
struct Fields<meter::Share> : FieldsOf<meter::Share> {
  static constexpr Field list[] = {
      field("expected", TAMLO_GET(t.expected), "part that meets the target"),
      field("met", TAMLO_GET(t.met), "units at hand that do")};
};

template <>
struct Fields<meter::UnitResult> : FieldsOf<meter::UnitResult> {
  static constexpr Field list[] = {field("board_unit", TAMLO_GET(t.unit), ""),
                                   field("offset", TAMLO_GET(t.offset), difference, ""),
                                   field("gain", TAMLO_GET(t.gain), "")};
};

template <>
struct Fields<ChannelUnits> : FieldsOf<ChannelUnits> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static std::optional<meter::Share> share(const T& t, const meter::Share& of) {
    return t.units.has_target ? std::optional(of) : std::nullopt;
  }
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.channel), ""),
      field("unit", TAMLO_GET(t.unit), "of the quantity"),
      field("coverage", TAMLO_GET(t.units.coverage), ""),
      field("offset", TAMLO_GET(SpreadOf<Scale::difference>{t.units.offset}), ""),
      field("gain", TAMLO_GET(SpreadOf<Scale::plain>{t.units.gain}), ""),
      field("as_built", TAMLO_GET(share(t, t.units.as_built)), ""),
      field("after_zero", TAMLO_GET(share(t, t.units.after_zero)), "after a zero adjustment"),
      field("after_two_point", TAMLO_GET(share(t, t.units.after_two_point)),
            "after a two-point adjustment"),
      field("units", TAMLO_GET(t.units.units), "")};
};

template <>
struct Fields<Comparisons> : FieldsOf<Comparisons> {
  static constexpr Field list[] = {
      field("channels", TAMLO_GET(t.channels), ""),
      field("units", TAMLO_GET(t.units), "of channels with three units or more")};
};

}  // namespace tamlo::result
