// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/firmware/plan.hpp"

namespace tamlo::model {
struct Board;
struct Quantity;
}  // namespace tamlo::model

/// The plan of a channel as C: C99 that is also C++, freestanding, without a heap and without
/// floating point, right on machines whose int has 16 bits.
namespace tamlo {
namespace firmware TAMLO_API {

/// Options of the generated code, beside the reading.
struct CodeOptions {
  bool text = false;          ///< NAME_text as well
  bool floating = false;      ///< NAME_value as well: the reading as a float in its unit
  bool units = false;         ///< NAME_unit_from and NAME_corrected as well, for UnitData
  std::string measures{};     ///< for the comment
  std::string made_by{};      ///< name and version of the tool
  std::string description{};  ///< a hash of the files that it was made from
};

/// The files of a channel in C.
struct CodeFiles {
  std::string header{}, source{};
};

/// Returns NAME.h and NAME.c of a plan: C99 of whole numbers, for any `int` of 16 bits or more,
/// without a library. The same bits come out as chain::reading() of a board with the plan's
/// arithmetic gives. Throws FirmwareError where a text is asked for and a count is no whole number
/// of a decimal place.
CodeFiles c_code(const Plan& plan, const CodeOptions& options);

/// Readings of the plain formula, in counts, for each `stride`-th register value that the
/// arithmetic covers: every one, up to 65536 of them.
struct ExpectedReadings {
  std::int64_t first = 0, stride = 1;
  std::vector<double> counts{};
};
ExpectedReadings expected(const chain::Chain& chain, const Plan& plan);

/// NAME_check.c: runs those register values, and prints the worst error. Its exit status is 1 where
/// the bound does not hold.
std::string c_check(const Plan& plan, const ExpectedReadings& expected);

/// Code of a quantity that is computed from the readings of several channels, with its bound.
struct QuantityPlan {
  std::string quantity{};
  std::string identifier{};  ///< its name, as C takes it
  std::string expression{};
  quantity::Unit unit{};
  std::vector<std::string> channels{};  ///< whose readings it takes, in this order
  double bound = 0.0;                   ///< SI: the largest error of the arithmetic
  int operations = 0;                   ///< in floating point
  std::string source{};                 ///< the lines of the function, and what it calls
  bool calls_library = false;           ///< for a root
};

/// Returns the code of a quantity from the plans of its channels: single precision (IEEE 754), in
/// its unit, from readings in counts. `bound` holds while every reading lies in the span of its
/// channel: each operation is given half a unit of its last place, by interval arithmetic (N. J.
/// Higham, Accuracy and Stability of Numerical Algorithms, 2002, 2.2). Formulas have + - * / ^ with
/// whole exponents to 8, brackets, abs, sqrt, min and max. Throws FirmwareError for any other,
/// for a channel without a plan, and for a divisor or a root that may come to nothing or below.
QuantityPlan plan(const model::Board& board, const model::Quantity& quantity,
                  const std::vector<Plan>& plans);

/// Returns NAME.h and NAME.c with `float NAME_value(int32_t READING, ...)`.
CodeFiles c_code(const QuantityPlan& plan, const CodeOptions& options);

inline constexpr std::size_t unit_data_size = 20;

/// Correction of the readings of one unit, in counts: reading + offset / 256 + reading * gain /
/// 2^30.
struct UnitData {
  std::int32_t offset = 0;       ///< in 1/256 of a count
  std::int32_t gain = 0;         ///< in 2^-30
  std::int16_t temperature = 0;  ///< 0.1 degC: where the correction holds
  std::uint16_t day = 0;         ///< of the calibration, from 2000-01-01; 0: not known
  double error = 0.0;            ///< counts that the corrected reading is off at most
};

/// Returns the correction of a channel as data for the code of a plan. Takes an offset and a gain:
/// a straight line. `temperature` is in K, `day` counts from 2000-01-01. Throws FirmwareError for a
/// correction of another form, of a gain beyond a quarter, or with readings beyond 32 bits.
UnitData unit_data(const Plan& plan, const model::Correction& correction, double temperature,
                   std::uint16_t day = 0);

/// Returns the bytes of the data, little endian: 1, 20, a word that names channel and count,
/// offset, gain, temperature, day, and the CRC-32 (ISO 3309) of all before it.
std::array<std::uint8_t, unit_data_size> bytes_of(const Plan& plan, const UnitData& data);

/// Returns the bytes as C: an array NAME_unit_bytes in a header.
std::string c_unit_data(const Plan& plan, const UnitData& data);

}  // namespace firmware
}  // namespace tamlo
