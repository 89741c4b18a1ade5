// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of simulate --coverage.
namespace tamlo::result {

template <>
struct Fields<simulate::PlaceCoverage> {
  using T = simulate::PlaceCoverage;
  static constexpr auto list = std::make_tuple(
      field("at", &T::at, quantity_value, "the quantity"),
      field("bias", &T::bias, difference, "of the budget"),
      field("expanded", &T::expanded, difference, "uncertainty of the budget"),
      field("within", &T::within, "readings within bias and expanded uncertainty"),
      field("below", &T::below, "readings below them"),
      field("above", &T::above, "readings above them"), field("part", &T::part, "within, of all"),
      field(
          "part_low", [](const T& t) { return t.interval.low; },
          "of the interval that holds the probability 99 % of the time"),
      field(
          "part_high", [](const T& t) { return t.interval.high; }, "of it"));
};

template <>
struct Fields<CoveredChannel> {
  using T = CoveredChannel;
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr auto list = std::make_tuple(
      field("channel", &T::channel, "its name"),
      field(
          "unit", [](const T& t) { return t.unit.symbol; }, "of the quantity"),
      field(
          "coverage", [](const T& t) { return t.proof.claimed; }, "that the budget claims"),
      field(
          "units", [](const T& t) { return t.proof.units; }, "virtual ones that were read"),
      field("holds", &T::holds,
            "no place holds fewer readings than claimed, as far as can be told"),
      field(
          "places", [](const T& t) { return t.proof.places; }, "that were read"));
};

template <>
struct Fields<Covered> {
  using T = Covered;
  static constexpr auto list = std::make_tuple(
      field("seed", &T::seed, "of all that was drawn"), field("first", &T::first, "unit"),
      field("channels", &T::channels, "that were asked about"));
};

}  // namespace tamlo::result
