// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/detail/settings.hpp"

namespace tamlo::budget {
namespace {

void add_zones(ChannelSettings& settings, std::uint64_t units) {
  const auto& chain = settings.chain;
  const auto edges = chain::zone_edges(chain);
  if (edges.empty()) return;
  const auto& zones = *chain.channel.zones;
  const auto budget = evaluate(chain, {.at = zones.edges, .search = false, .rough_units = units});
  for (std::size_t i = 0; i < edges.size(); ++i) {
    settings.zone_edges.push_back({.below = zones.names[i],
                                   .above = zones.names[i + 1],
                                   .at = zones.edges[i],
                                   .figures = edges[i],
                                   .standard_uncertainty = budget.points[i].combined,
                                   .expanded = budget.points[i].expanded,
                                   .coverage = budget.points[i].coverage});
  }
  for (const auto& width : chain::zone_widths(chain, edges)) {
    settings.zones.push_back({.name = zones.names[settings.zones.size()],
                              .from = width.from,
                              .to = width.to,
                              .codes = width.codes,
                              .narrow = width.narrow});
  }
}

}  // namespace

ChannelSettings settings(chain::Chain chain, const SettingsRequest& request) {
  ChannelSettings result{.chain = std::move(chain)};
  const auto& own = result.chain;
  result.settings = chain::settings(own);
  result.dynamics = chain::dynamics(own);
  if (auto figures = chain::threshold(own)) {
    const auto budget = evaluate(
        own,
        {.at = {own.channel.threshold->at}, .search = false, .rough_units = request.rough_units});
    const auto& point = budget.points.front();
    const auto& asked = *own.channel.threshold;
    result.threshold = SwitchingPoint{.figures = *figures,
                                      .on_asked = asked.at,
                                      .off_asked = asked.at - asked.hysteresis,
                                      .expanded = point.expanded,
                                      .coverage = point.coverage};
  }
  add_zones(result, request.rough_units);
  if (request.frequency) result.sine = chain::sampled_sine(own, *request.frequency);
  if (const auto& slope = request.slope) {
    const double middle = own.channel.span.middle();
    result.ramp = Ramp{.slope = *slope,
                       .step = chain::step_at(own, middle),
                       .time_between_steps = chain::time_between_steps(own, middle, *slope)};
  }
  return result;
}

}  // namespace tamlo::budget
