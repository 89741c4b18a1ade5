// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of measure --plan; what measure itself ends with is compare's.
namespace tamlo::result {

template <>
struct Fields<meter::PlannedPosition> : FieldsOf<meter::PlannedPosition> {
  static constexpr Field list[] = {
      field("at", TAMLO_AT(at), quantity_value, "of the knob"),
      field("limit", TAMLO_AT(limit), difference,
            "that the target allows, or the budget without one"),
      field("guard_band", TAMLO_AT(guard_band), difference,
            "expanded uncertainty of the difference"),
      field("decided", TAMLO_AT(decided),
            "probability that the row passes or fails, of a unit drawn"),
      field("decided_at_limit", TAMLO_AT(decided_at_limit),
            "of a unit that is off by the whole of its budget")};
};

template <>
struct Fields<meter::FaultSeen> : FieldsOf<meter::FaultSeen> {
  static constexpr Field list[] = {
      field("fault", TAMLO_AT(fault), "a source, a limit of the meter, or a known fault"),
      field("limits", TAMLO_AT(limits),
            "that a source must be off to be seen at 95 %, in its own limits"),
      field("probability", TAMLO_AT(probability), "that a known fault is seen"),
      field("like", TAMLO_AT(like), "those that it could be taken for")};
};

template <>
struct Fields<meter::BenchPlan> : FieldsOf<meter::BenchPlan> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(channel), ""),
      field("meter", TAMLO_AT(meter), "of the board"),
      field("unit", TAMLO_AT(unit), "of the quantity"),
      field("has_target", TAMLO_AT(has_target), "else the budget stands in for it"),
      field("coverage", TAMLO_AT(coverage), "probability"),
      field("repeats", TAMLO_AT(repeats), "readings at each position"),
      field("decided", TAMLO_AT(decided), "probability that the least decided row passes or fails"),
      field("least_decided_at", TAMLO_AT(least_decided_at), quantity_value, "that row"),
      field("span_decided", TAMLO_AT(span_decided),
            "the same of the least decided place of the span, from budget and rows together"),
      field("least_decided_of_span", TAMLO_AT(least_decided_of_span), quantity_value, "that place"),
      field("decided_by_better_meter", TAMLO_AT(decided_by_better_meter),
            "of the least decided row, beside a meter of a quarter of the uncertainty"),
      field("positions", TAMLO_AT(positions), "rising"),
      field("faults", TAMLO_AT(faults), "what these rows show")};
};

}  // namespace tamlo::result
