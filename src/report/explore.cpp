// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using explore::ExploredCandidate;

constexpr std::size_t most_rows = 30;

std::string seconds(double s) { return quantity::engineering(s, quantity::unit("s"), 3); }

std::string amount_text(const explore::ExploredAmount& amount) {
  return fmt::format("{:.6g}{}{}", amount.value, amount.unit.empty() ? "" : " ", amount.unit);
}

// A candidate in a few words: its figures, then what it has.
std::string words_of(const ExploredCandidate& candidate) {
  auto text = fmt::format("candidate {} uses {:.1f} % of the target", candidate.number,
                          100.0 * candidate.error);
  for (const auto& amount : candidate.amounts)
    text += fmt::format(", {} {}", amount.name, amount_text(amount));
  if (candidate.latency > 0.0) text += ", latency " + seconds(candidate.latency);
  return text;
}

// Those that no other stands for.
std::vector<ExploredCandidate> unlike(const std::vector<ExploredCandidate>& all) {
  std::vector<ExploredCandidate> result;
  std::ranges::copy_if(all, std::back_inserter(result), [](const auto& one) { return !one.like; });
  return result;
}

// Only the columns that differ from row to row; of candidates that are alike one, and how many
// more.
Table table_of(const std::string& title, const std::vector<ExploredCandidate>& all) {
  const auto rows = unlike(all);
  Table table{.title = title, .columns = {{"number"}}};
  const auto differs = [&](const auto& get) {
    return std::ranges::any_of(rows,
                               [&](const auto& row) { return get(row) != get(rows.front()); });
  };
  std::vector<std::function<Cell(const ExploredCandidate&)>> cells;
  const auto& first = rows.front();
  for (std::size_t a = 0; a < first.amounts.size(); ++a) {
    const auto& amount = first.amounts[a];
    table.columns.push_back(
        {amount.unit.empty() ? amount.name : fmt::format("{} [{}]", amount.name, amount.unit)});
    std::vector<double> values;
    for (const auto& row : rows) values.push_back(row.amounts[a].value);
    cells.emplace_back(
        [a, decimals = quantity::decimals_of(values, 6)](const ExploredCandidate& row) {
          return fmt::format("{:.{}f}", row.amounts[a].value, decimals);
        });
  }
  table.columns.push_back({"of target [%]"});
  cells.emplace_back([](const ExploredCandidate& row) { return percent(row.error, 1); });
  if (std::ranges::any_of(all, [&](const auto& one) { return one.latency != first.latency; })) {
    table.columns.push_back({"latency"});
    cells.emplace_back([](const ExploredCandidate& row) { return seconds(row.latency); });
  }
  for (std::size_t i = 0; i < first.choices.size(); ++i) {
    if (rows.size() > 1 && !differs([i](const auto& row) { return row.choices[i].value; }))
      continue;
    table.columns.push_back({first.choices[i].name, false});
    cells.emplace_back([i](const ExploredCandidate& row) { return Cell(row.choices[i].value); });
  }
  if (rows.size() < all.size()) {
    table.columns.push_back({"more like it"});
    cells.emplace_back([&all](const ExploredCandidate& row) {
      const auto count =
          std::ranges::count(all, std::optional(row.number), &ExploredCandidate::like);
      return Cell(count > 0 ? std::to_string(count) : "");
    });
  }
  for (const auto& row : rows) {
    if (table.rows.size() == most_rows) break;
    std::vector<Cell> line{fmt::format("{}", row.number)};
    for (const auto& cell : cells) line.push_back(cell(row));
    table.rows.push_back(std::move(line));
  }
  return table;
}

// What each channel's targets cost, and the next tighter ones.
// What would have to give way.
std::string relaxed(const std::vector<explore::ExploredMiss>& misses) {
  const auto& first = misses.front();
  if (first.channel.empty()) {
    const auto in = [&](double value) {
      const auto text = quantity::significant(value, {}, 4);
      return first.unit.empty() ? text : text + " " + first.unit;
    };
    return fmt::format("the limit of {}: candidate {} meets every target with {}; {} is allowed",
                       first.what, first.number, in(first.reached), in(first.allowed));
  }
  std::vector<std::string> texts;
  for (const auto& miss : misses) {
    if (miss.unit.empty()) {
      texts.push_back(fmt::format("the accuracy of {}: {} % of what it allows is used up",
                                  miss.channel,
                                  quantity::significant(100.0 * miss.reached, {}, 4)));
      continue;
    }
    const bool time = miss.unit == "s";
    const auto text = [&](double value) {
      return time ? quantity::engineering(value, quantity::unit("s"), 3)
                  : fmt::format("{:.2f} bit", value);
    };
    texts.push_back(fmt::format("the {} of {}: {}, and {} is asked for",
                                time ? "latency" : "noise-free resolution", miss.channel,
                                text(miss.reached), text(miss.allowed)));
  }
  return fmt::format("{} (candidate {})", fmt::join(texts, "; "), first.number);
}

