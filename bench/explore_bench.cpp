// SPDX-License-Identifier: Apache-2.0
// All candidates of the demo's choices, beside reading, building, checking and evaluating every
// three hundredth of them by the public calls; both of one thread. And the parsing of a line of a
// link.
#include <benchmark/benchmark.h>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/explore/explore.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/choices_file.hpp"
#include "tamlo/link/detail/line_parser.hpp"
#include "tamlo/model/board.hpp"

namespace {

using namespace tamlo;

const std::vector<std::string> boards{TAMLO_SOURCE "/demo/board.toml"};

struct Demo {
  io::ChoicesFile choices;
  explore::BoardOf board_of = [this](const explore::Pick& pick) {
    return io::load_board(boards, io::settings_of(choices, pick));
  };
  explicit Demo(const char* file = TAMLO_SOURCE "/demo/choices.toml")
      : choices(io::load_choices(file)) {
    for (const auto& channel : io::load_board(boards).channels) {
      choices.space.channels.push_back(channel.name);
    }
  }
};

void every_candidate_explored(benchmark::State& state) {
  const Demo demo;
  for (auto _ : state)
    benchmark::DoNotOptimize(explore::explore(demo.choices.space, demo.board_of));
}
BENCHMARK(every_candidate_explored)->Unit(benchmark::kMicrosecond);

void more_than_a_million_candidates(benchmark::State& state) {
  const Demo demo(TAMLO_SOURCE "/bench/million.toml");
  for (auto _ : state) {
    benchmark::DoNotOptimize(
        explore::explore(demo.choices.space, demo.board_of, math::by_threads(2)));
  }
}
BENCHMARK(more_than_a_million_candidates)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(1)
    ->UseRealTime();

void some_by_public_calls(benchmark::State& state) {
  const Demo demo;
  for (auto _ : state) {
    for (std::uint64_t number = 0; number < 3456; number += 288) {
      const auto pick = explore::pick_of(demo.choices.space, number);
      const auto board = demo.board_of({pick.begin(), pick.end()});
      for (const auto& channel : board.channels) {
        const auto chain = chain::build(board, channel.name);
        benchmark::DoNotOptimize(check::has_error(board, chain));
        benchmark::DoNotOptimize(budget::evaluate(chain));
        benchmark::DoNotOptimize(chain::dynamics(chain));
      }
    }
  }
}
BENCHMARK(some_by_public_calls)->Unit(benchmark::kMicrosecond);

void a_line_of_a_link(benchmark::State& state) {
  const auto board = io::load_board(boards);
  link::LineParser parser({.name = "l",
                           .form = model::LineForm::pattern,
                           .pattern = "raw {pack_voltage.code} flow {coolant_flow.reading}"},
                          board);
  std::vector<link::Value> values;
  for (auto _ : state) benchmark::DoNotOptimize(parser.parse("raw 3154 flow 5.4321", values));
}
BENCHMARK(a_line_of_a_link)->Unit(benchmark::kMicrosecond);

}  // namespace
