// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/model/digital.hpp"

namespace tamlo {
namespace model TAMLO_API {

/// (b0 + b1/z + b2/z^2) / (1 + a1/z + a2/z^2).
struct Section {
  double b0 = 1.0, b1 = 0.0, b2 = 0.0, a1 = 0.0, a2 = 0.0;
  bool operator==(const Section&) const = default;
};

/// An average or filter, ready to be computed: moving averages, sections and taps in series, then
/// every `decimation`-th value. A median is its delay, and has its own noise.
struct PreparedFilter {
  std::string name{};
  double rate = 0.0;            ///< of what comes in
  std::vector<int> averages{};  ///< lengths
  std::vector<Section> sections{};
  std::vector<double> taps{1.0};  ///< of sum 1
  int median = 0;                 ///< length; 0: none
  int decimation = 1;
  bool operator==(const PreparedFilter&) const = default;
};

/// Prepares a filter for a stream of `rate` samples a second, 0 where it is not known; times become
/// counts here. Throws ArgumentError for a cutoff or notch that is not below half the rate, and for
/// a time without a rate.
PreparedFilter prepared(const DigitalStage& filter, double rate);

}  // namespace model
}  // namespace tamlo
