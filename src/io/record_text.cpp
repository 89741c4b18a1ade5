// SPDX-License-Identifier: Apache-2.0
// Records as CSV: a heading or none, columns of samples, a column of times or none.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cerrno>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <cstring>

#include "csv.hpp"
#include "record_parts.hpp"
#include "tamlo/io/diagnostics.hpp"

namespace tamlo::io {
namespace {

constexpr std::size_t chunk = std::size_t{1} << 18, longest_line = std::size_t{1} << 16;
constexpr std::size_t no_column = ~std::size_t{0};

std::optional<double> number(std::string_view text) {
  double value = 0.0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  const bool whole = error == std::errc{} && end == text.data() + text.size();
  return whole && std::isfinite(value) ? std::optional(value) : std::nullopt;
}

// The whole number at the head of eight characters, and how many of them are its digits; all at
// once.
struct Digits {
  std::uint32_t value;
  int digits;
};
Digits digits_of(const char* text) {
  std::uint64_t eight = 0;
  std::memcpy(&eight, text, sizeof eight);
  eight ^= 0x3030303030303030U;  // a digit is 0 to 9 now
  // The highest bit of each byte that is no digit; what follows the first of them does not matter.
  const auto others = ((eight + 0x7676767676767676U) | eight) & 0x8080808080808080U;
  if (others == 0) return {0, 8};
  const int digits = std::countr_zero(others) / 8;
  if (digits == 0) return {0, 0};
  eight <<= 64 - 8 * digits;  // zeros in front
  eight = eight * 10 + (eight >> 8U);
  constexpr std::uint64_t pairs = 0x000000ff000000ffU;
  eight =
      ((eight & pairs) * 0x000f424000000064U + ((eight >> 16U) & pairs) * 0x0000271000000001U) >>
      32U;
  return {static_cast<std::uint32_t>(eight), digits};
}

// Lines of a file, of which a piece may hold a part; without their ends, comments and empty ones.
class Lines {
 public:
  explicit Lines(InputFile file) : file_(std::move(file)), buffer_(chunk) {}

  /// False at the end, or at a line that is too long.
  bool next(std::string_view& line) {
    while (raw(line)) {
      ++number_;
      if (line.ends_with('\r')) line.remove_suffix(1);
      line = trimmed(line);
      if (!line.empty() && line.front() != '#') return true;
    }
    return false;
  }
  /// Reads lines that are one whole number of up to seven digits each, as far as they are in the
  /// buffer and `into` has room: most of a long record is. Gives how many.
  std::size_t whole_numbers(std::span<double> into) {
    const char* line = buffer_.data() + at_;
    const char* const end = buffer_.data() + end_;
    std::size_t count = 0;
    while (count < into.size() && end - line >= 10) {
      const bool minus = *line == '-';
      const auto [value, digits] = digits_of(line + (minus ? 1 : 0));
      if (digits == 0 || digits == 8) break;
      const char* at = line + (minus ? 1 : 0) + digits;
      if (*at == '\r') ++at;
      if (*at != '\n') break;
      into[count++] = minus ? -static_cast<double>(value) : static_cast<double>(value);
      line = at + 1;
    }
    number_ += count;
    at_ = static_cast<std::size_t>(line - buffer_.data());
    return count;
  }
  std::size_t number() const { return number_; }
  bool too_long() const { return too_long_; }
  bool failed() const { return std::ferror(file_.get()) != 0; }

 private:
  InputFile file_;
  std::vector<char> buffer_;
  std::size_t at_ = 0, end_ = 0, number_ = 0;
  bool ended_ = false, too_long_ = false, begun_ = false;

