// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <map>
#include <optional>
#include <vector>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"

// What the figures of one point of a budget are made of.
namespace tamlo::budget {

/// The zero of the span; its low end where it does not hold its zero.
double zero_of(const quantity::Range& span);

/// sum c_i^2 + 2 sum r_ij c_i c_j (JCGM 100, 5.2.2).
double combined_variance(const chain::Chain& chain, const std::vector<double>& contributions);

/// The coverage factor of a sum of that variance: `normal`, that of a normal law, unless one
/// bounded source makes most of it, a sine more than half or a uniform source more than 0.9: then
/// that of this source and a normal rest, with half of each step added. Where the steps of the
/// codes have more than a hundredth of it, that of the worst place within a step; readings without
/// noise lie `step` apart.
double coverage_factor(const chain::Chain& chain, const std::vector<double>& contributions,
                       double variance, double coverage, double normal, double step);

/// The same chain, its integers' error that of the register values about `x` and not of all: of
/// those within `reach` codes, 64 at least. Nothing where it is the same, as it mostly is.
std::optional<chain::Chain> with_integers_at(const chain::Chain& chain, double x, double reach);

/// What an adjustment at the zero, or at both ends of the span, takes away from a figure. Only what
/// stays as it was on the day of the adjustment can be taken away; the meter that adjusts comes in
/// where the channel names one.
class Adjustment {
 public:
  explicit Adjustment(const chain::Chain& chain);

  Adjusted effect(std::size_t source, chain::Kind kind, double x, double effect) const;
  Adjusted bias(double x, double bias) const;
  /// Of the meter, and of the readings while it adjusts; none for an ideal adjustment.
  Adjusted own_variance(double x) const;
  /// The same of a calibration at the place itself.
  double calibration_variance(const chain::Chain& chain, double x) const;
  /// Places of the adjustment, and what a deviation at each does to a reading at `x`.
  struct Weight {
    double place, zero, two_point;
  };
  std::vector<Weight> weights(double x) const;
  /// What so many units are off at a place of the adjustment; drawn once for all points.
  const std::vector<double>& errors_at(const chain::Chain& chain, double place,
                                       std::size_t units) const;

 private:
  quantity::Range span_;
  double at_zero_;
  std::vector<double> zero_, low_, high_;
  double bias_[3];
  // Standard uncertainties of the adjusting meter at the three places, limit by limit, and what is
  // new at each of them.
  struct Meter {
    std::vector<double> limits{};  // of both ranges, one after the other
    double own = 0.0;
  } meter_[3];
  static Meter meter_at(const chain::Chain& chain, double place);
  mutable std::map<double, std::vector<double>> errors_{};

  Adjusted adjust(double x, double here, double zero, double low, double high) const;
};

/// Errors at the corners of the limits.
class Corners {
 public:
  Corners(const chain::Chain& chain, double x);

  /// Half of what the whole limit of a source moves the reading by, both ways together.
  double of_limit(std::size_t source) const { return (above_[source] - below_[source]) / 2.0; }
  bool bounded(std::size_t source) const { return size_[source] > 0.0; }
  /// How far the mean of readings is from the nominal one because they bend over the bounded
  /// sources: half the sum of f_ii u_i^2, by the ends of their limits.
  double bend(const std::vector<Contribution>& contributions) const;
  /// The lowest and the highest error; `search` also tries whether a source does more the other way
  /// once the others are at their worst.
  WorstCase find(bool search);
  /// The same two corners of readings code by code, the codes moved by up to `shift`.
  WorstCase of_codes(double shift) const;

 private:
  using Signs = std::vector<double>;  // -1, 0 or 1 of each source

  const chain::Chain& chain_;
  double x_;
  std::vector<double> size_{}, above_{}, below_{};
  double nominal_ = 0.0;
  Signs lowest_{}, highest_{};

  double sign_of_tare(std::size_t source) const;
  std::vector<double> parameters(const Signs& signs, bool of_tare) const;
  double reading(chain::Parameters here, chain::Parameters of_tare) const;
  double reading(const Signs& signs) const;
  Signs corner(double direction, bool search) const;
};

/// Where a reading is not smooth over what varies from unit to unit, the law of propagation does
/// not hold: the figures of the point by trials of readings code by code.
void take_trials_if_rough(const chain::Chain& chain, const Adjustment& adjustment,
                          const Corners& corners, std::uint64_t units, bool adjusted, Point& point);

}  // namespace tamlo::budget
