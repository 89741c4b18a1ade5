// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/register_map.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

struct RegistersArguments : BoardArguments {
  std::string found, write, write_board;
  Form format{};
};

using firmware::RegisterMap;

const RegisterMap* map_of(const std::vector<RegisterMap>& maps, const std::string& converter) {
  const auto at = std::ranges::find(maps, converter, &RegisterMap::converter);
  return at == maps.end() ? nullptr : &*at;
}

// The channel that the words are about: the one that is named, or that they name.
std::string channel_of(const RegisterMap& map, const firmware::Dump& dump,
                       const model::Board& board, const RegistersArguments& arguments) {
  if (arguments.channels.size() == 1) return arguments.channels.front();
  if (auto found = firmware::channel_found(map, dump, board)) return *found;
  std::vector<std::string> known;
  for (const auto& channel : board.channels) {
    if (channel.converter == map.converter) known.push_back(channel.name);
  }
  if (!known.empty() && (known.size() == 1 || !firmware::of_one_channel(map))) return known.front();
  refuse("--found", "words that may be of any channel", "--channel NAME, " + io::one_of("", known));
}

int run_found(const RegistersArguments& arguments, const model::Board& board,
              const RegisterMap& map) {
  if (!arguments.write.empty()) {
    refuse("--write", "a header from words that were found", "it without --found");
  }
  io::OutputFiles outputs({arguments.write_board});
  const auto dump = io::load_dump(arguments.found, &map);
  const auto name = channel_of(map, dump, board, arguments);
  const result::ChannelRegisters channel_registers{
      .words = firmware::words_of(map, board, name),
      .found = firmware::settings_found(map, dump, board, name)};
  auto report = report::of(channel_registers);
  if (!arguments.write_board.empty()) {
    outputs.write(arguments.write_board, io::overlay_of(*channel_registers.found, board));
    outputs.finish();
    report.remarks.push_back(
        {fmt::format("written: {}; try: tamlo budget {} {}", arguments.write_board,
                     arguments.boards.front(), arguments.write_board)});
  }
  show(result::Registers{{channel_registers}}, {report}, arguments.format);
  return std::ranges::any_of(channel_registers.found->settings, &firmware::FoundSetting::differs)
             ? missed
             : done;
}

int run_registers(const RegistersArguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  const auto maps = io::load_register_maps(arguments.data, board);
  result::Registers result;
  for (const auto& chain : chains_of(board, arguments)) {
    if (const auto* map = map_of(maps, chain.converter.name)) {
      result.channels.push_back({.words = firmware::words_of(*map, board, chain.channel.name)});
    }
  }
  if (result.channels.empty()) {
    refuse("MAP.toml", "no map of the converter of any of these channels",
           "a section [registers.NAME] of their converter");
  }
  const auto& map = *map_of(maps, result.channels.front().words.converter);
  if (!arguments.found.empty()) return run_found(arguments, board, map);
  if (!arguments.write_board.empty()) {
    refuse("--write-board", "settings that the board has already", "it beside --found FILE.csv");
  }
  io::OutputFiles outputs({arguments.write});
  std::vector<report::Report> reports;
  std::vector<firmware::ChannelWords> words;  // of one converter
  bool sound = true;
  for (const auto& channel : result.channels) {
    reports.push_back(report::of(channel));
    sound = sound && channel.words.problems.empty();
    if (channel.words.converter == map.converter) words.push_back(channel.words);
  }
  if (!arguments.write.empty()) {
    outputs.write(arguments.write, firmware::c_registers(map, words));
    outputs.finish();
    reports.back().remarks.push_back({fmt::format("written: {}", arguments.write)});
  }
  show(result, reports, arguments.format);
  return sound ? done : missed;
}

void declare_registers(Options& options, RegistersArguments& a) {
  options.board(a, {.file = {"MAP.toml", "the register map, docs/register-map.md"}});
  options.input("--found", a.found,
                {"FILE", "words that were read from a device, as CSV of address,value"});
  options.group("Output");
  options.output("--write", a.write, {"FILE", "write addresses, masks and words to FILE.h"});
  options.output("--write-board", a.write_board,
                 {"FILE", "write the settings that were found to FILE.toml"});
  options.format(a.format);
}

}  // namespace

extern const Command registers_command{
    .name = "registers",
    .question = "which words configure it, and what do these words mean?",
    .examples =
        {"registers examples/boards/eight_channels.toml examples/maps/controller.toml --channel "
         "winding",
         "registers examples/boards/eight_channels.toml examples/maps/controller.toml --found "
         "examples/maps/controller_dump.csv"},
    .describe = [](Options& options) {
      return described<RegistersArguments>(options, declare_registers, run_registers);
    }};

}  // namespace tamlo::tool
