// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/model/sensor.hpp"

/// Scaling of a code to a reading, as plain data.
namespace tamlo {
namespace model TAMLO_API {

/// Count convention of the firmware: full_scale divides by 2^N, last_code by 2^N - 1.
enum class Convention : std::uint8_t { full_scale, last_code };

/// One step of a firmware that scales in integers.
enum class Operation : std::uint8_t {
  multiply,
  add,
  divide,
  shift_right,
  clamp,
  lines,
  polynomial
};

/// multiply * (value - from) + add, from `from` on.
struct IntegerLine {
  std::int64_t from = 0, multiply = 0, add = 0;
};
/// One step of scaling in integers.
struct IntegerStep {
  Operation operation = Operation::add;
  std::int64_t operand = 0;  ///< of clamp: the least
  std::int64_t most = 0;     ///< of clamp
  bool round = false;        ///< divide: to the nearest, halves away from zero; shift_right: upward
  /// Coefficients of a polynomial: c0, c1, ... of acc = c_n, then acc = ((acc * value) >> operand)
  /// + c_i down to c0.
  std::vector<std::int64_t> coefficients{};
  std::vector<IntegerLine> lines{};  ///< of lines: by rising `from`; the first holds below it too
};

/// A firmware that computes the reading from the code in integers of `bits`, step by step. Division
/// truncates toward zero and a shift toward minus infinity, as in C, unless they round.
struct IntegerScaling {
  std::vector<IntegerStep> steps{};
  int bits = 32;
  bool is_signed = true;
  double count = 1.0;  ///< SI: what one count of the result is worth
  /// The steps take the register value, or the mean that average and filter make of many, times
  /// this, rounded: a firmware that keeps sums, or bits behind the point, drops nothing before it
  /// scales.
  double per_code = 1.0;
  double filter_rounding = 0.0;  ///< SI: limit of what integer filters round, in the reading
  bool corrects = false;         ///< the steps hold the channel's correction already
};

/// Line through two codes and their readings, as taught at the bench, straight between and beyond.
/// Readings are SI.
struct TaughtLine {
  double low_code = 0.0, high_code = 1.0;
  double low_reading = 0.0, high_reading = 1.0;
};

/// Scaling of a code to a reading.
struct Scaling {
  Convention convention = Convention::full_scale;
  std::optional<IntegerScaling> integer{};  ///< none: floating point
  std::optional<TaughtLine> taught{};       ///< in place of the inverse of the chain
  std::optional<Sensor> sensor{};           ///< that the firmware computes with, if it is another
  std::optional<double> tare{};             ///< SI: where the reading is set to this, before use
  std::optional<int> decimals{};            ///< that the reading is rounded to, in the span's unit
};

/// Correction that a calibration of one unit adds to a reading: a polynomial of z = (reading -
/// centre) / half_width, or straight lines between nodes. SI of the quantity.
struct Correction {
  std::vector<double> coefficients{};  ///< of 1, z, z^2, ...; none with nodes
  double centre = 0.0, half_width = 1.0;
  std::vector<double> readings{}, corrected{};  ///< nodes by rising reading; at least one, or none
  double standard_uncertainty = 0.0;            ///< of meter and fit, at the worst place
  // How it was found, so that it is known at each place what it is worth:
  std::vector<double> covariance{};  ///< of the coefficients or corrected nodes, row by row, SI²
  std::vector<double> positions{};   ///< of the quantity where it was calibrated
  /// Weights of each coefficient or node: by how much a reading that is off at each position lowers
  /// it.
  std::vector<double> weights{};
  bool at_pin = false;       ///< by a meter at the pin, which does not see the parts before it
  bool in_firmware = false;  ///< readings of a file have it already
  /// It stands for an adjustment that every unit gets, and not for one that was measured: it takes
  /// the nominal bias away at its positions alone.
  bool of_each_unit = false;
};

std::string_view name(Convention convention);
std::string_view name(Operation operation);

}  // namespace model
}  // namespace tamlo
