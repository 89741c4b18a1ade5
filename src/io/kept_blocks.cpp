// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/kept_blocks.hpp"

#include <fmt/format.h>

#include <charconv>
#include <fstream>
#include <utility>

#include "tamlo/io/detail/log.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/math/detail/hash.hpp"

namespace tamlo::io {
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
          .path = {},
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
