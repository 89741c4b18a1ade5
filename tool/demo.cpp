// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>

#include "demo_bench.hpp"
#include "installed.hpp"
#include "job.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/readings_file.hpp"
#include "tamlo/io/record_file.hpp"
#include "tamlo/report/reports.hpp"
#include "tamlo/version.hpp"

namespace tamlo::tool {
namespace {

using report::Line;
using report::Tone;

// The story, line by line.
class Story {
 public:
  void say(const Line& line, int depth = 1) {
    text_ += std::string(static_cast<std::size_t>(3 * depth), ' ') +
             report::render(line, colour()) + "\n";
  }
  void step(const std::string& question, const std::string& command) {
    text_ += fmt::format(
        "\n{}\n   $ {}\n",
        report::render({fmt::format("{}  {}", ++steps_, question), Tone::heading}, colour()),
        command);
  }
  const std::string& text() const { return text_; }

 private:
  std::string text_;
  int steps_ = 0;
};

void tell_budget(Story& story, const chain::Chain& chain) {
  const auto budget = budget::evaluate(chain);
  const auto report = report::of(budget);
  story.say(report.verdict.front());
  for (const auto& remark : report.remarks) {
    if (remark.remedy) story.say(remark, 2);
  }
}

void tell_firmware(Story& story, const model::Board& board, const chain::Chain& chain) {
  story.say(report::of(firmware::plan_with_budget(board, chain, {})).verdict.front());
}

// Whether it agrees, the first so many figures of what is off, and the diagnosis, of one channel or
// of all; the rest is in the command's own output.
void tell_comparison(Story& story, const std::vector<std::string>& boards, const std::string& path,
                     std::size_t figures, const std::string& channel = {}) {
  const auto board = io::load_board(boards);
  const auto file = io::load_readings(path, board);
  for (const auto& each : file.channels) {
    if (!channel.empty() && each.channel != channel) continue;
    const auto& meter = io::choose_meter(board, boards.front(), "", file, each);
    const meter::Evidence evidence(meter::chain_as_metered(board, each.channel, meter), meter,
                                   io::rows_of(each, meter));
    const auto comparison = meter::compare(evidence);
    story.say(report::headline(comparison));
    const auto lines = report::statements(comparison);
    for (std::size_t i = 0; i <= figures; ++i) story.say(lines[i], 2);
    if (comparison.summary.agreement.agrees) continue;  // there is no fault to find
    const auto diagnosis = report::of(meter::diagnose(board, evidence));
    for (const auto& line : diagnosis.verdict) story.say(line, 2);
  }
}

void tell_calibration(Story& story, const model::Board& board, const std::string& path,
                      const io::ReadingsFile& file, const io::ChannelReadings& readings) {
  const auto& meter = io::choose_meter(board, path, "", file, readings);
  const auto calibration = meter::calibrate(meter::chain_as_metered(board, readings.channel, meter),
                                            meter, io::rows_of(readings, meter));
  const auto report = report::of(calibration);
  for (const auto& line : report.verdict) story.say(line);
}

void tell_record(Story& story, const chain::Chain& chain, const std::string& path) {
  using record::Shows, record::Input;
  io::RecordFile file(path, {.kind = io::RecordLayout::Kind::raw}, {chain.channel.name});
  signal::Capture capture(record::capture_options(chain, Shows::codes, Input::steady));
  file.read([&](std::size_t, std::span<const double> samples) { capture.add(samples); });
  const auto rate = record::rate_of(chain, Shows::codes);
  const auto report = report::of(result::ChannelRecord{
      record::judge(chain, Shows::codes, {}, capture, rate), chain.channel.span.unit});
  for (const auto& line : report.verdict) story.say(line, &line == report.verdict.data() ? 1 : 2);
}

int run_demo() {
  const auto directory = installed("demo");
  const auto board_path = directory + "/board.toml";
  const auto readings_path = directory + "/readings.csv";
  const auto board = io::load_board({board_path});
  const auto readings = io::load_readings(readings_path, board);
  Story story;
  story.say({fmt::format("Tamlo {} on a made-up board: {}", version, board.title), Tone::heading},
            0);
  story.say({"What its channels can do before it exists, and what one that was built does."}, 0);

  story.step("Is the description sound, and what needs attention?", "tamlo check " + board_path);
  const auto& chains = board.chains;
  std::vector<std::string> names;
  for (const auto& channel : board.channels) names.push_back(channel.name);
  const auto check = check::examine(board, names);
  story.say(report::of(check).verdict.front());
  for (const auto& finding : check.findings) {
    story.say({fmt::format("{} {}: {}", name(finding.severity), finding.channel, finding.found)},
              2);
  }
  story.step("What do the settings amount to?",
             fmt::format("tamlo channel {} --channel {}", board_path, chains.front().channel.name));
  story.say(report::of(budget::settings(chains.front())).verdict.front());

  story.step("How wrong can a reading be, and what dominates?", "tamlo budget " + board_path);
  for (const auto& chain : chains) tell_budget(story, chain);

  const auto& suspect = readings.channels.front().channel;
  story.step("Which integers make readings of the register values, and how wrong are they?",
             fmt::format("tamlo firmware {} --channel {} --write firmware", board_path, suspect));
  tell_firmware(story, board, *std::ranges::find(chains, suspect, [](const auto& part) {
                  return part.channel.name;
                }));

  const auto first_unit = directory + "/first_unit.csv";
  const auto found = directory + "/first_unit.toml";
  story.step("A first unit beside a meter: does each channel meet its budget?",
             fmt::format("tamlo compare {} {} --channel {}", board_path, first_unit, suspect));
  tell_comparison(story, {board_path}, first_unit, 0, suspect);
  story.step("With that fault in an overlay file: do the same readings agree?",
             fmt::format("tamlo compare {} {} {}", board_path, found, first_unit));
  tell_comparison(story, {board_path, found}, first_unit, 0);

  story.step("A second unit, on the right reference: what is wrong with its pack voltage?",
             fmt::format("tamlo compare {} {} --channel {} --plot differences.svg", board_path,
                         readings_path, suspect));
  tell_comparison(story, {board_path}, readings_path, 2, suspect);

  story.step("A third unit: which positions beside the meter decide? Then live, by itself.",
             fmt::format("tamlo measure {} --channel {} --plan", board_path, suspect));
  for (const auto& line : told_at_the_bench(board, suspect)) story.say(line);

  story.step("What does a calibration achieve?",
             fmt::format("tamlo calibrate {} {} --channel {} --write measured.toml", board_path,
                         readings_path, suspect));
  tell_calibration(story, board, board_path, readings, readings.channels.front());
  const auto record_path = directory + "/steady.raw";
  story.step("What do its captured samples say?",
             fmt::format("tamlo record {} {} --layout int16 --channel {}", board_path, record_path,
                         suspect));
  tell_record(story, chains.front(), record_path);
  story.step("Now your own board: ten lines are enough, see the README.",
             "tamlo check my-board.toml");
  say(story.text());
  return done;
}

}  // namespace

extern const Command demo_command{
    .name = "demo",
    .question = "what can it do? walks the whole job on the shipped board and readings",
    .examples = {"demo", "demo | more"},
    .describe = [](Options&) { return std::function<int()>(run_demo); }};

}  // namespace tamlo::tool
