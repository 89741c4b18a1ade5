// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string>
#include <utility>
#include <vector>

#include "csv.hpp"
#include "tamlo/io/readings_file.hpp"

// The columns of a readings file, by their headings.
namespace tamlo::io {

/// Rows of a file: readings beside a meter, or one of the two at its moments.
enum class LogOf : std::uint8_t { both, readings, meter };

class ReadingsHeadings {
 public:
  /// Takes headings that mean a column under another name: "meter=Value (V)", "meter [V]=Value".
  /// Throws BadInput.
  explicit ReadingsHeadings(const std::vector<std::string>& renamed);

  /// Returns the name and the unit of a column.
  Heading of(const Cell& cell) const;
  /// Says whether a line names what every row of such a file needs.
  bool are_of(LogOf what, const std::vector<Cell>& cells) const;

  static bool known(const std::string& name);
  static bool has_unit(const std::string& name);

 private:
  std::vector<std::pair<std::string, Heading>> renamed_;  // by the heading of the file
};

/// Gives each reading of a firmware's log the value that the log of a meter has for its moment, and
/// leaves out those without; says in the notes what was found. Throws BadInput where the logs do
/// not belong together, or no reading is left.
ReadingsFile joined(ReadingsFile readings, const ReadingsFile& meter, const model::Board& board,
                    const ReadingsForm& form);

}  // namespace tamlo::io
