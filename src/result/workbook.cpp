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
#include "tamlo/error.hpp"
#include "tamlo/result/detail/table.hpp"

namespace tamlo::result {
namespace {

struct Library {
  tamlo::detail::SharedLibrary file{"libxlsxwriter.so.4", "writes workbooks", "libxlsxwriter4"};
  TAMLO_LOADED(open, workbook_new);
  TAMLO_LOADED(add_sheet, workbook_add_worksheet);
  TAMLO_LOADED(add_format, workbook_add_format);
  TAMLO_LOADED(close, workbook_close);
  TAMLO_LOADED(set_bold, format_set_bold);
  TAMLO_LOADED(set_wrap, format_set_text_wrap);
  TAMLO_LOADED(set_number, format_set_num_format);
  TAMLO_LOADED(set_ground, format_set_bg_color);
  TAMLO_LOADED(write_text, worksheet_write_string);
  TAMLO_LOADED(write_number, worksheet_write_number);
  TAMLO_LOADED(set_column, worksheet_set_column);
  TAMLO_LOADED(freeze, worksheet_freeze_panes);
};

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
  constexpr std::size_t longest_name = 28;  // 31 with the number of one that comes twice
  static const Library library{};
  const Memory memory;
  auto* book = library.open(memory.path().c_str());
  if (book == nullptr) throw EnvironmentError("no memory for a workbook");
  const auto formats = formats_of(library, book);
  std::set<std::string> names;
  for (const auto& table : tables) {
    auto* sheet = library.add_sheet(book, short_name(table.title, longest_name, names).c_str());
    if (sheet == nullptr) throw EnvironmentError("a table that no workbook can have");
    fill(library, sheet, formats, table);
  }
  if (library.close(book) != LXW_NO_ERROR) throw EnvironmentError("the workbook was not written");
  return memory.bytes();
}

}  // namespace tamlo::result
