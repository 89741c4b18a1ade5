// SPDX-License-Identifier: Apache-2.0
// What a description leaves out, so that nothing can be found about it.
#include <fmt/format.h>

#include <algorithm>

#include "tamlo/chain/chain.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/quantity/unit.hpp"

namespace tamlo::check {
namespace {

std::string listed(const std::vector<std::string>& words) {
  std::string result;
  for (std::size_t i = 0; i < words.size(); ++i) {
    result += i == 0 ? "" : i + 1 == words.size() ? " and " : ", ";
    result += words[i];
  }
  return result;
}

}  // namespace

std::vector<Omission> omissions(const model::Board& board, std::string_view name) {
  const auto chain = chain::build(board, name);
  const auto& channel = chain.channel;
  const auto& converter = chain.converter;
  const auto of_channel = "channel." + channel.name, of_converter = "converter." + converter.name;
  std::vector<Omission> result;
  const auto omit = [&](std::string key, std::string what) {
    result.push_back({.channel = channel.name, .key = std::move(key), .what = std::move(what)});
  };
  std::vector<std::string> missing;
  const bool in_total = !converter.total_error.limits.empty();
  if (!in_total && converter.offset.limits.empty()) missing.emplace_back("offset");
  if (!in_total && converter.gain.limits.empty()) missing.emplace_back("gain");
  if (!in_total && converter.inl.limits.empty() && converter.inl_table.empty())
    missing.emplace_back("INL");
  if (!missing.empty())
    omit(of_converter,
         fmt::format("no limits for {} of converter {}", listed(missing), converter.name));
  for (const auto* reference : {&converter.reference, &converter.negative_reference}) {
    const auto* found = model::find(board.references, *reference);
    if (found != nullptr && found->voltage.limits.empty())
      omit(fmt::format("reference.{}.voltage", *reference),
           fmt::format("no limits for reference {}", *reference));
  }
  const auto limited = [&](std::size_t stage) {
    return std::ranges::any_of(chain.sources, [&](const chain::Source& source) {
      return source.in_stage == stage && !chain::random(source.kind());
    });
  };
  std::vector<std::string> parts;
  for (std::size_t i = 0; i < chain.path.before_pin; ++i) {
    // What the board works out by itself, such as what comes in at the pin, has no limits to give.
    const auto& stage = chain.path.stages[i].name;
    const bool given = stage != "pick-up" && stage != "pin";
    if (given && !limited(i) && std::ranges::find(parts, stage) == parts.end())
      parts.push_back(stage);
  }
  if (!parts.empty()) omit(of_channel, fmt::format("no limits for {}", listed(parts)));
  if (!(board.conditions.temperature.high > board.conditions.temperature.low))
    omit("conditions.temperature", "no temperature range: drift counts nothing");
  else if (const auto& defaults = board.conditions.defaults;
           std::ranges::find(defaults, "specified_at") != defaults.end())
    omit("conditions.specified_at",
         fmt::format("no temperature at which the limits hold: {:g} degC is taken, and many data "
                     "sheets say 25",
                     quantity::in_unit(board.conditions.specified_at, quantity::unit("degC"))));
  const bool sampled = converter.architecture == model::Architecture::sar;
  if (sampled && !chain.path.sampling)
    omit(of_converter, "no sampling time or capacitor: nothing about settling");
  if (channel.interference.empty()) omit(of_channel + ".interference", "no interference");
  return result;
}

}  // namespace tamlo::check
