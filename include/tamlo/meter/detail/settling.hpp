// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <optional>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo::chain {
struct Chain;
}  // namespace tamlo::chain

/// When a live reading has come to rest, and what it then is (docs/method.md, "Settling").
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

}  // namespace meter
}  // namespace tamlo
