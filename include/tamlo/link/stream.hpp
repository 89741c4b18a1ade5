// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <chrono>
#include <memory>
#include <string>
#include <string_view>

#include "tamlo/error.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/link.hpp"

/// Lines from a serial port, a TCP port or a file, as they come.
namespace tamlo {
namespace link TAMLO_API {

/// A link that cannot be opened, or that was lost. The message has the system's words.
class LinkError : public Error {
 public:
  using Error::Error;
};

/// A command that an instrument answered with an error: to open the link again is no remedy.
class CommandRefused : public LinkError {
 public:
  using LinkError::LinkError;
};

using Clock = std::chrono::steady_clock;

/// Bytes that come and go. Made by open().
class Stream {
 public:
  virtual ~Stream() = default;
  /// The next line without its end; false where none is whole before `until`. A line of more than
  /// 4096 bytes is cut there, and counts as whole. A last line without its end counts in a regular
  /// file only: elsewhere it was cut. Throws LinkError where the link is lost.
  virtual bool read_line(std::string& into, Clock::time_point until) = 0;
  /// Appends what came, once anything did; false where nothing does before `until`. Throws as
  /// above.
  virtual bool read_bytes(std::string& into, Clock::time_point until) = 0;
  /// Throws away what has come until now; returns how many bytes. Throws as above.
  virtual std::size_t discard() = 0;
  /// Throws LinkError where it cannot be sent.
  virtual void write(std::string_view bytes) = 0;
  /// Nothing comes any more: the end of a file that is no growing log, or of standard input.
  virtual bool ended() const = 0;
};

/// Throws LinkError. A TCP port must answer within five seconds.
std::unique_ptr<Stream> open(const model::Link& link);

}  // namespace link
}  // namespace tamlo
