// SPDX-License-Identifier: Apache-2.0
// Sections that take keys from a file of their own: use = "parts/adc12.toml".
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <filesystem>
#include <string>

#include "board_parts.hpp"
#include "board_settings.hpp"
#include "tamlo/io/diagnostics.hpp"

namespace tamlo::io {
namespace {

namespace fs = std::filesystem;

constexpr std::array sections{"reference", "converter", "meter"};

class Expansion {
 public:
  Expansion(toml::table& board, std::string first) : board_(board), first_(std::move(first)) {}

  std::vector<model::UsedPart> run() {
    read_folders();
    for (const auto* section : sections) {
      auto* entries = board_.get_as<toml::table>(section);
      if (entries == nullptr) continue;
      for (auto&& [name, node] : *entries) {
        if (auto* table = node.as_table(); table != nullptr && table->contains("use"))
          expand(*table, section, std::string(section) + "." + std::string(name.str()));
      }
    }
    if (!problems_.empty()) throw BadInput(std::move(problems_));
    return std::move(used_);
  }

 private:
  toml::table& board_;
  std::string first_;  // file of the board
  std::vector<fs::path> folders_{};
  std::vector<model::UsedPart> used_{};
  std::vector<Problem> problems_{};

  static fs::path folder_of(const toml::node& node, const std::string& otherwise) {
    const auto& from = node.source().path;
    return fs::path(from ? *from : otherwise).parent_path();
  }

  // Folders beside that of the board in which parts are looked for.
  void read_folders() {
    auto* board = board_.get_as<toml::table>("board");
    const auto* list = board != nullptr ? board->get_as<toml::array>("parts") : nullptr;
    if (list == nullptr) return;
    for (const auto& node : *list) {
      if (const auto* text = node.as_string())
        folders_.push_back(folder_of(node, first_) / text->get());
    }
  }

  void report(const toml::node& at, const std::string& path, std::string problem,
              std::string hint) {
    const auto& place = at.source();
    problems_.push_back({.file = place.path ? *place.path : first_,
                         .line = std::max<std::size_t>(place.begin.line, 1),
                         .column = std::max<std::size_t>(place.begin.column, 1),
                         .path = path + ".use",
                         .problem = std::move(problem),
                         .hint = std::move(hint)});
  }

  // A part lies in a folder that the board names, or in its own: never above them.
  std::string found(const toml::node& at, const std::string& name) {
    const fs::path path(name);
    const bool climbs =
        std::ranges::any_of(path, [](const fs::path& word) { return word == ".."; });
    if (path.is_absolute() || climbs) return {};
    auto folders = folders_;
    folders.insert(folders.begin(), folder_of(at, first_));
    std::error_code error;
    for (const auto& folder : folders) {
      if (fs::is_regular_file(folder / path, error)) return (folder / path).string();
    }
    return {};
  }

  void expand(toml::table& own, const std::string& section, const std::string& path) {
    const auto* use = own.get("use");
    const auto* text = use->as_string();
    const auto file = text != nullptr ? found(*use, text->get()) : std::string();
    if (file.empty()) {
      return report(*use, path,
                    text != nullptr ? fmt::format("no part \"{}\" beside the board", text->get())
                                    : describe(*use),
                    "a file in the folder of the board, or in one of parts = [...] of [board]");
    }
    auto part = parse_toml(file);
    const auto kind = part["part"].value<std::string>().value_or("");
    if (kind != section || part.contains("use")) {
      return report(*use, path,
                    kind.empty()      ? fmt::format("{} without its kind", file)
                    : kind != section ? fmt::format("{}, which is a {}", file, kind)
                                      : fmt::format("{}, which takes keys from another part", file),
                    fmt::format("a file with part = \"{}\" and the keys of one", section));
    }
    part.erase("part");
    model::UsedPart used{.section = path, .file = file, .keys = {}, .overridden = {}};
    for (auto&& [key, node] : part) {
      const std::string name(key.str());
      if (own.contains(name)) {
        used.overridden.push_back(name);
        continue;
      }
      used.keys.push_back(name);
      node.visit([&, k = toml::key(key)](auto& value) { own.insert(k, std::move(value)); });
    }
    own.erase("use");
    used_.push_back(std::move(used));
  }
};

}  // namespace

std::vector<model::UsedPart> expand_parts(toml::table& board,
                                          const std::vector<std::string>& paths) {
  return Expansion(board, paths.front()).run();
}

}  // namespace tamlo::io
