// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/error.hpp"
#include "tamlo/export.hpp"
#include "tamlo/quantity/unit.hpp"

namespace tamlo::chain {
struct Chain;
}  // namespace tamlo::chain

namespace tamlo::model {
struct Board;
struct Meter;
struct Quantity;
}  // namespace tamlo::model

/// Readings of a channel beside a reference meter: does it do what its budget said?
namespace tamlo {
namespace meter TAMLO_API {

/// Direction from which the quantity came to a position.
enum class Direction : std::uint8_t { unknown, rising, falling };

/// One position of the knob, SI.
struct Reading {
  double meter = 0.0;    ///< as the meter showed it: of the quantity, or volts at the pin
  double reading = 0.0;  ///< what the firmware showed; of the quantity
  std::optional<double> u_meter{};    ///< standard uncertainty, where the file gives one
  std::optional<double> u_reading{};  ///< standard uncertainty of what changes between readings
  int repeats = 1;                    ///< readings that `reading` is the mean of
  std::optional<double> spread{};     ///< standard deviation of single ones; needs repeats > 1
  /// Readings of the meter that `meter` is the mean of, 1 where they were all the same; where it is
  /// not known, `repeats` is taken.
  std::optional<int> meter_repeats{};
  Direction direction = Direction::unknown;
  std::optional<double> temperature{};       ///< K, of the bench
  std::optional<double> time{};              ///< s, from any zero
  std::string unit{};                        ///< which unit of the board; one that has no name: ""
  std::optional<std::size_t> meter_range{};  ///< that the meter was on; else the lowest that holds
};

/// Rows that repeat one position, made one: neighbours of the same unit, direction and range of the
/// meter whose meter readings lie within two of its digits. Means of both columns, and the spread
/// of the readings, or of the differences where the meter moved by more than a digit; rows that are
/// means already, or have uncertainties of their own, are left.
std::vector<Reading> group(const std::vector<Reading>& readings, const model::Meter& meter);

enum class Verdict : std::uint8_t { pass, fail, undecided };
std::string_view name(Verdict verdict);

/// One reading beside the meter.
struct Row {
  double meter = 0.0;  ///< the quantity, as the meter says
  double reading = 0.0;
  double difference = 0.0;        ///< reading - meter
  double expected = 0.0;          ///< the known bias of the channel here
  double expanded_channel = 0.0;  ///< of the budget
  double expanded_meter = 0.0;
  double normalised_error = 0.0;  ///< (difference - expected) / both expanded uncertainties
  double limit = 0.0;             ///< what the target allows; the budget itself where there is none
  double guard_band = 0.0;        ///< expanded uncertainty of the difference as it was measured
  Verdict verdict = Verdict::undecided;
  double accuracy_ratio = 0.0;  ///< limit / expanded uncertainty of the meter
  double channel_part = 0.0;  ///< of an unexpected difference, that the channel is to be blamed for
  int repeats = 1;
  /// Part of the guard band that stays, however often it is repeated: the meter's limits, and
  /// steps.
  double irreducible = 0.0;
  /// Readings that would bring the guard band under what an undecided row leaves; nothing where no
  /// number of them does, or the row is decided.
  std::optional<double> repeats_needed{};
};

/// A figure of the differences, and the standard uncertainty that the budget expected for it.
struct Figure {
  double value = 0.0;
  double standard_uncertainty = 0.0;  ///< of the value, from the meter and the readings
  double budgeted = 0.0;
  double expected = 0.0;  ///< from the known bias of the channel

