// SPDX-License-Identifier: Apache-2.0
// The schema of a board file and its pages, from the table of keys.
#include "board_schema.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

#include "roff.hpp"
#include "tamlo/model/detail/board_keys.hpp"

namespace tamlo::tool {
namespace {

using model::Key;
using model::KeyForm;
using model::Keys;
using model::Kind;
using Json = nlohmann::ordered_json;

Json object_of(const Keys& keys);

std::string unit_of(const Key& key) {
  switch (key.unit) {
    case model::KeyUnit::fixed:
      return key.symbol.empty() ? "" : fmt::format(" in {}", key.symbol);
    case model::KeyUnit::any:
      return "";
    case model::KeyUnit::volts_per_span:
      return " in V for one unit of the span";
    case model::KeyUnit::span_square:
      return " in the square of the unit of the span";
    default:
      return " in the unit of the span";
  }
}

// What may stand at a key, in words.
std::string form_in_words(const Key& key) {
  const auto bounds = key.bounds.text.empty() ? "" : fmt::format(" {}", key.bounds.text);
  switch (key.form) {
    case KeyForm::value:
      return fmt::format("a value{}{}, and its limits", unit_of(key), bounds);
    case KeyForm::plain:
    case KeyForm::difference:
      return fmt::format("a value{}{}", unit_of(key), bounds);
    case KeyForm::limits:
      return fmt::format("limits{}", unit_of(key));
    case KeyForm::noise:
      return fmt::format("a noise{}, rms", unit_of(key));
    case KeyForm::range:
      return fmt::format("a range{}{}", unit_of(key), bounds);
    case KeyForm::integer:
      return fmt::format("a whole number from {:.0f} to {:.0f}", key.bounds.low, key.bounds.high);
    case KeyForm::number:
      return fmt::format("a number{}", bounds);
    case KeyForm::flag:
      return "true or false";
    case KeyForm::text:
      return "a text";
    case KeyForm::choice:
      return fmt::format("\"{}\"", fmt::join(key.words, "\" or \""));
    case KeyForm::name:
      return fmt::format("the name of a [{}]", key.section);
    case KeyForm::numbers:
      return key.bounds.text.empty() ? "numbers" : fmt::format("an array of {}", key.bounds.text);
    case KeyForm::texts:
      return "an array of texts";
    case KeyForm::values:
      return fmt::format("an array of values{}", unit_of(key));
    case KeyForm::table:
      return "a table";
    case KeyForm::tables:
      return "an array of tables";
    case KeyForm::entries:
      return "tables by names of your own";
  }
  return {};
}

// What stands between the two quotes of Markdown that a text is in, or the text.
std::string unquoted(const std::string& text) {
  const auto end = text.find('`', 1);
  return text.starts_with('`') && end == text.size() - 1 ? text.substr(1, end - 1) : text;
}

// Objects of any of these kinds; those of one name beside one another.
Json any_of_kinds(const std::vector<Kind>& kinds) {
  Json properties = Json::object();
  for (const auto& kind : kinds) {
    const std::string name(kind.name);
    if (name == "table") {  // its keys stand in the table of the sensor itself
      const auto meter = object_of(kind.keys())["properties"];
      for (const auto& [key, form] : meter.items()) properties[key] = form;
      continue;
    }
    auto form = object_of(kind.keys());
    form["description"] = fmt::format("{}\n{}", kind.meaning, kind.example);
    auto& known = properties[name];
    if (known.is_null()) {
      known = std::move(form);
    } else if (known.contains("anyOf")) {
      known["anyOf"].push_back(std::move(form));
    } else {
      known = {{"description", known["description"]}, {"anyOf", {Json(known), std::move(form)}}};
    }
  }
  properties["use"] = {{"type", "string"}, {"description", "file of a part"}};
  return {{"type", "object"}, {"properties", properties}, {"additionalProperties", false}};
}

Json filter_form() {
  Json any = Json::array();
  for (const auto& kind : model::filter_kinds()) {
    auto form = object_of(kind.keys());
    form["properties"]["kind"] = {{"const", kind.name}, {"description", kind.meaning}};
    form["required"].push_back("kind");
    form["description"] = fmt::format("{}\n{{ {} }}", kind.meaning, kind.example);
    any.push_back(std::move(form));
  }
  return {{"anyOf", any}};
}

Json one_or_array(Json one) { return {{"anyOf", {one, {{"type", "array"}, {"items", one}}}}}; }

Json form_of(const Key& key) {
  if (key.name == "sensor") return any_of_kinds(model::sensor_kinds());
  if (key.name == "frontend") {
    return {{"type", "array"}, {"items", any_of_kinds(model::part_kinds())}};
  }
  if (key.name == "filter") return one_or_array(filter_form());
  const auto inner = [&] {
    return key.inner.keys != nullptr ? object_of(key.inner.keys()) : Json();
  };
  if (key.name == "report") return one_or_array(inner());
  if (key.name == "average") return {{"anyOf", {{{"type", "integer"}, {"minimum", 1}}, inner()}}};
  const auto whole = [](double number) { return static_cast<std::int64_t>(number); };
  switch (key.form) {
    case KeyForm::integer:
      return {{"type", "integer"},
              {"minimum", whole(key.bounds.low)},
              {"maximum", whole(key.bounds.high)}};
    case KeyForm::number:
      return {{"type", "number"}};
    case KeyForm::flag:
      return {{"type", "boolean"}};
    case KeyForm::choice:
      return {{"type", "string"}, {"enum", key.words}};
    case KeyForm::numbers:
      return {{"type", "array"}, {"items", {{"type", "number"}}}};
    case KeyForm::texts:
    case KeyForm::values:
      return {{"type", "array"}, {"items", {{"type", "string"}}}};
    case KeyForm::table:
      return inner();
    case KeyForm::tables:
      return {{"type", "array"}, {"items", inner()}};
    case KeyForm::entries:
      return {{"type", "object"}, {"additionalProperties", inner()}};
    default:
      if (const auto unit = quantity::find_unit(key.symbol); unit && quantity::has_one_unit(*unit))
        return {{"type", {"string", "integer"}}};
      if (key.unit == model::KeyUnit::fixed && key.symbol.empty() &&
          (key.form == KeyForm::value || key.form == KeyForm::plain))
        return {{"type", {"string", "number"}}};
      return {{"type", "string"}};
  }
}

std::string sentence(const Key& key) {
  return key.meaning.empty() ? form_in_words(key)
                             : fmt::format("{}\n{}", key.meaning, form_in_words(key));
}

Json described(const Key& key) {
  auto result = form_of(key);
  auto text = sentence(key);
  const std::string otherwise(key.standard);
  // A default that is a value is one for programs too.
  auto value = Json::parse(unquoted(otherwise), nullptr, false);
  if (!value.is_discarded()) {
    result["default"] = std::move(value);
  } else if (!otherwise.empty()) {
    text += "\nDefault: " + otherwise;
  }
  result["description"] = text;
  return result;
}

Json object_of(const Keys& keys) {
  Json result{{"type", "object"}}, required = Json::array();
  result["additionalProperties"] = false;
  for (const auto& key : keys.keys) {
    if (key.name == "*") {
      result["additionalProperties"] = described(key);
      continue;
    }
    result["properties"][std::string(key.name)] = described(key);
    if (!key.required.empty()) required.push_back(key.name);
  }
  if (!required.empty()) result["required"] = std::move(required);
  return result;
}

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

void add_to_manual(std::string& to, const std::string& path, const Keys& keys);

void add_kinds_to_manual(std::string& to, const std::string& path, const std::vector<Kind>& kinds,
                         const char* word = "") {
  for (const auto& kind : kinds) {
    to += fmt::format(".TP\n.B {}\n{}\n", roff(fmt::format("{} {}{}", path, word, kind.name)),
                      roff_lines(fmt::format("{}\n{}", kind.meaning, kind.example)));
    const auto own =
        *word != 0 || kind.name == "table" ? path : fmt::format("{}.{}", path, kind.name);
    add_to_manual(to, own, kind.keys());
  }
}

void add_to_manual(std::string& to, const std::string& path, const Keys& keys) {
  for (const auto& key : keys.keys) {
    const auto place = path + "." + std::string(key.name == "*" ? "NAME" : key.name);
    auto text = sentence(key);
    if (!key.standard.empty()) text += fmt::format("\nDefault: {}", key.standard);
    to += ".TP\n.B " + roff(place) + "\n" + roff_lines(text) + "\n";
    if (key.name == "sensor") add_kinds_to_manual(to, place, model::sensor_kinds());
    if (key.name == "frontend") add_kinds_to_manual(to, place, model::part_kinds());
    if (key.name == "filter") add_kinds_to_manual(to, place, model::filter_kinds(), "kind = ");
    if (key.inner.keys == nullptr) continue;
    add_to_manual(to, key.form == KeyForm::entries ? place + ".NAME" : place, key.inner.keys());
  }
}

// A row of a table of Markdown.
std::string row_of(const Key& key) {
  return fmt::format("| `{}` | {} | {} | {} |\n", key.name, form_in_words(key), key.meaning,
                     key.required.empty() ? key.standard : "required");
}

std::string keys_table(const Keys& keys) {
  std::string result = "| key | value | meaning | default |\n|---|---|---|---|\n";
  for (const auto& key : keys.keys) result += row_of(key);
  return result;
}

std::string kinds_table(const std::vector<Kind>& kinds) {
  std::string result = "| written | meaning |\n|---|---|\n";
  for (const auto& kind : kinds) {
    result += fmt::format("| `{}` | {} |\n", kind.example, kind.meaning);
  }
  result += "\n| of | key | value | meaning | default |\n|---|---|---|---|---|\n";
  std::set<std::pair<std::string_view, std::string_view>> predicted_value;
  for (const auto& kind : kinds) {
    for (const auto& key : kind.keys().keys) {
      if (!predicted_value.insert({kind.name, key.name}).second) continue;
      result += fmt::format("| {} {}", kind.name, row_of(key));
    }
  }
  return result;
}

// The table that belongs below a heading; empty where none does.
std::string table_below(const std::string& heading) {
  if (heading.find("Sensors") != std::string::npos) return kinds_table(model::sensor_kinds());
  if (heading.find("Front end") != std::string::npos) return kinds_table(model::part_kinds());
  if (heading.find("Filters") != std::string::npos) return kinds_table(model::filter_kinds());
  if (heading.find("Scaling") != std::string::npos) return keys_table(model::scaling_keys());
  const auto open = heading.find('['), close = heading.find(']');
  if (open == std::string::npos || close == std::string::npos) return {};
  std::istringstream path(heading.substr(open + 1, close - open - 1));
  const auto* keys = &model::board_keys();
  for (std::string part; std::getline(path, part, '.');) {
    if (part != "NAME") keys = &(*keys)[part].inner.keys();
  }
  return keys_table(*keys);
}

}  // namespace

std::string board_schema() {
  Json result{
      {"$schema", "http://json-schema.org/draft-07/schema#"},
      {"title", "A board of Tamlo"},
      {"description", "Values are texts in the notation of a datasheet: \"2.5 V ±0.05 %\""}};
  result.update(object_of(model::board_keys()));
  return result.dump(1) + "\n";
}

std::string board_manual() {
  std::string result =
      ".TH TAMLO\\-BOARD 5\n.SH NAME\ntamlo\\-board \\- the description of a board, in TOML\n"
      ".SH DESCRIPTION\nValues are texts in the notation of a datasheet, with their units: "
      "\"2.5 V \\(+-0.05 % \\(+-10 ppm/K\". A later file overrides single keys of an earlier one. "
      "Names of sections are the user's own; here they are NAME.\n";
  for (const auto& section : model::board_keys().keys) {
    result += ".SH " + roff(std::string(section.name)) + "\n";
    const std::string name(section.name);
    if (section.inner.keys == nullptr) {
      result += ".TP\n.B " + roff(name) + "\n" + roff_lines(sentence(section)) + "\n";
    } else {
      add_to_manual(result, section.form == KeyForm::entries ? name + ".NAME" : name,
                    section.inner.keys());
    }
  }
  return result + ".SH SEE ALSO\n.BR tamlo (1),\n.BR tamlo\\-check (1)\n";
}

std::string board_page(const std::string& page) {
  std::istringstream lines(page);
  std::string result, due;
  bool in_table = false;
  for (std::string line; std::getline(lines, line);) {
    if (line.starts_with("#")) due = table_below(line);
    const bool row = line.starts_with("|");
    if (row && !in_table && !due.empty()) {
      result += std::exchange(due, "");
      in_table = true;
    } else if (!row) {
      // Tables of one kind may be two, with a line between them.
      in_table = in_table && line.empty() && lines.peek() == '|';
    }
    if (!in_table) result += line + "\n";
  }
  return result;
}

}  // namespace tamlo::tool
