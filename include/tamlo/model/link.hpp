// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <variant>

#include "tamlo/export.hpp"

/// How a board or an instrument is reached while it runs, as plain data.
namespace tamlo {
namespace model TAMLO_API {

enum class Parity : std::uint8_t { none, even, odd };
std::string_view name(Parity parity);

struct SerialPort {
  std::string device{};
  int baud = 115200;
  int data_bits = 8;
  Parity parity = Parity::none;
  int stop_bits = 1;
};

struct TcpPort {
  std::string host{};
  int port = 0;
};

/// A file, a pipe, "-" for standard input, or the device file of an instrument.
struct StreamFile {
  std::string path{};
  bool follow = false;  ///< at the end of a file waits for more, as of a log that grows
};

/// How values stand in a line.
enum class LineForm : std::uint8_t {
  pattern,  ///< a text with {pack_voltage.code} and {coolant_flow.reading} in it
  csv,      ///< a heading of such names, then rows
  pairs,    ///< name=value, anywhere in the line
  number    ///< one bare number
};
std::string_view name(LineForm form);

/// Lines of text that a firmware prints.
struct Link {
  std::string name{};
  std::variant<StreamFile, SerialPort, TcpPort> at{};
  LineForm form = LineForm::number;
  std::string pattern{};  ///< of a pattern; of a number what it is: "pack_voltage.code"
  std::string ask{};      ///< sent before each line; none: the lines come as they are
  double every = 0.1;     ///< s, between two questions
};

}  // namespace model
}  // namespace tamlo
