// SPDX-License-Identifier: Apache-2.0
// Tables as a workbook (ECMA-376), a sheet each, by libxlsxwriter, loaded when one is made.
#include <fmt/format.h>
#include <sys/mman.h>
#include <unistd.h>
#include <xlsxwriter.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <set>

#include "field.hpp"
#include "tamlo/detail/shared_library.hpp"
#include "tamlo/result/detail/table.hpp"

namespace tamlo::result {
namespace {

struct Library {
  decltype(&workbook_new) open;
  decltype(&workbook_add_worksheet) add_sheet;
  decltype(&workbook_add_format) add_format;
  decltype(&workbook_close) close;
  decltype(&format_set_bold) set_bold;
  decltype(&format_set_text_wrap) set_wrap;
  decltype(&format_set_num_format) set_number;
  decltype(&format_set_bg_color) set_ground;
  decltype(&worksheet_write_string) write_text;
  decltype(&worksheet_write_number) write_number;
  decltype(&worksheet_set_column) set_column;
  decltype(&worksheet_freeze_panes) freeze;
};

Library load() {
  const tamlo::detail::SharedLibrary file("libxlsxwriter.so.4", "writes workbooks",
                                          "libxlsxwriter4");
  Library library{};
  file.find("workbook_new", library.open);
  file.find("workbook_add_worksheet", library.add_sheet);
  file.find("workbook_add_format", library.add_format);
  file.find("workbook_close", library.close);
  file.find("format_set_bold", library.set_bold);
  file.find("format_set_text_wrap", library.set_wrap);
  file.find("format_set_num_format", library.set_number);
  file.find("format_set_bg_color", library.set_ground);
  file.find("worksheet_write_string", library.write_text);
  file.find("worksheet_write_number", library.write_number);
  file.find("worksheet_set_column", library.set_column);
  file.find("worksheet_freeze_panes", library.freeze);
  return library;
}

// A file that is only in memory, which the library opens by a name.
class Memory {
 public:
  Memory() : descriptor_(memfd_create("workbook", MFD_CLOEXEC)) {
    if (descriptor_ < 0) throw EnvironmentError("no memory for a workbook");
  }
  ~Memory() { close(descriptor_); }
  Memory(const Memory&) = delete;
  Memory& operator=(const Memory&) = delete;

  std::string path() const { return fmt::format("/proc/self/fd/{}", descriptor_); }
  std::string bytes() const {
    std::string all;
    std::array<char, 65536> block;
    for (ssize_t got = 0; (got = pread(descriptor_, block.data(), block.size(),
                                       static_cast<off_t>(all.size()))) > 0;)
      all.append(block.data(), static_cast<std::size_t>(got));
    return all;
  }

