// SPDX-License-Identifier: Apache-2.0
#include <algorithm>
#include <utility>

#include "board_parts.hpp"

namespace tamlo::io {
namespace {

// All ranges are in the unit of the first, and the accuracy of each is in that of its full scale.
void read_range(Fields fields, std::vector<model::MeterRange>& ranges, const Scope& around) {
  const auto& keys = model::meter_keys()["ranges"].inner.keys();
  model::MeterRange range;
  quantity::Expected full_scale;
  if (!ranges.empty()) full_scale.unit = ranges.front().full_scale.unit;
  if (auto v = fields.value("full_scale", full_scale, keys["full_scale"].bounds)) {
    range.full_scale = *v;
  }
  model::Channel measured;
  measured.span.unit = range.full_scale.unit;
  read_keys(fields, keys, &range, {.names = around.names, .channel = &measured});
  fields.finish();
  ranges.push_back(std::move(range));
}

}  // namespace

model::Meter read_meter(const std::string& name, Fields fields, const Scope& scope) {
  model::Meter result{.name = name, .ranges = {}};
  read_keys(fields, model::meter_keys(), &result, scope);
  for (auto& range : fields.tables("ranges")) read_range(std::move(range), result.ranges, scope);
  std::ranges::stable_sort(
      result.ranges, {}, [](const model::MeterRange& range) { return range.full_scale.or_zero(); });
  fields.finish();
  return result;
}

model::Quantity read_quantity(const std::string& name, Fields fields, const Scope& scope) {
  model::Quantity result{.name = name};
  if (auto v = fields.range("span", {})) result.span = *v;
  fields.require("span", "the values that it may have, such as \"0..1200 W\"");
  model::Channel computed;
  computed.span = result.span;
  read_keys(fields, model::quantity_keys(), &result, {.names = scope.names, .channel = &computed});
  fields.finish();
  return result;
}

}  // namespace tamlo::io
