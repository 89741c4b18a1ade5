// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/dynamics.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <cmath>

#include "channel_parts.hpp"
#include "tamlo/chain/chain.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using quantity::engineering;
using quantity::unit;

std::string rate(double per_second) { return engineering(per_second, unit("Sa/s"), 5); }
std::string time(double seconds) { return engineering(seconds, unit("s"), 4); }
std::string decibels(double value) {
  return std::isfinite(value) ? fmt::format("{:.1f}", value) : "rejected completely";
}

Table times(const chain::Chain& chain, const chain::Dynamics& d) {
  Table table{.title = chain.channel.name + ": in time",
              .columns = {{"setting", false}, {"value", false}}};
  const auto& t = d.timing;
  const auto add = [&](const char* name, std::string value) {
    table.rows.push_back({name, std::move(value)});
  };
  if (t.clock > 0.0) {
    add("clock", fmt::format("{}, divider {}", engineering(t.clock, unit("Hz"), 5),
                             chain.converter.clock->divider));
  }
  if (const auto& data_rate = chain.converter.data_rate) {
    add("data rate", fmt::format("{} behind a sinc filter of order {}", rate(*data_rate),
                                 chain.converter.sinc_order));
  }
  if (t.conversion_time > 0.0) {
    add("conversion", t.sampling_time > 0.0
                          ? fmt::format("{}, of which {} sampling", time(t.conversion_time),
                                        time(t.sampling_time))
                          : time(t.conversion_time));
  }
  if (t.scan.size() > 1) {
    add("scan",
        fmt::format("{}{}", fmt::join(t.scan, ", "),
                    t.scan_period > 0.0 ? fmt::format(": {}, up to {} each", time(t.scan_period),
                                                      rate(t.rate_limit))
                                        : ""));
  }
  if (t.rate > 0.0) {
    add("rate",
        fmt::format("{}{}{}", rate(t.rate), chain.channel.rate ? "" : ", what the scan leaves",
                    t.busy > 0.0
                        ? fmt::format("; all channels take {:.3g} % of the time", 100.0 * t.busy)
                        : ""));
    add("readings", rate(d.series.output_rate));
  }
  add("first valid reading", fmt::format("number {} after a start", d.first_valid));
  if (const auto& s = d.settling) {
    add("sampling capacitor",
        fmt::format("{:.3g} codes of a full step remain after {}; half a code takes {}",
                    s->left_in_codes, time(s->time),
                    std::isfinite(s->needed) ? time(s->needed) : "never"));
  }
  if (d.analog_settling > 0.0) add("front end settles in", time(d.analog_settling));
  if (d.latency > 0.0) add("latency", time(d.latency) + " until a reading shows a step");
  if (d.mains_periods > 0.0) {
    const bool whole = std::abs(d.mains_periods - std::round(d.mains_periods)) < 0.005;
    const auto rejection = [&] {
      if (d.mains_rejection < 20.0)
        return whole ? fmt::format(": the mains is folded to 0 Hz at this rate and is not rejected")
                     : std::string();
      return std::isfinite(d.mains_rejection) && d.mains_rejection < 120.0
                 ? fmt::format(": rejects the mains by {:.0f} dB", d.mains_rejection)
                 : std::string(": rejects the mains");
    };
    add("longest average", fmt::format("{:.4g} mains period{}{}", d.mains_periods,
                                       d.mains_periods == 1.0 ? "" : "s", rejection()));
  }
  return table;
}

