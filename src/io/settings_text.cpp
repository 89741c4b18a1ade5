// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/settings_text.hpp"

#include <sstream>

#include "board_settings.hpp"

namespace tamlo::io {

std::string board_as_json(const std::vector<std::string>& paths,
                          const std::vector<std::string>& settings) {
  FileTexts texts(paths.front());
  const auto merged = merged_files(paths, settings, texts);
  std::ostringstream text;
  text << toml::json_formatter(merged.table, toml::json_formatter::default_flags |
                                                 toml::format_flags::allow_unicode_strings);
  return text.str();
}

std::string overlay_of(const std::vector<std::string>& settings) {
  const auto table = merged_settings(settings);
  std::ostringstream text;
  text << "# Changes that were tried in tamlo tune; give this file after those of the board.\n"
       << toml::toml_formatter(table, toml::toml_formatter::default_flags &
                                          ~toml::format_flags::allow_literal_strings)
       << "\n";
  return text.str();
}

}  // namespace tamlo::io
