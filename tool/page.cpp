// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>

#include "crew.hpp"
#include "page_parts.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/log.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/detail/overlays.hpp"
#include "tamlo/io/register_map.hpp"
#include "tamlo/math/detail/blocks.hpp"
#include "tamlo/report/reports.hpp"
#include "tamlo/version.hpp"

namespace tamlo::tool {
namespace {

std::string command_of(const PageArguments& arguments) {
  std::string text = "tamlo page";
  const auto add = [&](const std::string& word) { text += " " + shell_word(word); };
  const auto option = [&](const char* name, const std::string& value) {
    if (!value.empty()) add(name), add(value);
  };
  for (const auto& file : arguments.boards) add(file);
  if (!arguments.data.empty()) add(arguments.data);
  for (const auto& channel : arguments.channels) option("--channel", channel);
  option("--meter", arguments.meter);
  option("--meter-accuracy", arguments.meter_accuracy);
  option("--since", arguments.since);
  option("--elapsed", arguments.apart);
  if (arguments.units) add("--units");
  for (const auto& record : arguments.records) option("--record", record);
  option("--layout", arguments.layout);
  option("--map", arguments.map);
  if (arguments.coverage != "0.95") option("--coverage", arguments.coverage);
  option("--write", arguments.write);
  return text;
}

// What the page says first.
std::string summary_of(const report::Page& page) {
  std::string text;
  for (const auto& channel : page.channels) {
    for (auto line : {channel.verdict, channel.compared, channel.recorded}) {
      if (line.text.empty()) continue;
      line.text = channel.name + ": " + line.text;
      text += report::render(line, colour()) + "\n";
    }
  }
  return text;
}

// Every file that the page is made of.
std::vector<std::string> files_of(const io::LoadedBoard& board, const PageArguments& arguments) {
  auto files = board.files;
  for (const auto& file : {arguments.data, arguments.since, arguments.map}) {
    if (!file.empty()) files.push_back(file);
  }
  for (const auto& record : arguments.records) files.push_back(record.substr(record.find('=') + 1));
  return files;
}

int run_page(const PageArguments& arguments) {
  check_ending("--write", arguments.write, ".html");
  auto board = io::load_board(arguments.boards);
  const double coverage = coverage_of(arguments.coverage);
  const auto [chains, quantities] = requested(board, arguments);
  io::OutputFiles outputs({arguments.write});
  report::Page page{.title = board.title.empty() ? arguments.boards.front() : board.title,
                    .version = version,
                    .made = io::utc_now(),
                    .command = command_of(arguments)};
  std::optional<PageReadings> readings;
  if (!arguments.data.empty()) {
    readings = PageReadings{.now = readings_of(arguments.data, board, arguments)};
    provide_meters(board, readings->now.channels, arguments);
    if (!arguments.since.empty())
      readings->earlier = readings_of(arguments.since, board, arguments);
  }
  std::vector<firmware::RegisterMap> maps;
  if (!arguments.map.empty()) maps = io::load_register_maps(arguments.map, board);
  auto records = records_of(board, arguments);
  for (const auto& file : files_of(board, arguments)) {
    page.inputs.push_back({file, io::hash_of({file})});
  }
  const bool whole = std::ranges::none_of(records, &PageRecord::damaged);
  const auto add = [](report::PageChannel& channel, std::vector<report::PagePart> parts) {
    for (auto& part : parts) channel.parts.push_back(std::move(part));
  };
  const auto fill = [&](const chain::Chain& chain, report::PageChannel& channel) {
    channel.name = chain.channel.name;
    channel.measures = chain.channel.measures;
    channel.path = path_of(chain);
    channel.parts.push_back(findings_part(board, channel));
    channel.parts.push_back(budget_part(board, chain, coverage, channel));
    if (readings) add(channel, meter_parts(board, *readings, arguments, coverage, channel));
    for (auto& record : records) {
      if (record.channel != channel.name) continue;
      // The first, unless another is worse.
      if (channel.recorded.text.empty() || record.verdict.tone == report::Tone::bad) {
        channel.recorded = record.verdict;
      }
      channel.parts.push_back(std::move(record.part));
    }
    channel.parts.push_back(firmware_part(board, chain));
    add(channel, registers_part(board, chain, maps));
    channel.parts.push_back(settings_part(chain));
  };
  page.channels.resize(chains.size() + quantities.size());
  const auto make = [&](std::size_t i) {
    auto& channel = page.channels[i];
    if (i < chains.size()) return fill(chains[i], channel);
    channel = quantity_channel(board, quantities[i - chains.size()], coverage);
    if (readings) add(channel, meter_parts(board, *readings, arguments, coverage, channel));
  };
  {
    ProgressLine progress;
    math::each_by_processors(page.channels.size(), make, [&](double part) {
      progress.tell(part);
      return true;
    });
  }
  const bool met = std::ranges::none_of(page.channels, [](const report::PageChannel& channel) {
    const auto bad = report::Tone::bad;
    return channel.verdict.tone == bad || channel.compared.tone == bad ||
           channel.recorded.tone == bad;
  });
  const auto html = report::html_of(page);
  if (arguments.write.empty()) {
    print(html);
  } else {
    outputs.write(arguments.write, html);
    outputs.finish();
    say(summary_of(page) + "written: " + arguments.write + "\n");
  }
  return !whole ? damaged : met ? done : missed;
}

void declare_page(Options& options, PageArguments& a) {
  declare_meter(options, a, false);
  options.input("--since", a.since, {"FILE", "earlier readings of the same units: what changed?"});
  options.option("--elapsed", a.apart,
                 {"TIME", "between the two, such as \"1 year\"", "by their columns \"time\""});
  options.flag("--units", a.units, {"", "of several units only what they show together"});
  options.only_with("--since", {"--elapsed"});
  options.group("More of the board");
  options.repeated("--record", a.records,
                   {"KIND=FILE",
                    "captured samples of a steady, ramp, sine or step input; "
                    "KIND:CHANNEL=FILE where the file does not name it"});
  options.option("--layout", a.layout,
                 {"LAYOUT", "of records that are neither .csv nor .wav", "by their names"});
  options.only_with("--record", {"--layout"});
  options.input("--map", a.map, {"FILE", "register map of the converter: its words"});
  options.group("Output");
  options.coverage(a.coverage);
  options.output("--write", a.write, {"FILE.html", "write to it", "standard output"});
}

}  // namespace

extern const Command page_command{
    .name = "page",
    .question = "one page with all of it, for a design review or a file of a unit",
    .examples = {"page demo/board.toml --channel pack_voltage",
                 "page demo/board.toml demo/readings.csv --write board.html"},
    .describe = [](Options& options) {
      return described<PageArguments>(options, declare_page, run_page);
    }};

}  // namespace tamlo::tool
