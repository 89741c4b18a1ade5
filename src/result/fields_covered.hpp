// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of prove.
namespace tamlo::result {

template <>
struct Fields<simulate::PlaceCoverage> : FieldsOf<simulate::PlaceCoverage> {
  static constexpr Field list[] = {
      field("at", TAMLO_AT(at), quantity_value, "the quantity"),
      field("bias", TAMLO_AT(bias), difference, "of the budget"),
      field("expanded", TAMLO_AT(expanded), difference, "uncertainty of the budget"),
      field("within", TAMLO_AT(within), "readings within bias and expanded uncertainty"),
      field("below", TAMLO_AT(below), "readings below them"),
      field("above", TAMLO_AT(above), "readings above them"),
      field("part", TAMLO_AT(part), "within, of all"),
      field("part_low", TAMLO_AT(interval.low),
            "of the interval that holds the probability 99 % of the time"),
      field("part_high", TAMLO_AT(interval.high), "of it")};
};

template <>
struct Fields<CoveredChannel> : FieldsOf<CoveredChannel> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(channel), "its name"),
      field("unit", TAMLO_AT(unit.symbol), "of the quantity"),
      field("coverage", TAMLO_AT(proof.claimed), "that the budget claims"),
      field("units", TAMLO_AT(proof.units), "virtual ones that were read"),
      field("holds", TAMLO_AT(holds),
            "no place holds fewer readings than claimed, as far as can be told"),
      field("places", TAMLO_AT(proof.places), "that were read")};
};

template <>
struct Fields<Covered> : FieldsOf<Covered> {
  static constexpr Field list[] = {field("seed", TAMLO_AT(seed), "of all that was drawn"),
                                   field("first", TAMLO_AT(first), "unit"),
                                   field("channels", TAMLO_AT(channels), "that were asked about")};
};

}  // namespace tamlo::result
