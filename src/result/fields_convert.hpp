// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of convert.
namespace tamlo::result {

template <>
struct Fields<chain::Step> : FieldsOf<chain::Step> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("stage", TAMLO_AT(stage), ""),
      field("value", TAMLO_AT(value), quantity_value, "in the unit beside it"),
      field("unit", TAMLO_AT(unit), "")};
};

template <>
struct Fields<chain::Trace> : FieldsOf<chain::Trace> {
  static constexpr Field list[] = {
      field("at", TAMLO_AT(at), quantity_value, "the quantity"),
      field("code", TAMLO_AT(code), ""),
      field("clipped", TAMLO_AT(clipped), "beyond the codes"),
      field("reading", TAMLO_AT(reading), quantity_value, ""),
      field("error", TAMLO_AT(error), difference, "reading less quantity"),
      field("steps", TAMLO_AT(steps), "the value at every step of the chain")};
};

template <>
struct Fields<chain::InverseTrace> : FieldsOf<chain::InverseTrace> {
  static constexpr Field list[] = {
      field("reported", TAMLO_AT(reported), "the register value"),
      field("reading", TAMLO_AT(reading), quantity_value, ""),
      field("from", TAMLO_GET(t.open_below ? std::nullopt : std::optional(t.from)), quantity_value,
            "the lowest quantity that reads so; none: anything below"),
      field("to", TAMLO_GET(t.open_above ? std::nullopt : std::optional(t.to)), quantity_value,
            "the highest; none: anything above"),
      field("steps", TAMLO_AT(steps), "the value at every step of the firmware")};
};

template <>
struct Fields<ChannelTraces> : FieldsOf<ChannelTraces> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(channel), ""), field("unit", TAMLO_AT(unit), "of the quantity"),
      field("forward", TAMLO_AT(forward), "from the quantity to the reading"),
      field("back", TAMLO_AT(back), "from a register value to the quantity")};
};

template <>
struct Fields<Traces> : FieldsOf<Traces> {
  static constexpr Field list[] = {field("channels", TAMLO_AT(channels), "")};
};

}  // namespace tamlo::result
