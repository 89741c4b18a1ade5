// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/log.hpp"

#include <fmt/chrono.h>
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <charconv>
#include <chrono>
#include <cstdio>
#include <cstring>
#include <ctime>
#include <fstream>
#include <utility>

#include "system_files.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/math/detail/hash.hpp"

namespace tamlo::io {

Log::Log(const std::string& path, const std::string& heading, const char* of_others) : path_(path) {
  bool held = false;
  descriptor_ = system::open_log(path, held);
  if (descriptor_ < 0 && !held) fail();
  try {
    if (held) refuse("another program is writing it");
    resume(heading, of_others);
  } catch (...) {
    if (descriptor_ >= 0) ::close(descriptor_);
    throw;
  }
  synced_ = std::chrono::steady_clock::now();
}

Log::~Log() {
  if (descriptor_ < 0) return;
  system::flush(descriptor_);
  ::close(descriptor_);
}

void Log::fail() const {
  throw EnvironmentError(fmt::format("{}: {}", path_, std::strerror(errno)));
}

void Log::refuse(const char* why) const {
  throw EnvironmentError(fmt::format("{}: {}", path_, why));
}

// Nothing is changed before it is known that the file is a log of this kind and nobody else's: what
// stands there begins with the heading. Only then a torn row at its end is cut off.
void Log::resume(const std::string& heading, const char* of_others) {
  if (!system::is_regular(descriptor_)) refuse("not a file that rows can be added to");
  const auto expected = heading + "\n";
  std::string head;
  char bytes[65536];
  std::uint64_t size = 0, whole = 0, ends = 0;
  for (;;) {
    const auto got = ::read(descriptor_, bytes, sizeof bytes);
    if (got < 0 && errno == EINTR) continue;
    if (got < 0) fail();
    if (got == 0) break;
    const std::string_view piece(bytes, static_cast<std::size_t>(got));
    head += piece.substr(0, expected.size() - std::min(expected.size(), head.size()));
    ends += static_cast<std::uint64_t>(std::ranges::count(piece, '\n'));
    if (const auto last = piece.rfind('\n'); last != piece.npos) whole = size + last + 1;
    size += piece.size();
  }
  // A heading that was torn itself has nothing behind it.
  const bool begun = size < expected.size() && expected.starts_with(head);
  if (!begun && head != expected) refuse(of_others);
  torn_ = size - whole;
  if (torn_ > 0 && !system::cut(descriptor_, whole)) fail();
  if (whole == 0) {
    append(expected);
    sync();
    return;
  }
  rows_ = ends - 1;
}

void Log::append(std::string_view bytes) {
  if (!system::write_all(descriptor_, bytes)) fail();
}

void Log::row(std::string_view text) {
  append(std::string(text) + "\n");
  ++rows_;
  if (std::chrono::steady_clock::now() - synced_ >= std::chrono::seconds(1)) sync();
}

void Log::sync() {
  if (!system::flush(descriptor_) && errno != EINVAL) fail();
  synced_ = std::chrono::steady_clock::now();
}

std::string utc_now() {
  return fmt::format("{:%Y-%m-%dT%H:%M:%S}", fmt::gmtime(std::time(nullptr)));
}

std::optional<double> parse_moment(const std::string& text) {
  int y = 0, m = 0, d = 0, used = 0;
  // Day, month and year with points are in this order wherever they are written so.
  if (std::sscanf(text.c_str(), "%4d-%2d-%2d%n", &y, &m, &d, &used) != 3 &&
      std::sscanf(text.c_str(), "%2d.%2d.%4d%n", &d, &m, &y, &used) != 3) {
    return {};
  }
  const std::chrono::year_month_day day{std::chrono::year{y},
                                        std::chrono::month{static_cast<unsigned>(m)},
                                        std::chrono::day{static_cast<unsigned>(d)}};
  if (!day.ok()) return {};
  auto rest = text.substr(static_cast<std::size_t>(used));
  int hour = 0, minute = 0;
  double second = 0.0;
  if (!rest.empty()) {
    if (rest.back() == 'Z') rest.pop_back();
    int end = 0;
    if (std::sscanf(rest.c_str(), "%*1[T ]%2d:%2d%n", &hour, &minute, &end) != 2) return {};
    if (rest[static_cast<std::size_t>(end)] == ':') {
      const auto seconds = rest.substr(static_cast<std::size_t>(end));
      int of_seconds = 0;
      if (std::sscanf(seconds.c_str(), ":%lf%n", &second, &of_seconds) != 1) return {};
      end += of_seconds;
    }
    const bool sound = static_cast<std::size_t>(end) == rest.size() && hour >= 0 && hour < 24 &&
                       minute >= 0 && minute < 60 && second >= 0.0 && second < 61.0;
    if (!sound) return {};
  }
  const auto days = std::chrono::sys_days(day).time_since_epoch().count();
  return static_cast<double>(days) * 86400.0 + hour * 3600.0 + minute * 60.0 + second;
}

namespace {

// A row is a block: its number, its figures as their shortest exact text, and a check word over
// both, so that nothing but what was written here is believed.
std::string row_of(std::uint64_t block, const std::vector<double>& figures) {
  auto text = fmt::format("{}", block);
  for (const double figure : figures) text += fmt::format(",{}", figure);
  return text + "," + identity_of(text);
}

// Of a line that is longer than any row, the beginning.
bool read_line(std::ifstream& file, std::string& row) {
  constexpr std::size_t longest = 1U << 24U;
  row.clear();
  for (int c = file.get(); c != std::ifstream::traits_type::eof(); c = file.get()) {
    if (c == '\n') return true;
    if (row.size() == longest) return true;  // its check word is missing
    row += static_cast<char>(c);
  }
  return !row.empty();
}

void read_row(const std::string& path, std::size_t line, const std::string& row,
              math::Blocks& blocks) {
  const auto damaged = [&] {
    return BadInput(
        {{.file = path,
          .line = line,
          .column = 1,
          .problem = fmt::format("a damaged row: \"{}\"", row.substr(0, 40)),
          .hint = "rows as they were written; without this one its work is done again"}});
  };
  const auto check = row.rfind(',');
  if (check == row.npos || identity_of(row.substr(0, check)) != row.substr(check + 1))
    throw damaged();
  const char* at = row.data();
  const char* const end = at + check;
  std::uint64_t block = 0;
  const auto number = std::from_chars(at, end, block);
  if (number.ec != std::errc() || block >= blocks.count) throw damaged();
  std::vector<double> figures;
  for (at = number.ptr; at < end;) {
    double figure = 0.0;
    const auto read = std::from_chars(at + 1, end, figure);
    if (*at != ',' || read.ec != std::errc()) throw damaged();
    figures.push_back(figure);
    at = read.ptr;
  }
  if (blocks.known[block]) return;
  blocks.take(block, figures);
  blocks.known[block] = true;
}

}  // namespace

math::BlockDriver kept_in(std::string path, std::string identity, math::BlockDriver driver) {
  return [path = std::move(path), identity = std::move(identity),
          driver = std::move(driver)](const math::Blocks& wanted) {
    // A file of whole rows of this work from here on.
    Log log(
        path, fmt::format("block,figures,check of {}", identity),
        "holds the progress of another run (other files, options or version); it was not changed");
    auto blocks = wanted;
    blocks.known.resize(static_cast<std::size_t>(wanted.count), false);
    std::ifstream file(path_of(path));
    std::string row;
    read_line(file, row);
    for (std::size_t line = 2; read_line(file, row); ++line) read_row(path, line, row, blocks);
    if (file.bad()) throw EnvironmentError(path + ": cannot be read");
    blocks.take = [&](std::uint64_t block, const std::vector<double>& figures) {
      log.row(row_of(block, figures));
      wanted.take(block, figures);
    };
    return driver(blocks);
  };
}

std::string identity_of(const std::string& text) {
  return fmt::format("{:016x}", math::hash_of(text));
}

}  // namespace tamlo::io
