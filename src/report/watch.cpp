// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

std::string reading_of(const meter::LiveState& state, double value) {
  const double last_place = std::max(state.noise, state.predicted_noise) / 4.0;
  return with_unit(aligned(value, state.unit, std::max(last_place, 1e-9), 1), state.unit);
}

std::string code_of(double code) {
  if (code != std::floor(code)) return fmt::format("{:.10g}", code);
  const auto whole = static_cast<std::int64_t>(code);
  return whole < 0 ? fmt::format("{}", whole) : fmt::format("{} 0x{:X}", whole, whole);
}

std::string age_of(const meter::LiveView& view) {
  return fmt::format("OLD, nothing came for {:.0f} s", view.age);
}

std::string rest_of(const meter::LiveState& state) {
  if (state.at_end) return "at an end of the codes: the value may lie beyond";
  return state.settled ? "at rest" : "moving, or too early to tell";
}

}  // namespace

std::string line_of_loss(const std::string& link, std::uint64_t lost, const std::string& problem) {
  return fmt::format("link {} was lost {} time{}: {}", link, lost, quantity::plural(lost),
                     quantity::printable(problem));
}

std::string line_of(const meter::LiveState& state) {
  auto text = fmt::format("{}  {}", state.channel, reading_of(state, state.last));
  if (state.code) text += fmt::format("  code {}", code_of(*state.code));
  return text + fmt::format("  noise {}  {}", amount(state.noise, state.unit), rest_of(state));
}

std::string to_aim(const meter::LiveState& state, const quantity::Range& span, double aim) {
  const double off = aim - state.last;
  if (std::abs(off) <= span.width() / 500.0) return fmt::format("at {}", reading_of(state, aim));
  return fmt::format("{} by {} to {}", off > 0.0 ? "up" : "down",
                     amount(std::abs(off), state.unit, 2), reading_of(state, aim));
}

std::string line_of(const meter::LiveView& view, std::optional<double> aim) {
  if (view.old) {
    return fmt::format("{}  {}  {}", view.state.channel, reading_of(view.state, view.state.last),
                       age_of(view));
  }
  auto text = line_of(view.state);
  if (!view.zone.empty()) text += "  zone " + view.zone;
  if (view.row) text += "  " + line_of(*view.row, view.state.unit);
  if (view.shown && !view.row) text += "  meter " + reading_of(view.state, *view.shown);
  if (aim) text += "  " + to_aim(view.state, view.span, *aim);
  return text;
}

Report of(const result::Watched& watched) {
  Report report;
  Table table{.title = "",
              .columns = {{"channel", false},
                          {"readings"},
                          {"last"},
                          {"code"},
                          {"lowest"},
                          {"highest"},
                          {"noise"},
                          {"predicted"},
                          {"state", false}}};
  std::uint64_t readings = 0;
  for (const auto& view : watched.channels) {
    const auto& state = view.state;
    readings += state.readings;
    if (state.readings == 0) {
      table.rows.push_back({state.channel, "0", "", "", "", "", "", "", "nothing came"});
      continue;
    }
    table.rows.push_back(
        {state.channel, fmt::format("{}", state.readings), reading_of(state, state.last),
         state.code ? fmt::format("{:.10g}", *state.code) : "", reading_of(state, state.min),
         reading_of(state, state.max), amount(state.noise, state.unit),
         amount(state.predicted_noise, state.unit), view.old ? age_of(view) : rest_of(state)});
  }
  std::uint64_t lines = 0;
  std::string names;
  for (const auto& link : watched.links) {
    lines += link.lines;
    names += (names.empty() ? "" : ", ") + link.name;
  }
  say(report.verdict, readings > 0 ? Tone::heading : Tone::bad,
      "{} readings in {} lines from link \"{}\"", readings, lines, names);
  report.tables.push_back(std::move(table));
  for (const auto& view : watched.channels) {
    const auto& state = view.state;
    if (view.row)
      say(report.remarks, "{}: {}", state.channel, report::line_of(*view.row, state.unit));
    if (!state.settled || state.at_end) continue;
    say(report.remarks, "{}: at rest at {}, the mean of {} readings", state.channel,
        reading_of(state, state.settled->value), state.settled->readings);
  }
  for (const auto& link : watched.links) {
    if (link.malformed > 0) {
      say(report.remarks, Tone::doubtful, "{}: {} lines do not match the pattern, the last: {}",
          link.name, link.malformed, link.problem);
    }
    if (link.lost > 0) {
      report.remarks.push_back({line_of_loss(link.name, link.lost, link.problem), Tone::doubtful});
    }
  }
  return report;
}

}  // namespace tamlo::report
