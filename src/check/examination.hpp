// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/quantity/format.hpp"

// One channel under examination. Each function below is a chapter of the catalogue.
namespace tamlo::check {

/// A change, in words, and as one of the description where it can be expressed there.
struct Remedy {
  std::string text{};
  std::function<void(model::Board&, model::Channel&)> apply{};
  bool of_keys = true;  ///< single keys of the file say it
};

struct Examination {
  const model::Board& board;
  const chain::Chain& chain;
  const chain::Dynamics& dynamics;
  const quantity::Range& span;
  std::vector<Finding>& findings;
  /// Findings on the board as it is; nothing while a copy is examined.
  const std::vector<Finding>* as_it_is;

  /// About that key of the channel, or behind "converter." of its converter. With the first of the
  /// remedies that cures on a copy; those without a change stand as they are.
  void report(std::string identifier, std::string_view key, Severity severity, std::string found,
              std::string why, const std::vector<Remedy>& remedies) const;
  /// The board with that change.
  model::Board applied(const Remedy& remedy) const;
  /// True if with that change the finding is gone, no other error or warning came up and, where it
  /// is only advice, no reading became less certain.
  bool cures(const std::string& identifier, Severity severity, const Remedy& remedy) const;

  /// A value of the quantity, and a difference of two.
  std::string shown(double x) const { return quantity::engineering(x, span.unit, 4); }
  std::string amount(double x, int digits = 3) const {
    return quantity::engineering(x, quantity::difference_unit(span.unit), digits);
  }
};

inline std::string in_unit(double si, const char* unit, int digits = 4) {
  return quantity::engineering(si, quantity::unit(unit), digits);
}
inline std::string volts(double v) { return in_unit(v, "V"); }

/// The converter of the channel, on a copy.
model::Converter& converter_of(model::Board& board, const model::Channel& channel);

void examine_range(const Examination& e);
void examine_choices(const Examination& e);
void examine_sensor(const Examination& e);
void examine_time(const Examination& e);
void examine_noise(const Examination& e);
void examine_firmware(const Examination& e);

}  // namespace tamlo::check
