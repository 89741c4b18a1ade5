// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/meter/calibrate.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/record/verdict.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// The first words of what overlay_of() writes.
constexpr const char* firmware_overlay_begins = "# Made by: tamlo firmware";

/// The integers of a channel as a board file that overrides its scaling; `before` is the channel as
/// the board has it. Throws ArgumentError for a channel that does not scale in integers.
std::string overlay_of(const model::Channel& before, const model::Channel& channel);

/// A number that changes with every byte of the files and of the settings (64-bit FNV-1a), in
/// hexadecimal. Throws BadInput for a file that is not there and EnvironmentError for one that
/// cannot be read.
std::string hash_of(const std::vector<std::string>& paths,
                    const std::vector<std::string>& settings = {});

/// A calibration as a board file that overrides the channel's correction: a later file on the
/// command line of any command.
std::string overlay_of(const meter::Calibration& calibration);

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

// A board and changes to it as text, for programs that show them and change them.

/// Returns the tables of these files as JSON, one over another, with single keys and what files of
/// parts give; values are as the files have them. Throws BadInput.
std::string board_as_json(const std::vector<std::string>& paths,
                          const std::vector<std::string>& settings = {});

/// Returns single keys, "channel.pack_voltage.average=64", as a board file of exactly these: after
/// the files that they were made for it gives the same board as they do. Throws BadInput for what
/// is none.
std::string overlay_of(const std::vector<std::string>& settings);

}  // namespace io
}  // namespace tamlo
