// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/board_file.hpp"

#include "tamlo/io/detail/board_keys.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <string>
#include <utility>

#include "board_parts.hpp"
#include "board_settings.hpp"
#include "field.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/chain/detail/timing.hpp"
#include "tamlo/error.hpp"
#include "tamlo/model/validate.hpp"

namespace tamlo::io {
namespace {

using quantity::unit;

std::vector<std::string> names_of(const std::vector<std::pair<std::string, Fields>>& entries) {
  std::vector<std::string> names;
  for (const auto& [name, fields] : entries) names.push_back(name);
  return names;
}

model::Conditions read_conditions(Fields fields) {
  model::Conditions result;
  auto temperature = in("degC");
  temperature.one_value = true;
  const auto covered = fields.range("temperature", temperature, temperature_bounds());
  if (auto v = fields.plain("specified_at", unit("degC"), temperature_bounds()))
    result.specified_at = *v;
  // Without a range the budget is for where the limits hold, and nothing drifts.
  result.temperature.low = result.temperature.high = result.specified_at;
  if (covered) result.temperature = *covered;
  if (auto v = fields.plain("age", unit("year"), not_negative())) result.age = *v;
  result.mains = fields.plain("mains", unit("Hz"), above_zero());
  if (auto v = fields.plain("observation", unit("s"), above_zero())) result.observation = *v;
  fields.finish();
  result.defaults = fields.defaults();
  return result;
}

model::Reference read_reference(const std::string& name, Fields fields) {
  model::Reference result{.name = name, .voltage = {}, .noise = {}};
  fields.require("voltage", "a voltage, such as \"2.5 V ±0.05 % ±10 ppm/K\"");
  if (auto v = fields.value("voltage", in("V"), above_zero())) result.voltage = *v;
  result.noise = fields.noise("noise", in("V"));
  result.output_resistance = fields.plain("output_resistance", unit("ohm"), above_zero());
  if (auto v = fields.limits("load_change", in("A", {quantity::Basis::absolute}))) {
    result.load_change = v->limits.front().size;
  }
  if (result.output_resistance.has_value() != fields.has("load_change")) {
    fields.report(fields.has("load_change") ? "load_change" : "output_resistance",
                  "one of two that go together",
                  "output_resistance = \"50 mohm\" and load_change = \"±2 mA\"");
  }
  fields.finish();
  return result;
}

// What can only be seen when the whole board is read: a scan names the channels of its converter,
// each once; a filter fits the rate at its place.
void check_whole(const model::Board& board,
                 const std::vector<std::pair<std::string, Fields>>& converters,
                 const std::vector<std::pair<std::string, Fields>>& channels) {
  for (std::size_t i = 0; i < converters.size(); ++i) {
    auto fields = converters[i].second;
    auto scan = board.converters[i].scan;
    if (scan.empty()) continue;
    std::vector<std::string> known;
    for (const auto& channel : board.channels) {
      if (channel.converter == board.converters[i].name) known.push_back(channel.name);
    }
    const auto wanted = one_of("", known);
    std::ranges::sort(scan);
    std::ranges::sort(known);
    if (scan == known) continue;
    fields.report("scan", "a scan that is not of this converter's channels, each once", wanted);
  }
  for (std::size_t i = 0; i < channels.size(); ++i) {
    const auto& channel = board.channels[i];
    const auto* converter = model::find(board.converters, channel.converter);
    if (converter == nullptr) continue;
    std::vector<model::DigitalStage> stages{model::BlockAverage{channel.average}};
    stages.insert(stages.end(), channel.filter.begin(), channel.filter.end());
    auto fields = channels[i].second;
    // The name of a meter of that kind, where there is one.
    const auto names = [&](const char* key, const std::string& name, const char* kind,
                           bool (*suits)(const model::Meter&)) {
      std::vector<std::string> suitable;
      for (const auto& meter : board.meters) {
        if (suits(meter)) suitable.push_back(meter.name);
      }
      if (name.empty() || std::ranges::find(suitable, name) != suitable.end()) return true;
      fields.report(key, fmt::format("\"{}\"", name),
                    suitable.empty() ? fmt::format("a [meter.NAME] section {}", kind)
                                     : fmt::format("a meter {}: {}", kind, one_of(name, suitable)));
      return false;
    };
    const bool known =
        names("loaded_by", channel.loaded_by, "with an input_resistance",
              [](const model::Meter& of) { return of.input_resistance.has_value(); }) &&
        names("adjusted_with", channel.adjusted_with, "of the quantity",
              [](const model::Meter& of) { return of.touches == model::Touches::quantity; });
    if (!known) continue;
    try {
      chain::prepare(stages, chain::timing(board, *converter, channel).rate);
      if (fields.sound()) chain::build(board, channel.name);
    } catch (const model::InvalidBoard& error) {
      for (const auto& of : error.problems) {
        // What is not of this channel keeps its whole path.
        const auto own = "channel." + channel.name + ".";
        const bool here = of.path.starts_with(own);
        fields.report(here ? of.path.substr(own.size()) : "",
                      here ? of.problem : of.path + ": " + of.problem, of.hint);
      }
    } catch (const chain::ChainError& error) {
      const bool correlation = !channel.correlations.empty();
      fields.report(correlation ? "correlation" : "frontend", error.what(),
                    correlation ? "sources as `tamlo budget` names them, each once"
                                : "parts that fit together");
    } catch (const ArgumentError& error) {
      fields.report(fields.has("filter") ? "filter" : "average", error.what(),
                    "frequencies below half the rate there, a memory that can be computed, and a "
                    "known rate: rate = \"1 kSa/s\"");
    }
  }
}

model::Board read_board(Fields fields) {
  model::Board board;
  fields.require("format", "format = 1");
  fields.integer("format", 1, 1);
  if (auto section = fields.table("board")) {
    board.title = section->text("title").value_or("");
    section->finish();
  }
  if (auto section = fields.table("conditions")) {
    board.conditions = read_conditions(*std::move(section));
  } else {
    board.conditions.defaults = {"temperature", "specified_at", "age"};
  }
  const auto references = fields.entries("reference");
  const auto converters = fields.entries("converter");
  for (const auto& [name, of] : references) board.references.push_back(read_reference(name, of));
  for (const auto& [name, of] : converters) {
    board.converters.push_back(read_converter(name, of, names_of(references)));
  }
  fields.require("channel", "at least one [channel.NAME] section");
  const auto channels = fields.entries("channel");
  constexpr std::size_t most_channels = 256;
  if (channels.size() > most_channels) {
    fields.report("channel", fmt::format("{} channels", channels.size()),
                  fmt::format("at most {} on a board", most_channels));
    return board;
  }
  for (const auto& [name, of] : channels) {
    board.channels.push_back(read_channel(name, of, board.converters, names_of(references)));
  }
  auto links = fields.entries("link");
  for (auto& [name, of] : links) board.links.push_back(read_link(name, of));
  for (const auto& [name, of] : fields.entries("meter")) {
    board.meters.push_back(read_meter(name, of, names_of(links)));
  }
  for (const auto& [name, of] : fields.entries("source")) {
    board.sources.push_back(read_source(name, of, names_of(links)));
  }
  bind_links(board, links);
  check_whole(board, converters, channels);
  fields.finish();
  return board;
}

}  // namespace

void refuse_all(std::vector<Diagnostic> diagnostics, const std::vector<std::string>& paths) {
  if (diagnostics.empty()) return;
  for (auto& d : diagnostics) {
    if (d.file.empty()) d.file = paths.front();
    if (d.line == 0) d.line = d.column = 1;
  }
  std::ranges::stable_sort(diagnostics, [&](const Diagnostic& a, const Diagnostic& b) {
    const auto rank = [&](const Diagnostic& d) {
      return std::tuple(std::ranges::find(paths, d.file) - paths.begin(), d.line, d.column);
    };
    return rank(a) < rank(b);
  });
  throw BadInput(std::move(diagnostics));
}

namespace {

model::Board sound_board(const toml::table& table, const std::vector<std::string>& paths) {
  std::vector<Diagnostic> diagnostics;
  auto board = read_board(Fields(table, "", diagnostics));
  refuse_all(std::move(diagnostics), paths);
  return board;
}

}  // namespace

model::Board load_board(const std::vector<std::string>& paths,
                        const std::vector<std::string>& settings) {
  auto merged = merged_files(paths);
  for (const auto& setting : settings) override_by(merged, setting);
  return sound_board(merged, paths);
}

model::Board load_board_text(std::string_view text, const std::string& name) {
  return sound_board(parse_toml_text(text, name), {name});
}

std::vector<BoardKey> keys_asked(const std::vector<std::string>& boards) {
  Asked asked;
  for (const auto& path : boards) {
    const auto file = parse_toml(path);
    std::vector<Diagnostic> wrong;
    read_board(Fields(file, "", wrong, &asked));
  }
  // A key is required if every table that may have it was refused without.
  const auto times = [](const std::vector<std::string>& list, const std::string& of) {
    return std::ranges::count(list, of);
  };
  std::vector<BoardKey> result;
  for (auto& key : asked.keys) {
    const auto same = [&](const BoardKey& other) {
      return other.path == key.path && other.form == key.form;
    };
    if (const auto known = std::ranges::find_if(result, same); known != result.end()) {
      if (known->unit != key.unit) known->unit.clear();
      known->low = std::min(known->low, key.low);
      known->high = std::max(known->high, key.high);
      for (const auto& choice : key.choices) {
        if (std::ranges::find(known->choices, choice) == known->choices.end())
          known->choices.push_back(choice);
      }
      continue;
    }
    const auto dot = key.path.rfind('.');
    const auto parent = dot == std::string::npos ? std::string() : key.path.substr(0, dot);
    const auto required = times(asked.required, key.path);
    key.required = required > 0 && required == times(asked.entered, parent);
    result.push_back(std::move(key));
  }
  return result;
}

}  // namespace tamlo::io
