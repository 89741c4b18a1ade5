// SPDX-License-Identifier: Apache-2.0
#include "tamlo/check/check.hpp"

#include <algorithm>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/json.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {

int run_check(const Arguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  std::vector<check::Finding> findings;
  std::vector<std::string> channels;
  for (const auto& chain : chains_of(board, arguments)) {
    channels.push_back(chain.channel.name);
    for (auto& finding : check::check(board, chain.channel.name))
      findings.push_back(std::move(finding));
  }
  std::ranges::stable_sort(findings, {}, &check::Finding::severity);
  if (wants_json(arguments)) {
    print(io::to_json(findings, channels));
  } else {
    print({report::of(findings, channels)}, arguments);
  }
  const bool sound =
      std::ranges::count(findings, check::Severity::error, &check::Finding::severity) == 0;
  return sound ? done : missed;
}

}  // namespace tamlo::tool
