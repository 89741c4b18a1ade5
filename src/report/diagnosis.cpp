// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

constexpr double day = 86400.0, year = 365.25 * day;

std::string listed(const meter::Suspect& suspect) {
  std::string text;
  for (std::size_t i = 0; i < suspect.sources.size(); ++i) {
    const auto& s = suspect.sources[i];
    if (i == 2) {
      text += fmt::format(", or {} more", suspect.sources.size() - i);
      break;
    }
    text += fmt::format("{}{} ({:+.1f} limits)", i == 0 ? "" : ", or ", s.name, s.limits);
  }
  return text;
}

// Of several that look alike: what would tell some of them from the others.
std::string decided_by(const meter::Suspect& suspect) {
  const auto is_before = [](const auto& s) { return s.before_pin; };
  const auto is_behind = [](const auto& s) { return !s.before_pin && !s.of_meter; };
  const auto before = std::ranges::count_if(suspect.sources, is_before);
  const auto later = std::ranges::count_if(suspect.sources, is_behind);
  const bool meter = before + later < std::ssize(suspect.sources);
  const auto some = [&](const auto& which, std::ptrdiff_t count) {
    const auto& first = *std::ranges::find_if(suspect.sources, which);
    return first.name + (count > 1 ? fmt::format(" and {} more", count - 1) : "");
  };
  std::string text;
  if (before > 0 && later > 0) {
    text = fmt::format("a meter at the converter's pin would: {} show there, {} do not",
                       some(is_behind, later), some(is_before, before));
  } else if (!meter) {
    return fmt::format("all of them lie {} the converter's pin: check each one separately",
                       before > 0 ? "before" : "behind");
  }
  return text.empty() ? "another meter would" : text;
}

// Where one cause alone leaves too much: two.
void add_pair(const meter::Diagnosis& d, Report& report) {
  const auto& together = d.together;
  if (together.pair.size() != 2) return;
  say(report.verdict,
      "one cause alone leaves a chi-squared of {:.0f}, which occurs once in {:.1g} sound channels",
      together.chi_squared_left, 1.0 / std::max(together.probability, 1e-300));
  say(report.verdict, "two causes leave {:.1f}: {} ({:+.1f} limits) and {} ({:+.1f} limits)",
      together.pair_chi_squared_left, together.pair[0].name, together.pair[0].limits,
      together.pair[1].name, together.pair[1].limits);
}

std::string span_of_time(double seconds) {
  if (seconds >= year)
    return fmt::format("{:.3g} year{}", seconds / year, seconds == year ? "" : "s");
  if (seconds >= day) return fmt::format("{:.0f} days", seconds / day);
  return fmt::format("{:.1f} hours", seconds / 3600.0);
}

}  // namespace

Report of(const meter::Diagnosis& d) {
  Report report;
  if (!d.fault && d.signatures.empty()) {
    report.verdict.push_back(
        {"no fault indicated: the differences are typical of a sound channel"});
    return report;
  }
  if (d.of_quantity) {
    report.verdict.push_back(
        {"compare its channels one by one: readings of a quantity do not tell where they stood",
         Tone::bad});
    return report;
  }
  for (const auto& s : d.signatures) {
    say(report.verdict, Tone::bad, "it looks like: {} ({})", s.fault, s.evidence);
  }
  if (!d.signatures.empty()) return report;
  report.verdict.push_back({"the fault matches no known pattern", Tone::bad});
  if (d.suspects.empty()) return report;
  const auto& first = d.suspects.front();
  report.verdict.push_back({"possible single causes: " + listed(first)});
  if (first.sources.size() > 1) {
    report.verdict.push_back({"these readings cannot tell them apart; " + decided_by(first)});
  }
  add_pair(d, report);
  return report;
}

