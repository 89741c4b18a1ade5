// SPDX-License-Identifier: Apache-2.0
#include <algorithm>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/bias_parts.hpp"
#include "tamlo/check/check.hpp"

namespace tamlo::check {

std::uint64_t Examined::count(Severity severity) const {
  return static_cast<std::uint64_t>(std::ranges::count(
      findings, severity, [](const LocatedFinding& finding) { return finding.severity; }));
}

Examined examine(const model::Board& board, const std::vector<std::string>& channels) {
  Examined result{.parts = board.parts};
  for (const auto& channel : channels) {
    if (const auto* quantity = model::find(board.quantities, channel)) {
      result.quantities.push_back(channel);
      for (auto& finding : check(board, *quantity)) result.findings.push_back({std::move(finding)});
      continue;
    }
    result.channels.push_back(channel);
    for (auto& finding : check(board, channel)) {
      result.findings.push_back({std::move(finding)});
    }
    for (auto& omission : omissions(board, channel))
      result.omissions.push_back(std::move(omission));
    if (chain::of_ideal_parts(chain::build(board, channel))) result.ideal.push_back(channel);
  }
  std::ranges::stable_sort(result.findings, {},
                           [](const LocatedFinding& located) { return located.severity; });
  return result;
}

}  // namespace tamlo::check
