// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/choices_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <sstream>
#include <utility>

#include "board_parts.hpp"
#include "board_settings.hpp"
#include "tamlo/names.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "tamlo/quantity/format.hpp"
#include "toml_text.hpp"

namespace tamlo::io {
namespace {

using explore::Choice, explore::Option, explore::Space;

// Keys of an option that say what it is; all others are amounts.
bool is_own(std::string_view key) { return key == "is" || key == "label"; }

std::string text_of(const toml::node& node) {
  std::ostringstream text;
  node.visit([&](const auto& value) {
    using T = std::remove_cvref_t<decltype(value)>;
    if constexpr (toml::is_string<T>) {
      text << toml_quoted(value.get());
    } else if constexpr (toml::is_table<T>) {
      text << toml::toml_formatter{value, toml::format_flags::none};
    } else {
      text << value;
    }
  });
  return text.str();
}

class Reader {
 public:
  explicit Reader(std::string path) : path_(std::move(path)) {}

  ChoicesFile read() {
    auto table = parse_toml(path_);
    if (const auto format = table["format"].value<std::int64_t>(); format != 1) {
      report(table, "format", "missing key", "format = 1 at the head of the file");
    }
    for (auto&& [key, node] : table) {
      const auto name = std::string(key.str());
      if (name != "format" && name != "goal" && name != "limit" && name != "choice") {
        report(node, name, "a key that means nothing here", "format, goal, limit and choice");
      }
    }
    const auto* choices = table["choice"].as_array();
    if (choices == nullptr || choices->empty()) {
      report(table, "choice", "no choice", "one [[choice]] or more");
    } else {
      gather_amounts(*choices);
      for (const auto& node : *choices) {
        const auto* choice = node.as_table();
        if (choice == nullptr) {
          report(node, "choice", describe(node), "[[choice]] tables");
        } else {
          read_choice(*choice);
        }
      }
    }
    read_limits(table);
    read_goals(table);
    refuse_all(std::move(problems_), {path_});
    return std::move(file_);
  }

 private:
  std::string path_;
  ChoicesFile file_{};
  std::vector<Problem> problems_{};
  bool adjusted_ = false;

  void report(const toml::node& node, const std::string& key, std::string found,
              std::string allowed) {
    problems_.push_back({.file = path_,
                         .line = node.source().begin.line,
                         .column = node.source().begin.column,
                         .path = key,
                         .problem = std::move(found),
                         .hint = std::move(allowed)});
  }

  static FilePlace place_of(const toml::node& node) {
    return {.line = node.source().begin.line, .column = node.source().begin.column};
  }

  // A number, or a text with a unit; the unit of the first that is met is the amount's.
  std::optional<double> amount(const toml::node& node, const std::string& key,
                               std::optional<quantity::Unit>& unit) {
    if (const auto number = node.value<double>(); number && !node.is_string()) {
      if (!unit) unit = quantity::Unit{};
      if (unit->symbol.empty() && std::isfinite(*number)) return *number;
      report(node, key, describe(node), fmt::format("a text with the unit {}", unit->symbol));
      return {};
    }
    if (const auto text = node.value<std::string>()) {
      try {
        const auto value = quantity::parse_value(*text, {.unit = unit});
        if (value.nominal && value.limits.empty()) {
          if (!unit) unit = value.unit;
          return *value.nominal;
        }
      } catch (const quantity::NotationError& error) {
        report(node, key, error.problem, error.hint);
        return {};
      }
    }
    report(node, key, describe(node), "a number, or a text with a unit, such as \"12 mW\"");
    return {};
  }

