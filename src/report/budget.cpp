// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using budget::Adjusted;
using budget::Budget;
using budget::Point;

Table points_table(const Budget& budget) {
  const auto& unit = budget.unit;
  const auto difference = quantity::difference_unit(unit);
  const double size = budget.worst().expanded;
  const bool target = budget.points.front().limit.has_value();
  const bool ideal = budget.adjusted_with.empty();
  // The answer first: what does not fit into a narrow terminal stands below it.
  Table table{.title = fmt::format("{}: how wrong a reading can be, in {}", budget.channel,
                                   difference.symbol),
              .columns = {{"at"}, {"error ±"}}};
  if (target) {
    table.columns.push_back({"allowed ±"});
    table.columns.push_back({"verdict", false});
  }
  for (const char* heading : {"bias", "U", "k"}) table.columns.push_back({heading});
  const bool rough = std::ranges::any_of(
      budget.points, [](const auto& p) { return p.method == budget::Method::trials; });
  if (rough) table.columns.push_back({"by", false});
  for (const char* heading :
       {"combined u", "worst -", "worst +", "U % span", "U % reading", "U LSB"}) {
    table.columns.push_back({heading});
  }
  // A second adjustment of a unit that is adjusted says nothing.
  const bool adjustable = budget.adjusted_at.empty();
  if (adjustable) {
    table.columns.push_back({ideal ? "U zeroed, ideal" : "U zeroed"});
    table.columns.push_back({ideal ? "U two-point, ideal" : "U two-point"});
  }
  for (const auto& p : budget.points) {
    const double reading = std::abs(p.at - unit.offset);
    const auto amount = [&](double x) { return figure(x, difference, size, 3); };
    std::vector<Cell> row{figure(p.at, unit, budget.span.width(), 4), amount(p.error())};
    if (target) {
      row.push_back(amount(*p.limit));
      row.emplace_back(p.overflows() ? "OVERFLOW" : *p.margin() >= 0.0 ? "met" : "MISSED");
    }
    row.insert(row.end(),
               {amount(p.bias), amount(p.expanded), fmt::format("{:.2f}", p.coverage_factor)});
    if (rough) row.emplace_back(std::string(name(p.method)));
    row.insert(row.end(),
               {amount(p.combined), amount(p.worst_case.low), amount(p.worst_case.high),
                percent(p.expanded / budget.span.width(), 3),
                reading > 0.0 && unit.offset == 0.0 ? percent(p.expanded / reading, 3) : Cell("-"),
                fmt::format("{:.1f}", p.expanded / p.code_width)});
    if (adjustable) row.insert(row.end(), {amount(p.adjusted.zero), amount(p.adjusted.two_point)});
    table.rows.push_back(std::move(row));
  }
  return table;
}

Table sources_table(const Budget& budget, const Point& point, bool all) {
  const auto difference = quantity::difference_unit(budget.unit);
  Table table{.title = fmt::format("{}: where it comes from, at {}", budget.channel,
                                   place_in(budget, point.at)),
              .columns = {{"source", false},
                          {"share %"},
                          {"", false},
                          {heading("contribution", difference)},
                          {"limit", false},
                          {"distribution", false},
                          {"kind", false}}};
  const auto minor = all ? budget::MinorSources{} : minor_sources(point);
  for (const auto i : by_share(point)) {
    const auto& source = budget.sources[i];
    const auto& c = point.contributions[i];
    if (minor.count > 0 && is_minor(c)) continue;
    // A source that another one cancels may have less than nothing of the variance.
    const auto bar = static_cast<std::size_t>(std::lround(20.0 * std::clamp(c.share, 0.0, 1.0)));
    table.rows.push_back({source.name,
                          percent(c.share, 1),
                          {std::string(bar, '#'), " "},
                          figure(c.contribution, difference, point.expanded, 4),
                          source.specification,
                          std::string(name(source.distribution)),
                          std::string(name(source.kind()))});
  }
  if (minor.count > 0) {
    table.rows.push_back({fmt::format("{} more, under 0.05 % each", minor.count),
                          percent(minor.share, 1), "",
                          figure(minor.contribution, difference, point.expanded, 4), "", "", ""});
  }
  return table;
}

