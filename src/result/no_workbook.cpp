// SPDX-License-Identifier: Apache-2.0
#include "tamlo/error.hpp"
#include "tamlo/result/detail/table.hpp"

namespace tamlo::result {

// The library that writes workbooks wants a file of memory, which Windows does not have.
std::string workbook(const std::vector<Table>&) {
  throw EnvironmentError("no workbooks on Windows: --format csv, which spreadsheets read");
}

}  // namespace tamlo::result
