// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of what a firmware compares: a threshold, zones.
namespace tamlo::result {

template <>
struct Fields<budget::SwitchingPoint> : FieldsOf<budget::SwitchingPoint> {
  static constexpr Field list[] = {
      field("expanded", TAMLO_AT(expanded), difference, "expanded uncertainty of a reading there"),
      field("coverage", TAMLO_AT(coverage), "of it"),
      field("on_asked", TAMLO_AT(on_asked), quantity_value, ""),
      field("off_asked", TAMLO_AT(off_asked), quantity_value, ""),
      field("on_code", TAMLO_AT(figures.on_code), "register value, switching on"),
      field("off_code", TAMLO_AT(figures.off_code), "register value, switching off"),
      field("on", TAMLO_AT(figures.on), quantity_value, "where one reading in two passes it"),
      field("off", TAMLO_AT(figures.off), quantity_value, "where one reading in two passes it"),
      field("noise", TAMLO_AT(figures.noise), difference, "standard deviation of a reading there"),
      field("reading_rate", TAMLO_AT(figures.reading_rate), in("1/s"), "0: not known"),
      field("debounce", TAMLO_AT(figures.debounce), "readings in a row that it takes"),
      field("debounce_delay", TAMLO_AT(figures.debounce_delay), in("s"), "from the first of them"),
      field("debounce_counted", TAMLO_AT(figures.debounce_counted),
            "in the false trips: no conversion is part of two readings"),
      field("false_trips", TAMLO_AT(figures.false_trips), in("1/s"), "at worst"),
      field(
          "time_between_false_trips",
          [](const T& t) {
            const auto& trips = t.figures.false_trips;
            return trips && *trips > 0.0 ? std::optional(1.0 / *trips) : std::nullopt;
          },
          in("s"), "at worst"),
      field("needed", TAMLO_AT(figures.needed), difference,
            "hysteresis for the trips that are allowed")};
};

template <>
struct Fields<chain::LoopLevel> : FieldsOf<chain::LoopLevel> {
  static constexpr Field list[] = {field("meaning", TAMLO_AT(meaning), ""),
                                   field("current", TAMLO_AT(current), in("A"), ""),
                                   field("reported", TAMLO_AT(reported), "register value"),
                                   field("clipped", TAMLO_AT(clipped), ""),
                                   field("reading", TAMLO_AT(reading), quantity_value, "")};
};

template <>
struct Fields<chain::BiasResistor> : FieldsOf<chain::BiasResistor> {
  static constexpr Field list[] = {
      field("resistance", TAMLO_AT(resistance), in("ohm"), "as the board has it"),
      field("best", TAMLO_AT(best), in("ohm"), "that moves the pin most"),
      field("output_span", TAMLO_AT(output_span), in("V"), "as the board has it"),
      field("best_output_span", TAMLO_AT(best_output_span), in("V"), "with the best")};
};

template <>
struct Fields<chain::SampledSine> : FieldsOf<chain::SampledSine> {
  static constexpr Field list[] = {
      field("frequency", TAMLO_AT(frequency), in("Hz"), "of a sine over nine tenths of the span"),
      field("conversions_per_period", TAMLO_AT(conversions_per_period), "below 2 it folds"),
      field("readings_per_period", TAMLO_AT(readings_per_period), ""),
      field("shown", TAMLO_AT(shown), "part of its amplitude in the readings"),
      field("alias", TAMLO_AT(alias), in("Hz"), "where the readings show it instead")};
};

template <>
struct Fields<budget::Ramp> : FieldsOf<budget::Ramp> {
  static constexpr Field list[] = {
      field("slope", TAMLO_AT(slope), difference, "a second"),
      field("step", TAMLO_AT(step), difference, "of the reading"),
      field("time_between_steps", TAMLO_AT(time_between_steps), in("s"), "")};
};

template <>
struct Fields<budget::ZoneEdge> : FieldsOf<budget::ZoneEdge> {
  static constexpr Field list[] = {
      field("below", TAMLO_AT(below), "the zone under it"),
      field("above", TAMLO_AT(above), "the zone over it"),
      field("at", TAMLO_AT(at), quantity_value, "as asked"),
      field("on_code", TAMLO_AT(figures.on_code), unbounded,
            "first register value of the zone above; none: none reaches it"),
      field("off_code", TAMLO_AT(figures.off_code), unbounded,
            "register value at which it is left again; none: never"),
      field("on", TAMLO_AT(figures.on), unbounded_quantity,
            "where one reading in two has reached it"),
      field("off", TAMLO_AT(figures.off), unbounded_quantity,
            "where one reading in two has left it"),
      field("standard_uncertainty", TAMLO_AT(standard_uncertainty), difference,
            "of a reading there"),
      field("expanded", TAMLO_AT(expanded), difference, "uncertainty of a reading there"),
      field("coverage", TAMLO_AT(coverage), "of it"),
      field("noise", TAMLO_AT(figures.noise), difference, "standard deviation of a reading there"),
      field("false_changes", TAMLO_AT(figures.false_trips), in("1/s"),
            "of the zone, at worst, while the quantity stands still; none: no rate is known"),
      field("debounce", TAMLO_AT(figures.debounce), "readings in a row that it takes"),
      field("debounce_delay", TAMLO_AT(figures.debounce_delay), in("s"), "from the first of them"),
      field("debounce_counted", TAMLO_AT(figures.debounce_counted),
            "in the false changes: no conversion is part of two readings")};
};

template <>
struct Fields<budget::Zone> : FieldsOf<budget::Zone> {
  static constexpr Field list[] = {
      field("name", TAMLO_AT(name), ""), field("from", TAMLO_AT(from), quantity_value, ""),
      field("to", TAMLO_AT(to), quantity_value, ""),
      field("codes", TAMLO_AT(codes), "register values that it is wide"),
      field("narrow", TAMLO_AT(narrow), "under four of them, or under the noise")};
};

}  // namespace tamlo::result
