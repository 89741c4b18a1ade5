// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of compare.
namespace tamlo::result {

template <>
struct Fields<meter::Row> : FieldsOf<meter::Row> {
  static constexpr Field list[] = {
      field("meter", TAMLO_AT(meter), quantity_value, "the quantity, as the meter says"),
      field("reading", TAMLO_AT(reading), quantity_value, "of the channel"),
      field("difference", TAMLO_AT(difference), difference, "reading less meter"),
      field("expected", TAMLO_AT(expected), difference, "known bias of the channel"),
      field("expanded_channel", TAMLO_AT(expanded_channel), difference, "of the budget"),
      field("expanded_meter", TAMLO_AT(expanded_meter), difference, ""),
      field("normalised_error", TAMLO_AT(normalised_error), "E_n"),
      field("limit", TAMLO_AT(limit), difference, "of the target; the budget itself without one"),
      field("guard_band", TAMLO_AT(guard_band), difference,
            "expanded uncertainty of the difference"),
      field("verdict", TAMLO_AT(verdict), ""),
      field("accuracy_ratio", TAMLO_AT(accuracy_ratio), unbounded, "limit over that of the meter"),
      field("channel_part", TAMLO_AT(channel_part), "of an unexpected difference"),
      field("repeats", TAMLO_AT(repeats), ""),
      field("irreducible", TAMLO_AT(irreducible), difference,
            "part of the guard band, by any repeats"),
      field("repeats_needed", TAMLO_AT(repeats_needed), "to decide an undecided row")};
};

/// A figure, of the quantity or, a gain, of none.
template <Scale scale>
struct Statement : meter::Figure {};
template <Scale scale>
struct Fields<Statement<scale>> {
  using T = Statement<scale>;
  static constexpr Measure measure{scale};
  static constexpr Field list[] = {
      field("value", TAMLO_AT(value), measure, ""),
      field("standard_uncertainty", TAMLO_AT(standard_uncertainty), measure, "meter and readings"),
      field("budgeted", TAMLO_AT(budgeted), measure, "standard uncertainty of the budget"),
      field("expected", TAMLO_AT(expected), measure, "from the known bias"),
      field("deviation", TAMLO_GET(t.deviation()),
            "from what was expected, in standard deviations")};
};
using Of = Statement<Scale::difference>;
using Gain = Statement<Scale::plain>;
template <class T>
std::optional<T> statement(const std::optional<meter::Figure>& figure) {
  return figure ? std::optional(T{*figure}) : std::nullopt;
}

template <>
struct Fields<meter::Agreement> : FieldsOf<meter::Agreement> {
  static constexpr Field list[] = {
      field("chi_squared", TAMLO_AT(chi_squared), ""),
      field("dof", TAMLO_AT(dof), "degrees of freedom"),
      field("probability", TAMLO_AT(probability), "of a larger chi-squared in a sound channel"),
      field("agrees", TAMLO_AT(agrees), "")};
};

template <>
struct Fields<meter::LinearityDeviation> : FieldsOf<meter::LinearityDeviation> {
  static constexpr Field list[] = {
      field("end_point", TAMLO_AT(end_point), difference,
            "from the line through the outermost rows"),
      field("end_point_at", TAMLO_AT(end_point_at), quantity_value, ""),
      field("best_fit", TAMLO_AT(best_fit), difference, "from the line of least squares"),
      field("best_fit_at", TAMLO_AT(best_fit_at), quantity_value, ""),
      field("standard_uncertainty", TAMLO_AT(standard_uncertainty), difference, "of the latter")};
};

template <>
struct Fields<meter::ObservedNoise> : FieldsOf<meter::ObservedNoise> {
  static constexpr Field list[] = {
      field("observed", TAMLO_AT(observed), difference, "standard deviation"),
      field("predicted", TAMLO_AT(predicted), difference, "by the budget"),
      field("dof", TAMLO_AT(dof), ""),
      field("low", TAMLO_AT(low), difference, "of the confidence interval of what was observed"),
      field("high", TAMLO_AT(high), difference, "of the same"),
      field("differs", TAMLO_AT(differs), "1: more than predicted, -1: less, 0: as predicted")};
};

template <>
struct Fields<meter::Summary> : FieldsOf<meter::Summary> {
  static constexpr Field list[] = {
      field("verdict", TAMLO_AT(verdict), ""),
      field("passed", TAMLO_AT(passed), "rows"),
      field("failed", TAMLO_AT(failed), "rows"),
      field("undecided", TAMLO_AT(undecided), "rows"),
      field("offset", TAMLO_GET(Of{t.offset}),
            "of the differences at zero, or their mean without a gain"),
      field("gain", TAMLO_GET(statement<Gain>(t.gain)),
            "change of the difference with the quantity"),
      field("hysteresis", TAMLO_GET(statement<Of>(t.hysteresis)), "rising less falling"),
      field("drift", TAMLO_GET(statement<Of>(t.drift)), "a second"),
      field("shape", TAMLO_AT(shape), "from a straight line"),
      field("noise", TAMLO_AT(noise), "of repeats"),
      field("accuracy_ratio", TAMLO_AT(accuracy_ratio), unbounded, "the smallest of the rows"),
      field("side", TAMLO_AT(side), "to blame"),
      field("agreement", TAMLO_AT(agreement), "of all rows")};
};

template <>
struct Fields<meter::Suspect::Source> : FieldsOf<meter::Suspect::Source> {
  static constexpr Field list[] = {
      field("source", TAMLO_AT(name), ""),
      field("moved", TAMLO_AT(moved), "from its nominal, in standard uncertainties"),
      field("limits", TAMLO_AT(limits), "the same in its limits"),
      field("before_pin", TAMLO_AT(before_pin), "no meter at the pin sees it move"),
      field("of_meter", TAMLO_AT(of_meter), "a limit of the meter")};
};

template <>
struct Fields<meter::Suspect> : FieldsOf<meter::Suspect> {
  static constexpr Field list[] = {
      field("chi_squared_reduction", TAMLO_AT(chi_squared_reduction), "by the best of them"),
      field("probability", TAMLO_AT(probability), "that a sound channel shows as much"),
      field("sources", TAMLO_AT(sources), "that these readings cannot tell apart")};
};

template <>
struct Fields<meter::Signature> : FieldsOf<meter::Signature> {
  static constexpr Field list[] = {
      field("fault", TAMLO_AT(fault), "in a few words"),
      field("evidence", TAMLO_AT(evidence), "what in the readings says so"),
      field("chi_squared", TAMLO_AT(chi_squared), unbounded, "with the fault in the chain"),
      field("probability", TAMLO_AT(probability), "of a larger one")};
};

template <>
struct Fields<meter::CausesTogether> : FieldsOf<meter::CausesTogether> {
  static constexpr Field list[] = {
      field("chi_squared_left", TAMLO_AT(chi_squared_left), "by the best single cause"),
      field("probability", TAMLO_AT(probability), "of a larger one"),
      field("pair", TAMLO_AT(pair), "the best two causes, where one leaves too much"),
      field("pair_chi_squared_left", TAMLO_AT(pair_chi_squared_left), "by both")};
};

template <>
struct Fields<meter::Diagnosis> : FieldsOf<meter::Diagnosis> {
  static constexpr Field list[] = {
      field("fault", TAMLO_AT(fault), "the readings do not agree with the budget"),
      field("agreement", TAMLO_AT(agreement), ""),
      field("suspects", TAMLO_AT(suspects), "likeliest first"),
      field("together", TAMLO_AT(together), "what one cause leaves, and two"),
      field("signatures", TAMLO_AT(signatures),
            "known faults that explain the readings, best first")};
};

template <>
struct Fields<meter::Change> : FieldsOf<meter::Change> {
  static constexpr Field list[] = {
      field("at", TAMLO_AT(at), quantity_value, ""),
      field("earlier", TAMLO_AT(earlier), difference, "from the meter"),
      field("later", TAMLO_AT(later), difference, "from the meter"),
      field("change", TAMLO_AT(change), difference, ""),
      field("expanded", TAMLO_AT(expanded), difference, "uncertainty of the change"),
      field("ageing", TAMLO_AT(ageing), difference, "expanded, that the budget allows"),
      field("limit", TAMLO_AT(limit), difference, "of the target")};
};

template <>
struct Fields<meter::Drift> : FieldsOf<meter::Drift> {
  static constexpr Field list[] = {
      field("elapsed", TAMLO_AT(elapsed), in("s"), ""),
      field("significant", TAMLO_AT(significant), "some change is larger than its uncertainty"),
      field("within_ageing", TAMLO_AT(within_ageing), "ageing explains every change"),
      field("until_missed", TAMLO_AT(until_missed), in("s"), "from the later date"),
      field("missed_at", TAMLO_GET(t.until_missed ? std::optional(t.missed_at) : std::nullopt),
            quantity_value, "place of the first miss"),
      field("places", TAMLO_AT(places), "ends of the span, its zero and its middle")};
};

template <>
struct Fields<ChannelComparison> : FieldsOf<ChannelComparison> {
  static Units units(const T& t) { return {.quantity = t.comparison.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(comparison.channel), ""),
      field("board_unit", TAMLO_AT(board_unit),
            "that the readings are of; empty where none is said"),
      field("unit", TAMLO_AT(comparison.unit), "of the quantity"),
      field("meter", TAMLO_AT(comparison.meter), ""),
      field("coverage", TAMLO_AT(comparison.coverage), ""),
      field("summary", TAMLO_AT(comparison.summary), ""),
      field("rows", TAMLO_AT(comparison.rows), ""),
      field("diagnosis", TAMLO_AT(diagnosis), ""),
      field("since", TAMLO_AT(drift), "the readings of an earlier file")};
};

template <Scale scale>
struct SpreadOf : meter::Spread {};
template <Scale scale>
struct Fields<SpreadOf<scale>> {
  using T = SpreadOf<scale>;
  static constexpr Measure measure{scale};
  static constexpr Field list[] = {
      field("mean", TAMLO_AT(mean), measure, ""),
      field("deviation", TAMLO_AT(deviation), measure, "standard deviation of the units"),
      field("low", TAMLO_AT(low), measure, "of the confidence interval of it"),
      field("high", TAMLO_AT(high), measure, "of the same"),
      field("predicted", TAMLO_AT(predicted), measure, "by the budget and the rows' noise"),
      field("tolerance_low", TAMLO_AT(tolerance_low), measure, "of all units"),
      field("tolerance_high", TAMLO_AT(tolerance_high), measure, "of all units"),
      field("differs", TAMLO_AT(differs), "1: more than predicted, -1: less, 0: as predicted")};
};

template <>
struct Fields<meter::Share> : FieldsOf<meter::Share> {
  static constexpr Field list[] = {
      field("expected", TAMLO_AT(expected), "part that meets the target"),
      field("met", TAMLO_AT(met), "units at hand that do")};
};

template <>
struct Fields<meter::UnitResult> : FieldsOf<meter::UnitResult> {
  static constexpr Field list[] = {field("board_unit", TAMLO_AT(unit), ""),
                                   field("offset", TAMLO_AT(offset), difference, ""),
                                   field("gain", TAMLO_AT(gain), "")};
};

template <>
struct Fields<meter::ChannelUnits> : FieldsOf<meter::ChannelUnits> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static std::optional<meter::Share> share(const T& t, const meter::Share& known) {
    return t.units.has_target ? std::optional(known) : std::nullopt;
  }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(channel), ""),
      field("unit", TAMLO_AT(unit), "of the quantity"),
      field("coverage", TAMLO_AT(units.coverage), ""),
      field("offset", TAMLO_GET(SpreadOf<Scale::difference>{t.units.offset}), ""),
      field("gain", TAMLO_GET(SpreadOf<Scale::plain>{t.units.gain}), ""),
      field("as_built", TAMLO_GET(share(t, t.units.as_built)), ""),
      field("after_zero", TAMLO_GET(share(t, t.units.after_zero)), "after a zero adjustment"),
      field("after_two_point", TAMLO_GET(share(t, t.units.after_two_point)),
            "after a two-point adjustment"),
      field("units", TAMLO_AT(units.units), "")};
};

template <>
struct Fields<Comparisons> : FieldsOf<Comparisons> {
  static constexpr const char* command = "compare";
  static constexpr Field list[] = {
      field("channels", TAMLO_AT(channels), ""),
      field("units", TAMLO_AT(units), "of channels with three units or more")};
};

}  // namespace tamlo::result
