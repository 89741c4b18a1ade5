// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <chrono>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include "tamlo/export.hpp"
#include "tamlo/math/detail/blocks.hpp"

/// Rows that survive a crash, the time of day, and work that is kept as such rows.
namespace tamlo {
namespace io TAMLO_API {

/// A CSV that grows row by row. Each row is written whole with one call, and is on the disk within
/// a second, or when sync() returns.
class Log {
 public:
  /// Begins a new file with this heading, or goes on in one that has it: a torn row at its end is
  /// cut off first, and its bytes are in `torn`. Throws EnvironmentError with the system's
  /// words, and, leaving it as it is, for a file with another heading, for one that another program
  /// writes, and for what is no file. Another heading is told in the words `of_others`.
  Log(const std::string& path, const std::string& heading,
      const char* of_others = "a file with another heading stands there, and is not written over");
  ~Log();
  Log(const Log&) = delete;
  Log& operator=(const Log&) = delete;

  /// The row without its end.
  void row(std::string_view text);
  /// All rows are on the disk when it returns. Throws EnvironmentError.
  void sync();
  std::uint64_t rows() const { return rows_; }  ///< with those that stood there
  /// Bytes of a last row that was not whole.
  std::size_t torn() const { return torn_; }

 private:
  std::string path_;
  int descriptor_ = -1;
  std::uint64_t rows_ = 0;
  std::size_t torn_ = 0;
  std::chrono::steady_clock::time_point synced_{};

  [[noreturn]] void fail() const;
  [[noreturn]] void refuse(const char* why) const;
  void append(std::string_view bytes);
  void resume(const std::string& heading, const char* of_others);
};

/// The time of day, UTC, as ISO 8601 writes it: 2026-11-25T10:30:05.
std::string utc_now();

/// A date, or date and time of day, of ISO 8601 in UTC ("2026-11-25", "2026-11-25T10:30:05.5Z"), in
/// seconds from the beginning of 1970; nothing for any other text.
std::optional<double> parse_moment(const std::string& text);

/// A driver that keeps each block's figures in a file as they come, and does not do again what
/// stands there: work that was ended, or killed, goes on. `identity` tells of which work the file
/// is: one line without commas, of everything that the figures depend on. Throws
/// EnvironmentError for a file of another work, which stays as it is, and for one that cannot
/// be read or written.
math::BlockDriver kept_in(std::string path, std::string identity, math::BlockDriver driver);

/// A short identity of long texts: 16 digits of math::hash_of().
std::string identity_of(const std::string& text);

}  // namespace io
}  // namespace tamlo
