// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <map>
#include <string>

// A formula of readings as C in single precision, and how far its arithmetic may be off.
namespace tamlo::firmware {

/// Half a unit of the last place of a single.
constexpr double half_place = 0x1p-24;

/// A part of a formula: its C, the interval of its exact value, the most that the code is off, and
/// its value at some places, by which it is held against the formula itself.
struct Part {
  std::string text{};
  double low = 0.0, high = 0.0, error = 0.0;
  std::array<double, 4> at{};
  int operations = 0;
  double size() const;  ///< the largest of the interval, without its sign
};

Part constant(double value);
Part sum(const Part& a, const Part& b);
Part difference(const Part& a, const Part& b);
/// Throws FirmwareError for a divisor that may come to 0.
Part quotient(const Part& a, const Part& b);
Part product(const Part& a, const Part& b);

/// Reads a formula of + - * / ^, brackets, abs, sqrt, min and max by descent; `names` are its
/// readings, `prefix` is that of the functions of its own that it calls. Throws FirmwareError for
/// what has no code, with its place.
Part read_formula(const std::string& text, const std::string& prefix,
                  const std::map<std::string, Part>& names);

}  // namespace tamlo::firmware
