// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/detail/kept_blocks.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <charconv>
#include <fstream>
#include <utility>

#include "tamlo/io/diagnostics.hpp"
#include "tamlo/link/detail/log.hpp"

namespace tamlo::link {
namespace {

// A row is a block: its number, then its figures, as their shortest exact text.
void read_row(const std::string& path, const std::string& row, math::Blocks& blocks) {
  const char* at = row.data();
  const char* const end = at + row.size();
  const auto damaged = [&] {
    return io::EnvironmentError(fmt::format("{}: a damaged row: \"{}\"", path, row.substr(0, 40)));
  };
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
          driver = std::move(driver)](const math::Blocks& asked) {
    const auto heading = fmt::format("block,figures of {}", identity);
    std::ifstream file(path);
    std::string row;
    if (std::getline(file, row) && row != heading) {
      throw io::EnvironmentError(fmt::format(
          "{}: keeps another work, with other files, options or another version: it stays as it is",
          path));
    }
    Log log(path, heading);  // whole rows from here on
    auto blocks = asked;
    blocks.known.resize(static_cast<std::size_t>(asked.count), false);
    if (!file.is_open()) file.open(path);
    file.clear();
    file.seekg(0);
    std::getline(file, row);
    while (std::getline(file, row)) read_row(path, row, blocks);
    if (file.bad()) throw io::EnvironmentError(path + ": cannot be read");
    blocks.take = [&](std::uint64_t block, const std::vector<double>& figures) {
      log.row(fmt::format("{},{}", block, fmt::join(figures, ",")));
      asked.take(block, figures);
    };
    return driver(blocks);
  };
}

std::string identity_of(const std::string& text) {
  std::uint64_t hash = 0xcbf29ce484222325U;
  for (const char c : text) hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001b3U;
  return fmt::format("{:016x}", hash);
}

}  // namespace tamlo::link
