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
#include <map>
#include <memory>
#include <mutex>
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
std::string joined(const std::vector<Problem>& problems) {
  constexpr std::size_t most = 50;
  std::string text;
  for (std::size_t i = 0; i < std::min(most, problems.size()); ++i) {
    text += (text.empty() ? "" : "\n") + to_string(problems[i]);
  }
  if (problems.size() > most) text += fmt::format("\nand {} more", problems.size() - most);
  return text;
}

}  // namespace

BadInput::BadInput(std::vector<Problem> all) : Error(joined(all)), problems(std::move(all)) {}

FileProblems::FileProblems(std::string file) : file_(std::move(file)) {}

void FileProblems::add(const FilePlace& at, std::string key, std::string problem,
                       std::string hint) {
  found_.push_back({.file = file_,
                    .line = std::max<std::size_t>(at.line, 1),
                    .column = std::max<std::size_t>(at.column, 1),
                    .path = std::move(key),
                    .problem = std::move(problem),
                    .hint = std::move(hint)});
}

void FileProblems::refuse_any() const {
  if (!found_.empty()) throw BadInput(found_);
}

void refuse(std::string option, std::string problem, std::string hint) {
  throw BadInput({{.file = "command line",
                   .path = std::move(option),
                   .problem = std::move(problem),
                   .hint = std::move(hint)}});
}

namespace {

constexpr std::size_t most_text = std::size_t{64} << 20;

std::string text_of(const std::string& path) {
  const auto fail = [&](std::string_view found) -> std::string {
    throw BadInput({{.file = path, .problem = std::string(found)}});
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

}  // namespace

std::string read_file(const std::string& path) {
  if (!is_read_once(path)) return text_of(path);
  static std::mutex reading;
  static std::map<std::string, std::string> kept;
  const std::scoped_lock one(reading);
  const auto found = kept.find(path);
  return found != kept.end() ? found->second : kept.emplace(path, text_of(path)).first->second;
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

std::string one_of(std::string_view word, const std::vector<std::string>& known,
                   std::string_view kind) {
  constexpr std::size_t few = 8;
  const auto near = nearest(word, known);
  if (known.size() > few && !near.empty()) return fmt::format("did you mean \"{}\"?", near);
  return fmt::format(
      "{}{}{}{}", kind, known.size() > 1 ? "one of " : "", fmt::join(known, ", "),
      near.empty() || known.size() == 1 ? "" : fmt::format(" (did you mean \"{}\"?)", near));
}

}  // namespace tamlo::io