  bool raw(std::string_view& line) {
    if (too_long_) return false;
    for (;;) {
      const char* const begin = buffer_.data() + at_;
      const auto* found = static_cast<const char*>(std::memchr(begin, '\n', end_ - at_));
      if (found != nullptr || (ended_ && at_ < end_)) {
        const auto size = found != nullptr ? static_cast<std::size_t>(found - begin) : end_ - at_;
        line = {begin, size};
        at_ += found != nullptr ? size + 1 : size;
        return true;
      }
      if (ended_) return false;
      if (end_ - at_ > longest_line) {
        ++number_;
        too_long_ = true;
        return false;
      }
      std::memmove(buffer_.data(), begin, end_ - at_);
      end_ -= at_;
      at_ = 0;
      const auto got = std::fread(buffer_.data() + end_, 1, buffer_.size() - end_, file_.get());
      end_ += got;
      ended_ = got == 0;
      if (ended_ && std::ferror(file_.get()) != 0) {
        throw EnvironmentError(fmt::format("the record cannot be read: {}", std::strerror(errno)));
      }
      if (!begun_ && end_ >= 3 && std::memcmp(buffer_.data(), "\xef\xbb\xbf", 3) == 0) at_ = 3;
      begun_ = true;
    }
  }
};

class TextRecord : public RecordFile::Source {
 public:
  TextRecord(const std::string& path, const std::vector<std::string>& wanted)
      : path_(path), lines_(open_input(path)) {
    has_line_ = lines_.next(line_);
    if (!has_line_) {
      fail_record(path, lines_.too_long() ? too_long() : "no samples", "a number in each line");
    }
    const auto cells = split(line_);
    if (numbers_in(cells, ',') == cells.size()) {
      choose_by_place(cells.size(), wanted);
    } else {
      heading(heading_cells(cells, wanted), wanted);
    }
  }

  RecordRead read(const RecordFile::Block& block) override {
    SampleBlocks blocks(block, places_.size());
    SampleTimeCheck times(time_scale_);
    RecordRead result;
    values_.resize(places_.size());
    std::array<double, 512> some{};
    const bool alone = places_.size() == 1 && last_place_ == 0 && time_place_ == no_column;
    while (has_line_ || lines_.next(line_)) {
      has_line_ = false;
      result.damage = take(blocks, times);
      if (!result.damage.empty()) break;
      if (alone) {
        std::size_t count = 0;
        while ((count = lines_.whole_numbers(some)) > 0)
          blocks.append(std::span(some).first(count));
      }
    }
    if (result.damage.empty() && lines_.too_long()) result.damage = at_line(too_long());
    if (result.damage.empty() && lines_.failed()) result.damage = shown(path_) + ": reading failed";
    blocks.flush();
    result.samples = blocks.rounds();
    if (time_place_ != no_column && result.samples > 1) {
      result.times = times.result();
      if (result.times->period > 0.0) result.rate = 1.0 / result.times->period;
    }
    return result;
  }

 private:
  std::string path_;
  Lines lines_;
  std::string_view line_{};
  bool has_line_ = false;
  std::vector<std::size_t> places_{};  // column of each wanted one
  std::size_t time_place_ = no_column, last_place_ = 0;
  double time_scale_ = 1.0;
  BenchTable table_{.heading_line = 0};  // of a line 0: that which was read last
  std::vector<double> values_{};

  static std::size_t numbers_in(const std::vector<Cell>& cells, char separator) {
    return static_cast<std::size_t>(std::ranges::count_if(cells, [&](const Cell& cell) {
      return number(with_point(cell.text, separator)).has_value();
    }));
  }

  // The line before the first of numbers, whose cells are as many, is the heading: an instrument
  // may have others before it, and separate cells by semicolons or tabs.
  std::vector<Cell> heading_cells(const std::vector<Cell>& own,
                                  const std::vector<std::string>& wanted) {
    has_line_ = false;
    for (const auto& cell : own) {
      const auto name = heading_of(cell).name;
      const bool ours = name == "time" || name == "code" || name == "reading" ||
                        std::ranges::find(wanted, name) != wanted.end();
      if (ours) return own;
    }
    std::string before(line_);
    for (std::size_t i = 1; i < most_lines_before && lines_.next(line_); ++i) {
      for (const char separator : separators) {
        const auto names_of_cells = split(before, separator), cells = split(line_, separator);
        if (names_of_cells.size() != cells.size() || numbers_in(names_of_cells, separator) > 0 ||
            numbers_in(cells, separator) < cells.size())
          continue;
        has_line_ = true;
        table_ = table_at(lines_.number() - 1, separator, i > 1);
        notes = table_.notes;
        return names_of_cells;
      }
      before = line_;
    }
    if (lines_.number() <= 1) return own;
    fail("no heading with lines of numbers behind it", "a name for each column, then samples");
  }

  static std::string too_long() {
    return fmt::format("a line of more than {} characters", longest_line);
  }
  std::string at_line(const std::string& what) const {
    return fmt::format("{}:{}: {}", shown(path_), lines_.number(), what);
  }

  // At the line that is being read.
  [[noreturn]] void fail(std::string found, std::string allowed) const {
    fail_record(path_, std::move(found), std::move(allowed),
                table_.heading_line > 0 ? table_.heading_line : lines_.number());
  }

