// SPDX-License-Identifier: Apache-2.0
#include "field.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "board_settings.hpp"

namespace tamlo::io {
namespace {

Problem place(const toml::source_region& source) {
  Problem result;
  if (source.path) result.file = *source.path;
  result.line = source.begin.line;
  result.column = source.begin.column;
  if (source.end.line == source.begin.line) result.end_column = source.end.column;
  return result;
}

std::string sample(const quantity::Expected& expected) {
  return expected.unit ? expected.unit->symbol : "V";
}

}  // namespace

std::string describe(const toml::node& node) {
  switch (node.type()) {
    case toml::node_type::string:
      return fmt::format("\"{}\"", node.as_string()->get());
    case toml::node_type::integer:
      return fmt::format("the integer {}", node.as_integer()->get());
    case toml::node_type::floating_point:
      return fmt::format("the number {}", node.as_floating_point()->get());
    case toml::node_type::boolean:
      return node.as_boolean()->get() ? "true" : "false";
    case toml::node_type::table:
      return "a table";
    case toml::node_type::array:
      return "an array";
    default:
      return "a date or time";
  }
}

std::string Fields::full(const std::string& key) const {
  if (path_.empty() || key.empty()) return path_ + key;
  return path_ + "." + key;
}

const toml::node* Fields::find(const std::string& key) {
  asked_.push_back(key);
  const auto* node = table_->get(key);
  if (node == nullptr) defaults_.push_back(key);
  return node;
}

void Fields::report_at(const toml::node& node, const std::string& key, std::string found,
                       std::string allowed, std::size_t column_in_text) {
  auto diagnostic = place(node.source());
  diagnostic.column += column_in_text;  // the opening quote is the text's column 0
  diagnostic.path = full(key);
  diagnostic.problem = std::move(found);
  diagnostic.hint = std::move(allowed);
  into_->push_back(std::move(diagnostic));
}

void Fields::report(const std::string& key, std::string found, std::string allowed) {
  const auto* node = table_->get(key);
  // Of a path the first key that stands here.
  if (node == nullptr) node = table_->get(key.substr(0, key.find_first_of(".[")));
  report_at(node != nullptr ? *node : *table_, key, std::move(found), std::move(allowed));
}

void Fields::report_problem(const Problem& problem) {
  auto from = std::string_view(problem.path);
  if (!path_.empty()) from.remove_prefix(path_.size() + 1);
  auto diagnostic = place(walk(*table_, dotted(std::string(from))).nearest->source());
  diagnostic.path = problem.path;
  diagnostic.problem = problem.problem;
  diagnostic.hint = problem.hint;
  if (problem.code == "missing-key") diagnostic.code = problem.code;
  into_->push_back(std::move(diagnostic));
}

void Fields::require(const std::string& key, const std::string& allowed) {
  if (has(key)) return;
  report(key, "missing key", allowed);
  into_->back().code = "missing-key";
}

const std::string* Fields::string(const std::string& key, const std::string& allowed) {
  const auto* node = find(key);
  if (node == nullptr) return nullptr;
  if (const auto* text = node->as_string()) return &text->get();
  report_at(*node, key, describe(*node), allowed);
  return nullptr;
}

// Reads a text by `parse`, and reports what is not in the notation at its own column.
template <class Parse>
auto Fields::parsed(const std::string& key, const std::string& allowed, Parse parse)
    -> std::optional<decltype(parse(std::string_view()))> {
  const auto* text = string(key, allowed);
  if (text == nullptr) return {};
  try {
    return parse(std::string_view(*text));
  } catch (const quantity::NotationError& error) {
    report_at(*table_->get(key), key, error.problem, error.hint, error.column);
    return {};
  }
}

namespace {

// A number without quotes, where there is one unit alone or a value without one; else empty.
std::string bare_number(const toml::node* node, const quantity::Expected& expected) {
  if (node == nullptr || !expected.unit) return {};
  const bool no_unit = expected.unit->symbol.empty() && expected.meant == quantity::Meant::value;
  if (const auto* whole = node->as_integer())
    return no_unit || quantity::has_one_unit(*expected.unit) ? std::to_string(whole->get()) : "";
  const auto* real = node->as_floating_point();
  return no_unit && real != nullptr && std::isfinite(real->get()) ? fmt::format("{}", real->get())
                                                                  : "";
}

}  // namespace

std::optional<quantity::Value> Fields::parsed_value(const std::string& key,
                                                    const quantity::Expected& expected,
                                                    const std::string& allowed) {
  if (const auto number = bare_number(table_->get(key), expected); !number.empty()) {
    find(key);
    return quantity::parse_value(number, expected);
  }
  return parsed(key, allowed,
                [&](std::string_view text) { return quantity::parse_value(text, expected); });
}

std::optional<quantity::Value> Fields::value(const std::string& key,
                                             const quantity::Expected& expected,
                                             const Bounds& bounds) {
  return nominal(key, expected, bounds);
}

std::optional<quantity::Value> Fields::nominal(const std::string& key,
                                               const quantity::Expected& expected,
                                               const Bounds& bounds) {
  // Of a bare number that number is the example.
  const auto* node = table_->get(key);
  const auto number = node != nullptr && node->is_number() ? node->value<double>() : std::nullopt;
  auto result = parsed_value(key, expected,
                             fmt::format("a text with a value, such as \"{:.6g} {} ±0.05 %\"",
                                         number.value_or(2.5), sample(expected)));
  if (!result) return {};
  if (result->nominal && bounds.hold(*result->nominal)) return result;
  report(key, describe(*table_->get(key)),
         result->nominal ? fmt::format("a value {}", bounds.text)
                         : "a nominal value before its limits");
  return {};
}

std::optional<quantity::Range> Fields::range(const std::string& key,
                                             const quantity::Expected& expected,
                                             const Bounds& bounds) {
  auto result =
      parsed(key, fmt::format("a text with a range, such as \"0..60 {}\"", sample(expected)),
             [&](std::string_view text) { return quantity::parse_range(text, expected); });
  if (!result || (bounds.hold(result->low) && bounds.hold(result->high))) return result;
  report(key, describe(*table_->get(key)), fmt::format("a value {}", bounds.text));
  return {};
}

std::optional<quantity::Value> Fields::limits(const std::string& key,
                                              const quantity::Expected& expected) {
  const auto allowed = "limits alone, such as \"±2 LSB ±2 ppm/K\"";
  auto alone = expected;
  alone.meant = quantity::Meant::limits;
  auto result = parsed_value(key, alone, allowed);
  if (!result) return {};
  if (!result->nominal && std::ranges::none_of(result->limits, &quantity::Limit::noise)) {
    return result;
  }
  report(key, describe(*table_->get(key)), allowed);
  return {};
}

std::optional<quantity::Value> Fields::noise(const std::string& key,
                                             const quantity::Expected& expected) {
  const auto allowed = "one noise and no limits, such as \"0.6 LSB rms\"";
  auto alone = expected;
  alone.meant = quantity::Meant::noise;
  auto result = parsed_value(key, alone, allowed);
  if (!result) return {};
  if (result->limits.size() == 1 && result->limits.front().noise) return result;
  report(key, describe(*table_->get(key)), allowed);
  return {};
}

std::optional<double> Fields::plain(const std::string& key, const quantity::Unit& unit,
                                    const Bounds& bounds) {
  return without_limits(key, {.unit = unit}, bounds);
}

std::optional<double> Fields::difference(const std::string& key, const quantity::Unit& unit,
                                         const Bounds& bounds) {
  return without_limits(key, {.unit = quantity::difference_unit(unit), .difference = true}, bounds);
}

std::optional<double> Fields::without_limits(const std::string& key,
                                             const quantity::Expected& expected,
                                             const Bounds& bounds) {
  const auto result = nominal(key, expected, bounds);
  if (!result) return {};
  if (result->limits.empty()) return result->nominal;
  report(key, fmt::format("\"{}\"", quantity::to_string(*result)), "a value without limits");
  return {};
}

std::optional<std::int64_t> Fields::integer(const std::string& key, std::int64_t low,
                                            std::int64_t high) {
  const auto* node = find(key);
  if (node == nullptr) return {};
  const auto* number = node->as_integer();
  if (number != nullptr && number->get() >= low && number->get() <= high) return number->get();
  report_at(
      *node, key, describe(*node),
      low == high ? fmt::format("{}", low) : fmt::format("an integer from {} to {}", low, high));
  return {};
}

std::optional<double> Fields::number(const std::string& key, const Bounds& bounds) {
  const auto* node = find(key);
  if (node == nullptr) return {};
  const auto value = node->value<double>();
  if (node->is_number() && value && bounds.hold(*value)) return value;
  report_at(*node, key, describe(*node), fmt::format("a number {}", bounds.text));
  return {};
}

std::optional<bool> Fields::flag(const std::string& key) {
  const auto* node = find(key);
  if (node == nullptr) return {};
  if (const auto* flag = node->as_boolean()) return flag->get();
  report_at(*node, key, describe(*node), "true or false");
  return {};
}

std::string Fields::file_of(const std::string& key) const {
  const auto* node = table_->get(key);
  const auto& path = node != nullptr ? node->source().path : table_->source().path;
  return path ? file_behind(*path, texts_->first()) : std::string();
}

std::optional<std::string> Fields::text(const std::string& key) {
  const auto* found = string(key, "a text");
  if (found == nullptr) return {};
  return *found;
}

std::optional<std::size_t> Fields::choice(const std::string& key,
                                          const std::vector<std::string>& names) {
  const auto* found = string(key, fmt::format("\"{}\"", fmt::join(names, "\" or \"")));
  if (found == nullptr) return {};
  const auto at = std::ranges::find(names, *found);
  if (at != names.end()) return static_cast<std::size_t>(at - names.begin());
  report(key, fmt::format("\"{}\"", *found), fmt::format("\"{}\"", fmt::join(names, "\" or \"")));
  return {};
}

std::optional<std::string> Fields::name_of(const std::string& key, const std::string& section,
                                           const std::vector<std::string>& names) {
  const auto* found = string(key, fmt::format("the name of a [{}] of this board", section));
  if (found == nullptr) return {};
  if (std::ranges::find(names, *found) != names.end()) return *found;
  report(key, fmt::format("\"{}\"", *found),
         names.empty() ? fmt::format("a [{}.NAME] section, of which the board has none", section)
                       : one_of(*found, names, fmt::format("a {} of this board: ", section)));
  return {};
}

bool Fields::is_text(const std::string& key, std::string_view text) {
  const auto* node = table_->get(key);
  if (node == nullptr || !node->is_string() || node->as_string()->get() != text) return false;
  asked_.push_back(key);
  return true;
}

namespace {

// The sections that have such a key, but for the one in which the path has it: "[channel.NAME]".
std::vector<std::string> sections_with(const std::string& name, const std::string& path) {
  std::vector<std::string> sections;
  for (const auto& section : model::board_keys().keys) {
    if (section.inner.keys == nullptr || section.inner.keys().find(name) == nullptr) continue;
    const bool of_users = section.form == model::KeyForm::entries;
    const bool itself = std::ranges::count(path, '.') == (of_users ? 2 : 1);
    if (itself && path.starts_with(fmt::format("{}.", section.name))) continue;
    sections.push_back(fmt::format("[{}{}]", section.name, of_users ? ".NAME" : ""));
  }
  return sections;
}

}  // namespace

void Fields::finish() {
  for (const auto& [key, node] : *table_) {
    const std::string name(key.str());
    if (std::ranges::find(asked_, name) != asked_.end()) continue;
    auto diagnostic = place(key.source());
    diagnostic.path = full(name);
    diagnostic.code = "unknown-key";
    diagnostic.problem = "unknown key";
    diagnostic.hint = one_of(name, asked_);
    if (const auto sections = sections_with(name, diagnostic.path); !sections.empty()) {
      diagnostic.hint =
          fmt::format("it in {}, or here {}", fmt::join(sections, " or "), diagnostic.hint);
    }
    into_->push_back(std::move(diagnostic));
  }
}

}  // namespace tamlo::io
