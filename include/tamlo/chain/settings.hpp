// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/chain/chain.hpp"

/// What a channel's description amounts to.
namespace tamlo::chain {

/// A place of the span, and what the converter and the firmware make of it nominally.
struct Landmark {
  double at{};
  double voltage{};  ///< at the pin
  std::int64_t code{};
  bool clipped{};
  double reading{};
  double code_width{};          ///< in the unit of the quantity
  double convention_changes{};  ///< what the other count convention would add to the reading
};

struct Settings {
  std::vector<std::string> signal_path{};  ///< parts between the quantity and the converter
  double source_resistance{};              ///< ohm that the pin sees at the middle of the span
  double full_scale_range{};               ///< V
  double code_width{};                     ///< V
  double range_used{};                     ///< part of the full-scale range that the span covers
  double codes_used{};                     ///< codes between the ends of the span
  std::int64_t last_code{};
  double noise_in_codes{};            ///< of one conversion, at the middle of the span
  double noise_after_average{};       ///< of a reading, with its quantisation, same place
  std::optional<double> allowed{};    ///< by the target's accuracy, at the upper end of the span
  std::vector<Landmark> landmarks{};  ///< low end, middle, high end
};

Settings settings(const Chain& chain);

/// The value after one stage of the chain.
struct Step {
  std::string stage{};
  double value{};
  quantity::Unit unit{};
};

/// The quantity `x` through every stage to the reading, nominally, one conversion.
struct Walk {
  std::vector<Step> steps{};
  std::int64_t code{};
  bool clipped{};
  double reading{};
  double error{};  ///< reading - x
};
Walk walk(const Chain& chain, double x);

/// A code back through every stage to the quantity: which quantities give it, and what it reads.
struct WalkBack {
  std::vector<Step> steps{};  ///< volts by the firmware, then stage by stage
  double reading{};
  double from, to;  ///< the quantities, nominally, that become this code; `to` not included
  bool open_below, open_above;  ///< the first and the last code also hold all that clips to them
};
WalkBack walk_back(const Chain& chain, std::int64_t code);

}  // namespace tamlo::chain
