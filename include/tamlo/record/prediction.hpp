// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/signal/capture.hpp"
#include "tamlo/signal/detail/input.hpp"

namespace tamlo::chain {
struct Chain;
}  // namespace tamlo::chain

/// Prediction of a record from the description of its channel.
namespace tamlo {
namespace record TAMLO_API {

/// Content of a record.
enum class Shows : std::uint8_t {
  codes,     ///< what the firmware finds at each conversion
  readings,  ///< what it shows, SI of the quantity, at its own rate
};
std::string_view name(Shows shows);

/// All in the unit of the values.
struct Prediction {
  double noise = 0.0;               ///< standard deviation, without the steps below
  double step = 0.0;                ///< from one value to the next; 0: within the noise
  double inl = 0.0;                 ///< standard deviation of what INL adds to a moving signal
  std::optional<int> resolution{};  ///< bits, of codes
  double per_code = 1.0;            ///< what a code of the converter is reported as
  /// Interference that the board names; amplitudes in the unit of the values. Of an unknown rate
  /// none.
  struct Wave {
    double frequency = 0.0;  ///< cycles a sample, folded
    double amplitude = 0.0;
  };
  std::vector<Wave> waves{};
  /// Standard deviation of the noise and the steps together.
  double with_steps() const;
};

/// Returns what `samples` samples of a steady input `x` (SI) should show by the budget: noise,
/// steps and interference, in codes or readings. `rate` is in Hz, 0 where it is not known; 1/f
/// noise counts down to the inverse of the record's time. Throws nothing for a chain that build()
/// gave.
Prediction predict(const chain::Chain& chain, Shows shows, double x, double rate,
                   std::uint64_t samples);

/// The quantity that nominally gives a mean code or reading.
double quantity_of(const chain::Chain& chain, Shows shows, double mean);

/// Conversions that go into one sample.
int conversions_of(const chain::Chain& chain, Shows shows);

/// Samples a second, as the board has it; 0 where it does not say.
double rate_of(const chain::Chain& chain, Shows shows);

using signal::Input;

/// Returns the bin width, window and segments of a capture that suits the channel.
signal::Capture::Options capture_options(const chain::Chain& chain, Shows shows, Input input);

/// Returns the same for samples without a board, by the first of them: bins of a 64th of their
/// noise from sample to sample, at least 2^-23 of their range. Codes have bins of 1.
signal::Capture::Options capture_options(Shows shows, Input input, std::span<const double> first);

}  // namespace record
}  // namespace tamlo
