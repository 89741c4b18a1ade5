// SPDX-License-Identifier: Apache-2.0
// What the firmware adds: its rounding, and what its average and filter leave.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "builder.hpp"

namespace tamlo::chain {
namespace {

// The firmware's steps are taken as uniform.
Source rounding(const std::string& written, std::size_t parameter, double limit) {
  return {.name = "firmware rounding",
          .stage = "firmware",
          .written = written,
          .parameter = parameter,
          .kind = Kind::shape,
          .distribution = quantity::Distribution::uniform,
          .limit = limit};
}

}  // namespace

void Builder::add_firmware() {
  const auto& scaling = chain_.channel.scaling;
  chain_.rounding = parameter("firmware rounding", 0.0, "");
  if (scaling.integer) {
    chain_.arithmetic = arithmetic_error(*scaling.integer, chain_.report.first_reported,
                                         chain_.report.last_reported);
    if (chain_.arithmetic.largest > 0.0) {
      computed(rounding(fmt::format("{} bit integers", scaling.integer->bits), chain_.rounding,
                        chain_.arithmetic.largest));
    }
  }
  if (scaling.decimals) {
    const double last_place = chain_.channel.span.unit.scale() * std::pow(10.0, -*scaling.decimals);
    auto source =
        rounding(fmt::format("{} decimals", *scaling.decimals), chain_.rounding, last_place / 2.0);
    source.name = unique("decimals");
    computed(std::move(source));
  }
}

void Builder::set_passes() {
  const auto& digital = chain_.digital;
  const double white = noise_gain(digital);
  // Noise that passes a low-pass slower than the conversions is nearly the same in neighbours.
  double correlation = 0.0;
  if (!chain_.time_constants.empty() && chain_.timing.rate > 0.0) {
    const double slowest = std::ranges::max(chain_.time_constants);
    if (slowest > 0.0) correlation = std::exp(-1.0 / (slowest * chain_.timing.rate));
  }
  const double through_lowpass = correlation > 1e-9 ? noise_gain(digital, correlation) : white;
  chain_.averaged = 1.0 / white;
  // The median of codes is the code of the median: as one conversion of less noise.
  if (!digital.stages.empty() && digital.stages.front().median > 0) {
    const double of_median = median_variance(digital.stages.front().median);
    chain_.dither = std::sqrt(of_median);
    chain_.averaged = of_median / white;
  }
  auto memory = digital;  // a median has forgotten after its whole length
  for (auto& part : memory.stages) {
    if (part.median > 0) part.averages = {part.median};
  }
  chain_.filled_after = readings_to_settle(memory, 1e-4);
  std::vector<std::string> before_lowpass;
  std::vector<std::string> seen;
  for (const auto& part : chain_.stages) {
    seen.push_back(part.name);
    if (std::holds_alternative<LowpassLaw>(part.law)) before_lowpass = seen;
  }
  for (auto& source : chain_.sources) {
    if (source.kind == Kind::noise) {
      const bool slow = std::ranges::find(before_lowpass, source.stage) != before_lowpass.end();
      source.passes = std::sqrt(slow ? through_lowpass : white);
    }
    if (source.kind == Kind::interference && digital.rate > 0.0) {
      source.passes = magnitude(digital, source.frequency);
    }
  }
}

}  // namespace tamlo::chain