Table trials_table(const Budget& budget) {
  const auto difference = quantity::difference_unit(budget.unit);
  Table table{
      .title = fmt::format("{}: the same by trials of the whole chain (JCGM 101), error in {}",
                           budget.channel, difference.symbol),
      .columns = {{"at"},
                  {"trials"},
                  {"mean"},
                  {"combined"},
                  {"from"},
                  {"to"},
                  {"shortest from"},
                  {"to"},
                  {"closed form", false}}};
  for (const auto& p : budget.points) {
    if (!p.trials) continue;
    const auto& trials = p.trials->of;
    const auto cell = [&](double x) { return figure(x, difference, p.expanded, 4); };
    table.rows.push_back(
        {figure(p.at, budget.unit, budget.span.width(), 4), std::to_string(trials.count),
         cell(trials.mean), cell(trials.combined), cell(trials.symmetric.low),
         cell(trials.symmetric.high), cell(trials.shortest.low), cell(trials.shortest.high),
         fmt::format("{}, {:.1f} % {}",
                     p.trials->closed_form_valid ? "agrees" : "DIFFERS: trust the trials",
                     100.0 * std::abs(p.trials->wider(p.expanded)),
                     p.trials->wider(p.expanded) >= 0.0 ? "wider" : "narrower")});
  }
  return table;
}

// What holds beyond the points that were asked for.
void add_remarks(const Budget& budget, Report& report) {
  const auto& worst = budget.worst();
  const auto& r = worst.resolution;
  say(report.remarks,
      "bits at {}: {:.1f} effective, {:.1f} noise-free, {:.1f} of accuracy; ENOB {:.1f} "
      "of single conversions",
      place_in(budget, worst.at), r.effective, r.noise_free, r.accuracy, r.enob);
  const auto& place = budget.worst_place;
  const double error_here = worst.error();
  const double there = place.error();
  const bool worse = worst.limit ? there / *place.limit > 1.01 * error_here / *worst.limit
                                 : there > 1.01 * error_here;
  if (worse) {
    say(report.remarks, place.limit && *place.margin() < 0.0 ? Tone::bad : Tone::plain,
        "worst place of the span: ±{} at {}{}", amount(there, budget.unit),
        place_in(budget, place.at),
        place.limit ? fmt::format(" of ±{} allowed{}", amount(*place.limit, budget.unit),
                                  *place.margin() < 0.0 ? ": MISSED there" : "")
                    : "");
  }
  for (const auto& p : budget.points) {
    if (!p.trials || p.trials->of.settled) continue;
    say(report.remarks, Tone::doubtful, "at {} the trials ended before two digits were certain",
        place_in(budget, p.at));
  }
}

// What is the same in every unit and has a name.
void add_bias_parts(const Budget& budget, Report& report) {
  const auto difference = quantity::difference_unit(budget.unit);
  for (const auto& p : budget.points) {
    for (const auto& part : p.bias_parts) {
      if (std::abs(part.size) < 0.05 * p.expanded) continue;
      say(report.remarks, "of the bias at {}: {} {}{} (remedy: {})", place_in(budget, p.at),
          part.name, part.size > 0.0 ? "+" : "-", amount(std::abs(part.size), difference),
          part.remedy);
    }
  }
}

// Readings that stop at an end are said before anything else, and parts without limits too.
std::vector<Line> cautions(const Budget& budget) {
  std::vector<Line> result;
  for (const auto& p : budget.points) {
    if (!p.clipped) continue;
    say(result, Tone::bad,
        "{}: CLIPPED at {}: an amplifier or the converter is at its end, or the "
        "firmware at a clamp: readings stop there",
        budget.channel, place_in(budget, p.at));
  }
  if (budget.of_ideal_parts) {
    say(result, Tone::doubtful,
        "{}: ideal parts only: no part has a limit, so this is noise and quantization alone",
        budget.channel);
  }
  return result;
}

