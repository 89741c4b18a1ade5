// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of compare.
namespace tamlo::result {

template <>
struct Fields<meter::Row> {
  using T = meter::Row;
  static constexpr auto list = std::make_tuple(
      field("meter", &T::meter, quantity_value, "the quantity, as the meter says"),
      field("reading", &T::reading, quantity_value, "of the channel"),
      field("difference", &T::difference, difference, "reading less meter"),
      field("expected", &T::expected, difference, "known bias of the channel"),
      field("expanded_channel", &T::expanded_channel, difference, "of the budget"),
      field("expanded_meter", &T::expanded_meter, difference, ""),
      field("normalised_error", &T::normalised_error, "E_n"),
      field("limit", &T::limit, difference, "of the target; the budget itself without one"),
      field("guard_band", &T::guard_band, difference, "expanded uncertainty of the difference"),
      field("verdict", &T::verdict, ""),
      field("accuracy_ratio", &T::accuracy_ratio, unbounded, "limit over that of the meter"),
      field("channel_part", &T::channel_part, "of an unexpected difference"),
      field("repeats", &T::repeats, ""),
      field("irreducible", &T::irreducible, difference, "part of the guard band, by any repeats"),
      field("repeats_needed", &T::repeats_needed, "to decide an undecided row"));
};

/// A figure, of the quantity or, a gain, of none.
template <Scale scale>
struct Statement : meter::Figure {};
template <Scale scale>
struct Fields<Statement<scale>> {
  using T = Statement<scale>;
  static constexpr Measure measure{scale};
  static constexpr auto list = std::make_tuple(
      field("value", &T::value, measure, ""),
      field("standard_uncertainty", &T::standard_uncertainty, measure, "meter and readings"),
      field("budgeted", &T::budgeted, measure, "standard uncertainty of the budget"),
      field("expected", &T::expected, measure, "from the known bias"),
      field("deviation", &T::deviation, "from what was expected, in standard deviations"));
};
using Of = Statement<Scale::difference>;
using Gain = Statement<Scale::plain>;
template <class T>
std::optional<T> statement(const std::optional<meter::Figure>& of) {
  return of ? std::optional(T{*of}) : std::nullopt;
}

template <>
struct Fields<meter::Agreement> {
  using T = meter::Agreement;
  static constexpr auto list = std::make_tuple(
      field("chi_squared", &T::chi_squared, ""), field("dof", &T::dof, "degrees of freedom"),
      field("probability", &T::probability, "of a larger chi-squared in a sound channel"),
      field("agrees", &T::agrees, ""));
};

template <>
struct Fields<meter::Shape> {
  using T = meter::Shape;
  static constexpr auto list = std::make_tuple(
      field("end_point", &T::end_point, difference, "from the line through the outermost rows"),
      field("end_point_at", &T::end_point_at, quantity_value, ""),
      field("best_fit", &T::best_fit, difference, "from the line of least squares"),
      field("best_fit_at", &T::best_fit_at, quantity_value, ""),
      field("standard_uncertainty", &T::standard_uncertainty, difference, "of the latter"));
};

template <>
struct Fields<meter::Noise> {
  using T = meter::Noise;
  static constexpr auto list = std::make_tuple(
      field("observed", &T::observed, difference, "standard deviation"),
      field("predicted", &T::predicted, difference, "by the budget"), field("dof", &T::dof, ""),
      field("low", &T::low, difference, "of the confidence interval of what was observed"),
      field("high", &T::high, difference, "of the same"),
      field("differs", &T::differs, "1: more than predicted, -1: less, 0: as predicted"));
};

template <>
struct Fields<meter::Summary> {
  using T = meter::Summary;
  static constexpr auto list = std::make_tuple(
      field("verdict", &T::verdict, ""), field("passed", &T::passed, "rows"),
      field("failed", &T::failed, "rows"), field("undecided", &T::undecided, "rows"),
      field(
          "offset", [](const T& t) { return Of{t.offset}; },
          "of the differences at zero, or their mean without a gain"),
      field(
          "gain", [](const T& t) { return statement<Gain>(t.gain); },
          "change of the difference with the quantity"),
      field(
          "hysteresis", [](const T& t) { return statement<Of>(t.hysteresis); },
          "rising less falling"),
      field(
          "drift", [](const T& t) { return statement<Of>(t.drift); }, "a second"),
      field("shape", &T::shape, "from a straight line"), field("noise", &T::noise, "of repeats"),
      field("accuracy_ratio", &T::accuracy_ratio, unbounded, "the smallest of the rows"),
      field("side", &T::side, "to blame"), field("agreement", &T::agreement, "of all rows"));
};

template <>
struct Fields<meter::Suspect::Source> {
  using T = meter::Suspect::Source;
  static constexpr auto list =
      std::make_tuple(field("source", &T::name, ""),
                      field("moved", &T::moved, "from its nominal, in standard uncertainties"),
                      field("limits", &T::limits, "the same in its limits"),
                      field("before_pin", &T::before_pin, "no meter at the pin sees it move"),
                      field("of_meter", &T::of_meter, "a limit of the meter"));
};

template <>
struct Fields<meter::Suspect> {
  using T = meter::Suspect;
  static constexpr auto list = std::make_tuple(
      field("chi_squared_reduction", &T::chi_squared_reduction, "by the best of them"),
      field("probability", &T::probability, "that a sound channel shows as much"),
      field("sources", &T::sources, "that these readings cannot tell apart"));
};

template <>
struct Fields<meter::Signature> {
  using T = meter::Signature;
  static constexpr auto list = std::make_tuple(
      field("fault", &T::fault, "in a few words"),
      field("evidence", &T::evidence, "what in the readings says so"),
      field("chi_squared", &T::chi_squared, unbounded, "with the fault in the chain"),
      field("probability", &T::probability, "of a larger one"));
};

template <>
struct Fields<meter::CausesTogether> {
  using T = meter::CausesTogether;
  static constexpr auto list =
      std::make_tuple(field("chi_squared_left", &T::chi_squared_left, "by the best single cause"),
                      field("probability", &T::probability, "of a larger one"),
                      field("pair", &T::pair, "the best two causes, where one leaves too much"),
                      field("pair_chi_squared_left", &T::pair_chi_squared_left, "by both"));
};

template <>
struct Fields<meter::Diagnosis> {
  using T = meter::Diagnosis;
  static constexpr auto list = std::make_tuple(
      field("fault", &T::fault, "the readings do not agree with the budget"),
      field("agreement", &T::agreement, ""), field("suspects", &T::suspects, "likeliest first"),
      field("together", &T::together, "what one cause leaves, and two"),
      field("signatures", &T::signatures, "known faults that explain the readings, best first"));
};

template <>
struct Fields<meter::Change> {
  using T = meter::Change;
  static constexpr auto list =
      std::make_tuple(field("at", &T::at, quantity_value, ""),
                      field("earlier", &T::earlier, difference, "from the meter"),
                      field("later", &T::later, difference, "from the meter"),
                      field("change", &T::change, difference, ""),
                      field("expanded", &T::expanded, difference, "uncertainty of the change"),
                      field("ageing", &T::ageing, difference, "expanded, that the budget allows"),
                      field("limit", &T::limit, difference, "of the target"));
};

template <>
struct Fields<meter::Drift> {
  using T = meter::Drift;
  static constexpr auto list = std::make_tuple(
      field("elapsed", &T::elapsed, in("s"), ""),
      field("significant", &T::significant, "some change is larger than its uncertainty"),
      field("within_ageing", &T::within_ageing, "ageing explains every change"),
      field("until_missed", &T::until_missed, in("s"), "from the later date"),
      field(
          "missed_at",
          [](const T& t) { return t.until_missed ? std::optional(t.missed_at) : std::nullopt; },
          quantity_value, "place of the first miss"),
      field("places", &T::places, "ends of the span, its zero and its middle"));
};

template <>
struct Fields<ChannelComparison> {
  using T = ChannelComparison;
  static Units units(const T& t) { return {.quantity = t.comparison.unit}; }
  static constexpr auto list = std::make_tuple(
      field(
          "channel", [](const T& t) { return t.comparison.channel; }, ""),
      field("board_unit", &T::board_unit, "that the readings are of; empty where none is said"),
      field(
          "unit", [](const T& t) { return t.comparison.unit; }, "of the quantity"),
      field(
          "meter", [](const T& t) { return t.comparison.meter; }, ""),
      field(
          "coverage", [](const T& t) { return t.comparison.coverage; }, ""),
      field(
          "summary", [](const T& t) { return t.comparison.summary; }, ""),
      field(
          "rows", [](const T& t) { return t.comparison.rows; }, ""),
      field("diagnosis", &T::diagnosis, ""),
      field("since", &T::drift, "the readings of an earlier file"));
};

template <Scale scale>
struct SpreadOf : meter::Spread {};
template <Scale scale>
struct Fields<SpreadOf<scale>> {
  using T = SpreadOf<scale>;
  static constexpr Measure measure{scale};
  static constexpr auto list = std::make_tuple(
      field("mean", &T::mean, measure, ""),
      field("deviation", &T::deviation, measure, "standard deviation of the units"),
      field("low", &T::low, measure, "of the confidence interval of it"),
      field("high", &T::high, measure, "of the same"),
      field("predicted", &T::predicted, measure, "by the budget and the rows' noise"),
      field("tolerance_low", &T::tolerance_low, measure, "of all units"),
      field("tolerance_high", &T::tolerance_high, measure, "of all units"),
      field("differs", &T::differs, "1: more than predicted, -1: less, 0: as predicted"));
};

template <>
struct Fields<meter::Share> {
  using T = meter::Share;
  static constexpr auto list =
      std::make_tuple(field("expected", &T::expected, "part that meets the target"),
                      field("met", &T::met, "units at hand that do"));
};

template <>
struct Fields<meter::UnitResult> {
  using T = meter::UnitResult;
  static constexpr auto list =
      std::make_tuple(field("board_unit", &T::unit, ""),
                      field("offset", &T::offset, difference, ""), field("gain", &T::gain, ""));
};

template <>
struct Fields<ChannelUnits> {
  using T = ChannelUnits;
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static std::optional<meter::Share> share(const T& t, const meter::Share& of) {
    return t.units.has_target ? std::optional(of) : std::nullopt;
  }
  static constexpr auto list = std::make_tuple(
      field("channel", &T::channel, ""), field("unit", &T::unit, "of the quantity"),
      field(
          "coverage", [](const T& t) { return t.units.coverage; }, ""),
      field(
          "offset", [](const T& t) { return SpreadOf<Scale::difference>{t.units.offset}; }, ""),
      field(
          "gain", [](const T& t) { return SpreadOf<Scale::plain>{t.units.gain}; }, ""),
      field(
          "as_built", [](const T& t) { return share(t, t.units.as_built); }, ""),
      field(
          "after_zero", [](const T& t) { return share(t, t.units.after_zero); },
          "after a zero adjustment"),
      field(
          "after_two_point", [](const T& t) { return share(t, t.units.after_two_point); },
          "after a two-point adjustment"),
      field(
          "units", [](const T& t) { return t.units.units; }, ""));
};

template <>
struct Fields<Comparisons> {
  static constexpr auto list =
      std::make_tuple(field("channels", &Comparisons::channels, ""),
                      field("units", &Comparisons::units, "of channels with three units or more"));
};

}  // namespace tamlo::result
