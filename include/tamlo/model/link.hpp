// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/quantity/value.hpp"

/// Links to a board or an instrument, as plain data.
namespace tamlo {
namespace model TAMLO_API {

enum class Parity : std::uint8_t { none, even, odd };
std::string_view name(Parity parity);

/// A serial port, and how it is set.
struct SerialPort {
  std::string device{};
  int baud = 115200;
  int data_bits = 8;
  Parity parity = Parity::none;
  int stop_bits = 1;
};

/// A port of a host.
struct TcpPort {
  std::string host{};
  int port = 0;
};

/// A file, a pipe, "-" for standard input, or the device file of an instrument.
struct StreamFile {
  std::string path{};
  bool follow = false;  ///< at the end of a file waits for more, as of a log that grows
};

/// Form of a line with values.
enum class LineForm : std::uint8_t {
  pattern,  ///< a text with {pack_voltage.code} and {coolant_flow.reading} in it
  csv,      ///< a heading of such names, then rows
  pairs,    ///< name=value, anywhere in the line
  number    ///< one bare number
};
std::string_view name(LineForm form);

/// Protocol of a link.
enum class Speaks : std::uint8_t {
  lines,   ///< of text that a firmware prints
  scpi,    ///< questions and answers of an instrument, IEEE 488.2 and SCPI-99
  modbus,  ///< registers, over TCP or a serial line
  frames   ///< of bytes, all of one length
};
std::string_view name(Speaks speaks);

enum class NumberType : std::uint8_t { int16, uint16, int24, uint24, int32, uint32, float32 };
std::string_view name(NumberType type);
/// Bytes of one.
std::size_t size_of(NumberType type);

/// Order of bytes in a frame, or of words in registers (the bytes of a word are big endian).
enum class Order : std::uint8_t { big_endian, little_endian };
std::string_view name(Order order);

/// Register bank of a Modbus device.
enum class Bank : std::uint8_t { input, holding };
std::string_view name(Bank bank);

/// A number at a place of its own.
struct PlacedNumber {
  std::string holds{};  ///< "pack_voltage.code"
  std::int64_t at = 0;  ///< byte of a frame, or register; from 0
  NumberType type = NumberType::uint16;
  Order order = Order::big_endian;
  double scale = 1.0;  ///< times this it is in the unit of what it holds
};

/// Link to a board or an instrument, and its content.
struct Link {
  std::string name{};
  std::variant<StreamFile, SerialPort, TcpPort> at{};
  Speaks speaks = Speaks::lines;
  LineForm form = LineForm::number;
  std::string pattern{};  ///< of a pattern; of a number what it is: "pack_voltage.code"
  std::string ask{};      ///< sent before each answer; none: the lines come as they are
  double every = 0.1;     ///< s, between two questions
  int station = 1;        ///< of Modbus, 1 to 247
  Bank bank = Bank::input;
  std::size_t length = 0;              ///< bytes of a frame
  std::string begins{};                ///< the bytes that each frame begins with; may be none
  std::vector<PlacedNumber> values{};  ///< of frames and of Modbus
};

/// An instrument that sets the quantity.
struct SourceInstrument {
  std::string name{};
  std::string link{};
  std::string sets{};       ///< what is sent, with {value} in it
  quantity::Range range{};  ///< in its unit it is set, and never outside of this
};

}  // namespace model
}  // namespace tamlo
