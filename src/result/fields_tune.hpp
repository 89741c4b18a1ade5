// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "fields_budget.hpp"
#include "fields_channel.hpp"
#include "fields_meter.hpp"

// The fields of an evaluation of tune.
namespace tamlo::result {

template <>
struct Fields<budget::SpanPoint> : FieldsOf<budget::SpanPoint> {
  static constexpr Field list[] = {
      field("at", TAMLO_AT(at), quantity_value, "place of the quantity"),
      field("error", TAMLO_AT(error), difference, "|bias| + U, or what the target is held against"),
      field("worst_case", TAMLO_AT(worst_case), difference, "all limits at their ends"),
      field("zeroed", TAMLO_AT(zeroed), difference, "after an ideal zero adjustment"),
      field("two_point", TAMLO_AT(two_point), difference, "after an ideal two-point adjustment"),
      field("limit", TAMLO_AT(limit), difference, "what the target allows")};
};

template <>
struct Fields<chain::Passed> : FieldsOf<chain::Passed> {
  static constexpr Field list[] = {
      field("frequency", TAMLO_AT(frequency), in("Hz"), "or parts of the rate"),
      field("digital", TAMLO_AT(digital), "part that average and filter let through"),
      field("whole", TAMLO_AT(whole), "with what is before them")};
};

template <>
struct Fields<chain::Response> : FieldsOf<chain::Response> {
  static constexpr Field list[] = {
      field("rate_known", TAMLO_AT(rate_known), "else frequencies are parts of it"),
      field("passed", TAMLO_AT(passed), "from 0 to half the rate"),
      field("period", TAMLO_AT(period), in("s"), "between readings; or conversions"),
      field("answers", TAMLO_AT(answers), "of each reading after a step, in parts of it")};
};

template <>
struct Fields<Tuned> : FieldsOf<Tuned> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("check", TAMLO_AT(check), "as of check"),
      field("budget", TAMLO_AT(budget), "as of budget, of all channels"),
      field("channel", TAMLO_AT(channel), "that is in view, in what follows"),
      field("unit", TAMLO_AT(unit), "of the channel"),
      field("settings", TAMLO_AT(settings), "as of channel"),
      field("span", TAMLO_AT(span), "its error over the span"),
      field("response", TAMLO_AT(response), "of average and filter"),
      field("comparisons", TAMLO_AT(comparisons), "as of compare, of all channels with readings")};
};

}  // namespace tamlo::result
