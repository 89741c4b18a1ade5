// SPDX-License-Identifier: Apache-2.0
// What each row is worth in a correction: by moving the rows one after the other.
#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/math/random.hpp"
#include "tamlo/meter/calibrate.hpp"

namespace tamlo::meter {
namespace {

struct Fit {
  Model model;
  int order;
  double within;  ///< of the largest weight
};
// Least squares are linear in what the meter shows, but for weights that follow it a little, and
// for errors in both.
const Fit fits[] = {
    {Model::offset, 2, 1e-6},     {Model::gain, 2, 1e-6},       {Model::two_point, 2, 1e-6},
    {Model::line, 2, 1e-6},       {Model::piecewise, 2, 1e-6},  {Model::weighted_line, 2, 2e-3},
    {Model::polynomial, 2, 2e-3}, {Model::polynomial, 4, 2e-3}, {Model::both_axes, 2, 2e-2}};

std::vector<Reading> rows_of(int count, math::RandomStream& stream) {
  std::vector<Reading> rows;
  for (int i = 0; i < count; ++i) {
    const double x = 2.0 + 56.0 * i / (count - 1);
    rows.push_back({.meter = x, .reading = 0.1 + 1.002 * x + 0.01 * stream.normal()});
  }
  return rows;
}

TEST(Weights, AreWhatMovedRowsMove) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto meter = testing::bench_meter();
  math::RandomStream stream(12, 0);
  for (const auto& [model, order, within] : fits) {
    const auto rows = rows_of(9, stream);
    const CalibrationRequest request{.model = model, .order = order};
    const auto before = calibrate(chain, meter, rows, request);
    for (const double reading : {5.0, 21.0, 40.0, 55.0}) {
      const auto weights = before.weights_at(reading);
      ASSERT_EQ(weights.size(), rows.size());
      double largest = 0.0, all = 0.0;
      for (const double w : weights) largest = std::max(largest, std::abs(w)), all += w;
      // A shift of every row is taken away as a whole by all that have an offset.
      if (model != Model::gain) {
        EXPECT_NEAR(all, -1.0, 0.02) << name(model);
      }
      for (std::size_t i = 0; i < rows.size(); ++i) {
        auto moved = rows;
        constexpr double by = 1e-3;
        moved[i].meter -= by;  // the difference grows by so much
        const auto after = calibrate(chain, meter, moved, request);
        const double change = (chain::corrected(after.correction, reading) -
                               chain::corrected(before.correction, reading)) /
                              by;
        EXPECT_NEAR(change, weights[i], within * largest + 1e-7)
            << name(model) << " " << order << " at " << reading << ", row " << i;
      }
    }
  }
}

// A mean of n rows that are nearly alike is worth nearly 1 / n each, and a line's are those of the
// textbook: 1 / n + (x - mean) (x_i - mean) / S.
TEST(Weights, OfAMeanAndALine) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  math::RandomStream stream(12, 1);
  const auto rows = rows_of(7, stream);
  const auto mean = calibrate(chain, testing::bench_meter(), rows, {.model = Model::offset});
  for (const double w : mean.weights_at(20.0)) EXPECT_NEAR(w, -1.0 / 7.0, 7e-3);
  const auto line = calibrate(chain, testing::bench_meter(), rows, {.model = Model::line});
  double middle = 0.0, squares = 0.0;
  for (const auto& row : rows) middle += row.reading / 7.0;
  for (const auto& row : rows) squares += std::pow(row.reading - middle, 2);
  for (const double at : {0.0, 20.0, 60.0}) {
    const auto weights = line.weights_at(at);
    for (std::size_t i = 0; i < rows.size(); ++i) {
      const double expected = 1.0 / 7.0 + (at - middle) * (rows[i].reading - middle) / squares;
      EXPECT_NEAR(weights[i], -expected, 1e-9) << at << " " << i;
    }
  }
}

}  // namespace
}  // namespace tamlo::meter
