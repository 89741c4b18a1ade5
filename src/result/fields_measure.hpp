// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of measure --plan; what measure itself ends with is compare's.
namespace tamlo::result {

template <>
struct Fields<meter::PlannedPosition> : FieldsOf<meter::PlannedPosition> {
  static constexpr Field list[] = {
      field("at", TAMLO_GET(t.at), quantity_value, "of the knob"),
      field("limit", TAMLO_GET(t.limit), difference,
            "that the target allows, or the budget without one"),
      field("guard_band", TAMLO_GET(t.guard_band), difference,
            "expanded uncertainty of the difference"),
      field("decided", TAMLO_GET(t.decided),
            "probability that the row passes or fails, of a unit drawn"),
      field("decided_at_limit", TAMLO_GET(t.decided_at_limit),
            "of a unit that is off by the whole of its budget")};
};

template <>
struct Fields<meter::FaultSeen> : FieldsOf<meter::FaultSeen> {
  static constexpr Field list[] = {
      field("fault", TAMLO_GET(t.fault), "a source, a limit of the meter, or a known fault"),
      field("limits", TAMLO_GET(t.limits),
            "that a source must be off to be seen at 95 %, in its own limits"),
      field("probability", TAMLO_GET(t.probability), "that a known fault is seen"),
      field("like", TAMLO_GET(t.like), "those that it could be taken for")};
};

template <>
struct Fields<meter::BenchPlan> : FieldsOf<meter::BenchPlan> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.channel), ""),
      field("meter", TAMLO_GET(t.meter), "of the board"),
      field("unit", TAMLO_GET(t.unit), "of the quantity"),
      field("has_target", TAMLO_GET(t.has_target), "else the budget stands in for it"),
      field("coverage", TAMLO_GET(t.coverage), "probability"),
      field("repeats", TAMLO_GET(t.repeats), "readings at each position"),
      field("decided", TAMLO_GET(t.decided),
            "probability that the least decided row passes or fails"),
      field("least_decided_at", TAMLO_GET(t.least_decided_at), quantity_value, "that row"),
      field("span_decided", TAMLO_GET(t.span_decided),
            "the same of the least decided place of the span, from budget and rows together"),
      field("least_decided_of_span", TAMLO_GET(t.least_decided_of_span), quantity_value,
            "that place"),
      field("decided_by_better_meter", TAMLO_GET(t.decided_by_better_meter),
            "of the least decided row, beside a meter of a quarter of the uncertainty"),
      field("positions", TAMLO_GET(t.positions), "rising"),
      field("faults", TAMLO_GET(t.faults), "what these rows show")};
};

}  // namespace tamlo::result