  // Every key of an option that is not its own is an amount.
  void gather_amounts(const toml::array& choices) {
    for (const auto& choice : choices) {
      const auto* values = choice.is_table() ? (*choice.as_table())["values"].as_array() : nullptr;
      if (values == nullptr) continue;
      for (const auto& value : *values) {
        const auto* table = value.as_table();
        if (table == nullptr || !table->contains("is")) continue;
        for (auto&& [key, node] : *table) {
          const auto name = std::string(key.str());
          auto& amounts = file_.space.amounts;
          if (is_own(name) ||
              std::ranges::find(amounts, name, &explore::Amount::name) != amounts.end())
            continue;
          std::optional<quantity::Unit> unit;
          if (name == "error" || name == "latency") {
            report(node, name, "a number of that name",
                   "another name: it is a figure of the board");
          } else if (amount(node, name, unit)) {
            amounts.push_back({.name = name, .unit = *unit});
          }
        }
      }
    }
  }

  void read_choice(const toml::table& table) {
    Choice choice;
    const auto name = table["name"].value<std::string>();
    if (!name || name->empty()) {
      report(table, "choice.name", "a choice without a name", "name = \"reference\"");
    }
    choice.name = name.value_or("");
    const auto known = std::ranges::find(file_.space.choices, choice.name, &Choice::name);
    if (known != file_.space.choices.end()) {
      report(table, "choice.name", fmt::format("\"{}\" twice", choice.name), "each name once");
    }
    for (auto&& [key, node] : table) {
      const auto word = std::string(key.str());
      if (word != "name" && word != "key" && word != "keys" && word != "values" &&
          word != "adjustment") {
        report(node, "choice." + word, "a key that means nothing here",
               "name, key or keys, adjustment, values");
      }
    }
    const bool adjusts = table["adjustment"].value_or(false);
    if (adjusts && std::exchange(adjusted_, true)) {
      report(table, "choice.adjustment", "a second choice of an adjustment",
             "one: a board has one");
    }
    if (const auto key = table["key"].value<std::string>()) choice.keys = {dotted(*key)};
    if (const auto* keys = table["keys"].as_array()) {
      for (const auto& key : *keys) choice.keys.push_back(dotted(key.value_or(std::string())));
    }
    if (choice.keys.empty() != adjusts) {
      report(table, "choice.key", adjusts ? "a key beside adjustment" : "no key",
             "key = \"channel.pack_voltage.average\", keys = [ ... ], or adjustment = true");
    }
    std::vector<std::vector<std::string>> settings;
    ChoicesFile::Places places{.choice = place_of(table)};
    for (const auto* key : {table.get("key"), table.get("keys")}) {
      if (key != nullptr) places.choice = place_of(*key);
    }
    if (const auto* values = table["values"].as_array()) {
      for (const auto& value : *values) {
        read_option(value, choice, settings);
        places.options.resize(settings.size(), place_of(value));
      }
    } else if (const auto* range = table["values"].as_table()) {
      read_range(*range, choice, settings);
      places.options.resize(settings.size(), place_of(*range));
    }
    file_.places.push_back(std::move(places));
    if (choice.options.empty() && problems_.empty()) {
      report(table, "choice.values", "no values", "values = [ 1, 4, 16 ], or a range");
    }
    file_.space.choices.push_back(std::move(choice));
    file_.settings.push_back(std::move(settings));
  }

