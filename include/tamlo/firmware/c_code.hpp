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

/// Describes what is written beside the reading.
struct CodeOptions {
  bool text = false;          ///< NAME_text as well
  bool floating = false;      ///< NAME_value as well: the reading as a float in its unit
  std::string measures{};     ///< for the comment
  std::string made_by{};      ///< name and version of the tool
  std::string description{};  ///< a hash of the files that it was made from
};

/// The files of a channel in C.
struct CodeFiles {
  std::string header{}, source{};
};

/// NAME.h and NAME.c. Throws FirmwareError where a text is asked for of counts that are no whole
/// number of a decimal place.
CodeFiles c_code(const Plan& plan, const CodeOptions& options);

/// Describes what the plain formula reads, in counts, for each `stride`-th register value that the
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
