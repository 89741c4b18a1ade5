// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "tamlo/budget/detail/trials.hpp"
#include "tamlo/chain/detail/bias_parts.hpp"
#include "tamlo/chain/detail/roughness.hpp"
#include "tamlo/chain/source.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/quantity/value.hpp"

namespace tamlo::chain {
struct Chain;
}  // namespace tamlo::chain

/// Error budgets of channels: bias, expanded uncertainty, worst case and contributions
/// (docs/method.md, "Budget"; JCGM 100).
namespace tamlo {
namespace budget TAMLO_API {

/// Points are in SI and inside the span; none asks for zero, middle and full scale.
struct Request {
  std::vector<double> at{};
  double coverage = 0.95;
  bool search = true;                  ///< for the worst place of the span
  std::uint64_t rough_units = 20'000;  ///< tried where the closed form does not hold; of more
                                       ///< than 64 points 500 at most
  /// Readings that are drawn at each point to check its closed form, fewer where a reading is of
  /// many conversions; where they disagree the point is done by trials. 0: none are.
  std::uint64_t check_units = 1000;
  /// False where neither worst cases nor adjusted columns are asked for: the former are then
  /// corners by signs alone, the latter are not tried at rough points.
  bool details = true;
  /// Also what remains after a calibration: Point::calibrated.
  bool calibrated = false;
  std::optional<TrialsRequest> trials{};  ///< its coverage is this request's
};

/// Request::rough_units where so many channels are asked for at once: 20 000, and from 20 channels
/// on fewer, so that a board of 256 channels is not minutes of work. The interval of n units with
/// normal errors is good to 1 / sqrt(n) of its size (one standard deviation): 0.7 % of 20 000, 2.5
/// % of 1562.
std::uint64_t rough_units_among(std::size_t channels);

/// Contribution of one source to the reading at one point. Figures of the source are in the unit of
/// the parameter that it moves, those of the reading in SI.
struct Contribution {
  double limit = 0.0;
  double standard_uncertainty = 0.0;  ///< of the reading that the firmware reports: after averaging
  double sensitivity = 0.0;           ///< contribution / standard
  double contribution = 0.0;          ///< [f(+standard) - f(-standard)] / 2, with its sign
  double share = 0.0;  ///< of the combined variance; with a correlation, half of what both share
  double worst = 0.0;  ///< size of the effect of the whole limit
};

/// One figure in three states: as built, after a zero adjustment, after a two-point adjustment.
struct Adjusted {
  double none = 0.0;
  double zero = 0.0;
  double two_point = 0.0;
};

/// Errors that remain after a calibration, which is a correction found at every place of the span.
/// Errors that are fixed in a unit and the known bias are gone. Left are changes by temperature and
/// age, noise, steps, nonlinearity, and the channel's meter where it names one.
struct AfterCalibration {
  double bias = 0.0;  ///< by trials their mean, else 0
  double expanded = 0.0;
};

/// Monte Carlo result at one point (JCGM 101): the distribution of the error, reading minus
/// quantity.
struct PointTrials {
  Trials of{};
  bool closed_form_valid = false;  ///< to one digit of the standard uncertainty (JCGM 101, 8.1)

  /// Returns the width of the closed form's interval over that of the trials' symmetric one, less
  /// 1: 0.01 is 1 % wider.
  double wider(double expanded) const {
    return 2.0 * expanded / (of.symmetric.high - of.symmetric.low) - 1.0;
  }
};

/// Bits, each its own thing: what noise leaves of a reading, what never flickers, what is true.
struct Resolution {
  double effective = 0.0;   ///< log2(full-scale range / noise of a reading); never more than the
                            ///< different readings tell
  double noise_free = 0.0;  ///< log2(full-scale range / (6.6 noise))
  double accuracy = 0.0;    ///< log2(full-scale range / (2 expanded))
  double enob = 0.0;  ///< of a sine over the range: (SINAD - 1.76 dB) / 6.02 dB, one conversion
};

/// Way in which the figures of a point were computed.
enum class Method : std::uint8_t {
  closed_form,  ///< the law of propagation
  trials,       ///< of drawn readings, where the law does not hold; Point::roughness says why
};
std::string_view name(Method method);

/// The lowest and the highest error, reading - quantity, that any corner of the limits gives, with
/// the coverage factor times what has no limit.
using WorstCase = math::Interval;

/// Error budget at one value of the quantity, in SI.
struct Point {
  double at = 0.0;
  Method method = Method::closed_form;
  chain::Roughness roughness = chain::Roughness::none;  ///< what makes readings here not smooth
  double reading = 0.0;  ///< with all deviations zero and unlimited resolution
  double bias =
      0.0;  ///< reading - at; known, and not a part of the uncertainty; by trials their mean
  std::vector<chain::BiasPart> bias_parts{};  ///< what has a name of it
  double combined = 0.0;
  double dof = 0.0;  ///< effective degrees of freedom; infinite where no source has finite ones
  double coverage = 0.0;
  double coverage_factor = 0.0;
  double expanded = 0.0;
  WorstCase worst_case{};
  double code_width = 0.0;  ///< in the unit of the quantity, here
  bool clipped = false;     ///< an amplifier or the converter is at an end here, or a clamp holds
  Adjusted adjusted{};      ///< expanded uncertainty
  Adjusted adjusted_bias{};
  std::optional<AfterCalibration> calibrated{};       ///< where the request asks for it
  std::optional<double> limit{};                      ///< what the target allows here
  model::JudgedBy by = model::JudgedBy::uncertainty;  ///< what is held against it
  Resolution resolution{};
  std::uint64_t units = 0;  ///< that were tried, by Method::trials
  std::optional<PointTrials> trials{};
  std::vector<Contribution> contributions{};  ///< one for each of Budget::sources