namespace {

Report of_drift(const meter::Drift& d, const meter::Comparison& c) {
  Report report;
  const auto difference = quantity::difference_unit(c.unit);
  const auto since = span_of_time(d.elapsed);
  say(report.verdict, d.within_ageing ? Tone::good : Tone::bad, "in {} it {}", since,
      !d.significant    ? "no significant change: it is within the uncertainty of the readings"
      : d.within_ageing ? "changed, within the ageing that the budget allows"
                        : "CHANGED BY MORE than the ageing that the budget allows");
  if (d.until_missed) {
    report.verdict.push_back(
        {*d.until_missed > 0.0
             ? fmt::format("at that rate the target is missed in {}, at {}",
                           span_of_time(*d.until_missed), value_with_unit(d.missed_at, c.unit, 4))
             : fmt::format("the target is missed already, at {}",
                           value_with_unit(d.missed_at, c.unit, 4)),
         *d.until_missed > 0.0 ? Tone::plain : Tone::bad});
  }
  double size = 0.0;
  for (const auto& p : d.places) size = std::max(size, p.expanded);
  Table table{
      .title = fmt::format("{}, change in {}, in {}", c.channel, since, c.unit.symbol),
      .columns = {{"at"}, {"earlier"}, {"later"}, {"change"}, {"readings ±"}, {"ageing ±"}}};
  for (const auto& p : d.places) {
    table.rows.push_back(
        {figure(p.at, c.unit, size, 2), figure(p.earlier, difference, size, 2),
         figure(p.later, difference, size, 2), figure(p.change, difference, size, 2),
         figure(p.expanded, difference, size, 2), figure(p.ageing, difference, size, 2)});
  }
  report.tables.push_back(std::move(table));
  return report;
}

}  // namespace

std::vector<Report> of(const result::ChannelComparison& channel) {
  auto report = of(channel.comparison);
  const auto named = channel.board_unit.empty() ? "" : "unit " + channel.board_unit + ": ";
  report.verdict.front().text = named + report.verdict.front().text;
  const auto diagnosis = of(channel.diagnosis);
  report.verdict.insert(report.verdict.end(), diagnosis.verdict.begin(), diagnosis.verdict.end());
  std::vector<Report> reports{std::move(report)};
  if (channel.drift) reports.push_back(of_drift(*channel.drift, channel.comparison));
  return reports;
}

Report of(const meter::ChannelUnits& units) {
  const auto& channel = units.channel;
  const auto& unit = units.unit;
  const auto& u = units.units;
  Report report;
  const auto difference = quantity::difference_unit(unit);
  const auto count = u.units.size();
  if (u.has_target) {
    const auto share = [&](const meter::Share& s) {
      return fmt::format("{:.1f} % ({} of {})", 100.0 * s.expected, s.met, count);
    };
    say(report.verdict, u.as_built.expected > 0.95 ? Tone::good : Tone::doubtful,
        "{}: of all units {} would meet the target as built, {} after a zero, {} "
        "after a two-point adjustment",
        channel, share(u.as_built), share(u.after_zero), share(u.after_two_point));
  }
  const auto judged = [](const meter::Spread& s) {
    return s.differs > 0   ? "MORE than the datasheet limits allow"
           : s.differs < 0 ? "less than the datasheet limits allow"
                           : "as the datasheet limits allow";
  };
  say(report.verdict, u.offset.differs > 0 ? Tone::bad : Tone::plain,
      "offsets spread by {} ({} to {}), {} predicted: {}", amount(u.offset.deviation, unit, 2),
      amount(u.offset.low, unit, 2), amount(u.offset.high, unit, 2),
      amount(u.offset.predicted, unit, 2), judged(u.offset));
  const auto percent_of = [](double ratio) {
    return quantity::significant(ratio, quantity::unit("%"), 2) + " %";
  };
  say(report.verdict, u.gain.differs > 0 ? Tone::bad : Tone::plain,
      "gains spread by {} ({} to {}), {} predicted: {}", percent_of(u.gain.deviation),
      percent_of(u.gain.low), percent_of(u.gain.high), percent_of(u.gain.predicted),
      judged(u.gain));
  say(report.verdict,
      "{:.0f} % of all units lie, {:.0f} % sure, within offsets {} to {} and gains {} to {}",
      100.0 * u.coverage, 100.0 * u.coverage, amount(u.offset.tolerance_low, unit, 2),
      amount(u.offset.tolerance_high, unit, 2), percent_of(u.gain.tolerance_low),
      percent_of(u.gain.tolerance_high));
  Table table{.title = fmt::format("{}, unit by unit", channel),
              .columns = {{"unit", false}, {"offset"}, {"gain %"}}};
  for (const auto& seen : u.units) {
    table.rows.push_back(
        {seen.unit, figure(seen.offset, difference, u.offset.deviation, 3), percent(seen.gain, 3)});
  }
  if (!difference.symbol.empty()) table.columns[1].heading += " [" + difference.symbol + "]";
  report.tables.push_back(std::move(table));
  return report;
}

}  // namespace tamlo::report
