// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/budget.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "job.hpp"
#include "tamlo/budget/advice.hpp"
#include "tamlo/budget/channel_trials.hpp"
#include "tamlo/budget/detail/conditions.hpp"
#include "tamlo/budget/quantity_budget.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

struct BudgetArguments : BoardArguments {
  std::vector<std::string> at, what_if, set, against, over;
  std::string coverage = "0.95", trials, seed = "1", threads = "1";
  std::string plot, picture;
  Form format{};
  bool all = false;
};

constexpr int curve_points = 201, condition_points = 13;

budget::Request request_of(const BudgetArguments& arguments, const quantity::Range& span,
                           std::size_t channels) {
  budget::Request request{.coverage = coverage_of(arguments.coverage),
                          .rough_units = budget::rough_units_among(channels)};
  for (const auto& at : arguments.at) request.at.push_back(point_of(at, span));
  if (!arguments.trials.empty()) {
    budget::TrialsRequest trials{
        .seed = whole_of("--seed", arguments.seed, 0, 9'007'199'254'740'992),
        .threads = static_cast<int>(whole_of("--threads", arguments.threads, 1, 256))};
    if (arguments.trials != "auto") {
      trials.count = whole_of("--trials", arguments.trials, 1000, 20'000'000);
    }
    request.trials = trials;
  }
  return request;
}

std::vector<budget::UnderCondition> over(const std::string& condition, const model::Board& board,
                                         const std::string& channel, double coverage) {
  return condition == "age" ? budget::over_age(board, channel, condition_points, coverage)
                            : budget::over_temperature(board, channel, condition_points, coverage);
}

quantity::Unit unit_of(const std::string& condition) {
  return quantity::unit(condition == "age" ? "year" : "degC");
}

std::string test_cases(const result::Budgets& result) {
  // Of a board and a change of it the change is judged.
  const bool changes = std::ranges::any_of(result.channels, &result::ChannelBudget::changed);
  std::vector<report::Judged> all;
  for (const auto& channel : result.channels) {
    if (channel.changed == changes)
      all.push_back({channel.budget.channel, report::headline(channel.budget)});
  }
  const auto& quantities =
      result.changed_quantities.empty() ? result.quantities : result.changed_quantities;
  for (const auto& quantity : quantities)
    all.push_back({quantity.quantity, report::headline(quantity)});
  return report::junit("tamlo budget", all);
}

std::string picture_of(const model::Board& board, const chain::Chain& chain,
                       const budget::Budget& budget, const budget::Request& request,
                       const BudgetArguments& arguments) {
  const auto image = *report::image_of(arguments.plot);
  const auto& picture = arguments.picture;
  if (picture.empty() || picture == "contributions") {
    return report::plot_contributions(budget, image);
  }
  if (picture == "span") {
    const auto over_span = budget::over_span(chain, curve_points, {.coverage = request.coverage});
    return report::draw(report::chart_of_span(over_span), image);
  }
  if (picture == "trials") {
    if (!request.trials) refuse("--plot-kind", "trials", "trials beside --trials auto or a number");
    const auto& point = budget.worst();
    const auto errors = budget::sample(chain, point.at, point.trials->of.count, *request.trials);
    return report::plot_trials(errors, budget, point, image);
  }
  const auto rows = over(picture, board, chain.channel.name, request.coverage);
  return report::draw(report::chart_of_condition(rows, budget, picture, unit_of(picture)), image);
}

// The board as it is beside the one that --what-if and --set make of it; or as it was beside it.
int run_what_if(const BudgetArguments& arguments) {
  auto files = arguments.boards;
  files.insert(files.end(), arguments.what_if.begin(), arguments.what_if.end());
  const auto before =
      io::load_board(arguments.against.empty() ? arguments.boards : arguments.against);
  const auto after = io::load_board(files, arguments.set);
  result::Budgets result;
  std::vector<report::Report> reports;
  bool met = true;
  const auto [chains, quantities] = requested(before, arguments);
  const auto gone = [&](const std::string& name) {
    reports.push_back({.verdict = {{name + ": is not there any more", report::Tone::doubtful}}});
  };
  const auto came = [&](const auto& all_before, const std::string& name) {
    return arguments.channels.empty() && model::find(all_before, name) == nullptr;
  };
  for (const auto& chain : chains) {
    const auto request = request_of(arguments, chain.channel.span, chains.size());
    if (model::find(after.channels, chain.channel.name) == nullptr) {
      gone(chain.channel.name);
      continue;
    }
    const auto changed = chain::build(after, chain.channel.name);
    const auto as_is = budget::evaluate(chain, request);
    const auto of_changed =
        budget::evaluate(changed, request_of(arguments, changed.channel.span, chains.size()));
    met = met && of_changed.target_met();
    reports.push_back(report::of_change(as_is, of_changed));
    result.channels.push_back({.budget = as_is});
    result.channels.push_back({.budget = of_changed, .changed = true});
  }
  for (const auto& chain : after.chains) {
    if (!came(before.channels, chain.channel.name)) continue;
    const auto added =
        budget::evaluate(chain, request_of(arguments, chain.channel.span, after.chains.size()));
    met = met && added.target_met();
    reports.push_back(report::of(added));
    result.channels.push_back({.budget = added, .changed = true});
  }
  const budget::QuantityRequest request{.coverage = coverage_of(arguments.coverage)};
  for (const auto& quantity : quantities) {
    const auto* changed = model::find(after.quantities, quantity.name);
    if (changed == nullptr) {
      gone(quantity.name);
      continue;
    }
    const auto& as_is =
        result.quantities.emplace_back(budget::evaluate(quantity, before.chains, request));
    const auto& of_changed =
        result.changed_quantities.emplace_back(budget::evaluate(*changed, after.chains, request));
    met = met && of_changed.target_met();
    reports.push_back(report::of_change(as_is, of_changed));
  }
  for (const auto& quantity : after.quantities) {
    if (!came(before.quantities, quantity.name)) continue;
    const auto& added =
        result.changed_quantities.emplace_back(budget::evaluate(quantity, after.chains, request));
    met = met && added.target_met();
    reports.push_back(report::of(added));
  }
  show(result, reports, arguments.format, [&] { return test_cases(result); });
  return met ? done : missed;
}

int run_budget(const BudgetArguments& arguments) {
  if (!arguments.what_if.empty() || !arguments.set.empty() || !arguments.against.empty())
    return run_what_if(arguments);
  const auto board = io::load_board(arguments.boards);
  const auto [chains, quantities] = requested(board, arguments);
  check_picture("--plot", arguments.plot, chains.size());
  io::OutputFiles outputs({arguments.plot});
  result::Budgets result;
  std::vector<report::Report> reports;
  bool met = true;
  for (const auto& chain : chains) {
    const auto request = request_of(arguments, chain.channel.span, chains.size());
    auto& channel = result.channels.emplace_back();
    channel.budget = budget::evaluate(chain, request);
    met = met && channel.budget.target_met();
    if (!arguments.plot.empty()) {
      outputs.write(arguments.plot, picture_of(board, chain, channel.budget, request, arguments));
    }
    for (const auto& condition : arguments.over) {
      channel.over.push_back({condition, unit_of(condition),
                              over(condition, board, chain.channel.name, request.coverage)});
    }
    if (chains.size() == 1) {
      channel.advice = budget::advise(board, chain.channel.name, request.coverage);
    }
    for (auto& report : report::of(channel, arguments.all)) reports.push_back(std::move(report));
  }
  for (const auto& quantity : quantities) {
    const auto& of_quantity = result.quantities.emplace_back(
        budget::evaluate(quantity, board.chains, {.coverage = coverage_of(arguments.coverage)}));
    met = met && of_quantity.target_met();
    reports.push_back(report::of(of_quantity, arguments.all));
  }
  outputs.finish();
  show(result, reports, arguments.format, [&] { return test_cases(result); });
  return met ? done : missed;
}

void declare_budget(Options& options, BudgetArguments& a) {
  options.board(a);
  options.group("Places and conditions");
  options.repeated("--at", a.at,
                   {"VALUE", "a point of the span; may be repeated", "zero, middle, full scale"});
  options.choices("--over", a.over, {"temperature", "age"},
                  {"CONDITION", "the worst place as this changes; may be repeated"});
  options.coverage(a.coverage);
  options.group("What if");
  options.inputs("--what-if", a.what_if,
                 {"FILE", "a file that changes keys: both budgets side by side; may be repeated"});
  options.repeated("--set", a.set,
                   {"KEY=VALUE", "the same for one key, channel.x.average=64; may be repeated"});
  options.inputs("--against", a.against,
                 {"FILE",
                  "the board as it was: both budgets side by side; files behind it by the "
                  "option again"});
  options.group("Trials");
  options.option("--trials", a.trials,
                 {"NUMBER", "Monte Carlo beside it; auto takes as many as two digits need"});
  options.option("--seed", a.seed, {"NUMBER", "of the trials", "1"});
  options.option("--threads", a.threads, {"NUMBER", "for the trials; the result is the same", "1"});
  options.only_with("--trials", {"--seed", "--threads"});
  options.group("Output");
  options.flag("--all", a.all, {"", "also sources under 0.05 % of the variance"});
  options.plot(a.plot, a.picture, {"contributions", "span", "temperature", "age", "trials"},
               "contributions");
  options.format_of_verdicts(a.format);
}

}  // namespace

extern const Command budget_command{
    .name = "budget",
    .question = "how wrong can the reading be, and what dominates?",
    .examples = {R"(budget demo/board.toml --channel pack_voltage --at "48 V")",
                 R"(budget demo/board.toml --channel pack_voltage --over temperature)"},
    .describe = [](Options& options) {
      return described<BudgetArguments>(options, declare_budget, run_budget);
    }};

}  // namespace tamlo::tool
