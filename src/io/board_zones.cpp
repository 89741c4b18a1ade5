// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include "board_parts.hpp"

namespace tamlo::io {
namespace {

// So many zones of equal width.
void read_bars(Fields& fields, const model::Channel& channel, model::Zones& result) {
  const auto& span = channel.span;
  const auto bars = fields.integer("bars", 2, 255);
  const auto from = fields.plain("from", span.unit), to = fields.plain("to", span.unit);
  for (const auto* key : {"from", "to"}) fields.require(key, "a value of the quantity");
  if (!bars || !from || !to) return;
  if (!(*to > *from)) {
    fields.report("to", "bars that do not rise", "a value above from");
    return;
  }
  for (std::int64_t i = 0; i < *bars; ++i) {
    if (i > 0) {
      result.edges.push_back(*from +
                             (*to - *from) * static_cast<double>(i) / static_cast<double>(*bars));
    }
    result.names.push_back(fmt::format("bar {}", i + 1));
  }
}

void read_edges(Fields& fields, const model::Channel& channel, model::Zones& result) {
  fields.require("edges", "edges = [\"0.40 V\", \"0.60 V\"], or bars = 16");
  result.edges = fields.values("edges", channel.span.unit);
  result.names = fields.texts("names");
  if (result.names.empty()) {
    for (std::size_t i = 0; i <= result.edges.size(); ++i) {
      result.names.push_back(fmt::format("zone {}", i));
    }
  } else if (result.names.size() != result.edges.size() + 1) {
    fields.report("names",
                  fmt::format("{} names of {} zones", result.names.size(), result.edges.size() + 1),
                  "one name more than edges");
  }
  for (std::size_t i = 1; i < result.edges.size(); ++i) {
    if (result.edges[i] > result.edges[i - 1]) continue;
    fields.report("edges", "edges that do not rise", "each edge above the one before");
    return;
  }
}

}  // namespace

model::Zones read_zones(Fields fields, const model::Channel& channel) {
  model::Zones result;
  const auto& span = channel.span;
  if (fields.has("bars")) {
    read_bars(fields, channel, result);
  } else {
    read_edges(fields, channel, result);
  }
  for (const double edge : result.edges) {
    if (span.holds(edge)) continue;
    fields.report(fields.has("bars") ? "bars" : "edges", "an edge outside of the span",
                  fmt::format("edges in {}", quantity::to_string(span)));
    break;
  }
  if (auto v = fields.difference("hysteresis", span.unit, not_negative())) result.hysteresis = *v;
  fields.finish();
  if (result.edges.empty()) {  // what was wrong has been said
    result.edges = {span.middle()};
    result.names = {"below", "above"};
  }
  return result;
}

}  // namespace tamlo::io
