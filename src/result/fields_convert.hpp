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
      field("stage", TAMLO_GET(t.stage), ""),
      field("value", TAMLO_GET(t.value), quantity_value, "in the unit beside it"),
      field("unit", TAMLO_GET(t.unit), "")};
};

template <>
struct Fields<chain::Trace> : FieldsOf<chain::Trace> {
  static constexpr Field list[] = {
      field("at", TAMLO_GET(t.at), quantity_value, "the quantity"),
      field("code", TAMLO_GET(t.code), ""),
      field("clipped", TAMLO_GET(t.clipped), "beyond the codes"),
      field("reading", TAMLO_GET(t.reading), quantity_value, ""),
      field("error", TAMLO_GET(t.error), difference, "reading less quantity"),
      field("steps", TAMLO_GET(t.steps), "the value at every step of the chain")};
};

template <>
struct Fields<chain::InverseTrace> : FieldsOf<chain::InverseTrace> {
  static constexpr Field list[] = {
      field("reported", TAMLO_GET(t.reported), "the register value"),
      field("reading", TAMLO_GET(t.reading), quantity_value, ""),
      field("from", TAMLO_GET(t.open_below ? std::nullopt : std::optional(t.from)), quantity_value,
            "the lowest quantity that reads so; none: anything below"),
      field("to", TAMLO_GET(t.open_above ? std::nullopt : std::optional(t.to)), quantity_value,
            "the highest; none: anything above"),
      field("steps", TAMLO_GET(t.steps), "the value at every step of the firmware")};
};

template <>
struct Fields<ChannelTraces> : FieldsOf<ChannelTraces> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.channel), ""),
      field("unit", TAMLO_GET(t.unit), "of the quantity"),
      field("forward", TAMLO_GET(t.forward), "from the quantity to the reading"),
      field("back", TAMLO_GET(t.back), "from a register value to the quantity")};
};

template <>
struct Fields<Traces> : FieldsOf<Traces> {
  static constexpr Field list[] = {field("channels", TAMLO_GET(t.channels), "")};
};

}  // namespace tamlo::result
