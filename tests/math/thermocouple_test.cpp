// SPDX-License-Identifier: Apache-2.0
// Thermocouples against the tables of the standard, which have whole microvolts.
#include "tamlo/math/detail/expression.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <vector>

namespace tamlo::math {
namespace {

// IEC 60584-1, tables of the reference functions: millivolts every 100 degC from `from` on, and
// those of the ends of the range.
struct Published {
  char type;
  double from;
  std::vector<double> millivolts;
  std::vector<std::pair<double, double>> ends;
};
const Published tables[] = {
    {'B',
     100,
     {0.033, 0.178, 0.431, 0.787, 1.242, 1.792, 2.431, 3.154, 3.957, 4.834, 5.780, 6.786, 7.848,
      8.956, 10.099, 11.263, 12.433, 13.591},
     {{0, 0}, {1820, 13.820}}},
    {'E',
     -200,
     {-8.825, -5.237, 0.0, 6.319, 13.421, 21.036, 28.946, 37.005, 45.093, 53.112, 61.017, 68.787,
      76.373},
     {{-270, -9.835}, {-250, -9.718}}},
    {'J',
     -200,
     {-7.890, -4.633, 0.0, 5.269, 10.779, 16.327, 21.848, 27.393, 33.102, 39.132, 45.494, 51.877,
      57.953, 63.792, 69.553},
     {{-210, -8.095}, {760, 42.919}}},
    {'K',
     -200,
     {-5.891, -3.554, 0.0, 4.096, 8.138, 12.209, 16.397, 20.644, 24.905, 29.129, 33.275, 37.326,
      41.276, 45.119, 48.838, 52.410},
     {{-270, -6.458}, {25, 1.000}, {1372, 54.886}}},
    {'N',
     -200,
     {-3.990, -2.407, 0.0, 2.774, 5.913, 9.341, 12.974, 16.748, 20.613, 24.527, 28.455, 32.371,
      36.256, 40.087, 43.846, 47.513},
     {{-270, -4.345}}},
    {'R',
     0,
     {0.0, 0.647, 1.469, 2.401, 3.408, 4.471, 5.583, 6.743, 7.950, 9.205, 10.506, 11.850, 13.228,
      14.629, 16.040, 17.451, 18.849, 20.222},
     {{-50, -0.226}, {1768, 21.101}}},
    {'S',
     0,
     {0.0, 0.646, 1.441, 2.323, 3.259, 4.233, 5.239, 6.275, 7.345, 8.449, 9.587, 10.757, 11.951,
      13.159, 14.373, 15.582, 16.777, 17.947},
     {{-50, -0.236}, {1768, 18.693}}},
    {'T', -200, {-5.603, -3.379, 0.0, 4.279, 9.288, 14.862, 20.872}, {{-270, -6.258}}},
};

// The same every 10 degC from 10 degC on.
const std::pair<char, std::vector<double>> near_rooms[] = {
    {'E', {0.591, 1.192, 1.801, 2.420, 3.048, 3.685, 4.330, 4.985, 5.648}},
    {'J',
     {0.507, 1.019, 1.537, 2.059, 2.585, 3.116, 3.650, 4.187, 4.726, 5.269, 5.814, 6.360, 6.909,
      7.459, 8.010, 8.562, 9.115, 9.669, 10.224}},
    {'K', {0.397, 0.798, 1.203, 1.612, 2.023,  2.436,  2.851,  3.267,  3.682, 4.096,
           4.509, 4.920, 5.328, 5.735, 6.138,  6.540,  6.941,  7.340,  7.739, 8.138,
           8.539, 8.940, 9.343, 9.747, 10.153, 10.561, 10.971, 11.382, 11.795}},
    {'T',
     {0.391, 0.790, 1.196, 1.612, 2.036, 2.468, 2.909, 3.358, 3.814, 4.279, 4.750, 5.228, 5.714,
      6.206, 6.704, 7.209, 7.720, 8.237, 8.759}},
};

TEST(Thermocouple, AgreesWithTheTablesOfTheStandard) {
  int points = 0;
  for (const auto& [type, from, millivolts, ends] : tables) {
    auto all = ends;
    for (std::size_t i = 0; i < millivolts.size(); ++i)
      all.emplace_back(from + 100.0 * static_cast<double>(i), millivolts[i]);
    for (const auto& [celsius, published] : all) {
      EXPECT_NEAR(1e3 * thermocouple_voltage(type, celsius), published, 0.000501)
          << type << " " << celsius;
      ++points;
    }
  }
  for (const auto& [type, millivolts] : near_rooms) {
    for (std::size_t i = 0; i < millivolts.size(); ++i) {
      EXPECT_NEAR(1e3 * thermocouple_voltage(type, 10.0 + 10.0 * static_cast<double>(i)),
                  millivolts[i], 0.000501)
          << type << " " << 10 + 10 * i;
      ++points;
    }
  }
  EXPECT_GE(points, 200);
}

// Where one stretch ends and the next begins both give the same, value and slope.
TEST(Thermocouple, StretchesJoin) {
  for (const auto& each : {std::pair{'B', 630.615},
                           {'E', 0.0},
                           {'J', 760.0},
                           {'K', 0.0},
                           {'N', 0.0},
                           {'R', 1064.18},
                           {'R', 1664.5},
                           {'S', 1064.18},
                           {'S', 1664.5},
                           {'T', 0.0}}) {
    const char type = each.first;
    const double joint = each.second;
    const auto at = [&](double celsius) { return 1e6 * thermocouple_voltage(type, celsius); };
    EXPECT_NEAR(at(joint + 1e-9), at(joint - 1e-9), 0.05) << type << joint;  // uV
    const double below = at(joint) - at(joint - 0.5), above = at(joint + 0.5) - at(joint);
    EXPECT_NEAR(above / below, 1.0, type == 'N' ? 1e-2 : 2e-3) << type << joint;
  }
}

TEST(Thermocouple, TemperatureIsTheInverse) {
  for (const auto& [type, from, millivolts, ends] : tables) {
    const double low = type == 'B' ? 50.0 : type == 'J' ? -210.0 : from, high = ends.back().first;
    for (double celsius = low; celsius <= std::max(high, 400.0); celsius += 7.3) {
      const double volts = thermocouple_voltage(type, celsius);
      if (std::isnan(volts)) continue;
      EXPECT_NEAR(thermocouple_temperature(type, volts), celsius, 1e-6) << type;
    }
    EXPECT_TRUE(std::isnan(thermocouple_temperature(type, 1.0)));
    EXPECT_TRUE(std::isnan(thermocouple_voltage(type, 5000.0)));
  }
  EXPECT_TRUE(std::isnan(thermocouple_voltage('X', 20.0)));
  // 4.096 mV against terminals at 25 degC, which are worth 1.000 mV: 5.096 mV lies between 5.084 mV
  // at 124 degC and 5.124 mV at 125 degC of the table of K.
  EXPECT_NEAR(hot_junction('K', 4.096e-3, 298.15) - 273.15, 124.3, 0.03);
  EXPECT_NEAR(hot_junction('K', 0.0, 298.15), 298.15, 1e-6);
}

}  // namespace
}  // namespace tamlo::math
