// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/detail/live.hpp"
#include "tamlo/signal/moments.hpp"

namespace tamlo::model {
struct Meter;
}  // namespace tamlo::model

/// A channel and a meter side by side, as they come: a pair once both are at rest (docs/method.md,
/// "Settling").
namespace tamlo {
namespace meter TAMLO_API {

/// Returns the rule of a meter at a reading, SI: at rest is within a quarter of `uncertainty`, or a
/// digit where that is more. Throws ArgumentError for a meter without ranges.
SettlingRule settling_rule(const model::Meter& meter, double reading, double uncertainty);

/// Why there is no pair yet.
enum class Waits : std::uint8_t {
  nothing,         ///< there is one
  for_channel,     ///< it moves, or too little of it came
  for_meter,       ///< the same
  meter_overload,  ///< the meter says that it is beyond its range, or shows more than its highest
  code_at_end,     ///< a code of the pair is the first or the last: the reading is no measurement
  to_follow,       ///< the meter went to another position, and the reading did not
};
std::string_view name(Waits waits);

/// Both sides since the last change of the quantity.
class Pairing {
 public:
  /// Keeps a reference to the meter. `uncertainty` as of Live.
  Pairing(chain::Chain chain, const model::Meter& meter, double uncertainty);

  /// A register value of the channel.
  void add_code(double code, double seconds);
  /// A reading of the channel, in SI.
  void add_reading(double reading, double seconds);
  /// `place`, SI, is that of the last digit shown; 0 where it is not known. A display that shows
  /// the digits of a higher range than it needs is on that range: the pair is then of it.
  void add_shown(double shown, double place = 0.0);
  /// The meter shows that it cannot show it.
  void add_overload();
  /// The quantity was changed: what came before is dropped.
  void restart();

  /// Returns what the pair still waits for.
  Waits waits() const;
  /// The mean of the channel's readings beside that of the meter's, since both came to rest: at
  /// least two readings of the meter, and a window of the channel. `repeats` are so many
  /// independent readings as the scatter of the differences shows the mean to be worth.
  std::optional<Reading> pair() const;
  /// The channel, as it is watched.
  const Live& channel() const { return channel_; }
  /// Returns the last value of the meter, in SI.
  std::optional<double> shown() const { return shown_; }

 private:
  // What came of the channel between two readings of the meter.
  struct Block {
    double shown = 0.0;
    signal::Moments channel{};
  };
  const model::Meter& meter_;
  Live channel_;
  double uncertainty_;
  std::optional<Settling> meter_settling_{};
  std::optional<double> shown_{};
  std::uint64_t counted_ = 0;       // readings of the channel that are in a block, or passed over
  std::optional<double> rested_{};  // where the channel did at the last reading of the meter
  Block next_{};
  std::vector<Block> blocks_{};  // since both came to rest
  bool overload_ = false, at_end_ = false;
  double place_ = 0.0;  // the finest since the last change

  std::optional<std::size_t> range_shown(double shown) const;

  void count_channel();
  std::optional<double> rest() const;
};

}  // namespace meter
}  // namespace tamlo
