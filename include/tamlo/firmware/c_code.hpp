// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/firmware/plan.hpp"

/// The plan of a channel as C: C99 that is also C++, freestanding, without a heap and without
/// floating point, right on machines whose int has 16 bits.
namespace tamlo {
namespace firmware TAMLO_API {

/// Options of the generated code, beside the reading.
struct CodeOptions {
  bool text = false;          ///< NAME_text as well
  bool floating = false;      ///< NAME_value as well: the reading as a float in its unit
  bool units = false;         ///< NAME_unit_from and NAME_corrected as well (unit_data.hpp)
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

}  // namespace firmware
}  // namespace tamlo
