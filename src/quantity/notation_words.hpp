// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "tamlo/quantity/detail/limit.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/quantity/unit.hpp"

// Words of the notation that are read and written.
namespace tamlo::quantity {

inline constexpr std::string_view plus_minus = "\u00b1";
inline constexpr double year = 31557600.0;
inline constexpr double thousand_hours = 3.6e6;

struct Per {
  std::string_view text;
  Drift drift;
  double per;
};
inline constexpr Per drifts[] = {
    {"/K", Drift::temperature, 1.0},       {"/degC", Drift::temperature, 1.0},
    {"/\u00b0C", Drift::temperature, 1.0}, {"/C", Drift::temperature, 1.0},
    {"/year", Drift::time, year},          {"/1000 h", Drift::time, thousand_hours}};

/// Returns the units that a place allows, with the one that `found` may mean.
std::string unit_advice(std::string_view found, const Unit& expected);
/// Returns the limits that a place allows.
std::string limit_advice(std::string_view found, const Expected& expected);

// How data sheets write numbers, units and ranges beside our notation: each form with one meaning.
// What is read so is printed back in the notation.

struct Spelled {
  std::string number{};
  Unit unit{};
};

/// Reads a number and what stands behind it, of a place that expects `expected`: "68k", "4k7" and
/// "100R" of a prefix alone, "ksps" and "kHz" for kSa/s, "12" for 12 bit, "ohms". Nothing where it
/// is none of these.
std::optional<Spelled> data_sheet_value(std::string_view number, std::string_view suffix,
                                        const Unit& expected);

/// Length of what joins the ends of a range at the head of `text`: "..", "to", "–", a minus with a
/// space on its right, or one between two digits. 0: none.
std::size_t joint_length(std::string_view text, bool behind_digit);

/// Peak to peak over the standard deviation of noise: 99.9 % of normal noise lie within.
inline constexpr double peak_to_peak_sigmas = 6.6;

/// Returns noise whose standard deviation is that part of the range, in six digits of ppm.
Limit noise_of_range(double part);

/// Returns all that an SNR in dB, of a sine over the whole range, leaves beside the sine: noise and
/// steps, as a part of the range.
Limit noise_and_steps(double decibels);
/// Returns the SNR in dB of such a part.
double signal_to_noise(double part);

/// Returns the unit of noise from peak to peak, "uV" of "uVpp", "uV p-p" or "uV pp"; else nothing.
std::optional<std::string_view> peak_to_peak_unit(std::string_view unit);

}  // namespace tamlo::quantity
