// SPDX-License-Identifier: Apache-2.0
#include <filesystem>

#include "board_parts.hpp"
#include "board_settings.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"

namespace tamlo::io {
namespace {

// Of all texts in a table, those that are the name of a file beside it.
void gather(const toml::node& node, const std::string& beside, FileTexts& files,
            std::string& texts) {
  if (const auto* table = node.as_table()) {
    for (const auto& [key, value] : *table) gather(value, beside, files, texts);
  } else if (const auto* array = node.as_array()) {
    for (const auto& value : *array) gather(value, beside, files, texts);
  } else if (const auto* text = node.as_string()) {
    std::error_code error;
    const auto path = name_beside(beside, text->get());
    if (std::filesystem::is_regular_file(path_of(path), error)) texts += files.at(path) + '\0';
  }
}

}  // namespace

std::string BoardFiles::all_texts(const std::vector<std::string>& others) const {
  auto paths = paths_;
  paths.insert(paths.end(), others.begin(), others.end());
  std::string result;
  for (const auto& path : paths) {
    result += texts_->at(path) + '\0';
    auto table = parse_toml_text(texts_->at(path), path);
    gather(table, path, *texts_, result);
    for (const auto& part : expand_parts(table, path, *texts_))
      result += texts_->at(part.file) + '\0';
  }
  return result;
}

}  // namespace tamlo::io
