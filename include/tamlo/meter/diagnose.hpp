// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/meter/compare.hpp"

/// Diagnosis of a channel that does not meet its budget (docs/method.md, "Diagnosis"). The budget
/// is the prior knowledge, the readings are the evidence.
namespace tamlo {
namespace meter TAMLO_API {

/// One source of the channel or limit of the meter, or several that these readings cannot tell
/// apart: each would explain them as well as the first, within 3.84 of its chi-squared.
struct Suspect {
  /// A source among those that the fault may be.
  struct Source {
    std::string name{};
    double moved = 0.0;   ///< from its nominal, if it alone is to blame; in standard uncertainties
    double limits = 0.0;  ///< the same in its limits; above 1 it is outside
    bool before_pin = false;  ///< of the sensor or the front end: no meter at the pin sees it move
    bool of_meter = false;    ///< a limit of the meter's accuracy
  };
  std::vector<Source> sources{};       ///< by how little they would have to move
  double chi_squared_reduction = 0.0;  ///< chi-squared that the best of them takes away
  double probability = 0.0;  ///< that a sound channel beside a sound meter shows as much of any
};

/// Chi-squared that the best single cause leaves, and two causes that explain the readings where
/// one does not.
struct CausesTogether {
  double chi_squared_left = 0.0;  ///< by the best single cause alone
  double probability = 0.0;       ///< of a larger one in a sound channel with that cause
  /// The best two of the sources, where that is below 0.01: of several that do as well those that
  /// would have to move least, in their limits. Empty otherwise.
  std::vector<Suspect::Source> pair{};
  double pair_chi_squared_left = 0.0;
};

/// Readings of another channel that were taken with these, row by row, for channels whose inputs
/// may be exchanged.
struct OtherChannel {
  std::string name{};
  std::vector<Reading> readings{};
};

/// A known fault whose mark the readings carry.
struct Signature {
  std::string fault{};       ///< in a few words
  std::string evidence{};    ///< what in the readings says so
  double chi_squared = 0.0;  ///< of the readings with the fault in the chain
  double probability = 0.0;  ///< of a larger one
};

/// Result of a diagnosis: the likely causes, or those that cannot be told apart.
struct Diagnosis {
  Agreement agreement{};
  bool fault = false;  ///< the readings do not agree with the budget
  Side side = Side::neither;
  std::vector<Suspect> suspects{};      ///< the likeliest first; disjoint
  CausesTogether together{};            ///< where there is a fault
  std::vector<Signature> signatures{};  ///< those that explain the readings, the best first
  /// Tells that the readings are of a quantity of several channels: no part is suspected, as
  /// nothing says where its channels stood.
  bool of_quantity = false;
};

/// Returns whether the readings agree with the budget and, if they do not, which sources, settings
/// or known faults explain them, the likeliest first. A fault is claimed in less than 5 % of sound
/// units; a known fault is named where the readings with it are explained (probability above 0.01)
/// and chi-squared falls by 13.8 or more. Of more than 400 rows an even selection is taken.
/// `others` are channels read at the same times. Throws CompareError as compare() does.
Diagnosis diagnose(const model::Board& board, const Evidence& evidence,
                   const std::vector<OtherChannel>& others = {});

/// Gathers the evidence of a channel and diagnoses it.
Diagnosis diagnose(const model::Board& board, const std::string& channel, const model::Meter& meter,
                   const std::vector<Reading>& readings, double coverage = 0.95,
                   const std::vector<OtherChannel>& others = {});

}  // namespace meter
}  // namespace tamlo
