// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <memory>
#include <string>
#include <thread>
#include <utility>
#include <vector>

#include "tamlo/chain/chain.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/link/detail/bench_stand_in.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/simulate/unit.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {

/// A unit of the demo's pack voltage with its meter and a source, served from a thread.
class LiveBench {
 public:
  struct Unit {
    std::uint64_t number = 1;
    std::vector<std::pair<std::string, double>>
        moved{};        ///< parameters, by a part of their nominal
    double rate = 0.0;  ///< conversions a second; 0: by the board
    std::string as_built{},
        firmware{};  ///< files that change what it is, and what its firmware believes
    link::BenchStandIn::Settings served{.lines = 0, .meter = 0, .source = 0};
  };

  explicit LiveBench(const Unit& unit)
      : board_(io::load_board(files(unit.as_built))),
        chain_(chain::build(board_, channel)),
        firmware_(chain::build(io::load_board(files(unit.firmware)), channel)),
        sampler_(chain_, firmware_, unit_of(unit), settings(unit)),
        stand_in_(sampler_, chain_, model::find(board_.meters, "bench"), unit.served),
        thread_([this](const std::stop_token& stop) {
          stand_in_.serve([&](double) { return !stop.stop_requested(); });
        }) {}

  /// The file behind the board that says how it is reached; the meter is asked often.
  std::string links(const Folder& folder) const {
    return folder.write("bench.toml", replaced(stand_in_.links(), "50 ms", "10 ms"));
  }
  static constexpr const char* channel = "pack_voltage";

 private:
  model::Board board_;
  chain::Chain chain_, firmware_;
  simulate::Sampler sampler_;
  link::BenchStandIn stand_in_;
  std::jthread thread_;

  static std::vector<std::string> files(const std::string& behind) {
    std::vector<std::string> all{demo_board};
    if (!behind.empty()) all.push_back(behind);
    return all;
  }
  simulate::VirtualUnit unit_of(const Unit& of) const {
    auto unit = simulate::draw(chain_, 1, of.number);
    for (const auto& [name, by] : of.moved) simulate::move(unit, chain_, name, by, true);
    return unit;
  }
  simulate::Sampler::Settings settings(const Unit& of) const {
    return {.stimulus = {.from = 0.0},
            .shows = of.served.readings ? record::Shows::readings : record::Shows::codes,
            .rate = of.rate > 0.0 ? of.rate : chain_.firmware.digital.rate,
            .samples = 1'000'000'000,
            .number = of.number};
  }
};

}  // namespace tamlo::testing
