// SPDX-License-Identifier: Apache-2.0
// What a choices file may name: keys that the board has or may have, and values that are read
// there.
#include <fmt/format.h>

#include <algorithm>

#include "board_settings.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/choices_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/model/detail/board_keys.hpp"

namespace tamlo::io {
namespace {

constexpr std::size_t most_read = 16;    // options of a choice, evenly over them
constexpr std::size_t most_pairs = 200;  // with options of other choices

bool stands_within(std::string_view inner, std::string_view outer) {
  return inner.starts_with(outer) && (inner.size() == outer.size() || inner[outer.size()] == '.');
}

class Checker {
 public:
  Checker(const std::string& path, const ChoicesFile& file, const model::Board& board,
          const BoardFiles& files)
      : file_(file), files_(files), problems_(path) {
    for (const auto& key : model::settable_keys(board)) keys_.emplace_back(dotted(key), key);
  }

  void check() {
    for (std::size_t i = 0; i < file_.space.choices.size(); ++i) {
      if (!check_keys(i)) continue;
      const auto count = file_.settings[i].size();
      const auto step = std::max<std::size_t>(1, count / most_read);
      for (std::size_t option = 0; option < count; option += step) check_option(i, option);
    }
    problems_.refuse_any();
  }

 private:
  const ChoicesFile& file_;
  const BoardFiles& files_;
  std::vector<std::pair<std::string, std::string>> keys_{};  // dotted, and as they are shown
  FileProblems problems_;

  bool check_keys(std::size_t i) {
    bool known = true;
    for (const auto& key : file_.space.choices[i].keys) {
      const bool found = std::ranges::any_of(keys_, [&](const auto& each) {
        return stands_within(each.first, key) || stands_within(key, each.first);
      });
      if (found) continue;
      known = false;
      std::vector<std::string> shown;
      for (const auto& each : keys_) shown.push_back(each.second);
      const auto near = nearest(key, shown);
      problems_.add(
          file_.places[i].choice, "choice.key", fmt::format("\"{}\"", key),
          "a key of this board" + (near.empty() ? "; tamlo --keys BOARD lists them"
                                                : fmt::format(" (did you mean {}?)", near)));
    }
    return known;
  }

  // What cannot be read alone may yet belong to an option of another choice.
  void check_option(std::size_t i, std::size_t option) {
    const auto& own = file_.settings[i][option];
    const auto wrong = problem(own);
    if (!wrong) return;
    std::size_t pairs = 0;
    for (std::size_t other = 0; other < file_.settings.size(); ++other) {
      for (const auto& with : file_.settings[other]) {
        if (other == i || ++pairs > most_pairs) continue;
        auto both = own;
        both.insert(both.end(), with.begin(), with.end());
        if (!problem(both)) return;
      }
    }
    problems_.add(file_.places[i].options[option], wrong->path, wrong->problem, wrong->hint);
  }

  std::optional<Problem> problem(const std::vector<std::string>& settings) const {
    try {
      files_.with(settings);
    } catch (const BadInput& error) {
      return error.problems.front();
    }
    return {};
  }
};

}  // namespace

void check_choices(const std::string& path, const ChoicesFile& file, const model::Board& board,
                   const BoardFiles& files) {
  Checker(path, file, board, files).check();
}

}  // namespace tamlo::io
