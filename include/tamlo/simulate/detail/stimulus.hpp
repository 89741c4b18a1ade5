// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "tamlo/chain/detail/step_response.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/detail/accuracy.hpp"
#include "tamlo/signal/detail/input.hpp"

namespace tamlo::chain {
struct Chain;
}  // namespace tamlo::chain

/// Input of a virtual unit over time, and a virtual meter beside it.
namespace tamlo {
namespace simulate TAMLO_API {

/// The quantity over time. SI of the quantity, s, Hz.
struct Stimulus {
  /// steady: at `from`. ramp: from `from` to `to` over the whole record, `rounds` times. sine:
  /// between them, from the middle up. step: from one to the other, at a quarter of the record.
  signal::Input input = signal::Input::steady;
  double from = 0.0, to = 0.0;
  double frequency = 0.0;  ///< of a sine
  int rounds = 1;          ///< of ramps
  double drift = 0.0;      ///< added, a second
  /// A sine that gets in on top, of this amplitude in the quantity.
  double hum = 0.0, hum_frequency = 0.0;
};

/// The quantity as the chain's low-passes let it through, at moments of a record of `duration`. The
/// low-passes are nominal; behind a sensor that is not straight they act on the quantity.
class Course {
 public:
  /// Prepares a course of so many seconds. Throws ArgumentError for what the chain cannot be given.
  Course(const Stimulus& stimulus, const chain::Chain& chain, double duration);
  /// The quantity at a time, in s.
  double at(double time) const;
  /// The moment of a step.
  double step_at() const { return duration_ / 4.0; }

 private:
  Stimulus stimulus_;
  double duration_;
  chain::Lowpasses lowpasses_;
  struct Passed {
    double gain = 1.0, phase = 0.0;
  } sine_{}, hum_{};
};

/// A virtual reference meter: each of its ranges has one deviation for each limit of its accuracy,
/// the same at every reading; the display rounds. The same seed gives the same meter.
class BenchMeter {
 public:
  /// Keeps a reference to the meter.
  BenchMeter(const model::Meter& meter, std::uint64_t seed);
  BenchMeter(model::Meter&& gone, std::uint64_t seed) = delete;
  /// Returns the meter's value for `x` (SI); none above its highest range.
  std::optional<double> show(double x) const;

 private:
  const model::Meter& meter_;
  std::vector<std::vector<double>> deviations_{};
};

}  // namespace simulate
}  // namespace tamlo