  /// Returns the deviation from the expected value, in standard uncertainties of both.
  double deviation() const;
};

/// Tells whether the differences are such as the budget and the meter allow: chi-squared with the
/// full covariance of all rows, and no single source of the channel or limit of the meter far out.
/// Either lies in the outer (1 - coverage) / 2 of what is sound where they do not agree, so that
/// sound channels fail to agree at most (1 - coverage) of the time.
struct Agreement {
  double chi_squared = 0.0;
  int dof = 0;
  double probability = 0.0;  ///< of a larger chi-squared in a sound channel
  bool agrees = false;
};

/// The largest distance of the differences from a straight line, with its sign and its place.
struct LinearityDeviation {
  double end_point = 0.0, end_point_at = 0.0;  ///< from the line through the outermost rows
  double best_fit = 0.0, best_fit_at = 0.0;    ///< from the line of least squares
  double standard_uncertainty =
      0.0;  ///< of the latter: what repeats would change, and what INL is predicted
};

/// ObservedNoise of single readings, from repeats or spreads, beside what the budget predicted.
struct ObservedNoise {
  double observed = 0.0, predicted = 0.0;  ///< standard deviations
  int dof = 0;
  double low = 0.0, high = 0.0;  ///< confidence interval of what was seen
  /// 1: more than predicted, -1: less, 0: as predicted; at the coverage asked for.
  int differs = 0;
};

/// Side that more likely causes an unexpected difference.
enum class Side : std::uint8_t { neither, channel, meter, undetermined };
std::string_view name(Side side);

/// All rows together.
struct Summary {
  Verdict verdict = Verdict::undecided;
  int passed = 0;
  int failed = 0;
  int undecided = 0;
  Figure offset{};  ///< of the differences at zero, or their mean without a gain
  std::optional<Figure>
      gain{};  ///< change of the difference with the quantity; needs two positions
  std::optional<LinearityDeviation> shape{};  ///< needs three positions
  std::optional<Figure> hysteresis{};    ///< rising less falling; needs rows of both directions
  std::optional<Figure> drift{};         ///< a second; needs three times, not all rows at one
  std::optional<ObservedNoise> noise{};  ///< needs repeats
  double accuracy_ratio = 0.0;           ///< the smallest of the rows
  /// neither: they agree. channel, meter: all suspects of the likeliest explanation are of that
  /// side (diagnose.hpp). undetermined: the readings cannot tell.
  Side side = Side::neither;
  Agreement agreement{};
  std::size_t largest = 0;  ///< the row of the largest |normalised_error|
};

/// Readings beside a meter, row by row and together.
struct Comparison {
  std::string channel{};
  quantity::Unit unit{};
  std::string meter{};
  bool has_target = false;
  double coverage = 0.95;
  std::vector<Row> rows{};
  Summary summary{};
};

/// A reading that no range of the meter holds, or no readings at all.
class CompareError : public Error {
 public:
  using Error::Error;
};

/// The chain as the meter sees it: whole where it measures the quantity, and with the parts before
/// the pin known where it measures there.
chain::Chain chain_as_metered(const model::Board& board, const std::string& channel,
                              const model::Meter& meter);

/// The quantity when a meter shows this: that itself, or what puts so many volts on the pin.
double quantity_of(const chain::Chain& chain, const model::Meter& meter, double shown);

/// Readings of one channel beside a meter, paired with what the budget and the meter say there, and
/// the decision whether they agree: gathered once, for compare(), diagnose(), calibrate(), drift()
/// and units(). A copy is cheap.
class Evidence {
 public:
  /// Gathers at least one reading; `chain` is what chain_as_metered() gives, `coverage` is in (0,
  /// 1). Throws CompareError for a reading that no range of the meter holds, and without readings.
  Evidence(const chain::Chain& chain, const model::Meter& meter, std::vector<Reading> readings,
           double coverage = 0.95);

  /// Returns the chain that was given.
  const chain::Chain& chain() const;
  /// Tells whether it is of a quantity of several channels, by evidence_of().
  bool of_quantity() const;
  /// Returns the readings that were given.
  const std::vector<Reading>& readings() const;

  struct Parts;
  /// Takes what is gathered, for this room.
  explicit Evidence(std::shared_ptr<const Parts> parts);
  /// Returns all that it holds, for this room.
  const Parts& parts() const { return *parts_; }

 private:
  std::shared_ptr<const Parts> parts_{};
};

/// Gathers readings of a quantity of several channels beside a meter of it; `chains` has those of
/// its channels. Its budget stands at the worst place of the channels for each value; beyond 65
/// different values it is read off between 65 places. compare() and diagnose() take the evidence,
/// which has no signatures. Throws CompareError as Evidence() does, for a meter at the pin, and for
/// values that the channels cannot give.
Evidence evidence_of(const model::Quantity& quantity, const std::vector<chain::Chain>& chains,
                     const model::Meter& meter, std::vector<Reading> readings,
                     double coverage = 0.95);

/// Returns a verdict on each reading beside a meter (passes, fails or undecided, with the guard
/// band of meter and repeatability), E_n of each, chi-squared of all, offset and gain with their
/// uncertainties; everything in SI. Rows that repeat a position are first made one by group(). At
/// least one row; beyond 2049 the budget is read off between 1025 places. Throws CompareError for
/// no rows, or a reading outside the meter's ranges.
Comparison compare(const Evidence& evidence);

/// Gathers the evidence and compares it.
Comparison compare(const chain::Chain& chain, const model::Meter& meter,
                   const std::vector<Reading>& readings, double coverage = 0.95);

}  // namespace meter
}  // namespace tamlo
