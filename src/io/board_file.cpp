// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/board_file.hpp"

#include <fmt/format.h>

#include <algorithm>
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

std::vector<std::string> names_of(const std::vector<std::pair<std::string, Fields>>& entries) {
  std::vector<std::string> names;
  for (const auto& [name, fields] : entries) names.push_back(name);
  return names;
}

model::Conditions read_conditions(Fields fields, const Scope& scope) {
  model::Conditions result;
  read_keys(fields, model::conditions_keys(), &result, scope);
  // Without a range the budget is for where the limits hold, and nothing drifts.
  if (!fields.has("temperature")) {
    result.temperature.low = result.temperature.high = result.specified_at;
  }
  fields.finish();
  result.defaults = fields.defaults();
  return result;
}

// The table that a place stands in: of "channel.x.frontend[0]" the channel.
std::string_view table_of(std::string_view place) {
  if (place.ends_with(']')) return place.substr(0, place.rfind('.'));
  const auto end = place.rfind('.');
  return end == std::string_view::npos ? std::string_view() : place.substr(0, end);
}

// True for a place itself, and for those in it.
bool inside(std::string_view place, std::string_view in) {
  return place.starts_with(in) &&
         (place.size() == in.size() || place[in.size()] == '.' || place[in.size()] == '[');
}

// What the keys of a table say together is judged where each of them, and of the tables around
// it, could be read; else one mistake would be reported as several.
bool judged(const Problem& problem, const std::vector<Problem>& read) {
  const auto table = table_of(problem.path);
  return std::ranges::none_of(read, [&](const Problem& diagnostic) {
    const auto around = table_of(diagnostic.path);
    if (problem.code == "not-a-signal") {
      const auto channel = problem.path.substr(0, problem.path.find(".frontend"));
      if (inside(diagnostic.path, channel + ".sensor") ||
          inside(diagnostic.path, channel + ".frontend"))
        return true;
    }
    return inside(diagnostic.path, problem.path) || inside(problem.path, diagnostic.path) ||
           (!around.empty() && inside(table, around));
  });
}

// A scan names the channels of its converter, each once.
void check_scans(const model::Board& board,
                 const std::vector<std::pair<std::string, Fields>>& converters) {
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
}

// What only the chain shows: a filter fits the rate at its place, sources are there to correlate.
void build_chain(LoadedBoard& board, const model::Channel& channel, Fields fields, Fields& whole) {
  const auto* converter = model::find(board.converters, channel.converter);
  if (converter == nullptr) return;
  std::vector<model::DigitalStage> stages{model::BlockAverage{channel.average}};
  stages.insert(stages.end(), channel.filter.begin(), channel.filter.end());
  try {
    chain::prepare(stages, chain::timing(board, *converter, channel).rate);
    if (fields.sound()) board.chains.push_back(chain::build(board, channel.name));
  } catch (const model::InvalidBoard& error) {
    for (const auto& problem : error.problems) whole.report_problem(problem);
  } catch (const chain::ChainError& error) {
    const bool correlation = !channel.correlations.empty();
    fields.report(correlation ? "correlation" : "frontend",
                  fmt::format("cannot be built: {}", error.what()),
                  correlation ? "sources as `tamlo budget` names them, each once"
                              : "parts that fit together");
  } catch (const ArgumentError& error) {
    fields.report(fields.has("filter") ? "filter" : "average",
                  fmt::format("cannot be computed: {}", error.what()),
                  "frequencies below half the rate there, a memory that can be computed, and a "
                  "known rate: rate = \"1 kSa/s\"");
  }
}

