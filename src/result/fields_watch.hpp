// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of watch.
namespace tamlo::result {

template <>
struct Fields<meter::Settled> {
  using T = meter::Settled;
  static constexpr auto list = std::make_tuple(
      field("value", &T::value, quantity_value, "mean of the last window"),
      field("standard_deviation", &T::standard_deviation, difference, "of its readings"),
      field("rest", &T::rest, difference, "that is expected to be left of an exponential"),
      field("readings", &T::readings, "of the window"));
};

template <>
struct Fields<meter::LiveState> {
  using T = meter::LiveState;
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr auto list = std::make_tuple(
      field("channel", &T::channel, ""), field("unit", &T::unit, "of the quantity"),
      field("readings", &T::readings, "that came"),
      field("elapsed", &T::elapsed, in("s"), "from the first reading to the last"),
      field(
          "rate", [](const T& t) { return t.rate(); }, in("1/s"), "of the readings"),
      field("last", &T::last, quantity_value, "reading"),
      field("code", &T::code, "the last register value; none where readings come"),
      field("min", &T::min, quantity_value, "since the start"),
      field("max", &T::max, quantity_value, "since the start"),
      field("noise", &T::noise, difference, "standard deviation of the last window"),
      field("predicted_noise", &T::predicted_noise, difference, "of a reading, by the budget"),
      field("settled", &T::settled, "none: it moves, or it is too early to tell"));
};

template <>
struct Fields<WatchedLink> {
  using T = WatchedLink;
  static constexpr auto list = std::make_tuple(
      field("name", &T::name, "of the link"), field("lines", &T::lines, "that came"),
      field("malformed", &T::malformed, "lines that did not fit"),
      field("lost", &T::lost, "times that the link was lost"),
      field("problem", &T::problem, "of the last of them"));
};

template <>
struct Fields<Watched> {
  using T = Watched;
  static constexpr auto list =
      std::make_tuple(field("links", &T::links, ""), field("channels", &T::channels, ""));
};

}  // namespace tamlo::result