  void read_option(const toml::node& node, Choice& choice,
                   std::vector<std::vector<std::string>>& settings) {
    const auto* table = node.as_table();
    const bool whole = table != nullptr && table->contains("is");
    const toml::node& is = whole ? *table->get("is") : node;
    Option option{.amounts = std::vector<double>(file_.space.amounts.size(), 0.0)};
    if (whole) {
      option.label = (*table)["label"].value_or(std::string());
      for (std::size_t a = 0; a < file_.space.amounts.size(); ++a) {
        auto& known = file_.space.amounts[a];
        std::optional unit = known.unit;
        if (const auto* at = table->get(known.name))
          option.amounts[a] = amount(*at, known.name, unit).value_or(0.0);
      }
    }
    std::vector<std::string> own;
    if (choice.keys.empty()) {
      const auto named_so = named<explore::Adjustment>(is.value_or(std::string()));
      if (!named_so)
        report(is, "choice.values", describe(is),
               "\"none\", \"zero\", \"two-point\" or \"calibrated\"");
      option.adjustment = named_so.value_or(explore::Adjustment::none);
    } else if (choice.keys.size() == 1) {
      own.push_back(choice.keys.front() + "=" + text_of(is));
    } else {
      const auto* list = is.as_array();
      if (list == nullptr || list->size() != choice.keys.size()) {
        report(is, "choice.values", describe(is),
               fmt::format("arrays of {} values, one for each key", choice.keys.size()));
        return;
      }
      for (std::size_t i = 0; i < choice.keys.size(); ++i) {
        own.push_back(choice.keys[i] + "=" + text_of((*list)[i]));
      }
    }
    if (option.label.empty())
      option.label = is.is_string() ? is.value_or(std::string()) : text_of(is);
    choice.options.push_back(std::move(option));
    settings.push_back(std::move(own));
  }

  // { from = 8, to = 16, step = 2 }, or { series = "E24", from = "1 kohm", to = "1 Mohm", limits =
  // "±1 %" }.
  void read_range(const toml::table& range, Choice& choice,
                  std::vector<std::vector<std::string>>& settings) {
    constexpr std::size_t most_options = 10000;
    const auto add = [&](const std::string& label, const std::string& value) {
      Option option{.label = label,
                    .amounts = std::vector<double>(file_.space.amounts.size(), 0.0)};
      choice.options.push_back(std::move(option));
      std::vector<std::string> own;
      for (const auto& key : choice.keys) own.push_back(key + "=" + value);
      settings.push_back(std::move(own));
    };
    const auto series = range["series"].value<std::string>();
    if (!series) {
      const auto from = range["from"].value<std::int64_t>(), to = range["to"].value<std::int64_t>();
      const auto step = range["step"].value_or(std::int64_t{1});
      if (!from || !to || *to < *from || step < 1 ||
          static_cast<std::size_t>((*to - *from) / step) >= most_options) {
        report(range, "choice.values", "a range that is none",
               "{ from = 8, to = 16 } of whole numbers, up to 10000 of them");
        return;
      }
      for (auto i = *from; i <= *to; i += step) add(std::to_string(i), std::to_string(i));
      return;
    }
    try {
      const auto end = [&](const char* key) {
        const auto text = range[key].value_or(std::string());
        const auto value = quantity::parse_value(text, {});
        if (value.limits.empty()) return value;
        throw quantity::NotationError(1, "\"" + text + "\"",
                                      "an end without limits; those of all: limits = \"±1 %\"");
      };
      const auto low = end("from"), high = end("to");
      const int count = series->starts_with('E') ? std::atoi(series->c_str() + 1) : 0;
      const auto preferred = quantity::preferred_between(count, low.or_zero(), high.or_zero());
      if (preferred.empty() || preferred.size() > most_options ||
          low.unit.dimension != high.unit.dimension) {
        report(range, "choice.values", "a series without values",
               "{ series = \"E24\", from = \"1 kohm\", to = \"1 Mohm\" }");
        return;
      }
      const auto limits = range["limits"].value_or(std::string());
      for (const double number : preferred) {
        const auto text =
            quantity::engineering(number, low.unit, 4) + (limits.empty() ? "" : " " + limits);
        add(text, toml_quoted(text));
      }
    } catch (const quantity::NotationError& error) {
      report(range, "choice.values", error.problem, error.hint);
    }
  }

  void read_limits(const toml::table& table) {
    const auto* limits = table["limit"].as_table();
    if (limits == nullptr) return;
    for (auto&& [key, node] : *limits) {
      const auto name = std::string(key.str());
      auto& amounts = file_.space.amounts;
      const auto found = std::ranges::find(amounts, name, &explore::Amount::name);
      if (found == amounts.end()) {
        report(node, "limit." + name, "a limit of what no value has",
               "a number of the values, such as price");
        continue;
      }
      std::optional unit = found->unit;
      found->limit = amount(node, "limit." + name, unit);
    }
  }

