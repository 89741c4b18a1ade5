// SPDX-License-Identifier: Apache-2.0
// Readings beside a meter: does the channel do what its budget said, and what does a calibration
// leave?
#include <fmt/format.h>

#include "boards.hpp"
#include "tamlo/tamlo.hpp"

int main() {
  using namespace tamlo;
  auto board = throttle_board();
  board.meters.push_back({.name = "bench",
                          .ranges = {{.full_scale = quantity::volts("6 V"),
                                      .digits = 6000,
                                      .accuracy = quantity::meter_limits("±0.05 % ±2 digits")}}});
  const auto& meter = board.meters.front();
  const auto chain = meter::chain_as_metered(board, "throttle", meter);
  // The supply of this board is 4 % low, twice its limit: readings are that much high.
  std::vector<meter::Reading> rows;
  for (const double x : {0.3, 0.9, 1.5, 2.1, 2.7})
    rows.push_back({.meter = x, .reading = 1.04 * x});

  const auto compared = meter::compare(chain, meter, rows);
  fmt::print("{} of {} rows pass; gain {:+.2f} %\n", compared.summary.passed, rows.size(),
             100.0 * compared.summary.gain->value);
  const auto diagnosis = meter::diagnose(board, "throttle", meter, rows);
  if (diagnosis.fault)
    fmt::print("first suspect: {}\n", diagnosis.suspects.front().sources.front().name);
  const auto calibration = meter::calibrate(chain, meter, rows);
  for (const auto& left : calibration.residual_uncertainty) {
    fmt::print("at {:.1f} V: ±{:.1f} mV before, ±{:.1f} mV after a {}\n", left.at,
               1e3 * left.before, 1e3 * left.after, name(calibration.model));
  }
}
