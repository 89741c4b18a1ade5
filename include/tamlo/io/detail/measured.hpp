// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <string_view>

#include "tamlo/export.hpp"
#include "tamlo/record/verdict.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// An overlay with what a record measured, and the table beside it.
struct MeasuredFiles {
  /// By this a table is known as one that may be written over.
  static constexpr std::string_view table_begins =
      "# Made by: tamlo record. What is added to the code, counted from the low end.\n";
  std::string overlay{};
  std::string table{};  ///< CSV; empty where there is none
  std::string table_path{};
};

/// `path` is where the overlay will stand. Throws BadInput where the record measured nothing that a
/// board file can hold.
MeasuredFiles overlay_of(const record::Verdict& verdict, const chain::Chain& chain,
                         const std::string& path);
}  // namespace io
}  // namespace tamlo
