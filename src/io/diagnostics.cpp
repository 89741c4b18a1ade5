// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/diagnostics.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <memory>
#include <numeric>
#include <utility>

#include "input_file.hpp"
#include "tamlo/quantity/detail/number.hpp"

namespace tamlo::io {
namespace {

// Letters to change, add or take away to get from one word to the other (Levenshtein, 1966).
std::size_t distance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> row(b.size() + 1);
  std::iota(row.begin(), row.end(), std::size_t{0});
  for (std::size_t i = 0; i < a.size(); ++i) {
    std::size_t diagonal = std::exchange(row[0], i + 1);
    for (std::size_t j = 0; j < b.size(); ++j) {
      const std::size_t change = diagonal + (a[i] == b[j] ? 0 : 1);
      diagonal = row[j + 1];
      row[j + 1] = std::min({change, row[j] + 1, diagonal + 1});
    }
  }
  return row.back();
}

// The first of very many; what the others are, the first mostly tell.
std::string joined(const std::vector<Diagnostic>& diagnostics) {
  constexpr std::size_t most = 50;
  std::string text;
  for (std::size_t i = 0; i < std::min(most, diagnostics.size()); ++i) {
    text += (text.empty() ? "" : "\n") + to_string(diagnostics[i]);
  }
  if (diagnostics.size() > most) text += fmt::format("\nand {} more", diagnostics.size() - most);
  return text;
}

// A text of the user that is too long to be looked at is shown by its head.
std::string shown(std::string_view text, std::size_t most = 300) {
  if (text.size() <= most) return quantity::printable(text);
  // Not within a character.
  auto end = most;
  while (end > 0 && (text[end] & '\xc0') == '\x80') --end;
  return quantity::printable(text.substr(0, end)) + fmt::format("... ({} bytes)", text.size());
}

}  // namespace

std::string to_string(const Diagnostic& d) {
  std::string text = quantity::printable(d.file);
  if (d.line > 0) text += fmt::format(":{}:{}", d.line, d.column);
  if (!d.key.empty()) text += ": " + shown(d.key);
  if (d.allowed.empty()) return fmt::format("{}: {}", text, shown(d.found));
  return fmt::format("{}: found {}; allowed: {}", text, shown(d.found), shown(d.allowed, 4000));
}

BadInput::BadInput(std::vector<Diagnostic> all) : Error(joined(all)), diagnostics(std::move(all)) {}

namespace {
constexpr std::size_t most_text = std::size_t{64} << 20;
}  // namespace

std::string read_file(const std::string& path) {
  const auto fail = [&](std::string_view found) -> std::string {
    throw BadInput({{.file = path, .found = std::string(found)}});
  };
  const auto file = open_input(path);
  std::string text;
  std::array<char, 65536> block;
  while (const auto got = std::fread(block.data(), 1, block.size(), file.get())) {
    text.append(block.data(), got);
    if (text.size() > most_text) return fail("more than 64 MB");
  }
  // What cannot be read to its end is not what was written.
  if (std::ferror(file.get()) != 0) {
    throw EnvironmentError(fmt::format("cannot read {}: {}", path, std::strerror(errno)));
  }
  return text;
}

std::string nearest(std::string_view word, const std::vector<std::string>& known) {
  std::string best;
  std::size_t least = std::max<std::size_t>(1, word.size() / 3) + 1;
  for (const auto& candidate : known) {
    if (const auto d = distance(word, candidate); d < least) {
      least = d;
      best = candidate;
    }
  }
  return best;
}

std::string one_of(std::string_view word, const std::vector<std::string>& known) {
  const auto near = nearest(word, known);
  return fmt::format("{}{}{}", known.size() > 1 ? "one of " : "", fmt::join(known, ", "),
                     near.empty() ? "" : fmt::format(" (did you mean {}?)", near));
}

}  // namespace tamlo::io
