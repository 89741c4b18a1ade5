// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of what a firmware compares: a threshold, zones.
namespace tamlo::result {

template <>
struct Fields<Threshold> {
  using T = Threshold;
  static constexpr auto list = std::make_tuple(
      field("expanded", &T::expanded, difference, "expanded uncertainty of a reading there"),
      field("coverage", &T::coverage, "of it"), field("on_asked", &T::on_asked, quantity_value, ""),
      field("off_asked", &T::off_asked, quantity_value, ""),
      field(
          "on_code", [](const T& t) { return t.figures.on_code; }, "register value, switching on"),
      field(
          "off_code", [](const T& t) { return t.figures.off_code; },
          "register value, switching off"),
      field(
          "on", [](const T& t) { return t.figures.on; }, quantity_value,
          "where one reading in two passes it"),
      field(
          "off", [](const T& t) { return t.figures.off; }, quantity_value,
          "where one reading in two passes it"),
      field(
          "noise", [](const T& t) { return t.figures.noise; }, difference,
          "standard deviation of a reading there"),
      field(
          "reading_rate", [](const T& t) { return t.figures.reading_rate; }, in("1/s"),
          "0: not known"),
      field(
          "false_trips", [](const T& t) { return t.figures.false_trips; }, in("1/s"), "at worst"),
      field(
          "time_between_false_trips",
          [](const T& t) {
            const auto& trips = t.figures.false_trips;
            return trips && *trips > 0.0 ? std::optional(1.0 / *trips) : std::nullopt;
          },
          in("s"), "at worst"),
      field(
          "needed", [](const T& t) { return t.figures.needed; }, difference,
          "hysteresis for the trips that are allowed"));
};

template <>
struct Fields<chain::LoopLevel> {
  using T = chain::LoopLevel;
  static constexpr auto list = std::make_tuple(
      field("meaning", &T::meaning, ""), field("current", &T::current, in("A"), ""),
      field("reported", &T::reported, "register value"), field("clipped", &T::clipped, ""),
      field("reading", &T::reading, quantity_value, ""));
};

template <>
struct Fields<chain::BiasResistor> {
  using T = chain::BiasResistor;
  static constexpr auto list =
      std::make_tuple(field("resistance", &T::resistance, in("ohm"), "as the board has it"),
                      field("best", &T::best, in("ohm"), "that moves the pin most"),
                      field("output_span", &T::output_span, in("V"), "as the board has it"),
                      field("best_output_span", &T::best_output_span, in("V"), "with the best"));
};

template <>
struct Fields<chain::SampledSine> {
  using T = chain::SampledSine;
  static constexpr auto list = std::make_tuple(
      field("frequency", &T::frequency, in("Hz"), "of a sine over nine tenths of the span"),
      field("conversions_per_period", &T::conversions_per_period, "below 2 it folds"),
      field("readings_per_period", &T::readings_per_period, ""),
      field("shown", &T::shown, "part of its amplitude in the readings"),
      field("alias", &T::alias, in("Hz"), "where the readings show it instead"));
};

template <>
struct Fields<Ramp> {
  using T = Ramp;
  static constexpr auto list =
      std::make_tuple(field("slope", &T::slope, difference, "a second"),
                      field("step", &T::step, difference, "of the reading"),
                      field("time_between_steps", &T::time_between_steps, in("s"), ""));
};

template <>
struct Fields<ZoneEdge> {
  using T = ZoneEdge;
  static constexpr auto list = std::make_tuple(
      field("below", &T::below, "the zone under it"), field("above", &T::above, "the zone over it"),
      field("at", &T::at, quantity_value, "as asked"),
      field(
          "on_code", [](const T& t) { return t.figures.on_code; }, unbounded,
          "first register value of the zone above; none: none reaches it"),
      field(
          "off_code", [](const T& t) { return t.figures.off_code; }, unbounded,
          "register value at which it is left again; none: never"),
      field(
          "on", [](const T& t) { return t.figures.on; }, unbounded_quantity,
          "where one reading in two has reached it"),
      field(
          "off", [](const T& t) { return t.figures.off; }, unbounded_quantity,
          "where one reading in two has left it"),
      field("standard_uncertainty", &T::standard_uncertainty, difference, "of a reading there"),
      field("expanded", &T::expanded, difference, "uncertainty of a reading there"),
      field("coverage", &T::coverage, "of it"),
      field(
          "noise", [](const T& t) { return t.figures.noise; }, difference,
          "standard deviation of a reading there"),
      field(
          "false_changes", [](const T& t) { return t.figures.false_trips; }, in("1/s"),
          "of the zone, at worst, while the quantity stands still; none: no rate is known"));
};

template <>
struct Fields<Zone> {
  using T = Zone;
  static constexpr auto list =
      std::make_tuple(field("name", &T::name, ""), field("from", &T::from, quantity_value, ""),
                      field("to", &T::to, quantity_value, ""),
                      field("codes", &T::codes, "register values that it is wide"),
                      field("narrow", &T::narrow, "under four of them, or under the noise"));
};

}  // namespace tamlo::result