 private:
  int descriptor_;
};

std::string plain_letters(std::string_view text) {
  std::string result;
  for (const char c : text) {
    const bool forbidden = std::string_view("[]:*?/\\'.").find(c) != std::string_view::npos;
    if (c >= 0x20 && c < 0x7f) result += forbidden ? ' ' : c;
  }
  return result;
}

// At most 31 characters, none of those that a name may not have, and no name twice: the channel and
// what the table is of, the channel shortened where both are too long.
std::string sheet_name(std::string_view title, std::set<std::string>& taken) {
  constexpr std::size_t most = 28;
  const auto first = title.find(": "), last = title.rfind(": ");
  auto head = plain_letters(title.substr(0, first));
  auto tail =
      first == std::string_view::npos ? std::string() : plain_letters(title.substr(last + 2));
  if (tail.starts_with("worst_place ")) tail.erase(5, 6);
  tail.resize(std::min(tail.size(), most - 6));
  head.resize(std::min(head.size(), tail.empty() ? most : most - 1 - tail.size()));
  const auto name = tail.empty() ? head : head + " " + tail;
  const auto lowered = [](std::string text) {
    std::ranges::transform(text, text.begin(), [](unsigned char c) { return std::tolower(c); });
    return text;
  };
  auto unique = name.empty() ? std::string("table") : name;
  for (int n = 2; !taken.insert(lowered(unique)).second; ++n)
    unique = fmt::format("{} {}", name, n);
  return unique;
}

std::optional<double> number_in(const Cell& cell) {
  const auto& text = cell.exact.empty() ? cell.shown : cell.exact;
  double value = 0.0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{} || end != text.data() + text.size() || !std::isfinite(value)) return {};
  return value;
}

struct Formats {
  lxw_format *heading, *whole, *plain, *small, *good, *bad, *doubtful;
};

Formats formats_of(const Library& library, lxw_workbook* book) {
  const auto numbers = [&](const char* form) {
    auto* added = library.add_format(book);
    library.set_number(added, form);
    return added;
  };
  const auto ground = [&](lxw_color_t colour) {
    auto* added = library.add_format(book);
    library.set_ground(added, colour);
    return added;
  };
  auto* heading = library.add_format(book);
  library.set_bold(heading);
  library.set_wrap(heading);
  return {.heading = heading,
          .whole = numbers("0"),
          .plain = numbers("0.0#####"),
          .small = numbers("0.000E+00"),
          .good = ground(0xd7f0dd),
          .bad = ground(0xf9d6d3),
          .doubtful = ground(0xfbe8c4)};
}

// The colour of a verdict; none of another text.
lxw_format* verdict_format(const Formats& formats, const std::string& text) {
  for (const char* word : {"met", "pass", "within", "sound"})
    if (text == word) return formats.good;
  for (const char* word : {"missed", "fail", "error"})
    if (text == word) return formats.bad;
  for (const char* word : {"undecided", "warning"})
    if (text == word) return formats.doubtful;
  return nullptr;
}

void fill(const Library& library, lxw_worksheet* sheet, const Formats& formats,
          const Table& table) {
  for (std::size_t c = 0; c < table.columns.size(); ++c) {
    const auto& column = table.columns[c];
    const auto& heading = column.exact.empty() ? column.heading : column.exact;
    const auto at = static_cast<lxw_col_t>(c);
    library.write_text(sheet, 0, at, heading.c_str(), formats.heading);
    std::size_t width = std::min<std::size_t>(heading.size(), 16);
    for (const auto& row : table.rows) {
      if (c < row.size()) width = std::max(width, std::min<std::size_t>(row[c].shown.size(), 48));
    }
    library.set_column(sheet, at, at, static_cast<double>(width) + 2.0, nullptr);
  }
  for (std::size_t r = 0; r < table.rows.size(); ++r) {
    const auto row = static_cast<lxw_row_t>(r + 1);
    for (std::size_t c = 0; c < table.rows[r].size(); ++c) {
      const auto& cell = table.rows[r][c];
      const auto at = static_cast<lxw_col_t>(c);
      if (const auto number = number_in(cell)) {
        const double size = std::abs(*number);
        auto* form = *number == std::round(*number) && size < 1e9 ? formats.whole
                     : size >= 1e-3 && size < 1e9                 ? formats.plain
                                                                  : formats.small;
        library.write_number(sheet, row, at, *number, form);
      } else {
        library.write_text(sheet, row, at, cell.shown.c_str(), verdict_format(formats, cell.shown));
      }
    }
  }
  library.freeze(sheet, 1, 0);
}

}  // namespace

std::string workbook(const std::vector<Table>& tables) {
  static const Library library = load();
  const Memory memory;
  auto* book = library.open(memory.path().c_str());
  if (book == nullptr) throw EnvironmentError("no memory for a workbook");
  const auto formats = formats_of(library, book);
  std::set<std::string> names;
  for (const auto& table : tables) {
    auto* sheet = library.add_sheet(book, sheet_name(table.title, names).c_str());
    if (sheet == nullptr) throw EnvironmentError("a table that no workbook can have");
    fill(library, sheet, formats, table);
  }
  if (library.close(book) != LXW_NO_ERROR) throw EnvironmentError("the workbook was not written");
  return memory.bytes();
}

}  // namespace tamlo::result
