// SPDX-License-Identifier: Apache-2.0
// The schema of a board file: its keys are those that the reader asks for, what they mean is what
// docs/board-file.md says of them.
#include "board_schema.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>
#include <regex>
#include <sstream>

#include "roff.hpp"

namespace tamlo::tool {
namespace {

using io::KeyForm;
using Json = nlohmann::ordered_json;

struct Meaning {
  std::string text, otherwise;
};

// The cells of a row of a table, none of another line.
std::vector<std::string> cells(const std::string& line) {
  std::vector<std::string> result;
  if (!line.starts_with("| ")) return result;
  std::string cell;
  for (std::size_t i = 1; i < line.size(); ++i) {
    if (line[i] != '|') {
      cell += line[i];
      continue;
    }
    const auto first = cell.find_first_not_of(' '), last = cell.find_last_not_of(' ');
    result.push_back(first == std::string::npos ? "" : cell.substr(first, last - first + 1));
    cell.clear();
  }
  return result;
}

// The keys of a first cell: `inl`, `dnl`.
std::vector<std::string> quoted_in(const std::string& cell) {
  static const std::regex quoted("`([^`]+)`");
  std::vector<std::string> result;
  for (std::sregex_iterator at(cell.begin(), cell.end(), quoted), end; at != end; ++at) {
    result.push_back((*at)[1]);
  }
  return result;
}

// The defaults of several keys: "none, 0 ohm".
std::vector<std::string> parted(const std::string& cell) {
  static const std::regex between("[,;] ?");
  return {std::sregex_token_iterator(cell.begin(), cell.end(), between, -1), {}};
}

// Where the rows below a heading belong: "[channel.NAME]" is "channel.*".
std::string section_of(const std::string& heading) {
  if (heading.find("Sensors") != std::string::npos) return "channel.*.sensor";
  if (heading.find("Front end") != std::string::npos) return "channel.*.frontend";
  const auto open = heading.find('['), close = heading.find(']');
  if (open == std::string::npos || close == std::string::npos) return {};
  auto path = heading.substr(open + 1, close - open - 1);
  if (const auto name = path.find("NAME"); name != std::string::npos) path.replace(name, 4, "*");
  return path;
}

std::map<std::string, Meaning> meanings(const std::string& page) {
  static const std::regex word("[a-z_][a-z_0-9]*");
  std::map<std::string, Meaning> result;
  std::istringstream lines(page);
  std::string section;
  for (std::string line; std::getline(lines, line);) {
    if (line.starts_with("##")) section = section_of(line);
    const auto row = cells(line);
    if (section.empty() || row.size() < 3) continue;
    const auto keys = quoted_in(row[0]);
    const auto defaults = parted(row[2]);
    for (std::size_t i = 0; i < keys.size(); ++i) {
      const auto& key = keys[i];
      // Of `linear = { ... }` and `{ divider = { ... } }` the first word.
      std::smatch first;
      if (!std::regex_search(key, first, word)) continue;
      auto& meaning = result[section + "." + first[0].str()];
      const bool part = section.starts_with("channel.*.");
      const bool correction = section.ends_with(".correction");
      if (!part || correction) {
        meaning = {row[1], defaults.size() == keys.size() ? defaults[i] : row[2]};
      } else {
        meaning.text += (meaning.text.empty() ? "" : "; or ") + key;
        if (!row[2].empty()) meaning.text += ": " + row[2];
      }
    }
  }
  return result;
}

std::string about(const io::BoardKey& key) {
  const auto unit = key.unit.empty() ? std::string() : " in " + key.unit;
  const auto bounds = key.bounds.empty() ? std::string() : " " + key.bounds;
  switch (key.form) {
    case KeyForm::value:
      return fmt::format("A value{}{}, and its limits", unit, bounds);
    case KeyForm::plain:
      return fmt::format("A value{}{}", unit, bounds);
    case KeyForm::limits:
      return fmt::format("Limits{}", unit);
    case KeyForm::noise:
      return fmt::format("A noise{}, rms", unit);
    case KeyForm::range:
      return fmt::format("A range{}{}", unit, bounds);
    case KeyForm::integer:
      return fmt::format("A whole number from {} to {}", key.low, key.high);
    case KeyForm::number:
      return fmt::format("A number{}", bounds);
    case KeyForm::flag:
      return "true or false";
    case KeyForm::text:
      return "A text";
    case KeyForm::choice:
      return fmt::format("\"{}\"", fmt::join(key.choices, "\" or \""));
    case KeyForm::name:
      return fmt::format("The name of a [{}]", key.bounds);
    case KeyForm::numbers:
      return key.bounds.empty() ? "Numbers" : "An array of " + key.bounds;
    case KeyForm::texts:
      return "Texts";
    case KeyForm::table:
      return "A table";
    case KeyForm::tables:
      return "Tables in a row";
  }
  return {};
}

Json form_of(const io::BoardKey& key) {
  switch (key.form) {
    case KeyForm::integer:
      return {{"type", "integer"}, {"minimum", key.low}, {"maximum", key.high}};
    case KeyForm::number:
      return {{"type", "number"}};
    case KeyForm::flag:
      return {{"type", "boolean"}};
    case KeyForm::choice:
      return {{"type", "string"}, {"enum", key.choices}};
    case KeyForm::numbers:
      return {{"type", "array"}, {"items", {{"type", "number"}}}};
    case KeyForm::texts:
      return {{"type", "array"}, {"items", {{"type", "string"}}}};
    case KeyForm::table:
      return {{"type", "object"}};
    case KeyForm::tables:
      return {{"type", "array"}, {"items", {{"type", "object"}}}};
    default:
      return {{"type", "string"}};
  }
}

/// Keys by their paths, each with its forms; "*" stands for names.
class Tree {
 public:
  Tree(const std::vector<io::BoardKey>& keys, std::map<std::string, Meaning> meanings)
      : meanings_(std::move(meanings)) {
    for (const auto& key : keys) {
      if (!forms_.contains(key.path)) order_.push_back(key.path);
      forms_[key.path].push_back(key);
    }
  }

