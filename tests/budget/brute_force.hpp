// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <random>
#include <vector>

#include "boards.hpp"

// Channels that are described twice: as a board, and as a plain loop that converts one code at a
// time. Nothing of the chain is in the loops.
namespace tamlo::budget::brute_force {

using model::Board;
using model::Channel;
using model::Converter;
using testing::value;

// What is drawn of a unit, and what is new at every conversion.
class Random {
 public:
  double flat(double limit) { return limit * (2.0 * uniform_(engine_) - 1.0); }
  double normal(double sigma) { return sigma * normal_(engine_); }

 private:
  std::mt19937_64 engine_{20261126};
  std::uniform_real_distribution<double> uniform_{};
  std::normal_distribution<double> normal_{};
};

using Reads = std::function<double(double x)>;  // what one unit shows for a quantity

struct Case {
  const char* name;
  std::function<void(Board&, Converter&, Channel&)> describe;
  std::function<Reads(Random&)> unit;
  std::vector<double> at;
  bool anywhere = false;  // within a step: a quiet converter shows one error at one place
  int bits = 12;
  const char* span = "0..2.4 V";
};

inline constexpr double q = 2.5 / 4096.0;

// The code of a converter of so many codes from 0 on.
inline double code(double unquantised, double codes = 4096.0) {
  return std::clamp(std::floor(unquantised + 0.5), 0.0, codes - 1.0);
}

inline double mean_of(int count, const std::function<double()>& one) {
  double sum = 0.0;
  for (int i = 0; i < count; ++i) sum += one();
  return sum / count;
}

inline double median_of(int count, const std::function<double()>& one) {
  std::vector<double> all;
  for (int i = 0; i < count; ++i) all.push_back(one());
  std::ranges::nth_element(all, all.begin() + count / 2);
  return all[static_cast<std::size_t>(count / 2)];
}

// Ohms of a thermistor of 10 kohm at 25 degC.
inline double ohms(double kelvin, double r25 = 10e3, double beta = 3950.0) {
  return r25 * std::exp(beta * (1.0 / kelvin - 1.0 / 298.15));
}

inline void divide(Channel& of, const char* top, const char* bottom) {
  of.frontend = {model::Divider{.top = value(top, "ohm"), .bottom = value(bottom, "ohm")}};
}
inline void noise(Converter& adc, const char* text) { adc.noise = value(text, "V"); }

std::vector<Case> channels_before_the_pin();   ///< sensors, front ends, what gets in
std::vector<Case> converters_and_firmwares();  ///< codes, register formats, averages, scaling

std::vector<Case> filtered_readings();  ///< clipped, averaged, behind a median, tared

}  // namespace tamlo::budget::brute_force
