// SPDX-License-Identifier: Apache-2.0
// Sections that take keys from a file of their own: use = "parts/adc12.toml".
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <filesystem>
#include <string>

#include "board_parts.hpp"
#include "board_settings.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"

namespace tamlo::io {
namespace {

namespace fs = std::filesystem;

constexpr std::array sections{"reference", "converter", "meter"};

class Expansion {
 public:
  Expansion(toml::table& board, FileTexts& texts) : board_(board), texts_(texts) {}

  std::vector<model::UsedPart> run() {
    read_folders();
    for (const auto* section : sections) {
      each_of(section,
              [&](toml::table& own, const std::string& path) { expand(own, section, path); });
    }
    each_of("channel", [&](toml::table& channel, const std::string& path) {
      auto* sensor = channel.get_as<toml::table>("sensor");
      if (sensor != nullptr) expand(*sensor, "sensor", path + ".sensor");
      auto* parts = channel.get_as<toml::array>("frontend");
      for (std::size_t i = 0; parts != nullptr && i < parts->size(); ++i) {
        auto* part = parts->get_as<toml::table>(i);
        if (part != nullptr) expand(*part, "frontend", fmt::format("{}.frontend[{}]", path, i));
      }
    });
    if (!problems_.empty()) throw BadInput(std::move(problems_));
    return std::move(used_);
  }

 private:
  toml::table& board_;
  FileTexts& texts_;
  std::vector<fs::path> folders_{};
  std::vector<model::UsedPart> used_{};
  std::vector<Problem> problems_{};

  template <class Do>
  void each_of(const char* section, Do act) {
    auto* entries = board_.get_as<toml::table>(section);
    if (entries == nullptr) return;
    for (auto&& [name, node] : *entries) {
      if (auto* table = node.as_table())
        act(*table, std::string(section) + "." + std::string(name.str()));
    }
  }

  fs::path folder_of(const toml::node& node) const {
    const auto& from = node.source().path;
    return path_of(from ? file_behind(*from, texts_.first()) : texts_.first()).parent_path();
  }

  // Folders beside that of the board in which parts are looked for.
  void read_folders() {
    auto* board = board_.get_as<toml::table>("board");
    const auto* list = board != nullptr ? board->get_as<toml::array>("parts") : nullptr;
    if (list == nullptr) return;
    for (const auto& node : *list) {
      if (const auto* text = node.as_string()) folders_.push_back(folder_of(node) / text->get());
    }
  }

  void report(const toml::node& at, const std::string& path, std::string problem,
              std::string hint) {
    const auto& place = at.source();
    problems_.push_back({.file = place.path ? *place.path : texts_.first(),
                         .line = std::max<std::size_t>(place.begin.line, 1),
                         .column = std::max<std::size_t>(place.begin.column, 1),
                         .path = path + ".use",
                         .problem = std::move(problem),
                         .hint = std::move(hint)});
  }

  // A part lies beside the file that names it, beside the board, or in a folder that this names:
  // never above them.
  std::string found(const toml::node& at, const std::string& name) {
    const auto path = path_of(name);
    const bool climbs =
        std::ranges::any_of(path, [](const fs::path& word) { return word == ".."; });
    if (path.is_absolute() || climbs) return {};
    auto folders = folders_;
    folders.insert(folders.begin(), {folder_of(at), path_of(texts_.first()).parent_path()});
    std::error_code error;
    for (const auto& folder : folders) {
      if (fs::is_regular_file(folder / path, error)) return name_of(folder / path);
    }
    return {};
  }

  void expand(toml::table& own, const std::string& section, const std::string& path) {
    const auto* use = own.get("use");
    if (use == nullptr) return;
    const auto* text = use->as_string();
    const auto file = text != nullptr ? found(*use, text->get()) : std::string();
    if (file.empty()) {
      return report(*use, path,
                    text != nullptr ? fmt::format("no part \"{}\" beside the board", text->get())
                                    : describe(*use),
                    "a file in the folder of the board, or in one of parts = [...] of [board]");
    }
    auto part = parse_toml_text(texts_.at(file), file);
    const auto kind = part["part"].value<std::string>().value_or("");
    if (kind != section || part.contains("use")) {
      return report(*use, path,
                    kind.empty()      ? fmt::format("{} without its kind", file)
                    : kind != section ? fmt::format("{}, which is a {}", file, kind)
                                      : fmt::format("{}, which takes keys from another part", file),
                    fmt::format("a file with part = \"{}\" and the keys of one", section));
    }
    part.erase("part");
    model::UsedPart used{.section = path, .file = file, .keys = {}};
    merge(own, part, "", used);
    own.erase("use");
    used_.push_back(std::move(used));
  }

  // Tables of both are one, whose keys of its own win.
  static void merge(toml::table& own, toml::table& part, const std::string& above,
                    model::UsedPart& used) {
    for (auto&& [key, node] : part) {
      const auto name = above + std::string(key.str());
      auto* held = own.get(key.str());
      if (held == nullptr) {
        used.keys.push_back(name);
        node.visit([&, k = toml::key(key)](auto& value) { own.insert(k, std::move(value)); });
      } else if (held->is_table() && node.is_table()) {
        merge(*held->as_table(), *node.as_table(), name + ".", used);
      } else {
        used.overridden.push_back(name);
      }
    }
  }
};

}  // namespace

std::vector<model::UsedPart> expand_parts(toml::table& board, FileTexts& texts) {
  return Expansion(board, texts).run();
}

}  // namespace tamlo::io