Table table_of_costs(const explore::Explored& explored) {
  Table table{.title = "what a tighter target costs",
              .columns = {{"channel", false},
                          {"target", false},
                          {"now"},
                          {explored.cost_of},
                          {"candidate"},
                          {"next tighter"},
                          {explored.cost_of},
                          {"candidate"}}};
  std::vector<double> sums;
  for (const auto& cost : explored.costs) {
    sums.push_back(cost.cost);
    if (cost.next_cost) sums.push_back(*cost.next_cost);
  }
  const auto decimals = quantity::decimals_of(sums, 6);
  const auto cost = [&](double value) { return fmt::format("{:.{}f}", value, decimals); };
  const auto reached = [](explore::Target target, double value) {
    if (target == explore::Target::latency) return seconds(value);
    if (target == explore::Target::noise_free) return fmt::format("{:.2f} bit", value);
    return fmt::format("{:.1f} %", 100.0 * value);
  };
  for (const auto& each : explored.costs) {
    std::vector<Cell> row{
        each.channel,
        each.target == explore::Target::noise_free ? "noise-free resolution"
                                                   : std::string(name(each.target)),
        reached(each.target, each.now), cost(each.cost), fmt::format("{}", each.number)};
    if (each.next) {
      row.push_back(reached(each.target, *each.next));
      row.push_back(cost(each.next_cost.value_or(0.0)));
      row.emplace_back(fmt::format("{}", each.next_number.value_or(0)));
    } else {
      row.insert(row.end(), {"not reached", "", ""});
    }
    table.rows.push_back(std::move(row));
  }
  return table;
}

}  // namespace

Report of(const explore::Explored& explored) {
  Report report;
  const bool any = explored.feasible > 0;
  if (explored.tried < explored.candidates) {
    report.verdict.push_back(
        {explored.tried > 0
             ? fmt::format(
                   "ended early: what follows is of the {} of {} candidates that were tried",
                   explored.tried, explored.candidates)
             : "ended early: no candidate was tried in all its channels",
         Tone::doubtful});
  }
  say(report.verdict, any ? Tone::good : Tone::bad, "{} of {} candidates meet everything",
      explored.feasible, explored.candidates);
  const auto& rows = any ? explored.front : explored.nearest;
  if (rows.empty()) {
    if (explored.tried == explored.candidates) {
      report.remarks.push_back(
          {"no candidate is sound: tamlo check says why of the board as it is"});
    }
    return report;
  }
  if (any) {
    for (const auto& each : explored.best) {
      if (each.least == "latency" && each.candidate.latency == 0.0) continue;
      const auto heading = each.least == "error"     ? std::string("most accurate")
                           : each.least == "latency" ? std::string("fastest")
                                                     : "least " + each.least;
      report.verdict.push_back({heading + ": " + words_of(each.candidate)});
    }
  } else {
    report.verdict.push_back({"nearest: " + words_of(rows.front()), Tone::doubtful});
    if (!explored.relax_first.empty())
      report.verdict.push_back(
          {"to relax first: " + relaxed(explored.relax_first), Tone::doubtful});
  }
  report.tables.push_back(
      table_of(any ? fmt::format("the front: least {}", fmt::join(explored.goals, ", least "))
                   : "the nearest misses",
               rows));
  const auto shown = unlike(rows).size();
  if (shown > most_rows) {
    say(report.remarks, "{} more; --format csv lists all", shown - most_rows);
  }
  if (shown < rows.size()) {
    say(report.remarks, "like it: no more than 1 % better in any goal; --format csv lists all {}",
        rows.size());
  }
  if (!explored.costs.empty()) report.tables.push_back(table_of_costs(explored));
  if (any && rows.size() > 1) {
    for (std::size_t i = 0; i < rows.front().choices.size(); ++i) {
      const auto& one = rows.front().choices[i];
      const bool same = std::ranges::all_of(
          rows, [&](const auto& row) { return row.choices[i].value == one.value; });
      if (same) say(report.remarks, "all of them have {} {}", one.name, one.value);
    }
  }
  if (!explored.without_accuracy.empty()) {
    say(report.remarks, Tone::doubtful, "the error of {} does not count: it has no accuracy target",
        fmt::join(explored.without_accuracy, ", "));
  }
  for (const auto& choice : explored.never_matter) {
    say(report.remarks, "{} does not change the result", choice);
  }
  return report;
}

Report of(const result::Loosened& loosened) {
  Report report;
  if (!loosened.meets) {
    report.verdict.push_back(
        {"the targets are missed however tight these limits are: another source dominates",
         Tone::bad});
    return report;
  }
  report.verdict.push_back(
      {loosened.unlimited
           ? "the targets do not depend on these limits, up to a thousand times as wide"
           : fmt::format("limits {:.3g} times as wide as they are still meet every target, with "
                         "{:.1f} % of "
                         "what is allowed used up",
                         loosened.factor, 100.0 * loosened.error),
       loosened.factor < 1.0 ? Tone::bad : Tone::good});
  Table table{.title = "", .columns = {{"key", false}, {"as it is", false}, {"loosest", false}}};
  for (const auto& key : loosened.keys) {
    table.rows.push_back({key.key, key.as_it_is, loosened.unlimited ? "any" : key.loosest});
  }
  report.tables.push_back(std::move(table));
  return report;
}

}  // namespace tamlo::report
