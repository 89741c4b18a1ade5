// SPDX-License-Identifier: Apache-2.0
#include "tamlo/explore/explore.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/choices_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/output_file.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

struct ExploreArguments : BoardArguments {
  std::string write, number, threads = "2", format = "text";
};

// The board's files, and the choices behind them.
struct Files {
  std::vector<std::string> boards;
  io::ChoicesFile choices;
};

Files files_of(const ExploreArguments& arguments) {
  auto boards = arguments.boards;
  if (boards.size() < 2) refuse("CHOICES", "no choices file", "one behind the board");
  auto choices = io::load_choices(boards.back());
  boards.pop_back();
  return {std::move(boards), std::move(choices)};
}

// Told on a terminal, twice a second.
class Progress {
 public:
  bool go_on(double part) {
    if (::isatty(STDERR_FILENO) != 1 || Clock::now() < next_) return !interrupted();
    next_ = Clock::now() + std::chrono::milliseconds(500);
    const double gone = std::chrono::duration<double>(Clock::now() - begin_).count();
    fmt::print(stderr, "\r\x1b[K{:.0f} %, about {:.0f} s left", 100.0 * part,
               part > 0.0 ? gone * (1.0 - part) / part : 0.0);
    shown_ = true;
    return !interrupted();
  }
  ~Progress() {
    if (shown_) fmt::print(stderr, "\r\x1b[K");
  }
  Progress() = default;
  Progress(const Progress&) = delete;
  Progress& operator=(const Progress&) = delete;

 private:
  using Clock = std::chrono::steady_clock;
  Clock::time_point begin_ = Clock::now(), next_ = begin_ + std::chrono::milliseconds(500);
  bool shown_ = false;
};

int run_explore(const ExploreArguments& arguments) {
  auto [boards, choices] = files_of(arguments);
  const auto board = io::load_board(boards);
  BoardArguments asked = arguments;
  asked.boards = boards;
  for (const auto& chain : chains_of(board, asked))
    choices.space.channels.push_back(chain.channel.name);
  io::OutputFiles outputs({arguments.write});
  const auto board_of = [&](const explore::Pick& pick) {
    return io::load_board(boards, io::settings_of(choices, pick));
  };
  const auto threads = static_cast<unsigned>(whole_of("--threads", arguments.threads, 1, 256));
  heed_interrupts();
  std::optional<explore::Exploration> exploration;
  {
    Progress progress;
    exploration = explore::explore(choices.space, board_of, threads,
                                   [&](double part) { return progress.go_on(part); });
  }
  if (!exploration) throw io::EnvironmentError("it was ended before all candidates were tried");
  auto chosen =
      exploration->front.empty() ? std::optional<explore::Candidate>{} : exploration->front.front();
  if (!arguments.number.empty()) {
    const auto number = whole_of("--number", arguments.number, 0, exploration->candidates - 1);
    chosen = explore::candidate_of(choices.space, board_of, number);
  }
  if (!arguments.write.empty()) {
    if (!chosen) refuse("--write", "nothing that meets everything", "--number with a candidate");
    outputs.write(arguments.write, io::choices_overlay(choices, *chosen));
  }
  outputs.finish();
  const auto result = result::explored_of(choices.space, *exploration);
  show(result, {report::of(result)}, arguments.format);
  return exploration->feasible > 0 ? done : missed;
}

void declare_explore(Options& options, ExploreArguments& a) {
  options.board(a);
  options.option("--threads", a.threads, {"NUMBER", "that try combinations", "2"});
  options.group("Output");
  options.output("--write", a.write,
                 {"FILE", "the first of the front as FILE.toml, to go behind the board"});
  options.option("--number", a.number, {"NUMBER", "write the candidate of that number instead"});
  options.format(a.format);
}

}  // namespace

const Command explore_command{
    .name = "explore",
    .question = "which settings and parts meet the target, and at what cost?",
    .examples = {"explore demo/board.toml demo/choices.toml",
                 "explore demo/board.toml demo/choices.toml --channel coolant_flow --format csv"},
    .describe = [](Options& options) {
      return described<ExploreArguments>(options, declare_explore, run_explore);
    }};

}  // namespace tamlo::tool
