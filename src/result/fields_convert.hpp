// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of convert.
namespace tamlo::result {

template <>
struct Fields<chain::Step> {
  using T = chain::Step;
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr auto list =
      std::make_tuple(field("stage", &T::stage, ""),
                      field("value", &T::value, quantity_value, "in the unit beside it"),
                      field("unit", &T::unit, ""));
};

template <>
struct Fields<chain::Trace> {
  using T = chain::Trace;
  static constexpr auto list = std::make_tuple(
      field("at", &T::at, quantity_value, "the quantity"), field("code", &T::code, ""),
      field("clipped", &T::clipped, "beyond the codes"),
      field("reading", &T::reading, quantity_value, ""),
      field("error", &T::error, difference, "reading less quantity"),
      field("steps", &T::steps, "the value at every step of the chain"));
};

template <>
struct Fields<chain::InverseTrace> {
  using T = chain::InverseTrace;
  static constexpr auto list = std::make_tuple(
      field("reported", &T::reported, "the register value"),
      field("reading", &T::reading, quantity_value, ""),
      field(
          "from", [](const T& t) { return t.open_below ? std::nullopt : std::optional(t.from); },
          quantity_value, "the lowest quantity that reads so; none: anything below"),
      field(
          "to", [](const T& t) { return t.open_above ? std::nullopt : std::optional(t.to); },
          quantity_value, "the highest; none: anything above"),
      field("steps", &T::steps, "the value at every step of the firmware"));
};

template <>
struct Fields<ChannelTraces> {
  using T = ChannelTraces;
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr auto list =
      std::make_tuple(field("channel", &T::channel, ""), field("unit", &T::unit, "of the quantity"),
                      field("forward", &T::forward, "from the quantity to the reading"),
                      field("back", &T::back, "from a register value to the quantity"));
};

template <>
struct Fields<Traces> {
  static constexpr auto list = std::make_tuple(field("channels", &Traces::channels, ""));
};

}  // namespace tamlo::result
