// SPDX-License-Identifier: Apache-2.0
#include "tamlo/explore/explore.hpp"

#include <fmt/format.h>
#include <algorithm>

#include "crew.hpp"
#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/choices_file.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

struct ExploreArguments : BoardArguments {
  std::vector<std::string> solve;
  std::string write, plot, picture = "front", number;
  Form format{};
  CrewArguments crew;
};

// How loose the limits of some keys may be, all by one factor.
int solve(const ExploreArguments& arguments, const std::vector<std::string>& boards) {
  const io::BoardFiles files(boards);
  const auto board = files.with();
  result::Loosened result;
  result.channels = requested(board, arguments).names();
  for (const auto& key : arguments.solve) {
    result.keys.push_back({.key = key, .as_it_is = io::text_at(boards, key)});
    io::with_limits_times(result.keys.back().as_it_is, 1.0, key);  // has limits, or is refused
  }
  const auto settings = [&](double factor) {
    std::vector<std::string> all;
    for (const auto& key : result.keys) {
      all.push_back(key.key + "=" + io::with_limits_times(key.as_it_is, factor, key.key));
    }
    return all;
  };
  const auto found = explore::loosest([&](double factor) { return files.with(settings(factor)); },
                                      result.channels);
  result.meets = found.meets;
  result.unlimited = found.unlimited;
  result.factor = found.factor;
  result.error = found.error;
  for (auto& key : result.keys) {
    if (found.meets) key.loosest = io::with_limits_times(key.as_it_is, found.factor, key.key, 3);
  }
  show(result, {report::of(result)}, arguments.format);
  return found.meets && found.factor >= 1.0 ? done : missed;
}

int run_explore(const ExploreArguments& arguments) {
  if (!arguments.solve.empty()) {
    auto all_files = arguments.boards;
    if (!arguments.data.empty()) all_files.push_back(arguments.data);
    return solve(arguments, all_files);
  }
  if (arguments.data.empty())
    refuse("", "missing CHOICES.toml after the board", "a choices file, or --solve");
  auto choices = io::load_choices(arguments.data);
  const io::BoardFiles files(arguments.boards);
  const auto board = files.with();
  io::check_choices(arguments.data, choices, board, files);
  auto identity = files.all_texts({arguments.data});
  const auto [chains, quantities] = requested(board, arguments);
  for (const auto& chain : chains) choices.space.channels.push_back(chain.channel.name);
  for (const auto& quantity : quantities) {
    // One without a target decides nothing, unless it is asked for.
    if (quantity.target.accuracy || !arguments.channels.empty())
      choices.space.channels.push_back(quantity.name);
  }
  for (const auto& name : choices.space.channels) identity += name + '\0';
  check_picture("--plot", arguments.plot, 1);
  const auto board_of = [&](const explore::Pick& pick) {
    return files.with(io::settings_of(choices, pick));
  };
  Crew crew(arguments.crew, identity);
  std::optional<io::OutputFiles> outputs;
  if (crew.first()) outputs.emplace(std::vector{arguments.write, arguments.plot});
  const auto exploration = explore::explore(choices.space, board_of, crew.driver(),
                                            [&](double part) { return crew.go_on(part); });
  if (!crew.first()) return crew.leave(done);
  crew.wipe();
  auto chosen =
      exploration.front.empty() ? std::optional<explore::Candidate>{} : exploration.front.front();
  if (!arguments.number.empty()) {
    const auto number = whole_of("--number", arguments.number, 0, exploration.candidates - 1);
    chosen = explore::candidate_of(choices.space, board_of, number);
  }
  // What some candidates say takes no whole result's place.
  const bool whole = exploration.tried == exploration.candidates;
  if (!whole && !(arguments.write.empty() && arguments.plot.empty()))
    fmt::print(stderr, "explore: ended before all candidates were tried: no file is written\n");
  if (whole && !arguments.write.empty()) {
    if (!chosen) refuse("--write", "nothing that meets everything", "--number with a candidate");
    outputs->write(arguments.write, io::choices_overlay(choices, *chosen, board));
  }
  if (whole && !arguments.plot.empty()) {
    if (exploration.front.empty())
      refuse("--plot", "a front without candidates", "choices of which some meet everything");
    const auto draw = arguments.picture == "front" ? report::plot_front : report::plot_choices;
    outputs->write(arguments.plot,
                   draw(choices.space, exploration, *report::image_of(arguments.plot)));
  }
  if (whole) outputs->finish();
  const auto result = explore::by_names(choices.space, exploration);
  show(result, {report::of(result)}, arguments.format);
  if (!whole) return crew.leave(environment);
  return crew.leave(exploration.feasible > 0 ? done : missed);
}

void declare_explore(Options& options, ExploreArguments& a) {
  options.board(
      a, {.file = {"CHOICES.toml", "what may change, docs/choices-file.md; not with --solve"},
          .file_needed = false});
  options.repeated("--solve", a.solve,
                   {"KEY", "without choices: how loose may its limits be? Several: by one factor"});
  declare_crew(options, a.crew);
  options.group("Output");
  options.output("--write", a.write,
                 {"FILE", "write the first of the front as FILE.toml, an overlay of the board"});
  options.option("--number", a.number, {"NUMBER", "write the candidate of that number instead"});
  options.plot(a.plot, a.picture, {"front", "choices"}, "front");
  options.format(a.format);
  options.only_with("--write", {"--number"});
  options.not_with("--solve", {"--write", "--plot", "--threads", "--resume"});
}

}  // namespace

extern const Command explore_command{
    .name = "explore",
    .question = "which settings and parts meet the target, and at what cost?",
    .examples = {"explore demo/board.toml demo/choices.toml",
                 "explore demo/board.toml demo/choices.toml --channel coolant_flow --format csv"},
    .describe = [](Options& options) {
      return described<ExploreArguments>(options, declare_explore, run_explore);
    }};

}  // namespace tamlo::tool
