// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/json.hpp"

#include "json_parts.hpp"
#include "tamlo/chain/chain.hpp"

namespace tamlo::io {
namespace {

Json adjusted(const budget::Adjusted& a, const InUnit& in) {
  return {{"none", in.difference(a.none)},
          {"zero", in.difference(a.zero)},
          {"two_point", in.difference(a.two_point)}};
}

Json contribution(const chain::Source& source, const budget::Contribution& c, const InUnit& in) {
  return {{"source", source.name},
          {"stage", source.stage},
          {"distribution", name(source.distribution)},
          {"specification", source.specification},
          {"limit", c.limit},
          {"standard_uncertainty", c.standard_uncertainty},
          {"sensitivity", in.difference(c.sensitivity)},
          {"contribution", in.difference(c.contribution)},
          {"worst", in.difference(c.worst)},
          {"share", c.share},
          {"kind", name(source.kind)}};
}

Json point(const budget::Budget& budget, const budget::Point& p, const InUnit& in) {
  Json contributions = Json::array();
  for (const auto i : by_share(p)) {
    contributions.push_back(contribution(budget.sources[i], p.contributions[i], in));
  }
  Json result{
      {"at", in.value(p.at)},
      {"reading", in.value(p.reading)},
      {"bias", in.difference(p.bias)},
      {"combined", in.difference(p.combined)},
      {"dof", finite(p.dof)},
      {"coverage", p.coverage},
      {"coverage_factor", p.coverage_factor},
      {"expanded", in.difference(p.expanded)},
      {"worst_case",
       {{"low", in.difference(p.worst_case.low)}, {"high", in.difference(p.worst_case.high)}}},
      {"code_width", in.difference(p.code_width)},
      {"clipped", p.clipped},
      {"method", name(p.method)},
      {"roughness", name(p.roughness)},
      {"adjusted", adjusted(p.adjusted, in)},
      {"adjusted_bias", adjusted(p.adjusted_bias, in)}};
  const auto& r = p.resolution;
  result["resolution"] = {{"effective", finite(r.effective)},
                          {"noise_free", finite(r.noise_free)},
                          {"accuracy", finite(r.accuracy)},
                          {"enob", finite(r.enob)}};
  if (p.trials) {
    const auto& t = p.trials->of;
    const auto interval = [&](const budget::Interval& of) -> Json {
      return {in.difference(of[0]), in.difference(of[1])};
    };
    result["trials"] = {{"count", t.count},
                        {"mean", in.difference(t.mean)},
                        {"combined", in.difference(t.combined)},
                        {"symmetric", interval(t.symmetric)},
                        {"shortest", interval(t.shortest)},
                        {"settled", t.settled},
                        {"closed_form_valid", p.trials->closed_form_valid}};
  }
  if (p.limit) {
    result["limit"] = in.difference(*p.limit);
    result["margin"] = in.difference(*p.margin());
  }
  result["contributions"] = std::move(contributions);
  return result;
}

Json channel(const budget::Budget& budget) {
  const InUnit in(budget.unit);
  const bool target = budget.points.front().limit.has_value();
  return {{"channel", budget.channel},
          {"unit", in.symbol()},
          {"adjusted_with", budget.adjusted_with},
          {"verdict", !target               ? "no target"
                      : budget.target_met() ? "met"
                                            : "missed"},
          {"points", each(budget.points, [&](const auto& p) { return point(budget, p, in); })},
          {"worst_place", point(budget, budget.worst_place, in)}};
}

Json steps(const std::vector<chain::Step>& all) {
  return each(all, [](const chain::Step& step) -> Json {
    return {{"stage", step.stage},
            {"value", InUnit(step.unit).value(step.value)},
            {"unit", step.unit.symbol}};
  });
}

}  // namespace

std::string to_json(const std::vector<check::Finding>& findings,
                    const std::vector<std::string>& channels) {
  Json result = head("check");
  result["channels"] = channels;
  result["findings"] = each(findings, [](const check::Finding& f) -> Json {
    return {{"identifier", f.identifier},
            {"severity", name(f.severity)},
            {"channel", f.channel},
            {"found", f.found},
            {"why", f.why},
            {"remedy", f.remedy}};
  });
  return document(result);
}

std::string to_json(const chain::Chain& chain, const std::vector<chain::Trace>& traces,
                    const std::vector<chain::InverseTrace>& inverse_traces) {
  const InUnit in(chain.channel.span.unit);
  Json result = head("convert");
  result["channel"] = chain.channel.name;
  result["unit"] = in.symbol();
  result["forward"] = each(traces, [&](const chain::Trace& w) -> Json {
    return {{"steps", steps(w.steps)},
            {"code", w.code},
            {"clipped", w.clipped},
            {"reading", in.value(w.reading)},
            {"error", in.difference(w.error)}};
  });
  result["back"] = each(inverse_traces, [&](const chain::InverseTrace& w) -> Json {
    return {{"steps", steps(w.steps)},
            {"reading", in.value(w.reading)},
            {"from", w.open_below ? Json(nullptr) : in.value(w.from)},
            {"to", w.open_above ? Json(nullptr) : in.value(w.to)}};
  });
  return document(result);
}

std::string to_json(const std::vector<budget::Budget>& budgets, bool pairs) {
  auto channels = each(budgets, [](const auto& b) { return channel(b); });
  if (pairs) {
    for (std::size_t i = 0; i < channels.size(); ++i) channels[i]["changed"] = i % 2 == 1;
  }
  return document("budget", std::move(channels));
}

}  // namespace tamlo::io
