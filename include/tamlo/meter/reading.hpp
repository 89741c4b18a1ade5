// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo::model {
struct Meter;
}  // namespace tamlo::model

namespace tamlo {
namespace meter TAMLO_API {

/// Direction from which the quantity came to a position.
enum class Direction : std::uint8_t { unknown, rising, falling };

/// One position of the knob, SI.
struct Reading {
  double meter = 0.0;    ///< as the meter showed it: of the quantity, or volts at the pin
  double reading = 0.0;  ///< what the firmware showed; of the quantity
  std::optional<double> u_meter{};    ///< standard uncertainty, where the file gives one
  std::optional<double> u_reading{};  ///< standard uncertainty of what changes between readings
  int repeats = 1;                    ///< readings that `reading` is the mean of
  std::optional<double> spread{};     ///< standard deviation of single ones; needs repeats > 1
  /// Readings of the meter that `meter` is the mean of, 1 where they were all the same; where it is
  /// not known, `repeats` is taken.
  std::optional<int> meter_repeats{};
  Direction direction = Direction::unknown;
  std::optional<double> temperature{};       ///< K, of the bench
  std::optional<double> time{};              ///< s, from any zero
  std::string unit{};                        ///< which unit of the board; one that has no name: ""
  std::optional<std::size_t> meter_range{};  ///< that the meter was on; else the lowest that holds
};

/// Rows that repeat one position, made one: neighbours of the same unit, direction and range of the
/// meter whose meter readings lie within two of its digits. Means of both columns, and the spread
/// of the readings, or of the differences where the meter moved by more than a digit; rows that are
/// means already, or have uncertainties of their own, are left.
std::vector<Reading> group(const std::vector<Reading>& readings, const model::Meter& meter);

}  // namespace meter
}  // namespace tamlo