  void choose_by_place(std::size_t columns, const std::vector<std::string>& wanted) {
    units.assign(wanted.size(), "");
    if (columns != wanted.size()) {
      fail(fmt::format("{} columns without a heading", columns),
           wanted.empty() ? "--channel for each, in their order"
                          : fmt::format("{}: as many as were asked for", wanted.size()));
    }
    for (std::size_t i = 0; i < columns; ++i) places_.push_back(i);
    last_place_ = columns - 1;
  }

  void heading(const std::vector<Cell>& cells, std::vector<std::string> wanted) {
    std::vector<Heading> found;
    std::vector<std::string> known;
    for (const auto& cell : cells) {
      found.push_back(heading_of(cell));
      if (found.back().name == "time" || found.back().name == "Time") {
        time_place_ = found.size() - 1;
        time_scale_ = scale_of_time(found.back().unit);
      } else {
        known.push_back(found.back().name);
      }
    }
    if (wanted.empty()) names = wanted = known;
    if (wanted.empty()) fail("no column but the time", "a column of samples");
    units.assign(wanted.size(), "");
    const auto among = [&](const auto& name) {
      return std::ranges::find(known, name) != known.end();
    };
    bool any = std::ranges::any_of(wanted, among);
    // One channel of a log, whose columns are called as in a readings file.
    for (const char* const column : {"code", "reading"}) {
      if (any || wanted.size() != 1 || !among(column)) continue;
      wanted = {column};
      any = true;
    }
    std::size_t next = 0;
    for (std::size_t i = 0; i < wanted.size(); ++i) {
      auto place = no_column;
      for (std::size_t k = next; k < found.size() && place == no_column; ++k) {
        const bool matches = any ? found[k].name == wanted[i] : k != time_place_;
        if (matches) place = k;
      }
      const bool all_in_order = any || known.size() == wanted.size();
      if (place == no_column || !all_in_order) {
        fail(fmt::format("columns {}", fmt::join(known, ", ")),
             fmt::format("one called \"{}\", or --column with the one to take", wanted[i]));
      }
      if (!any) next = place + 1;
      places_.push_back(place);
      units[i] = found[place].unit;
      last_place_ = std::max(last_place_, place);
    }
    if (time_place_ != no_column) last_place_ = std::max(last_place_, time_place_);
  }

  double scale_of_time(const std::string& unit) const {
    for (const auto& [name, scale] : {std::pair{"s", 1.0},
                                      {"ms", 1e-3},
                                      {"us", 1e-6},
                                      {"ns", 1e-9},
                                      {"min", 60.0},
                                      {"h", 3600.0}}) {
      if (unit == name) return scale;
    }
    fail(fmt::format("time [{}]", unit), "time [s], [ms], [us], [ns], [min] or [h]");
  }

  // The samples of the line, or what is wrong with it.
  std::string take(SampleBlocks& blocks, SampleTimeCheck& times) {
    auto rest = line_;
    double time = 0.0;
    for (std::size_t column = 0; column <= last_place_; ++column) {
      const auto comma = std::min(rest.find(table_.separator), rest.size());
      const auto cell = trimmed(rest.substr(0, comma));
      if (comma == rest.size() && column < last_place_) {
        return at_line(sentence(fmt::format("{} cells", column + 1),
                                fmt::format("{} or more", last_place_ + 1)));
      }
      rest.remove_prefix(std::min(comma + 1, rest.size()));
      const bool is_time = column == time_place_;
      if (!is_time && std::ranges::find(places_, column) == places_.end()) continue;
      const auto value = table_.separator == ','
                             ? number(cell)
                             : number(with_point(std::string(cell), table_.separator));
      if (!value) return at_line(sentence(fmt::format("\"{}\"", cell), "a number"));
      if (is_time) time = *value;
      for (std::size_t i = 0; i < places_.size(); ++i) {
        if (places_[i] == column) values_[i] = *value;
      }
    }
    if (time_place_ != no_column) times.add(time);
    for (std::size_t i = 0; i < values_.size(); ++i) blocks.add(i, values_[i]);
    blocks.round();
    return {};
  }
};

}  // namespace

std::unique_ptr<RecordFile::Source> text_record(const std::string& path,
                                                const std::vector<std::string>& wanted) {
  return std::make_unique<TextRecord>(path, wanted);
}

}  // namespace tamlo::io
