// SPDX-License-Identifier: Apache-2.0
#include "json_parts.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/io/json.hpp"

namespace tamlo::io {
namespace {

Json timing(const chain::Timing& t) {
  return {{"clock", t.clock},
          {"sampling_time", t.sampling_time},
          {"conversion_time", t.conversion_time},
          {"scan", t.scan},
          {"scan_period", t.scan_period},
          {"rate_limit", t.rate_limit},
          {"rate", t.rate},
          {"aggregate_rate", t.aggregate_rate},
          {"busy", t.busy}};
}

Json figures(const chain::FilterFigures& f) {
  return {{"name", f.name},
          {"rate", f.rate},
          {"output_rate", f.output_rate},
          {"cutoff", f.cutoff},
          {"noise_left", f.noise_left},
          {"delay", f.delay},
          {"rejection_50_hz", finite(f.rejection_50_hz)},
          {"rejection_60_hz", finite(f.rejection_60_hz)},
          {"to_code", f.to_code},
          {"to_permille", f.to_permille},
          {"to_target", f.to_target}};
}

Json dynamics(const chain::Dynamics& d, const InUnit& in) {
  Json result{
      {"timing", timing(d.timing)},
      {"stages", each(d.stages, figures)},
      {"series", figures(d.series)},
      {"aliases", each(d.aliases,
                       [&](const chain::Alias& a) -> Json {
                         return {
                             {"frequency", a.frequency}, {"appears_at", a.appears_at},
                             {"at_pin", a.at_pin},       {"analog", a.analog},
                             {"digital", a.digital},     {"amplitude", in.difference(a.amplitude)}};
                       })},
      {"analog_settling", d.analog_settling},
      {"latency", d.latency},
      {"mains_periods", d.mains_periods}};
  if (const auto& s = d.settling) {
    result["settling"] = {{"time", s->time},
                          {"needed", finite(s->needed)},
                          {"left_in_codes", s->left_in_codes},
                          {"time_constant", s->time_constant}};
  }
  return result;
}

Json threshold(const chain::Chain& chain, const chain::ThresholdFigures& t, const InUnit& in) {
  const auto budget =
      budget::evaluate(chain, {.at = {chain.channel.threshold->at}, .search = false});
  return {{"expanded", in.difference(budget.points.front().expanded)},
          {"on_code", t.on_code},
          {"off_code", t.off_code},
          {"on", in.value(t.on)},
          {"off", in.value(t.off)},
          {"noise", in.difference(t.noise)},
          {"reading_rate", t.reading_rate},
          {"false_trips", t.false_trips ? Json(*t.false_trips) : Json(nullptr)},
          {"needed", t.needed ? in.difference(*t.needed) : Json(nullptr)}};
}

Json channel(const chain::Chain& chain) {
  const auto s = chain::settings(chain);
  const InUnit in(chain.channel.span.unit);
  const auto operating_point = [&](const chain::OperatingPoint& m) -> Json {
    return {{"at", in.value(m.at)},
            {"voltage", m.voltage},
            {"code", m.code},
            {"reported", m.reported},
            {"clipped", m.clipped},
            {"reading", in.value(m.reading)},
            {"code_width", in.difference(m.code_width)},
            {"step", in.difference(m.step)},
            {"convention_changes", in.difference(m.convention_changes)}};
  };
  Json result{{"channel", chain.channel.name},
              {"unit", in.symbol()},
              {"measures", chain.channel.measures},
              {"converter", chain.converter.name},
              {"architecture", name(chain.converter.architecture)},
              {"resolution", chain.converter.resolution},
              {"first_transition", name(chain.converter.first_transition)},
              {"convention", name(chain.channel.scaling.convention)},
              {"signal_path", s.signal_path},
              {"source_resistance", s.source_resistance},
              {"coding", name(chain.converter.coding)},
              {"full_scale_range", s.full_scale_range},
              {"code_width", s.code_width},
              {"range_used", s.range_used},
              {"codes_used", s.codes_used},
              {"last_code", s.last_code},
              {"first_reported", chain.report.first_reported},
              {"last_reported", chain.report.last_reported},
              {"values_occurring", chain.report.occurring},
              {"codes_to_a_step", chain.report.step},
              {"noise_in_codes", s.noise_in_codes},
              {"noise_after_average", s.noise_after_average}};
  if (s.allowed) result["allowed"] = in.difference(*s.allowed);
  result["operating_points"] = each(s.operating_points, operating_point);
  result["dynamics"] = dynamics(chain::dynamics(chain), in);
  if (const auto figures = chain::threshold(chain))
    result["threshold"] = threshold(chain, *figures, in);
  if (!s.loop.empty()) {
    result["loop"] = each(s.loop, [&](const chain::LoopLevel& l) -> Json {
      return {{"meaning", l.meaning},
              {"current", l.current},
              {"reported", l.reported},
              {"clipped", l.clipped},
              {"reading", in.value(l.reading)}};
    });
  }
  if (s.loop_left) result["loop_left"] = *s.loop_left;
  if (const auto& p = s.bias_resistor) {
    result["bias_resistor"] = {{"resistance", p->resistance},
                               {"best", p->best},
                               {"output_span", p->output_span},
                               {"best_output_span", p->best_output_span}};
  }
  if (s.arithmetic_error) result["arithmetic_error"] = in.difference(*s.arithmetic_error);
  result["defaults"] = chain.channel.defaults;
  return result;
}

}  // namespace

std::string to_json(const std::vector<chain::Chain>& chains) {
  return document("channel", each(chains, [](const auto& c) { return channel(c); }));
}

}  // namespace tamlo::io
