// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of measure --plan; what measure itself ends with is compare's.
namespace tamlo::result {

template <>
struct Fields<meter::PlannedPosition> {
  using T = meter::PlannedPosition;
  static constexpr auto list = std::make_tuple(
      field("at", &T::at, quantity_value, "of the knob"),
      field("limit", &T::limit, difference, "that the target allows, or the budget without one"),
      field("guard_band", &T::guard_band, difference, "expanded uncertainty of the difference"),
      field("decided", &T::decided, "probability that the row passes or fails, of a unit drawn"),
      field("decided_at_limit", &T::decided_at_limit,
            "of a unit that is off by the whole of its budget"));
};

template <>
struct Fields<meter::FaultSeen> {
  using T = meter::FaultSeen;
  static constexpr auto list =
      std::make_tuple(field("fault", &T::fault, "a source, a limit of the meter, or a known fault"),
                      field("limits", &T::limits,
                            "that a source must be off to be seen at 95 %, in its own limits"),
                      field("probability", &T::probability, "that a known fault is seen"),
                      field("like", &T::like, "those that it could be taken for"));
};

template <>
struct Fields<meter::BenchPlan> {
  using T = meter::BenchPlan;
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr auto list = std::make_tuple(
      field("channel", &T::channel, ""), field("meter", &T::meter, "of the board"),
      field("unit", &T::unit, "of the quantity"),
      field("has_target", &T::has_target, "else the budget stands in for it"),
      field("coverage", &T::coverage, "probability"),
      field("repeats", &T::repeats, "readings at each position"),
      field("decided", &T::decided, "probability that the least decided row passes or fails"),
      field("least_decided_at", &T::least_decided_at, quantity_value, "that row"),
      field("span_decided", &T::span_decided,
            "the same of the least decided place of the span, from budget and rows together"),
      field("least_decided_of_span", &T::least_decided_of_span, quantity_value, "that place"),
      field("decided_by_better_meter", &T::decided_by_better_meter,
            "of the least decided row, beside a meter of a quarter of the uncertainty"),
      field("positions", &T::positions, "rising"),
      field("faults", &T::faults, "what these rows show"));
};

}  // namespace tamlo::result