  /// Returns the largest error to expect at this point: |bias| + expanded uncertainty, or the
  /// larger end of the worst case where the target is judged by it.
  double error() const;
  /// Returns limit - error(), what the target leaves; below 0 it is missed.
  std::optional<double> margin() const;
  /// True where the firmware overflows within reach: no figure of such a reading can be trusted.
  bool overflows() const { return roughness == chain::Roughness::overflow; }
};

/// The budget of a channel: at each point that was asked for, and at its worst place.
struct Budget {
  std::string channel{};
  quantity::Unit unit{};
  quantity::Range span{};
  std::vector<chain::Source> sources{};
  std::vector<chain::Correlation> correlations{};  ///< of the sources
  bool of_ideal_parts = false;                     ///< no part of the channel has a limit
  std::string adjusted_with{};  ///< the meter of the adjustments; empty: they are ideal
  /// Places of an adjustment that is made on each unit, and counted in all figures; Adjusted is
  /// then another one on top of it.
  std::vector<double> adjusted_at{};
  std::vector<Point> points{};
  /// The place of the whole span that comes nearest to its limit, or misses it by most; found by
  /// search, not only among the points. The worst of them where no search was asked for.
  Point worst_place{};

  /// The point that comes nearest to its limit, or misses it by most; without a target the one of
  /// the largest expanded uncertainty.
  const Point& worst() const;
  /// False if any point misses the target or overflows; true also where there is no target.
  bool target_met() const;
  /// Returns target_met() for the figures of one adjustment:
  /// target_met_after(&Adjusted::two_point). False where the target is judged by the worst case,
  /// which is not known after an adjustment.
  bool target_met_after(double Adjusted::*adjustment) const;
};

/// Returns how wrong the reading of a channel can be at the points asked for (SI, inside the span;
/// by default zero, middle and full scale) and at the worst place of the span: bias, expanded
/// uncertainty, worst case, and what each source contributes. By the law of propagation (JCGM 100,
/// 5.1) where it holds, else by up to 20 000 units through the sampler; each point says which. Near
/// normal, closed forms hold the truth in 94 to 96 % for a coverage of 95 %, trials within 0.7 % of
/// U (docs/method.md, "One reading"). Throws ArgumentError for a point that is not finite or a
/// coverage that is not between 0 and 1, DataError for a reading that has no finite value there.
///
///     const auto budget = tamlo::budget::evaluate(chain);
///     const auto& worst = budget.worst_place;  // worst.error() in SI, worst.at, worst.limit
Budget evaluate(const chain::Chain& chain, const Request& request = {});

/// Returns Budget::worst_place alone, with as much as error() and margin() need: no adjusted
/// columns of rough places, and worst cases in detail only where the target is judged by them.
/// Points and trials of the request are left out. Throws what evaluate() throws.
Point worst_place(const chain::Chain& chain, Request request = {});

/// The points of a budget that names none: both ends of the span, its zero and its middle.
std::vector<double> default_points(const quantity::Range& span);

/// Sources by falling share at `point`, as indices.
std::vector<std::size_t> by_share(const Point& point);

/// Sources that matter to nobody: each under 0.05 % of the variance, two of them at least.
struct MinorSources {
  std::size_t count = 0;
  double contribution = 0.0;  ///< root of the sum of their squares
  double share = 0.0;
};
bool is_minor(double share);
bool is_minor(const Contribution& contribution);
MinorSources minor_sources(const Point& point);

}  // namespace budget
}  // namespace tamlo
