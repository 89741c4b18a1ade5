// SPDX-License-Identifier: Apache-2.0
// Quantities of several channels under examination.
#include <fmt/format.h>

#include <string>
#include <vector>

#include "tamlo/check/check.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::check {

std::vector<Finding> check(const model::Board& board, const model::Quantity& quantity) {
  std::vector<Finding> findings;
  const auto reach = model::reach_of(board, quantity);
  const auto& span = quantity.span;
  const auto report = [&](const char* identifier, const char* key, std::string found,
                          std::string why, std::string remedy) {
    findings.push_back({identifier, Severity::warning, quantity.name,
                        fmt::format("quantity.{}.{}", quantity.name, key), std::move(found),
                        std::move(why), std::move(remedy)});
  };
  const auto shown = [&](double x) { return quantity::engineering(x, span.unit, 4); };
  if (const double some = 1e-9 * span.width();
      reach.low <= reach.high && (span.low < reach.low - some || span.high > reach.high + some)) {
    const bool any = reach.low < span.high && reach.high > span.low;
    const quantity::Range reached{.low = std::max(span.low, reach.low),
                                  .high = std::min(span.high, reach.high),
                                  .unit = span.unit};
    report("quantity-out-of-reach", "span",
           fmt::format("within their spans the channels give {} to {}", shown(reach.low),
                       shown(reach.high)),
           "beyond that no reading of the channels is promised, and no budget can be made",
           any ? fmt::format("span = \"{}\", or channels with wider spans",
                             quantity::to_string(reached))
               : "another span, or channels with wider spans");
  }
  if (!reach.everywhere) {
    std::string places;
    const auto names = model::channels_of(board, quantity);
    for (std::size_t j = 0; j < names.size(); ++j) {
      const auto& unit = model::span_named(board, names[j])->unit;
      places += fmt::format("{}{} of {}", places.empty() ? "" : ", ",
                            quantity::engineering(reach.without[j], unit, 4), names[j]);
    }
    report("quantity-without-value", "is",
           fmt::format("\"{}\" has no finite value at {}", quantity.expression, places),
           "a firmware that divides by nothing there reports anything",
           "a span of the channel that leaves the place out, or another formula");
  }
  return findings;
}

}  // namespace tamlo::check
