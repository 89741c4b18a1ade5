// SPDX-License-Identifier: Apache-2.0
// Makes the demo's readings: tamlo_make_readings demo/board.toml demo/as_built.toml WHICH >
// WHICH.csv
//   readings  one unit beside the bench meter
//   later     the same unit and meter a year on, its reference 0.1 % lower, far more than its
//   ageing units     the auxiliary supply of twelve units
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

// The rows of one unit; `aged` is by how much of itself its reference has changed, and `called`
// what stands at the end of each row.
void make(const model::Board& board, const model::Board& built, const Channel& of,
          const Bench& bench, std::uint64_t number, double aged = 0.0,
          const std::string& called = "") {
  const auto chain = chain::build(board, of.name);
  const auto firmware = chain::build(built, of.name);
  auto unit = simulate::draw(chain, seed, number);
  const auto& divider = std::get<chain::DividerLaw>(chain.stages.front().law);
  unit.parameters[divider.top] += of.top_deviation * chain.nominal[divider.top];
  unit.parameters[chain.conversion.reference] *= 1.0 + aged;
  math::Stream noise(seed, 1000 + number + (aged == 0.0 ? 0 : 500));
  for (const double x : of.positions) {
    const double reading = simulate::read(chain, firmware, unit, x, noise);
    fmt::print("{},{:.5g},{:.3f}{}\n", of.name, bench.show(x), reading, called);
  }
}

}  // namespace

int main(int argc, char** argv) {
  const std::string which = argc == 4 ? argv[3] : "";
  if (which != "readings" && which != "later" && which != "units") {
    fmt::print(stderr, "usage: tamlo_make_readings BOARD AS_BUILT readings|later|units\n");
    return 2;
  }
  const auto board = io::load_board({argv[1]});
  const auto built = io::load_board({argv[1], argv[2]});
  fmt::print("# Made by demo/make_readings.cpp, seed {}: a virtual unit beside the bench meter.\n",
             seed);
  fmt::print("channel,meter [V],reading [V]{}\n", which == "units" ? ",unit" : "");
  const Bench bench(board.meters.front());
  const Channel pack{"pack_voltage", {2, 8, 15, 22, 29, 36, 43, 50, 54, 58}, -0.012};
  const Channel auxiliary{"auxiliary_supply", {1, 3, 5, 7, 9, 11, 13, 15}, 0.0};
  if (which == "units") {
    for (std::uint64_t number = 11; number <= 22; ++number) {
      make(board, built, auxiliary, bench, number, 0.0, fmt::format(",C{}", number));
    }
    return 0;
  }
  const double aged = which == "later" ? -1e-3 : 0.0;
  make(board, built, pack, bench, 1, aged);
  make(board, built, auxiliary, bench, 2, aged);
}
