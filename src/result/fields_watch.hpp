// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of watch.
namespace tamlo::result {

template <>
struct Fields<meter::Settled> : FieldsOf<meter::Settled> {
  static constexpr Field list[] = {
      field("value", TAMLO_GET(t.value), quantity_value, "mean of the last window"),
      field("standard_deviation", TAMLO_GET(t.standard_deviation), difference, "of its readings"),
      field("rest", TAMLO_GET(t.rest), difference, "that is expected to be left of an exponential"),
      field("readings", TAMLO_GET(t.readings), "of the window")};
};

template <>
struct Fields<meter::LiveView> : FieldsOf<meter::LiveView> {
  static Units units(const T& t) { return {.quantity = t.state.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.state.channel), ""),
      field("unit", TAMLO_GET(t.state.unit), "of the quantity"),
      field("readings", TAMLO_GET(t.state.readings), "that came"),
      field("elapsed", TAMLO_GET(t.state.elapsed), in("s"), "from the first reading to the last"),
      field("rate", TAMLO_GET(t.state.rate()), in("1/s"), "of the readings"),
      field("last", TAMLO_GET(t.state.last), quantity_value, "reading"),
      field("code", TAMLO_GET(t.state.code), "the last register value; none where readings come"),
      field("min", TAMLO_GET(t.state.min), quantity_value, "since the start"),
      field("max", TAMLO_GET(t.state.max), quantity_value, "since the start"),
      field("noise", TAMLO_GET(t.state.noise), difference, "standard deviation of the last window"),
      field("predicted_noise", TAMLO_GET(t.state.predicted_noise), difference,
            "of a reading, by the budget"),
      field("at_end", TAMLO_GET(t.state.at_end),
            "the last register value is the first or the last there is: it may lie beyond"),
      field("settled", TAMLO_GET(t.state.settled), "none: it moves, or it is too early to tell"),
      field("zone", TAMLO_GET(t.zone), "that the last reading lies in"),
      field("shown", TAMLO_GET(t.shown), quantity_value, "by a meter beside it"),
      field("row", TAMLO_GET(t.row), "of both sides, once they are at rest")};
};

template <>
struct Fields<WatchedLink> : FieldsOf<WatchedLink> {
  static constexpr Field list[] = {
      field("name", TAMLO_GET(t.name), "of the link"),
      field("lines", TAMLO_GET(t.lines), "that came"),
      field("malformed", TAMLO_GET(t.malformed), "lines that did not fit"),
      field("lost", TAMLO_GET(t.lost), "times that the link was lost"),
      field("problem", TAMLO_GET(t.problem), "of the last of them")};
};

template <>
struct Fields<Watched> : FieldsOf<Watched> {
  static constexpr Field list[] = {field("links", TAMLO_GET(t.links), ""),
                                   field("channels", TAMLO_GET(t.channels), "")};
};

}  // namespace tamlo::result
