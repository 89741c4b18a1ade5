// SPDX-License-Identifier: Apache-2.0
#include <algorithm>
#include <iterator>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/bias_parts.hpp"
#include "tamlo/check/check.hpp"

namespace tamlo::check {

std::uint64_t Examined::count(Severity severity) const {
  return static_cast<std::uint64_t>(std::ranges::count(
      findings, severity, [](const LocatedFinding& finding) { return finding.severity; }));
}

void Examined::add(Examined other) {
  const auto append = [](auto& to, auto& from) {
    to.insert(to.end(), std::make_move_iterator(from.begin()), std::make_move_iterator(from.end()));
  };
  append(channels, other.channels);
  append(quantities, other.quantities);
  append(findings, other.findings);
  append(omissions, other.omissions);
  append(ideal, other.ideal);
  std::ranges::stable_sort(findings, {},
                           [](const LocatedFinding& located) { return located.severity; });
}

Examined examine(const model::Board& board, const std::vector<std::string>& channels) {
  Examined result{.parts = board.parts};
  for (const auto& channel : channels) {
    Examined one;
    if (const auto* quantity = model::find(board.quantities, channel)) {
      one.quantities.push_back(channel);
      for (auto& finding : check(board, *quantity)) one.findings.push_back({std::move(finding)});
    } else {
      one.channels.push_back(channel);
      for (auto& finding : check(board, channel)) one.findings.push_back({std::move(finding)});
      one.omissions = omissions(board, channel);
      if (chain::of_ideal_parts(chain::build(board, channel))) one.ideal.push_back(channel);
    }
    result.add(std::move(one));
  }
  return result;
}

}  // namespace tamlo::check
