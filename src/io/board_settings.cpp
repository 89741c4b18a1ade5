// SPDX-License-Identifier: Apache-2.0
// Files and single keys that override one another, before a board is read from them.
#include "board_settings.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>

#include "board_parts.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/math/detail/power_of_ten.hpp"

namespace tamlo::io {
namespace {

// TOML with keys a.b.c... of thousands of parts would be parsed by as many calls inside one
// another. The line of one that is too long, 0 where none is.
std::size_t line_of_long_key(std::string_view text) {
  constexpr int most_parts = 64;
  std::size_t line = 1;
  int parts = 0;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (c == '#') {
      i = std::min(text.find('\n', i), text.size()) - 1;
    } else if (c == '"' || c == '\'') {
      // To the end of the text: one quote or three, of which a backslash may hide some.
      const std::string quotes(text.substr(i).starts_with(std::string(3, c)) ? 3 : 1, c);
      for (i += quotes.size(); i < text.size() && !text.substr(i).starts_with(quotes); ++i) {
        if (text[i] == '\n') ++line;
        if (text[i] == '\\' && c == '"') ++i;
      }
      i += quotes.size() - 1;
    } else if (c == '.') {
      if (++parts >= most_parts) return line;
    } else if (std::string_view("=,{}[]\n").find(c) != std::string_view::npos) {
      parts = 0;
      if (c == '\n') ++line;
    }
  }
  return 0;
}

constexpr std::string_view of_a_setting = "--set ";

// "a.b.c=value" as a document of its own, of which the whole text is the place.
toml::table parse_setting(const std::string& setting) {
  const auto place = fmt::format("{}\"{}\"", of_a_setting, setting);
  const auto no_setting = [&]() -> toml::table {
    refuse("--set", fmt::format("\"{}\"", setting),
           "a key and its value: channel.pack_voltage.average=64");
  };
  const auto equals = setting.find('=');
  if (equals == std::string::npos || equals == 0) return no_setting();
  const auto key = dotted(setting.substr(0, equals)), value = setting.substr(equals + 1);
  if (line_of_long_key(setting) > 0) return no_setting();
  try {
    return toml::parse(std::string_view(key + " = " + value), std::string_view(place));
  } catch (const toml::parse_error&) {
    // A bare word or "±1 LSB": a text.
  }
  if (value.find('\'') != std::string::npos) return no_setting();
  try {
    return toml::parse(std::string_view(key + " = '" + value + "'"), std::string_view(place));
  } catch (const toml::parse_error&) {
    return no_setting();
  }
}

void merge(toml::table& base, toml::table& over);

// "frontend.0.amplifier.use": a table over an array reaches into its elements by their numbers.
// False where a key is no number of an element that is a table.
bool merge_elements(toml::array& base, toml::table& over) {
  std::vector<std::pair<toml::table*, toml::table*>> pairs;
  for (auto&& [key, node] : over) {
    std::size_t at = base.size();
    const auto text = key.str();
    std::from_chars(text.data(), text.data() + text.size(), at);
    auto* element = at < base.size() ? base[at].as_table() : nullptr;
    if (element == nullptr || node.as_table() == nullptr) return false;
    pairs.emplace_back(element, node.as_table());
  }
  for (const auto& [element, inner] : pairs) merge(*element, *inner);
  return true;
}

// Moves every entry of `over` into `base`; tables are merged, all else is replaced, inline tables
// too, which are written whole. Nodes are moved, not copied, because only so do they keep the place
// where they stood.
void merge(toml::table& base, toml::table& over) {
  for (auto&& [key, node] : over) {
    auto* inner = node.as_table();
    auto* under = base.get_as<toml::table>(key.str());
    auto* list = base.get_as<toml::array>(key.str());
    if (inner != nullptr && under != nullptr && !inner->is_inline()) {
      merge(*under, *inner);
    } else if (inner != nullptr && list != nullptr && merge_elements(*list, *inner)) {
      continue;
    } else {
      node.visit(
          [&, k = toml::key(key)](auto& value) { base.insert_or_assign(k, std::move(value)); });
    }
  }
}

}  // namespace

Walk walk(const toml::table& from, std::string_view path) {
  Walk result{.nearest = &from};
  while (!path.empty()) {
    const auto word = path.substr(0, path.find('.'));
    path.remove_prefix(std::min(path.size(), word.size() + 1));
    const toml::node* inner = nullptr;
    std::size_t index = 0;
    if (const auto* table = result.nearest->as_table()) {
      inner = table->get(word);
    } else if (const auto* array = result.nearest->as_array();
               array != nullptr &&
               std::from_chars(word.data(), word.data() + word.size(), index).ec == std::errc{}) {
      inner = array->get(index);
    }
    if (inner == nullptr) return {.nearest = result.nearest, .whole = false};
    result.nearest = inner;
  }
  return result;
}

std::string dotted(std::string place) {
  for (auto at = place.find('['); at != std::string::npos; at = place.find('[')) {
    const auto end = place.find(']', at);
    if (end == std::string::npos) return place;
    place.replace(at, end - at + 1, "." + place.substr(at + 1, end - at - 1));
  }
  return place;
}

const std::string& file_behind(const std::string& place, const std::string& board) {
  return place.starts_with(of_a_setting) ? board : place;
}

