// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/model/detail/accuracy.hpp"

namespace tamlo {
namespace simulate TAMLO_API {

/// A virtual reference meter: each of its ranges has one deviation for each limit of its accuracy,
/// the same at every reading; the display rounds. The same seed gives the same meter.
class BenchMeter {
 public:
  /// Keeps a reference to the meter.
  BenchMeter(const model::Meter& meter, std::uint64_t seed);
  BenchMeter(model::Meter&& gone, std::uint64_t seed) = delete;
  /// Returns the meter's value for `x` (SI); none above its highest range.
  std::optional<double> show(double x) const;

 private:
  const model::Meter& meter_;
  std::vector<std::vector<double>> deviations_{};
};

}  // namespace simulate
}  // namespace tamlo