Table filters(const chain::Chain& chain, const chain::Dynamics& d) {
  const bool known = chain.firmware.digital.rate > 0.0;
  Table table{.title = chain.channel.name + ": average and filter",
              .columns = {{"stage", false},
                          {known ? "out [Sa/s]" : "out [of the rate]"},
                          {known ? "-3 dB [Hz]" : "-3 dB [of the rate]"},
                          {"noise left"},
                          {known ? "delay [ms]" : "delay [samples]"},
                          {"50 Hz [dB]"},
                          {"60 Hz [dB]"},
                          {"settles to 1 LSB"},
                          {"settles to 0.1 %"},
                          {"settles to target"}}};
  const auto row = [&](const chain::FilterFigures& f) {
    const auto delay =
        known ? quantity::significant(f.delay, unit("ms"), 4) : fmt::format("{:.4g}", f.delay);
    const double out = known ? f.output_rate : 1.0 / chain::decimation(chain.firmware.digital);
    table.rows.push_back({f.name, fmt::format("{:.5g}", out), fmt::format("{:.4g}", f.cutoff),
                          fmt::format("{:.4f}", f.noise_left), delay,
                          known ? decibels(f.rejection_50_hz) : "",
                          known ? decibels(f.rejection_60_hz) : "", std::to_string(f.to_code),
                          std::to_string(f.to_permille), std::to_string(f.to_target)});
  };
  for (const auto& stage : d.stages) row(stage);
  if (d.stages.size() > 1) row(d.series);
  return table;
}

Table interference(const chain::Chain& chain, const chain::Dynamics& d) {
  const auto difference = quantity::difference_unit(chain.channel.span.unit);
  Table table{.title = chain.channel.name + ": what gets in",
              .columns = {{"frequency"},
                          {"at the pin"},
                          {"past the low-pass"},
                          {"past average and filter"},
                          {"appears at"},
                          {heading("amplitude", difference)}}};
  for (const auto& a : d.aliases) {
    table.rows.push_back(
        {engineering(a.frequency, unit("Hz"), 5), engineering(a.at_pin, unit("V"), 4),
         fmt::format("{:.3g}", a.analog),
         a.digital > 1e-12 ? fmt::format("{:.3g}", a.digital) : "0",
         d.series.output_rate > 0.0 ? engineering(a.appears_at, unit("Hz"), 4) : "",
         quantity::significant(a.amplitude, difference, 3)});
  }
  return table;
}

void add_debounce(const chain::ThresholdFigures& figures, Report& report) {
  if (figures.debounce == 1) return;
  auto line = fmt::format("it switches once {} readings in a row say so", figures.debounce);
  if (figures.debounce_delay > 0.0)
    line += ", " + time(figures.debounce_delay) + " after the first";
  if (!figures.debounce_counted)
    line +=
        "; false trips are those of single readings, which are no less: a conversion is part of "
        "several readings";
  report.remarks.push_back({line});
}

void add_threshold(const chain::Chain& chain, const budget::SwitchingPoint& threshold,
                   Report& report) {
  const auto* t = &threshold.figures;
  const auto& asked_threshold = *chain.channel.threshold;
  const auto& span = chain.channel.span.unit;
  Table table{
      .title = chain.channel.name + ": threshold",
      .columns = {{"", false}, {heading("asked", span)}, {"code"}, {heading("true value", span)}}};
  const double step = chain::step_at(chain, asked_threshold.at);
  table.rows.push_back({"on", figure(asked_threshold.at, span, step, 3),
                        fmt::format("{:.0f}", t->on_code), figure(t->on, span, step, 3)});
  table.rows.push_back({"off",
                        figure(asked_threshold.at - asked_threshold.hysteresis, span, step, 3),
                        fmt::format("{:.0f}", t->off_code), figure(t->off, span, step, 3)});
  report.tables.push_back(std::move(table));
  std::string line = fmt::format("threshold: true within ±{} ({:g} %); noise of a reading {}",
                                 amount(threshold.expanded, span), 100.0 * threshold.coverage,
                                 amount(t->noise, span));
  if (t->false_trips) {
    line += *t->false_trips > 1e-12
                ? fmt::format("; a false trip every {} at worst", time(1.0 / *t->false_trips))
                : "; false trips are negligible";
  }
  if (t->needed) line += fmt::format("; {} of hysteresis would do", amount(*t->needed, span));
  report.remarks.push_back({line});
  add_debounce(*t, report);
}