const std::string& FileTexts::at(const std::string& path) {
  const std::scoped_lock one(reading_);
  if (const auto found = texts_.find(path); found != texts_.end()) return found->second;
  const auto& text = texts_.emplace(path, read_file(path)).first->second;
  order_.push_back(path);
  return text;
}

std::vector<std::string> FileTexts::paths() {
  const std::scoped_lock one(reading_);
  return order_;
}

std::string FileTexts::all() {
  std::string result;
  for (const auto& path : paths()) result += at(path) + '\0';
  return result;
}

toml::table parse_toml(const std::string& path) { return parse_toml_text(read_file(path), path); }

toml::table parse_toml_text(std::string_view text, const std::string& path) {
  if (const auto line = line_of_long_key(text); line > 0) {
    throw BadInput({{.file = path,
                     .line = line,
                     .column = 1,
                     .problem = "a key of more than 64 parts",
                     .hint = "keys of a board: channel.pack_voltage.average",
                     .code = "not-toml"}});
  }
  try {
    return toml::parse(text, std::string_view(path));
  } catch (const toml::parse_error& error) {
    throw BadInput({{.file = path,
                     .line = error.source().begin.line,
                     .column = error.source().begin.column,
                     .problem = fmt::format("text that is not TOML ({})", error.description()),
                     .hint = "TOML: [section] headers, and key = \"value\" lines",
                     .code = "not-toml"}});
  }
}

toml::table merged_settings(const std::vector<std::string>& settings) {
  toml::table result;
  for (const auto& setting : settings) {
    auto one = parse_setting(setting);
    merge(result, one);
  }
  return result;
}

MergedBoard merged_files(const std::vector<std::string>& paths,
                         const std::vector<std::string>& settings, FileTexts& texts) {
  MergedBoard merged;
  for (std::size_t i = 0; i < paths.size(); ++i) {
    auto file = parse_toml_text(texts.at(paths[i]), paths[i]);
    if (i == 0) {
      merged.table = std::move(file);
    } else {
      merge(merged.table, file);
    }
  }
  auto over = merged_settings(settings);
  merge(merged.table, over);
  merged.parts = expand_parts(merged.table, texts);
  return merged;
}

std::vector<KeyPlace> places_of(const std::vector<std::string>& paths,
                                const std::vector<std::string>& keys) {
  if (keys.empty()) return {};
  FileTexts texts(paths.front());
  const auto merged = merged_files(paths, {}, texts);
  std::vector<KeyPlace> result;
  for (const auto& key : keys) {
    const auto& at = walk(merged.table, dotted(key)).nearest->source();
    result.push_back({.file = at.path ? *at.path : paths.front(),
                      .line = std::max<std::size_t>(at.begin.line, 1),
                      .column = std::max<std::size_t>(at.begin.column, 1),
                      .end_column = at.end.line == at.begin.line ? at.end.column : 0});
  }
  return result;
}

void locate(check::Examined& check, const std::vector<std::string>& paths) {
  std::vector<std::string> keys;
  for (const auto& finding : check.findings) keys.push_back(finding.key);
  const auto places = places_of(paths, keys);
  for (std::size_t i = 0; i < places.size(); ++i) {
    auto& finding = check.findings[i];
    finding.file = places[i].file;
    finding.line = places[i].line;
    finding.column = places[i].column;
    finding.end_column = places[i].end_column;
  }
}

std::string text_at(const std::vector<std::string>& paths, const std::string& key) {
  FileTexts texts(paths.front());
  const auto merged = merged_files(paths, {}, texts);
  const auto [node, whole] = walk(merged.table, dotted(key));
  if (const auto text = whole ? node->value<std::string>() : std::nullopt) return *text;
  refuse(key, whole ? describe(*node) : "no such key in the board",
         "a key with a value and its limits, such as reference.precision.voltage");
}

namespace {

// As a text of so many digits reads, in its own unit.
double rounded_down(double size, const quantity::Unit& unit, int digits) {
  const double in_unit = size / unit.scale();
  if (!(in_unit > 0.0)) return size;
  const double place = math::power_of_ten(math::decade_of(in_unit) - digits + 1);
  const double rounded = std::floor(in_unit / place * (1.0 + 1e-12)) * place;
  return quantity::parse_number(fmt::format("{:.{}e}", rounded, digits - 1), unit);
}

}  // namespace

std::string with_limits_times(const std::string& text, double factor, const std::string& key,
                              int digits) {
  using quantity::Basis;
  try {
    auto value =
        quantity::parse_value(text, {.bases = {Basis::absolute, Basis::relative, Basis::code,
                                               Basis::digit, Basis::span, Basis::range}});
    bool any = false;
    for (auto& limit : value.limits) {
      if (limit.noise) continue;
      limit.size *= factor;
      if (digits > 0) limit.size = rounded_down(limit.size, limit.unit, digits);
      any = true;
    }
    if (any) return quantity::to_string(value);
  } catch (const quantity::NotationError& error) {
    refuse(key, error.problem, error.hint);
  }
  refuse(key, fmt::format("\"{}\", without limits", text),
         "a value with limits, such as \"2.5 V ±0.05 %\"");
}

}  // namespace tamlo::io