LoadedBoard read_board(Fields fields) {
  LoadedBoard board;
  std::map<std::string, std::vector<std::string>> names;
  const Scope scope{.names = names};
  const auto entries = [&](const char* section) {
    auto result = fields.entries(section);
    names[section] = names_of(result);
    return result;
  };
  const auto references = entries("reference"), converters = entries("converter");
  const auto channels = entries("channel"), meters = entries("meter");
  auto links = entries("link");
  read_keys(fields, model::board_keys(), &board, scope);
  if (auto section = fields.table("conditions")) {
    board.conditions = read_conditions(*std::move(section), scope);
  } else {
    board.conditions.defaults = {"temperature", "specified_at", "age"};
  }
  for (const auto& [name, of] : references) {
    board.references.push_back(
        read_section<model::Reference>(name, of, model::reference_keys(), scope));
  }
  for (const auto& [name, of] : converters) {
    board.converters.push_back(read_converter(name, of, scope));
  }
  constexpr std::size_t most_channels = 256;
  if (channels.size() > most_channels) {
    fields.report("channel", fmt::format("{} channels", channels.size()),
                  fmt::format("at most {} on a board", most_channels));
    return board;
  }
  for (const auto& [name, of] : channels) {
    board.channels.push_back(read_channel(name, of, scope, board.converters));
  }
  for (const auto& [name, of] : fields.entries("quantity")) {
    board.quantities.push_back(read_quantity(name, of, scope));
  }
  for (auto& [name, of] : links) board.links.push_back(read_link(name, of, scope));
  for (const auto& [name, of] : meters) board.meters.push_back(read_meter(name, of, scope));
  for (const auto& [name, of] : fields.entries("source")) {
    board.sources.push_back(
        read_section<model::SourceInstrument>(name, of, model::source_keys(), scope));
  }
  bind_links(board, links);
  check_scans(board, converters);
  fields.finish();
  const auto read = fields.reported();  // what follows adds to it
  for (const auto& problem : model::validate(board)) {
    if (judged(problem, read)) fields.report_problem(problem);
  }
  for (std::size_t i = 0; i < channels.size(); ++i) {
    const auto place = "channel." + channels[i].first;
    const bool sound = std::ranges::none_of(fields.reported(), [&](const Problem& diagnostic) {
      return inside(diagnostic.path, place);
    });
    if (sound) build_chain(board, board.channels[i], channels[i].second, fields);
  }
  return board;
}

}  // namespace

void refuse_all(std::vector<Problem> problems, const std::vector<std::string>& paths) {
  if (problems.empty()) return;
  for (auto& d : problems) {
    if (d.file.empty()) d.file = paths.front();
    if (d.line == 0) d.line = d.column = 1;
  }
  std::ranges::stable_sort(problems, [&](const Problem& a, const Problem& b) {
    const auto rank = [&](const Problem& d) {
      return std::tuple(std::ranges::find(paths, d.file) - paths.begin(), d.line, d.column);
    };
    return rank(a) < rank(b);
  });
  throw BadInput(std::move(problems));
}

namespace {

LoadedBoard sound_board(MergedBoard merged, const std::vector<std::string>& paths,
                        FileTexts& texts) {
  std::vector<Problem> problems;
  auto board = read_board(Fields(merged.table, "", problems, texts));
  refuse_all(std::move(problems), paths);
  board.parts = std::move(merged.parts);
  board.files = texts.paths();
  return board;
}

}  // namespace

BoardFiles::BoardFiles(std::vector<std::string> paths) : paths_(std::move(paths)) {
  require(!paths_.empty(), "the path of a board");
  texts_ = std::make_unique<FileTexts>(paths_.front());
}
BoardFiles::~BoardFiles() = default;

LoadedBoard BoardFiles::with(const std::vector<std::string>& settings) const {
  return sound_board(merged_files(paths_, settings, *texts_), paths_, *texts_);
}

std::string BoardFiles::all_texts(const std::vector<std::string>& others) const {
  with();
  for (const auto& path : others) texts_->at(path);
  return texts_->all();
}

LoadedBoard load_board(const std::vector<std::string>& paths,
                       const std::vector<std::string>& settings) {
  return BoardFiles(paths).with(settings);
}

LoadedBoard load_board_text(std::string_view text, const std::string& name) {
  FileTexts texts(name);
  MergedBoard merged{.table = parse_toml_text(text, name)};
  merged.parts = expand_parts(merged.table, texts);
  return sound_board(std::move(merged), {name}, texts);
}

}  // namespace tamlo::io
