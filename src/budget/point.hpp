// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <functional>
#include <map>
#include <optional>
#include <vector>

#include "chain/correction.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/budget/propagate.hpp"
#include "tamlo/chain/chain.hpp"

// What the figures of one point of a budget are made of.
namespace tamlo::budget {

/// sum c_i^2 + 2 sum r_ij c_i c_j (JCGM 100, 5.2.2).
double combined_variance(const chain::Chain& chain, const std::vector<double>& contributions);

/// The coverage factor of a reading with these contributions, `at_tare` of which stand in the tare
/// (empty: there is none), and a normal part of variance `added`. It is `normal`, that of a normal
/// law, unless a source with ends has more than half of the variance (below a coverage of 0.9: a
/// 20th): then that of all sources as they are distributed, with half of each step added. Where the
/// steps of the codes have more than a hundredth of it, that of the worst place within a step;
/// readings without noise lie `step` apart.
double coverage_factor(const chain::Chain& chain, const std::vector<double>& contributions,
                       const std::vector<double>& at_tare, double added, double coverage,
                       double normal, double step);

/// Returns the chain with the integers' error of the register values about `x`: of those within
/// `reach` codes, 64 at least. None where it is that of all values, as it mostly is.
std::optional<chain::Chain> with_integers_at(const chain::Chain& chain, double x, double reach);

/// Effect of an adjustment at the zero, or at both ends of the span, on a figure. Only errors that
/// last since the day of the adjustment are removed; the meter that adjusts counts where the
/// channel names one.
class Adjustment {
 public:
  explicit Adjustment(const chain::Chain& chain);

  Adjusted effect(const chain::Chain& chain, std::size_t source, double x, double effect) const;
  Adjusted bias(double x, double bias) const;
  /// Returns the variance of the shape of the channel at the places of the adjustment, of the
  /// meter, and of the readings while it adjusts; of an ideal adjustment the first alone.
  Adjusted own_variance(double x, bool with_shape = true) const;
  /// Returns the variance that remains after a calibration at the place itself.
  double calibration_variance(const chain::Chain& chain, double x) const;
  /// Places of the adjustment, and what a deviation at each does to a reading at `x`.
  struct Weight {
    double place, zero, two_point;
  };
  std::vector<Weight> weights(double x) const;
  /// Returns the errors of so many units at a place of the adjustment; drawn once for all points.
  const std::vector<double>& errors_at(const chain::Chain& chain, double place,
                                       std::size_t units) const;

 private:
  quantity::Range span_;
  double at_zero_;
  std::vector<double> zero_, low_, high_;
  double bias_[3];
  double shape_[3] = {};  // standard uncertainties of the shape at the three places
  // Standard uncertainties of the adjusting meter at the three places, limit by limit, and what is
  // new at each of them.
  chain::MeterAtPlace meter_[3];
  mutable std::map<double, std::vector<double>> errors_{};

  Adjusted adjust(double x, double error, double zero, double low, double high) const;
};

/// Errors at the corners of the limits.
class Corners {
 public:
  Corners(const chain::Chain& chain, double x);

  /// Half of what the whole limit of a source moves the reading by, both ways together.
  double of_limit(std::size_t source) const { return (above_[source] - below_[source]) / 2.0; }
  bool bounded(std::size_t source) const { return size_[source] > 0.0; }
  /// Returns the shift of the mean of readings from the nominal one, where they bend over the
  /// bounded sources: half the sum of f_ii u_i^2, by the ends of their limits.
  double bend(const std::vector<Contribution>& contributions) const;
  /// The lowest and the highest error; `search` also tries whether a source does more the other way
  /// once the others are at their worst.
  WorstCase find(bool search);
  /// Codes by which those of a reading, and those of its tare, may be moved either way.
  struct Shift {
    double here = 0.0, tare = 0.0;
  };
  /// Returns the worst case of readings that are drawn, without noise, at these two corners and at
  /// all where they are at most a thousand, else at some by chance; their codes moved by `shift`
  /// either way. Of many points not `thorough`: few phases of interference, and these two alone.
  WorstCase of_readings(const Shift& shift, bool thorough) const;

 private:
  using Signs = std::vector<double>;  // -1, 0 or 1 of each source
  using AddCorner = std::function<void(std::size_t corner, const Signs& here, const Signs& there)>;

  const chain::Chain& chain_;
  double x_;
  std::vector<double> size_{}, above_{}, below_{};
  std::vector<double> followed_here_{}, followed_tare_{};
  double nominal_ = 0.0;
  Signs lowest_{}, highest_{};

  double sign_of_tare(std::size_t source) const;
  double left(std::size_t source, double sign, bool of_tare) const;
  std::vector<double> parameters(const Signs& signs, bool of_tare) const;
  std::vector<double> drawn_parameters(const Signs& signs, bool of_tare) const;
  double reading(chain::Parameters of_place, chain::Parameters of_tare) const;
  double reading(const Signs& signs) const;
  Signs corner(double direction, bool search) const;
  void further(int some, bool has_phases, const AddCorner& add) const;
};

/// Holds the mean, the standard deviation and the half-width about the mean that holds a part
/// `coverage` of the units.
struct Summary {
  double mean = 0.0, deviation = 0.0, expanded = 0.0;
};
Summary summary(std::vector<double> errors, double coverage);

/// Returns the figure that is held against a target: |bias| + expanded uncertainty, or the larger
/// end of the worst case.
double error_by(model::JudgedBy by, double bias, double expanded, const WorstCase& worst);

/// Returns the shape from which trials draw a limit of this distribution.
Shape shape_of(quantity::Distribution distribution);

/// Puts the interval into the worst case: what has no limit may reach beyond it.
void hold_interval(Point& point);

/// Number of units for a point, and how thoroughly it is drawn.
struct DrawnPoint {
  std::uint64_t units = 0;        ///< where the closed form does not hold
  std::uint64_t check_units = 0;  ///< to check it
  bool adjusted = true;           ///< the adjusted columns too
  bool thorough = true;           ///< worst cases by corners of chance too
};

/// Gives a point its figures by trials of readings as they happen, where a reading is not smooth
/// over what varies from unit to unit, or some readings drawn to check the closed form disagree.
void draw_if_not_smooth(const chain::Chain& chain, const Adjustment& adjustment,
                        const Corners& corners, const DrawnPoint& request, Point& point);

}  // namespace tamlo::budget
