// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/chain/chain.hpp"
#include "tamlo/model/board.hpp"

/// Readings of a channel beside a reference meter: does it do what its budget said?
namespace tamlo::meter {

/// One position of the knob. SI; the reading is what the firmware showed.
struct Reading {
  double meter = 0.0;
  double reading = 0.0;
  std::optional<double> u_meter{};    ///< standard uncertainty, where the file gives one
  std::optional<double> u_reading{};  ///< standard uncertainty of what changes between readings
};

enum class Verdict : std::uint8_t { pass, fail, undecided };
std::string_view name(Verdict verdict);

struct Row {
  double meter = 0.0;
  double reading = 0.0;
  double difference = 0.0;        ///< reading - meter
  double expected = 0.0;          ///< the known bias of the channel here
  double expanded_channel = 0.0;  ///< of the budget
  double expanded_meter = 0.0;
  double normalised_error = 0.0;  ///< (difference - expected) / both expanded uncertainties
  double limit = 0.0;             ///< what the target allows; the budget itself where there is none
  double guard_band = 0.0;        ///< expanded uncertainty of the difference as it was measured
  Verdict verdict = Verdict::undecided;
};

/// A figure of the differences, and the standard uncertainty that the budget expected for it.
struct Figure {
  double value = 0.0;
  double standard = 0.0;  ///< of the value, from the meter and the readings
  double budgeted = 0.0;
  double expected = 0.0;  ///< from the known bias of the channel

  /// How far the value is from what was expected, in standard deviations of both.
  double deviation() const;
};

/// Whether the differences are such as the budget and the meter allow: chi-squared with the full
/// covariance of all rows.
struct Agreement {
  double chi_squared = 0.0;
  int dof = 0;
  double probability = 0.0;  ///< of a larger chi-squared in a sound channel
  bool agrees = false;
};

struct Summary {
  Verdict verdict = Verdict::undecided;
  int passed = 0;
  int failed = 0;
  int undecided = 0;
  Figure offset{};  ///< of the differences at zero, or their mean without a gain
  std::optional<Figure>
      gain{};  ///< change of the difference with the quantity; needs two positions
  Agreement agreement{};
  std::size_t largest = 0;  ///< the row of the largest |normalised_error|
};

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
class CompareError : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// Holds at least one reading against the budget of the channel. A row passes if it is inside the
/// limit by the guard band, fails if it is outside by the guard band, and is undecided between.
/// The readings agree with the budget if chi-squared is not in its upper (1 - coverage) tail.
Comparison compare(const chain::Chain& chain, const model::Meter& meter,
                   const std::vector<Reading>& readings, double coverage = 0.95);

}  // namespace tamlo::meter