void add_zones(const budget::ChannelSettings& settings, Report& report) {
  const auto& chain = settings.chain;
  const auto& unit_of = chain.channel.span.unit;
  const double step = chain::step_at(chain, chain.channel.span.middle());
  Table edges{.title = chain.channel.name + ": edges of its zones",
              .columns = {{"below", false},
                          {"above", false},
                          {heading("edge", unit_of)},
                          {"entered from code"},
                          {"left at code"},
                          {heading("true value", unit_of)},
                          {heading("±", quantity::difference_unit(unit_of))},
                          {"false changes", false}}};
  for (const auto& e : settings.zone_edges) {
    const auto& f = e.figures;
    const bool entered = std::isfinite(f.on), left = std::isfinite(f.off_code);
    const auto code = [](double value) {
      return std::isfinite(value) ? fmt::format("{:.0f}", value) : "never";
    };
    edges.rows.push_back({e.below, e.above, figure(e.at, unit_of, step, 3), code(f.on_code),
                          code(f.off_code), entered ? figure(f.on, unit_of, step, 3) : "",
                          entered ? figure(e.expanded + unit_of.offset, unit_of, step, 3) : "",
                          !entered || !left        ? "none"
                          : !f.false_trips         ? "no rate"
                          : *f.false_trips > 1e-12 ? "every " + time(1.0 / *f.false_trips)
                                                   : "negligible"});
  }
  Table zones{.title = chain.channel.name + ": zones",
              .columns = {{"zone", false},
                          {heading("from", unit_of)},
                          {heading("to", unit_of)},
                          {"codes"},
                          {"", false}}};
  for (const auto& z : settings.zones) {
    zones.rows.push_back({z.name, figure(z.from, unit_of, step, 3), figure(z.to, unit_of, step, 3),
                          fmt::format("{:.0f}", z.codes), z.narrow ? "narrow" : ""});
  }
  report.tables.push_back(std::move(edges));
  report.tables.push_back(std::move(zones));
  if (!settings.zone_edges.empty()) add_debounce(settings.zone_edges.front().figures, report);
}

}  // namespace

void add_dynamics(const budget::ChannelSettings& settings, Report& report) {
  const auto& chain = settings.chain;
  const auto& d = settings.dynamics;
  const bool timed = d.timing.conversion_time > 0.0 || d.timing.rate > 0.0;
  if (timed || d.settling) report.tables.push_back(times(chain, d));
  if (!d.stages.empty()) report.tables.push_back(filters(chain, d));
  if (!d.aliases.empty()) report.tables.push_back(interference(chain, d));
  if (settings.threshold) add_threshold(chain, *settings.threshold, report);
  if (!settings.zones.empty()) add_zones(settings, report);
}

void add_sensor(const budget::ChannelSettings& settings, Report& report) {
  const auto& chain = settings.chain;
  const auto& s = settings.settings;
  const auto& span = chain.channel.span.unit;
  if (!s.loop.empty()) {
    Table table{
        .title = chain.channel.name + ": levels of the loop (NAMUR NE 43)",
        .columns = {{"level", false}, {"current [mA]"}, {"code"}, {heading("reading", span)}}};
    for (const auto& level : s.loop) {
      table.rows.push_back({level.meaning, quantity::significant(level.current, unit("mA"), 3),
                            fmt::format("{}{}", level.reported, level.clipped ? " (clipped)" : ""),
                            figure(level.reading, span, s.operating_points.back().step, 3)});
    }
    report.tables.push_back(std::move(table));
  }
  if (s.loop_left) {
    say(report.remarks, *s.loop_left < 0.0 ? Tone::bad : Tone::plain,
        "loop: {} left for the wires at 21 mA", engineering(*s.loop_left, unit("V"), 4));
  }
  if (const auto& p = s.bias_resistor) {
    say(report.remarks,
        "bias resistor of the sensor: {} moves the pin by {}; {} would move it by {}",
        engineering(p->resistance, unit("ohm"), 4), engineering(p->output_span, unit("V"), 4),
        engineering(p->best, unit("ohm"), 3), engineering(p->best_output_span, unit("V"), 4));
  }
}

}  // namespace tamlo::report
