// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "tamlo/chain/detail/timing.hpp"
#include "tamlo/export.hpp"

/// Behaviour of a channel in time: average, filter, delay, interference (docs/method.md, "Time" and
/// "Averages and filters").
namespace tamlo {
namespace chain TAMLO_API {

struct Chain;
struct Digital;

/// Figures of one stage, or of all of them in series. Hz and s where the board gives a rate;
/// without one parts of the rate and samples.
struct FilterFigures {
  std::string name{};
  double rate = 0.0;  ///< of what comes in
  double output_rate = 0.0;
  double cutoff = 0.0;           ///< -3 dB
  double noise_left = 1.0;       ///< part of the standard deviation of white noise
  double delay = 0.0;            ///< of slow signals
  double rejection_50_hz = 0.0;  ///< dB; infinite for what is taken out whole
  double rejection_60_hz = 0.0;
  int to_code = 1;      ///< readings until a step over the full scale has settled to one code
  int to_permille = 1;  ///< to 0.1 %
  int to_target = 1;    ///< to what the target allows; to 0.1 % where there is none
};

/// A sine that gets in, and how much of it is in the readings.
struct Alias {
  double frequency = 0.0;   ///< Hz
  double appears_at = 0.0;  ///< Hz, in the readings
  double at_pin = 0.0;      ///< V, amplitude
  double analog = 1.0;      ///< part that the low-passes and the converter's own filter let through
  double digital = 1.0;     ///< part that average and filter let through
  double amplitude = 0.0;   ///< in the reading, in the unit of the quantity, at mid-span
};

/// A step at the pin as the sampling capacitor sees it.
struct Settling {
  double time = 0.0;           ///< s, that the switch is closed
  double needed = 0.0;         ///< s, to half a code of a step over the full scale; may be infinite
  double left_in_codes = 0.0;  ///< of such a step
  double time_constant = 0.0;  ///< s, without a capacitor at the pin
};

/// Rates (Hz), delays (s) and rejection of a channel.
struct Dynamics {
  Timing timing{};
  std::vector<FilterFigures> stages{};
  FilterFigures series{};
  std::vector<Alias> aliases{};
  std::optional<Settling> settling{};
  /// s, of low-passes and amplifiers to the target, or 0.1 %: a step over the span through the
  /// slew of each amplifier, and then its bandwidth.
  double analog_settling = 0.0;
  /// s, from a step until readings show it to the target, or 0.1 %, for good: low-passes, average
  /// and filter in series, for the worst moment between two readings. 0: unknown.
  double latency = 0.0;
  int first_valid = 1;  ///< the first reading after a start from nothing that is so near
  /// Mains periods in the window of the longest average; 0 where mains or rate are not known.
  double mains_periods = 0.0;
  /// Rejection of the mains by the conversions that stand, in dB, and folded by their rate: a sine
  /// at a multiple of the rate folds to 0 Hz and is not rejected. 0 where mains or rate are not
  /// known.
  double mains_rejection = 0.0;
};

/// Returns rates (Hz), delays (s), settling and the rejection of the mains of a channel. Settling
/// counts low-passes, average and filter in series, reading by reading, up to 400 000 conversions;
/// beyond that their times are added, which is no less (docs/method.md, "Time"). 0 stands for what
/// the description leaves open. Throws nothing for a chain that build() gave.
Dynamics dynamics(const Chain& chain);

/// Returns the alias of a frequency after sampling at `rate`: 0 to rate / 2.
double folded(double frequency, double rate);

/// Returns of the frequencies within `limit` of `frequency`, all Hz, the one that low-passes,
/// average and filter let through most: on a grid of 32 to 512, refined about the best.
double least_rejected(const Chain& chain, double frequency, double limit);

/// Returns the error that the target allows, as a part of the span; 0.1 % without a target.
double target_band(const Chain& chain);

/// Step answer of average and filter, reading by reading, from a step right after a reading.
std::vector<double> step_response(const Digital& digital, int readings);

/// Part of a sine that comes through.
struct Passed {
  double frequency = 0.0;  ///< Hz
  double digital = 1.0;    ///< through average and filter
  double whole = 1.0;      ///< and through what is before them
};
/// Parts of sines that pass, and the readings that follow a step.
struct Response {
  bool rate_known = true;         ///< else frequencies are parts of it and times are conversions
  std::vector<Passed> passed{};   ///< from 0 to half the rate of the conversions
  double period = 1.0;            ///< s between readings
  std::vector<double> answers{};  ///< of each reading after a step, in parts of the step
};
/// Returns the response at `count` steps of the frequency, 1 or more, and as many readings as show
/// how a step settles, 4000 at most.
Response response(const Chain& chain, int count);

/// Seconds between two changes of the reading, infinite where it has none, while the quantity moves
/// by `slope` (SI a second) through `x`. The controller behind cannot act on less than a step, nor
/// see one sooner.
double time_between_steps(const Chain& chain, double x, double slope);

/// A switching point of the firmware and what noise does at it.
struct ThresholdFigures {
  double on_code = 0.0, off_code = 0.0;  ///< reported; the firmware compares with these, rounded
  double on = 0.0, off = 0.0;            ///< the quantity where one reading in two passes them
  double noise = 0.0;                    ///< standard deviation of a reading there
  double reading_rate = 0.0;             ///< a second; 0 where it is not known
  int debounce = 1;                      ///< readings in a row that it takes
  double debounce_delay = 0.0;           ///< s, from the first of them; 0 where no rate is known
  /// True where false trips count the debounce: no conversion is part of two readings. Else they
  /// are those of single readings, which are no less.
  bool debounce_counted = true;
  /// Pairs of them a second, while the quantity stands where they are most: counted on the discrete
  /// values, of readings whose noise is independent.
  std::optional<double> false_trips{};
  std::optional<double> needed{};  ///< hysteresis for the trips that are allowed
};
std::optional<ThresholdFigures> threshold(const Chain& chain);

/// The firmware's edges between the channel's zones, in their order: it compares readings. The
/// code `on` is the first register value whose reading reaches the edge, `off` the first in the
/// other direction whose reading lies below the edge less the hysteresis. Of a zone that no
/// register value enters, or leaves, they are infinite, and so is a true value at which nothing
/// tips. Empty without zones.
std::vector<ThresholdFigures> zone_edges(const Chain& chain);

/// A zone from edge to edge, or to an end of the span.
struct ZoneWidth {
  double from = 0.0, to = 0.0;  ///< the quantity
  double codes = 0.0;           ///< register values between them
  bool narrow = false;  ///< under four of them, or under 6.6 standard deviations of a reading
};
std::vector<ZoneWidth> zone_widths(const Chain& chain, const std::vector<ThresholdFigures>& edges);

}  // namespace chain
}  // namespace tamlo
