// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/math/random.hpp"

// Simulated board and instruments, to try a bench on. They listen on the loopback address only,
// and never wait for the other side.
namespace tamlo {
namespace link TAMLO_API {

enum class LinkFault : std::uint8_t {
  lost,        ///< a line does not come
  torn,        ///< its beginning does not
  doubled,     ///< it comes twice
  late,        ///< it comes behind later ones
  garbage,     ///< bytes that are none of it come before it
  disconnect,  ///< the other side is left
  hang,        ///< an instrument does not answer for five seconds
};
std::string_view name(LinkFault fault);

/// Each fault at one line or question in fifty, drawn anew for each; disconnect at one in two
/// hundred.
class Disturbance {
 public:
  /// These faults, at times that the seed draws.
  Disturbance(std::vector<LinkFault> faults, std::uint64_t seed);

  /// Returns the text to send for a line, with the line ends that are left of it.
  std::string of(const std::string& line);
  /// Tells whether the other side is left behind this line.
  bool disconnects();
  /// Tells whether an instrument hangs at this question.
  bool hangs();

 private:
  std::vector<LinkFault> faults_;
  math::RandomStream stream_;
  std::string late_{};

  bool strikes(LinkFault fault, double part);
};

/// Clients that a port serves at a time; a further one is closed at once.
inline constexpr std::size_t most_clients = 32;

/// A TCP port that prints lines to every client, as a board would.
class LineServer {
 public:
  /// Port 0 takes any that is free. Throws LinkError with the system's words.
  explicit LineServer(int port);
  ~LineServer();
  LineServer(const LineServer&) = delete;
  LineServer& operator=(const LineServer&) = delete;

  /// Returns the port that it listens at.
  int port() const;
  /// Takes in who has come, and sends the line to all; one who does not take it, or has gone, is
  /// left. The line without its end.
  void send(const std::string& line);
  /// Sends bytes as they are.
  void send_bytes(const std::string& bytes);
  /// Leaves all.
  void disconnect();
  /// Returns the number of connected clients.
  std::size_t clients() const;

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

/// Error that an instrument reports, by its number (SCPI 1999, volume 2, section 21.8).
enum class ScpiError : std::int16_t {
  undefined_header = -113,
  out_of_range = -222,
  queue_overflow = -350,  ///< the last one that is kept
};

/// An instrument that answers questions, line by line, and keeps a queue of errors (IEEE 488.2).
class ScpiServer {
 public:
  /// The answer to a question, "" for a command that was taken, or what is wrong with it.
  using Reply = std::variant<std::string, ScpiError>;
  using Answer = std::function<Reply(std::string_view command)>;

  /// Throws LinkError.
  ScpiServer(int port, std::string identity, Answer answer);
  ~ScpiServer();
  ScpiServer(const ScpiServer&) = delete;
  ScpiServer& operator=(const ScpiServer&) = delete;

  /// Returns the port that it listens at.
  int port() const;
  /// Answers what has come so far.
  void serve();

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

/// Registers of a Modbus device over TCP, the same as input and as holding registers; they are
/// served by a thread of its own. Throws io::EnvironmentError without libmodbus.
class ModbusServer {
 public:
  /// Listens at once; 0 takes any free port. Throws EnvironmentError.
  explicit ModbusServer(int port);
  ~ModbusServer();
  ModbusServer(const ModbusServer&) = delete;
  ModbusServer& operator=(const ModbusServer&) = delete;

  /// Returns the port that it listens at.
  int port() const;
  static constexpr int registers = 16;
  /// A 32-bit word in two registers, the high one first.
  void set_word(int first, std::uint32_t word);

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

/// A pseudo terminal that prints lines, as a serial port of a board would.
class TerminalPort {
 public:
  /// Throws LinkError.
  TerminalPort();
  ~TerminalPort();
  TerminalPort(const TerminalPort&) = delete;
  TerminalPort& operator=(const TerminalPort&) = delete;

  /// Returns the path of the device file.
  const std::string& path() const { return path_; }
  /// Sends bytes; those that nobody reads are dropped.
  void send_bytes(const std::string& bytes);

 private:
  int descriptor_ = -1;
  std::string path_{};
};

}  // namespace link
}  // namespace tamlo
