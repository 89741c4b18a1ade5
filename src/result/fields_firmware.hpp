// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of firmware.
namespace tamlo::result {

template <>
struct Fields<firmware::FilterStage> {
  using T = firmware::FilterStage;
  static constexpr auto list =
      std::make_tuple(field("name", &T::name, "of the stage"),
                      field("bits", &T::out_bits, in("bit"), "of the values that come out"),
                      field("gain", &T::gain, "of those values"),
                      field("rounding", &T::rounding, in("LSB"), "limit, in register values"));
};

template <>
struct Fields<ChannelFirmware> {
  using T = ChannelFirmware;
  static Units units(const T& t) { return {.quantity = t.plan.unit}; }
  static constexpr auto list = std::make_tuple(
      field(
          "channel", [](const T& t) { return t.plan.channel; }, ""),
      field(
          "unit", [](const T& t) { return t.plan.unit; }, "of the quantity"),
      field(
          "form", [](const T& t) { return t.plan.arithmetic.form; },
          "how a register value becomes a reading"),
      field(
          "count", [](const T& t) { return t.plan.count; }, difference, "of the reading"),
      field(
          "word", [](const T& t) { return t.plan.arithmetic.bits; }, in("bit"),
          "that holds every product"),
      field(
          "pieces", [](const T& t) { return t.plan.arithmetic.lines.size(); },
          "straight lines of a curve"),
      field(
          "allowed", [](const T& t) { return t.plan.allowed; }, difference,
          "that the arithmetic may be off"),
      field(
          "bound", [](const T& t) { return t.plan.bound; }, difference,
          "largest error of the arithmetic, over all register values"),
      field(
          "bound_at", [](const T& t) { return t.plan.bound_at; }, "register value"),
      field(
          "widest", [](const T& t) { return t.plan.arithmetic.widest(); },
          "largest intermediate number"),
      field(
          "table_bytes", [](const T& t) { return t.plan.arithmetic.table_bytes(); }, ""),
      field(
          "operations", [](const T& t) { return t.plan.operations; }, "a reading"),
      field("float_operations", &T::float_operations,
            "of the plain formula in floating point, logarithms and powers as 100 each"),
      field(
          "per_code", [](const T& t) { return t.plan.filter.per_code; },
          "numbers that are scaled, to a register value"),
      field(
          "filter_rounding", [](const T& t) { return t.plan.filter.rounding; }, in("LSB"),
          "limit of what integer filters round, in register values"),
      field(
          "first_valid", [](const T& t) { return t.plan.filter.settling; },
          "number of the first valid reading after a start"),
      field(
          "corrected", [](const T& t) { return t.plan.corrected; },
          "a calibration's correction is in the numbers"),
      field("target_met", &T::target_met, "with these integers; none: it has no target"),
      field("error", &T::error, difference, "|bias| and expanded uncertainty at the worst place"),
      field("limit", &T::limit, difference, "that the target sets there"),
      field(
          "filter", [](const T& t) { return t.plan.filter.stages; }, "stage by stage"),
      field("files", &T::files, "that were written"));
};

template <>
struct Fields<Firmwares> {
  static constexpr auto list = std::make_tuple(field("channels", &Firmwares::channels, ""));
};

}  // namespace tamlo::result
