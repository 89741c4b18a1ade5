// SPDX-License-Identifier: Apache-2.0
#include "tamlo/check/check.hpp"

#include <algorithm>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

struct CheckArguments : BoardArguments {
  std::string format = "text";
};

int run_check(const CheckArguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  result::Check result;
  for (const auto& chain : chains_of(board, arguments)) {
    result.channels.push_back(chain.channel.name);
    for (auto& finding : check::check(board, chain.channel.name)) {
      result.findings.push_back(std::move(finding));
    }
  }
  std::ranges::stable_sort(result.findings, {}, &check::Finding::severity);
  show(result, {report::of(result)}, arguments.format);
  const bool sound =
      std::ranges::count(result.findings, check::Severity::error, &check::Finding::severity) == 0;
  return sound ? done : missed;
}

void declare_check(Options& options, CheckArguments& a) {
  options.board(a);
  options.group("Output");
  options.format(a.format);
}

}  // namespace

const Command check_command{
    .name = "check",
    .question = "is this description sound, and what needs attention?",
    .examples = {R"(check demo/board.toml)",
                 R"(check demo/board.toml --channel pack_voltage --format csv)"},
    .describe = [](Options& options) {
      return described<CheckArguments>(options, declare_check, run_check);
    }};

}  // namespace tamlo::tool
