// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/quantity/value.hpp"

namespace tamlo::chain {
struct Chain;
}  // namespace tamlo::chain

/// Readings as they come: when they have come to rest, and what they then are (docs/method.md,
/// "Settling"); how they look meanwhile.
namespace tamlo {
namespace meter TAMLO_API {

/// Rule that decides when a stream of readings has settled.
struct SettlingRule {
  std::size_t window = 8;  ///< readings of one window, 4 at least
  double allowed = 0.0;    ///< SI: what a value taken may be off by, for not being at rest; above 0
  double noise = 0.0;      ///< SI: standard deviation of one reading, by the budget
  double correlation = 1.0;  ///< readings that are worth as much as one independent one, at least 1
  double keeps = 0.5;        ///< of a step, what is left of it one window later, in [0, 1)
};

/// Returns the rule of a channel at `x`: a window holds the filter's settling and so many readings
/// that the noise of their mean is a quarter of `uncertainty` at most, and no more than 4096; a
/// quarter of it is allowed. The chain must have a rate. Throws ArgumentError for an uncertainty
/// that is not above 0.
SettlingRule settling_rule(const chain::Chain& chain, double x, double uncertainty);

/// Returns the uncertainty within which a reading in the middle of the span should be known: the
/// accuracy of the target, or four steps of the reading without one.
double wanted_uncertainty(const chain::Chain& chain);

/// Mean and spread of a stream that has settled.
struct Settled {
  double value = 0.0;               ///< mean of the last window
  double standard_deviation = 0.0;  ///< of its readings
  double rest = 0.0;                ///< what is expected to be left of an exponential
  std::size_t readings = 0;         ///< of the window
};

/// Readings one after the other. At rest is a stream whose last window has no slope that is
/// significant at 95 % (Student's t; neighbours that correlate count as fewer), and whose rest of
/// an exponential through it and the half window before it is within what is allowed.
class Settling {
 public:
  /// Throws ArgumentError for a rule without readings.
  explicit Settling(const SettlingRule& rule);

  /// In the order of time.
  void add(double reading);
  /// Forgets all, as after a change that is known.
  void restart();
  /// The mean once the rule holds.
  std::optional<Settled> settled() const;
  /// Returns that of the readings of the last window, or of those there are; 0 of fewer than two.
  double standard_deviation() const;
  /// Returns the rule as it was given.
  const SettlingRule& rule() const { return rule_; }

 private:
  SettlingRule rule_;
  std::vector<double> last_;  ///< two windows, a ring
  std::size_t at_ = 0, count_ = 0;
};

// Live state of a channel.

/// Tells whether a register value is the first or the last that there is: the quantity may lie
/// beyond.
bool is_end(const chain::Chain& chain, double register_value);

/// At one moment; SI.
struct LiveState {
  std::string channel{};
  quantity::Unit unit{};
  std::uint64_t readings = 0;
  double elapsed = 0.0;          ///< s, from the first reading to the last
  double last = 0.0;             ///< the last reading
  std::optional<double> code{};  ///< the last register value; none where readings come
  double min = 0.0, max = 0.0;   ///< of the readings since the start
  double noise = 0.0;            ///< standard deviation of the readings of the last window
  double predicted_noise = 0.0;  ///< of a reading, by the budget, there
  std::optional<Settled> settled{};
  bool at_end = false;  ///< the last register value is one of is_end()

  double rate() const {  ///< readings a second; 0 of fewer than two
    return elapsed > 0.0 ? static_cast<double>(readings - 1) / elapsed : 0.0;
  }
};

/// Live state with the target or uncertainty that it is held against; SI.
struct LiveView {
  LiveState state{};
  quantity::Range span{};
  std::optional<double> allowed{};  ///< by the target, at the last reading
  std::vector<double> edges{};      ///< between its zones
  std::string zone{};               ///< that the last reading lies in, by the edges alone
  double age = 0.0;                 ///< s, of the last reading
  bool old = false;                 ///< more should have come since: it is not what is there now
  std::optional<double> shown{};    ///< the quantity, as a meter beside it says
  std::optional<Row> row{};         ///< of both sides, once they are at rest
};

/// One channel whose register values or readings come one by one.
class Live {
 public:
  /// At rest is what is within a quarter of `uncertainty`, SI, above 0.
  Live(chain::Chain chain, double uncertainty);
  ~Live();
  Live(Live&& other) noexcept;
  Live& operator=(Live&& other) noexcept;

  /// The register value of one conversion, so many seconds after any zero: it goes through the
  /// channel's average and filter, which take the first as one that was always there.
  void add_code(double code, double seconds);
  /// A reading that the firmware made.
  void add_reading(double reading, double seconds);
  /// Tells whether it moves, settles or rests.
  LiveState state() const;
  /// Returns where the last window rests; nothing while it moves.
  std::optional<Settled> settled() const;
  /// Returns the number of readings so far.
  std::uint64_t readings() const;
  double last() const;  ///< reading; 0 before the first
  /// Settling begins anew, as after a change that is known; what was counted stays.
  void restart();
  /// Readings of a window of the settling, and how many of them are worth one independent one.
  std::size_t window() const;
  /// Returns the correlation of one reading with the next.
  double correlation() const;
  /// Returns the chain of the channel.
  const chain::Chain& chain() const;

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

}  // namespace meter
}  // namespace tamlo