  void read_goals(const toml::table& table) {
    auto& goals = file_.space.goals;
    const auto node = table["goal"]["least"];
    if (const auto one = node.value<std::string>()) goals = {*one};
    if (const auto* several = node.as_array()) {
      for (const auto& one : *several) goals.push_back(one.value_or(std::string()));
    }
    // What the errors leave of the targets: the largest margin is the least error.
    std::ranges::replace(goals, std::string("margin"), std::string("error"));
    std::vector<std::string> once;
    for (const auto& goal : goals) {
      if (std::ranges::find(once, goal) == once.end()) once.push_back(goal);
    }
    goals = std::move(once);
    std::vector<std::string> known{"error", "latency"};
    for (const auto& amount : file_.space.amounts) known.push_back(amount.name);
    if (goals.empty()) goals = {known.size() > 2 ? known[2] : "error"};
    for (const auto& goal : goals) {
      if (std::ranges::find(known, goal) != known.end()) continue;
      const toml::node& at =
          node.node() != nullptr ? *node.node() : static_cast<const toml::node&>(table);
      report(at, "goal.least", fmt::format("\"{}\"", goal), one_of(goal, known));
    }
  }
};

}  // namespace

ChoicesFile load_choices(const std::string& path) { return Reader(path).read(); }

std::vector<std::string> settings_of(const ChoicesFile& file, const explore::Pick& pick) {
  std::vector<std::string> all;
  for (std::size_t i = 0; i < pick.size(); ++i) {
    if (!pick[i]) continue;
    const auto& own = file.settings[i][*pick[i]];
    all.insert(all.end(), own.begin(), own.end());
  }
  return all;
}

namespace {

// The adjustment of each channel, as the board file has it. A calibration at every place has none.
std::string adjustment_text(const model::Channel& channel, explore::Adjustment adjustment) {
  const auto& span = channel.span;
  const auto value = [&](double si) {
    return fmt::format("\"{} {}\"", quantity::format_number(si, span.unit), span.unit.symbol);
  };
  const auto places = adjustment == explore::Adjustment::zero
                          ? value(span.zero())
                          : value(span.low) + ", " + value(span.high);
  const auto with = channel.adjusted_with.empty()
                        ? std::string()
                        : fmt::format(", with = {}", toml_quoted(channel.adjusted_with));
  return fmt::format("channel.{}.adjustment = {{ at = [{}]{} }}\n", toml_key(channel.name), places,
                     with);
}

}  // namespace

std::string choices_overlay(const ChoicesFile& file, const explore::Candidate& candidate,
                            const model::Board& board) {
  auto text = fmt::format("# Made by: tamlo explore, candidate {}.\n", candidate.number);
  for (std::size_t i = 0; i < candidate.pick.size(); ++i) {
    const auto& choice = file.space.choices[i];
    text += fmt::format("# {}: {}\n", choice.name, choice.options[candidate.pick[i]].label);
    const auto adjustment = choice.options[candidate.pick[i]].adjustment;
    if (adjustment == explore::Adjustment::zero || adjustment == explore::Adjustment::two_point) {
      for (const auto& name : file.space.channels) {
        if (const auto* channel = model::find(board.channels, name))
          text += adjustment_text(*channel, adjustment);
      }
    }
    if (adjustment == explore::Adjustment::calibrated)
      text += "# (a calibration over the whole span stands in no key of the board)\n";
    for (const auto& setting : file.settings[i][candidate.pick[i]]) {
      const auto equals = setting.find('=');
      text += setting.substr(0, equals) + " = " + setting.substr(equals + 1) + "\n";
    }
  }
  return text;
}

}  // namespace tamlo::io
