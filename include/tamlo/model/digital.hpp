// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <variant>
#include <vector>

#include "tamlo/detail/copied.hpp"
#include "tamlo/export.hpp"

/// Digital filters of the firmware, before it scales, as plain data.
namespace tamlo {
namespace model TAMLO_API {

/// So many samples, or as many as a time holds at the rate of the stream (at least one).
struct Length {
  int count = 1;
  std::optional<double> time{};  ///< s
  /// The mean is a whole number, what is left of the sum dropped: `sum >> 4`.
  bool truncated = false;
};

/// The mean of the last `length` samples, at every sample.
struct MovingAverage {
  Length length{};
};

/// The mean of `length` samples, once for all of them.
struct BlockAverage {
  Length length{};
};

/// y += weight * (x - y); weight in (0, 1], or 1 - exp(-T / time_constant).
struct Exponential {
  double weight = 1.0;
  std::optional<double> time_constant{};  ///< s
};

/// `order` moving averages of `decimation` samples in series, then every `decimation`-th value.
struct Sinc {
  int order = 1;
  int decimation = 1;
};

/// The middle one of the last `length` samples by size; length is odd.
struct Median {
  int length = 1;
};

/// Low-pass that is flattest in its pass band.
struct Butterworth {
  int order = 2;
  double cutoff = 0.0;  ///< Hz, below half the rate
};

/// Takes out one frequency and lets zero through as it is.
struct Notch {
  double frequency = 0.0;  ///< Hz, below half the rate
  double width = 0.0;      ///< Hz, between the -3 dB points
};

/// sum taps[i] x[n - i], divided by the sum of the taps.
struct FirFilter {
  std::vector<double> taps{};
};

/// One of the filters.
struct DigitalStage : std::variant<BlockAverage, MovingAverage, Exponential, Sinc, Median,
                                   Butterworth, Notch, FirFilter> {
  using variant::variant;
  TAMLO_COPIED_IN_ONE_SOURCE(DigitalStage);
};

}  // namespace model
}  // namespace tamlo
