// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <span>
#include <vector>

/// Monte Carlo by the million, and what JCGM 101 takes from it. Trials are numbered, and their
/// number is all that their result depends on: threads and machines share them out as they like.
namespace tamlo::budget {

struct TrialsRequest {
  std::uint64_t seed = 1;
  std::uint64_t count = 0;  ///< 0: as many as the digits need (JCGM 101, 7.9), up to `most`
  double coverage = 0.95;
  int digits = 2;  ///< of the standard uncertainty, that are to be right
  std::uint64_t most = 10'000'000;
  int threads = 1;
};

using Interval = std::array<double, 2>;

/// What the trials of one output say.
struct Trials {
  std::uint64_t count = 0;
  double mean = 0.0;
  double combined = 0.0;  ///< standard deviation
  Interval symmetric{};   ///< as much probability below it as above
  Interval shortest{};
  bool settled = true;  ///< false: `most` trials did not do for the digits
};

/// Fills `y` with the results of the trials `first`, `first` + 1, ...; `first` is a multiple of
/// math::draws_block and there are at most as many. Called from several threads at once.
using Block = std::function<void(std::uint64_t first, std::span<double> y)>;

/// Runs a model through its trials. Throws std::domain_error if it gives a value that is not a
/// number.
Trials run(const Block& block, const TrialsRequest& request);

/// The values themselves, `count` of them, in the order of their numbers.
std::vector<double> sample(const Block& block, std::uint64_t count, int threads = 1);

/// Mean, deviation and intervals of a sample (JCGM 101, 7.6 and 7.7), of finite values.
Trials describe(std::span<const double> values, double coverage);

/// The tolerance of a standard uncertainty of which so many digits count: half a unit of the last
/// (JCGM 101, 7.9.2).
double tolerance(double standard, int digits);

}  // namespace tamlo::budget