std::string_view error_in_words(model::JudgedBy by) {
  return by == model::JudgedBy::uncertainty  ? "|bias| + U"
         : by == model::JudgedBy::worst_case ? "the larger of both worst"
                                             : "the largest of |bias| + U and both worst";
}

}  // namespace

Line headline(const Budget& budget) {
  const auto& worst = budget.worst();
  const auto place = place_in(budget, worst.at);
  const auto can_be = amount(worst.error(), budget.unit);
  const auto by = confidence(worst.by, worst.coverage);
  if (worst.overflows()) {
    return {fmt::format("{}: {}OVERFLOW: the firmware's integers are too short for readings at {}",
                        budget.channel, worst.limit ? "TARGET MISSED by " : "", place),
            Tone::bad};
  }
  if (!worst.limit) {
    return {fmt::format("{}: within ±{} at {} ({}); the channel has no target", budget.channel,
                        can_be, place, by),
            Tone::heading};
  }
  const auto allowed = amount(*worst.limit, budget.unit);
  const bool met = budget.target_met();
  return {fmt::format("{}: TARGET {}: ±{} at {} of ±{} allowed ({})", budget.channel,
                      outcome(met, worst.error(), *worst.limit, budget.unit), can_be, place,
                      allowed, by),
          met ? Tone::good : Tone::bad};
}

Report of(const Budget& budget, bool all) {
  const auto& worst = budget.worst();
  Report report;
  report.verdict = cautions(budget);
  report.verdict.push_back(headline(budget));
  const auto leading = by_share(worst).front();
  say(report.verdict, "{} dominates: {:.0f} % of the variance at {}", budget.sources[leading].name,
      100.0 * worst.contributions[leading].share, place_in(budget, worst.at));
  report.tables.push_back(points_table(budget));
  if (budget.points.front().trials) report.tables.push_back(trials_table(budget));
  report.tables.push_back(sources_table(budget, worst, all));

  say(report.legend,
      "error: {}; U: expanded uncertainty ({:.4g} %), k times the combined u; worst: all "
      "limits at their ends",
      error_in_words(budget.worst().by), 100.0 * budget.worst().coverage);
  add_remarks(budget, report);
  add_bias_parts(budget, report);
  if (!budget.adjusted_at.empty()) {
    std::string places;
    for (const double x : budget.adjusted_at)
      places += (places.empty() ? "" : " and ") + place_in(budget, x);
    report.remarks.push_back({"each unit is adjusted at " + places});
  }
  if (!budget.target_met()) {
    const bool adjustable = budget.adjusted_at.empty();
    if (adjustable && budget.target_met_after(&Adjusted::zero)) {
      report.remarks.push_back(
          {.text = "remedy: a zero adjustment meets the target at these points", .remedy = true});
    } else if (adjustable && budget.target_met_after(&Adjusted::two_point)) {
      report.remarks.push_back(
          {.text = "remedy: a two-point adjustment meets the target at these points",
           .remedy = true});
    } else {
      report.remarks.push_back(
          {.text =
               fmt::format("remedy: no adjustment suffices; improve {} first. tamlo explore tries "
                           "several changes together; with --solve it finds how large one may be",
                           budget.sources[leading].name),
           .remedy = true});
    }
  }
  for (const auto& p : budget.points) {
    if (p.roughness == chain::Roughness::none) continue;
    say(report.remarks,
        "at {}: {}, so computed by Monte Carlo ({} units, conversion by conversion)",
        place_in(budget, p.at), name(p.roughness), p.units);
  }
  return report;
}

}  // namespace tamlo::report
