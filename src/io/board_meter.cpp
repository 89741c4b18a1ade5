// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "board_parts.hpp"

namespace tamlo::io {

using quantity::Basis;
using quantity::Expected;

model::Meter read_meter(const std::string& name, Fields fields,
                        const std::vector<std::string>& links) {
  model::Meter result{.name = name, .ranges = {}};
  fields.require("ranges",
                 "the ranges: [ { full_scale = \"6 V\", digits = 6000, accuracy = ... } ]");
  for (auto& range : fields.tables("ranges")) {
    model::MeterRange of;
    range.require("full_scale", "the top of the range, such as \"6 V\"");
    range.require("digits", "the counts of the display at full scale, such as 6000");
    range.require("accuracy", "limits, such as \"±0.05 % ±2 digits\"");
    const auto unit = result.ranges.empty() ? std::optional<quantity::Unit>{}
                                            : result.ranges.front().full_scale.unit;
    if (auto v = range.value("full_scale", {.unit = unit}, above_zero())) of.full_scale = *v;
    if (auto v = range.integer("digits", 1, 1'000'000'000)) of.digits = static_cast<double>(*v);
    const Expected accuracy{
        .unit = quantity::difference_unit(of.full_scale.unit),
        .bases = {Basis::absolute, Basis::relative, Basis::range, Basis::digit}};
    if (auto v = range.limits("accuracy", accuracy)) of.accuracy = *v;
    range.finish();
    result.ranges.push_back(std::move(of));
  }
  std::ranges::stable_sort(
      result.ranges, {}, [](const model::MeterRange& range) { return range.full_scale.or_zero(); });
  if (auto v = fields.value("input_resistance", {.unit = quantity::unit("ohm")}, above_zero())) {
    result.input_resistance = *v;
  }
  if (auto v = fields.choice("touches", {"quantity", "pin"})) {
    result.touches = static_cast<model::Touches>(*v);
  }
  if (auto v =
          fields.range("temperature", {.unit = quantity::unit("degC")}, temperature_bounds())) {
    result.temperature = *v;
  }
  if (auto v = fields.plain("age", quantity::unit("year"), not_negative())) result.age = *v;
  if (auto v = fields.name_of("link", "link", links)) result.link = *v;
  const bool volts = result.ranges.empty() || result.ranges.front().full_scale.unit.dimension ==
                                                  quantity::unit("V").dimension;
  if (result.touches == model::Touches::pin && !volts) {
    fields.report("touches", "\"pin\" of a meter that does not read volts",
                  "\"quantity\", or ranges in V");
  }
  fields.finish();
  return result;
}

}  // namespace tamlo::io
