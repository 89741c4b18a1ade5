// SPDX-License-Identifier: Apache-2.0
#include "toml_text.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>
#include <sstream>

#include "board_settings.hpp"
#include "tamlo/io/detail/overlays.hpp"

namespace tamlo::io {

std::string listed(const std::vector<double>& numbers) {
  std::vector<std::string> texts;
  for (const double x : numbers) {
    auto text = fmt::format("{}", x);
    // TOML tells an integer from a number by its point.
    if (text.find_first_of(".en") == std::string::npos) text += ".0";
    texts.push_back(std::move(text));
  }
  return fmt::format("[{}]", fmt::join(texts, ", "));
}

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
