// SPDX-License-Identifier: Apache-2.0
#include "tamlo/check/check.hpp"

#include <algorithm>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {

int run_check(const Arguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  result::Check result;
  for (const auto& chain : chains_of(board, arguments)) {
    result.channels.push_back(chain.channel.name);
    for (auto& finding : check::check(board, chain.channel.name)) {
      result.findings.push_back(std::move(finding));
    }
  }
  std::ranges::stable_sort(result.findings, {}, &check::Finding::severity);
  show(result, {report::of(result)}, arguments);
  const bool sound =
      std::ranges::count(result.findings, check::Severity::error, &check::Finding::severity) == 0;
  return sound ? done : missed;
}

}  // namespace tamlo::tool
