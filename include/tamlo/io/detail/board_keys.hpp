// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// What may stand at a key of a file.
enum class KeyForm : std::uint8_t {
  value,    ///< a text with a value and perhaps limits
  plain,    ///< a text with a value without limits
  limits,   ///< a text with limits alone
  noise,    ///< a text with one noise
  range,    ///< a text with a range
  integer,  ///< a whole number
  number,
  flag,
  text,
  choice,   ///< one of few texts
  name,     ///< the name of an entry of another section
  numbers,  ///< an array of each
  texts,
  table,
  tables,  ///< an array of tables
};

/// A key that the reader of a file asked for, there or not.
struct BoardKey {
  std::string path{};  ///< with "*" for names: "channel.*.frontend.shunt"
  KeyForm form{};
  std::string unit{};                  ///< of values; empty where any is taken, or none
  std::string bounds{};                ///< where a number must lie, in words; of a name its section
  std::vector<std::string> choices{};  ///< of a choice
  std::int64_t low = 0, high = 0;      ///< of an integer
  bool required = false;               ///< a table that has it not is refused
};

/// Every key that reading these boards asks for, each once for each form, in the order of asking.
/// What is wrong in a board does not matter. Throws BadInput for what is no TOML, EnvironmentError
/// for what cannot be read.
std::vector<BoardKey> keys_asked(const std::vector<std::string>& boards);

}  // namespace io
}  // namespace tamlo
