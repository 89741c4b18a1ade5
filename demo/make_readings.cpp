// SPDX-License-Identifier: Apache-2.0
// Makes demo/readings.csv: tamlo_make_readings demo/board.toml demo/as_built.toml > readings.csv
//
// One virtual unit of the board stands on the bench beside the meter. All sources of its channels
// are drawn from their distributions (seed below), each conversion has its own noise, and each
// range of the meter its own deviation. Two things are wrong with the pack voltage, on purpose:
//   - the firmware divides by the last code (as_built.toml), so it reads 0.024 % high;
//   - the top resistor of its divider is 1.2 % under its nominal, twelve times its tolerance.
// Nothing is wrong with the auxiliary supply.
#include <fmt/format.h>

#include <cmath>
#include <string>
#include <vector>

#include "tamlo/io/board_file.hpp"
#include "tamlo/meter/accuracy.hpp"
#include "tamlo/simulate/unit.hpp"

namespace {

using namespace tamlo;

constexpr std::uint64_t seed = 20261124;

struct Channel {
  const char* name;
  std::vector<double> positions;  // of the knob, V
  double top_deviation;           // of the divider's top resistor, part of its nominal
};

// The bench meter: each of its ranges has one deviation for each limit of its accuracy, the same at
// every reading; the display rounds.
class Bench {
 public:
  explicit Bench(const model::Meter& meter) : meter_(meter) {
    math::Stream stream(seed, 0);
    for (const auto& range : meter.ranges) {
      auto& of_range = deviations_.emplace_back();
      for (std::size_t i = 0; i < range.accuracy.limits.size(); ++i) {
        of_range.push_back(stream.normal());
      }
    }
  }

  double show(double x) const {
    const auto at = meter::range_for(meter_, x).value();
    const auto u = meter::uncertainty(meter_.ranges[at], x);
    double shown = x;
    for (std::size_t i = 0; i < u.limits.size(); ++i) shown += u.limits[i] * deviations_[at][i];
    const double digit = meter::digit(meter_.ranges[at]);
    return std::round(shown / digit) * digit;
  }

 private:
  const model::Meter& meter_;
  std::vector<std::vector<double>> deviations_;
};

void make(const model::Board& board, const model::Board& built, const Channel& of,
          const Bench& bench, std::uint64_t number) {
  const auto chain = chain::build(board, of.name);
  const auto firmware = chain::build(built, of.name);
  auto unit = simulate::draw(chain, seed, number);
  const auto& divider = std::get<chain::DividerLaw>(chain.stages.front().law);
  unit.parameters[divider.top] += of.top_deviation * chain.nominal[divider.top];
  math::Stream noise(seed, 1000 + number);
  for (const double x : of.positions) {
    const double reading = simulate::read(chain, firmware, unit, x, noise);
    fmt::print("{},{:.5g},{:.3f}\n", of.name, bench.show(x), reading);
  }
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 3) {
    fmt::print(stderr, "usage: tamlo_make_readings BOARD AS_BUILT\n");
    return 2;
  }
  const auto board = io::load_board({argv[1]});
  const auto built = io::load_board({argv[1], argv[2]});
  fmt::print("# Made by demo/make_readings.cpp, seed {}: a virtual unit beside the bench meter.\n",
             seed);
  fmt::print("channel,meter [V],reading [V]\n");
  const Bench bench(board.meters.front());
  make(board, built, {"pack_voltage", {2, 8, 15, 22, 29, 36, 43, 50, 54, 58}, -0.012}, bench, 1);
  make(board, built, {"auxiliary_supply", {1, 3, 5, 7, 9, 11, 13, 15}, 0.0}, bench, 2);
}