  /// Every key below the sections: its path in the file, and its words.
  std::vector<std::pair<std::string, std::string>> texts() const {
    std::vector<std::pair<std::string, std::string>> result;
    for (const auto& path : order_) {
      if (path.ends_with("*")) continue;
      const auto of = described(path);
      auto text = of["description"].get<std::string>();
      if (of.contains("default")) text += "\nDefault: " + of["default"].dump();
      result.emplace_back(path, std::move(text));
    }
    return result;
  }

  /// The object at a path.
  Json object(const std::string& path) const {
    Json properties = Json::object(), named, required = Json::array();
    for (const auto& child : order_) {
      const auto dot = child.rfind('.');
      const auto parent = dot == std::string::npos ? std::string() : child.substr(0, dot);
      if (parent != path) continue;
      const auto name = dot == std::string::npos ? child : child.substr(dot + 1);
      if (name == "*") {
        named = described(child);
        continue;
      }
      properties[name] = described(child);
      if (forms_.at(child).front().required) required.push_back(name);
    }
    Json result{{"type", "object"}};
    if (!properties.empty()) result["properties"] = std::move(properties);
    result["additionalProperties"] = named.is_null() ? Json(false) : std::move(named);
    if (!required.empty()) result["required"] = std::move(required);
    return result;
  }

 private:
  std::map<std::string, Meaning> meanings_;
  std::map<std::string, std::vector<io::BoardKey>> forms_{};
  std::vector<std::string> order_{};

  Json described(const std::string& path) const {
    const auto& forms = forms_.at(path);
    std::vector<std::string> abouts;
    Json any = Json::array();
    for (const auto& of : forms) {
      auto form = form_of(of);
      if (of.form == KeyForm::table) form = object(path);
      if (of.form == KeyForm::tables) form["items"] = object(path);
      any.push_back(std::move(form));
      abouts.push_back(about(of));
    }
    Json result = any.size() == 1 ? std::move(any[0]) : Json{{"anyOf", std::move(any)}};
    auto text = fmt::format("{}", fmt::join(abouts, "; or: "));
    if (const auto meaning = meanings_.find(path); meaning != meanings_.end()) {
      text = meaning->second.text + "\n" + text;
      const auto& otherwise = meaning->second.otherwise;
      const auto literals = quoted_in(otherwise);
      // A default that is a value is one for programs too.
      auto value = literals.size() == 1 && otherwise == "`" + literals[0] + "`"
                       ? Json::parse(literals[0], nullptr, false)
                       : Json::parse(otherwise, nullptr, false);
      if (!value.is_discarded()) {
        result["default"] = std::move(value);
      } else if (!otherwise.empty()) {
        text += "\nDefault: " + otherwise;
      }
    }
    result["description"] = text;
    return result;
  }
};

// The lines of a text one below the other, without what sets off code in a page of Markdown.
std::string roff_lines(std::string text) {
  std::erase(text, '`');
  std::istringstream lines(text);
  std::string result;
  for (std::string line; std::getline(lines, line);) {
    result += (result.empty() ? "" : "\n.br\n") + roff(line);
  }
  return result;
}

}  // namespace

std::string board_manual(const std::vector<io::BoardKey>& keys, const std::string& page) {
  std::string result =
      ".TH TAMLO\\-BOARD 5\n.SH NAME\ntamlo\\-board \\- the description of a board, in TOML\n"
      ".SH DESCRIPTION\nValues are texts in the notation of a datasheet, with their units: "
      "\"2.5 V \\(+-0.05 % \\(+-10 ppm/K\". A later file overrides single keys of an earlier one. "
      "Names of sections are the user's own; here they are NAME.\n";
  // Section by section, as the reader comes to them.
  const auto texts = Tree(keys, meanings(page)).texts();
  std::vector<std::string> sections;
  const auto section_of_path = [](const std::string& path) {
    return path.substr(0, path.find('.'));
  };
  for (const auto& [path, text] : texts) {
    if (std::ranges::find(sections, section_of_path(path)) == sections.end()) {
      sections.push_back(section_of_path(path));
    }
  }
  for (const auto& section : sections) {
    result += ".SH " + roff(section) + "\n";
    for (const auto& [path, text] : texts) {
      if (section_of_path(path) != section || (path == section && sections.front() != section))
        continue;
      auto shown = path;
      for (auto at = shown.find('*'); at != std::string::npos; at = shown.find('*')) {
        shown.replace(at, 1, "NAME");
      }
      result += ".TP\n.B " + roff(shown) + "\n" + roff_lines(text) + "\n";
    }
  }
  return result + ".SH SEE ALSO\n.BR tamlo (1),\n.BR tamlo\\-check (1)\n";
}

std::string board_schema(const std::vector<io::BoardKey>& keys, const std::string& page) {
  Json result{
      {"$schema", "http://json-schema.org/draft-07/schema#"},
      {"title", "A board of Tamlo"},
      {"description", "Values are texts in the notation of a datasheet: \"2.5 V ±0.05 %\""}};
  result.update(Tree(keys, meanings(page)).object(""));
  return result.dump(1) + "\n";
}

}  // namespace tamlo::tool
