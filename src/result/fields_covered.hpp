// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of simulate --coverage.
namespace tamlo::result {

template <>
struct Fields<simulate::PlaceCoverage> : FieldsOf<simulate::PlaceCoverage> {
  static constexpr Field list[] = {
      field("at", TAMLO_GET(t.at), quantity_value, "the quantity"),
      field("bias", TAMLO_GET(t.bias), difference, "of the budget"),
      field("expanded", TAMLO_GET(t.expanded), difference, "uncertainty of the budget"),
      field("within", TAMLO_GET(t.within), "readings within bias and expanded uncertainty"),
      field("below", TAMLO_GET(t.below), "readings below them"),
      field("above", TAMLO_GET(t.above), "readings above them"),
      field("part", TAMLO_GET(t.part), "within, of all"),
      field("part_low", TAMLO_GET(t.interval.low),
            "of the interval that holds the probability 99 % of the time"),
      field("part_high", TAMLO_GET(t.interval.high), "of it")};
};

template <>
struct Fields<CoveredChannel> : FieldsOf<CoveredChannel> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.channel), "its name"),
      field("unit", TAMLO_GET(t.unit.symbol), "of the quantity"),
      field("coverage", TAMLO_GET(t.proof.claimed), "that the budget claims"),
      field("units", TAMLO_GET(t.proof.units), "virtual ones that were read"),
      field("holds", TAMLO_GET(t.holds),
            "no place holds fewer readings than claimed, as far as can be told"),
      field("places", TAMLO_GET(t.proof.places), "that were read")};
};

template <>
struct Fields<Covered> : FieldsOf<Covered> {
  static constexpr Field list[] = {
      field("seed", TAMLO_GET(t.seed), "of all that was drawn"),
      field("first", TAMLO_GET(t.first), "unit"),
      field("channels", TAMLO_GET(t.channels), "that were asked about")};
};

}  // namespace tamlo::result
