// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of watch.
namespace tamlo::result {

template <>
struct Fields<meter::Settled> : FieldsOf<meter::Settled> {
  static constexpr Field list[] = {
      field("value", TAMLO_AT(value), quantity_value, "mean of the last window"),
      field("standard_deviation", TAMLO_AT(standard_deviation), difference, "of its readings"),
      field("rest", TAMLO_AT(rest), difference, "that is expected to be left of an exponential"),
      field("readings", TAMLO_AT(readings), "of the window")};
};

template <>
struct Fields<meter::LiveView> : FieldsOf<meter::LiveView> {
  static Units units(const T& t) { return {.quantity = t.state.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(state.channel), ""),
      field("unit", TAMLO_AT(state.unit), "of the quantity"),
      field("readings", TAMLO_AT(state.readings), "that came"),
      field("elapsed", TAMLO_AT(state.elapsed), in("s"), "from the first reading to the last"),
      field("rate", TAMLO_GET(t.state.rate()), in("1/s"), "of the readings"),
      field("last", TAMLO_AT(state.last), quantity_value, "reading"),
      field("code", TAMLO_AT(state.code), "the last register value; none where readings come"),
      field("min", TAMLO_AT(state.min), quantity_value, "since the start"),
      field("max", TAMLO_AT(state.max), quantity_value, "since the start"),
      field("noise", TAMLO_AT(state.noise), difference, "standard deviation of the last window"),
      field("predicted_noise", TAMLO_AT(state.predicted_noise), difference,
            "of a reading, by the budget"),
      field("at_end", TAMLO_AT(state.at_end),
            "the last register value is the first or the last there is: it may lie beyond"),
      field("settled", TAMLO_AT(state.settled), "none: it moves, or it is too early to tell"),
      field("old", TAMLO_AT(old), "more should have come since: it is not what is there now"),
      field("zone", TAMLO_AT(zone), "that the last reading lies in"),
      field("shown", TAMLO_AT(shown), quantity_value, "by a meter beside it"),
      field("row", TAMLO_AT(row), "of both sides, once they are at rest")};
};

template <>
struct Fields<WatchedLink> : FieldsOf<WatchedLink> {
  static constexpr Field list[] = {
      field("name", TAMLO_AT(name), "of the link"), field("lines", TAMLO_AT(lines), "that came"),
      field("malformed", TAMLO_AT(malformed), "lines that did not fit"),
      field("lost", TAMLO_AT(lost), "times that the link was lost"),
      field("problem", TAMLO_AT(problem), "of the last of them")};
};

template <>
struct Fields<Watched> : FieldsOf<Watched> {
  static constexpr Field list[] = {field("links", TAMLO_AT(links), ""),
                                   field("channels", TAMLO_AT(channels), "")};
};

}  // namespace tamlo::result
