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

// A field of the state inside a view.
template <auto member>
constexpr auto of_state = [](const meter::LiveView& t) { return t.state.*member; };

template <>
struct Fields<meter::LiveView> {
  using T = meter::LiveView;
  static Units units(const T& t) { return {.quantity = t.state.unit}; }
  using S = meter::LiveState;
  static constexpr auto list = std::make_tuple(
      field("channel", of_state<&S::channel>, ""),
      field("unit", of_state<&S::unit>, "of the quantity"),
      field("readings", of_state<&S::readings>, "that came"),
      field("elapsed", of_state<&S::elapsed>, in("s"), "from the first reading to the last"),
      field(
          "rate", [](const T& t) { return t.state.rate(); }, in("1/s"), "of the readings"),
      field("last", of_state<&S::last>, quantity_value, "reading"),
      field("code", of_state<&S::code>, "the last register value; none where readings come"),
      field("min", of_state<&S::min>, quantity_value, "since the start"),
      field("max", of_state<&S::max>, quantity_value, "since the start"),
      field("noise", of_state<&S::noise>, difference, "standard deviation of the last window"),
      field("predicted_noise", of_state<&S::predicted_noise>, difference,
            "of a reading, by the budget"),
      field("at_end", of_state<&S::at_end>,
            "the last register value is the first or the last there is: it may lie beyond"),
      field("settled", of_state<&S::settled>, "none: it moves, or it is too early to tell"),
      field("zone", &T::zone, "that the last reading lies in"),
      field("shown", &T::shown, quantity_value, "by a meter beside it"),
      field("row", &T::row, "of both sides, once they are at rest"));
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
