// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/budget.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/json.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

double point_of(const std::string& text, const quantity::Range& span) {
  const double x = value_of("--at", text, span.unit);
  if (span.holds(x)) return x;
  throw io::BadInput(
      {{.file = "command line",
        .key = "--at",
        .found = fmt::format("\"{}\"", text),
        .allowed = fmt::format("a point of the span {}", quantity::to_string(span))}});
}

}  // namespace

int run_budget(const Arguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  std::vector<budget::Budget> budgets;
  for (const auto& chain : chains_of(board, arguments)) {
    budget::Request request{.at = {}, .coverage = coverage_of(arguments)};
    for (const auto& at : arguments.at) {
      request.at.push_back(point_of(at, chain.channel.span));
    }
    budgets.push_back(budget::evaluate(chain, request));
  }
  if (wants_json(arguments)) {
    print(io::to_json(budgets));
  } else {
    std::vector<report::Report> reports;
    for (const auto& budget : budgets) reports.push_back(report::of(budget));
    print(reports, arguments);
  }
  return std::ranges::all_of(budgets, &budget::Budget::target_met) ? done : missed;
}

}  // namespace tamlo::tool
