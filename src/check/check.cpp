// SPDX-License-Identifier: Apache-2.0
#include "tamlo/check/check.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>

#include "examination.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/bias_parts.hpp"
#include "tamlo/model/detail/board_keys.hpp"
#include "tamlo/names.hpp"

namespace tamlo::check {
namespace {

std::vector<Finding> examine(const model::Board& board, const chain::Chain& chain,
                             const std::vector<Finding>* as_it_is) {
  std::vector<Finding> findings;
  const auto dynamics = chain::dynamics(chain);
  const Examination e{.board = board,
                      .chain = chain,
                      .dynamics = dynamics,
                      .span = chain.channel.span,
                      .findings = findings,
                      .as_it_is = as_it_is};
  examine_range(e);
  examine_choices(e);
  examine_sensor(e);
  examine_time(e);
  examine_noise(e);
  examine_firmware(e);
  std::ranges::stable_sort(findings, {}, &Finding::severity);
  return findings;
}

// How far a reading may be off, at the worst of both ends and the middle of the span.
double spread(const chain::Chain& chain) {
  const auto& span = chain.channel.span;
  double worst = 0.0;
  for (const double x : {span.low, span.middle(), span.high}) {
    double variance = 0.0;
    for (const double value : chain::effects(chain, x, chain::standards_at(chain, x))) {
      variance += value * value;
    }
    const double error_here = std::abs(chain::bias(chain, x)) + 2.0 * std::sqrt(variance);
    // NaN counts as the worst.
    worst = error_here <= worst ? worst : error_here;
  }
  return worst;
}

bool holds(const std::vector<Finding>& findings, const std::string& identifier) {
  return std::ranges::find(findings, identifier, &Finding::identifier) != findings.end();
}

// Of a key behind "converter." the converter's own name is part.
std::string place(std::string_view key, const model::Channel& channel) {
  constexpr std::string_view converter = "converter.";
  if (key.starts_with(converter)) {
    return fmt::format("converter.{}.{}", channel.converter, key.substr(converter.size()));
  }
  return fmt::format("channel.{}.{}", channel.name, key);
}

}  // namespace

std::string_view name(Severity severity) {
  return name_in({"error", "warning", "advice"}, severity);
}

model::Converter& converter_of(model::Board& board, const model::Channel& channel) {
  return *std::ranges::find(board.converters, channel.converter, &model::Converter::name);
}

model::Board Examination::applied(const Remedy& remedy) const {
  auto copy = board;
  remedy.apply(copy, *std::ranges::find(copy.channels, chain.channel.name, &model::Channel::name));
  return copy;
}

bool Examination::cures(const std::string& identifier, Severity severity,
                        const Remedy& remedy) const {
  const auto copy = applied(remedy);
  try {
    const auto changed = chain::build(copy, chain.channel.name);
    const auto found = examine(copy, changed, nullptr);
    if (holds(found, identifier)) return false;
    for (const auto& other : found) {
      if (other.severity != Severity::advice && !holds(*as_it_is, other.identifier)) return false;
    }
    return severity != Severity::advice || spread(changed) <= spread(chain) * (1.0 + 1e-9);
  } catch (const Error&) {
    return false;
  }
}

void Examination::report(std::string identifier, std::string_view key, Severity severity,
                         std::string found, std::string why,
                         const std::vector<Remedy>& remedies) const {
  std::string text;
  std::vector<std::string> changes;
  if (as_it_is != nullptr) {
    for (const auto& remedy : remedies) {
      if (remedy.apply && !cures(identifier, severity, remedy)) continue;
      text = remedy.text;
      if (remedy.apply && remedy.of_keys) changes = model::settings_between(board, applied(remedy));
      break;
    }
    // Advice that nobody can follow is none.
    if (text.empty() && severity == Severity::advice) return;
    if (text.empty()) text = "no single change of the description that was tried cures it";
  }
  findings.push_back({std::move(identifier), severity, chain.channel.name,
                      place(key, chain.channel), std::move(found), std::move(why), std::move(text),
                      std::move(changes)});
}

bool has_error(const model::Board& board, const chain::Chain& chain) {
  return std::ranges::any_of(examine(board, chain, nullptr), [](const Finding& finding) {
    return finding.severity == Severity::error;
  });
}

std::vector<Finding> check(const model::Board& board, std::string_view channel) {
  const auto chain = chain::build(board, channel);
  const auto found = examine(board, chain, nullptr);
  return found.empty() ? found : examine(board, chain, &found);
}

std::uint64_t Examined::count(Severity severity) const {
  return static_cast<std::uint64_t>(std::ranges::count(
      findings, severity, [](const LocatedFinding& finding) { return finding.severity; }));
}

void Examined::add(Examined other) {
  const auto append = [](auto& to, auto& from) {
    to.insert(to.end(), std::make_move_iterator(from.begin()), std::make_move_iterator(from.end()));
  };
  append(channels, other.channels);
  append(quantities, other.quantities);
  append(findings, other.findings);
  append(omissions, other.omissions);
  append(ideal, other.ideal);
  std::ranges::stable_sort(findings, {},
                           [](const LocatedFinding& located) { return located.severity; });
}

Examined examine(const model::Board& board, const std::vector<std::string>& channels) {
  Examined result{.parts = board.parts};
  for (const auto& channel : channels) {
    Examined one;
    if (const auto* quantity = model::find(board.quantities, channel)) {
      one.quantities.push_back(channel);
      for (auto& finding : check(board, *quantity)) one.findings.push_back({std::move(finding)});
    } else {
      one.channels.push_back(channel);
      for (auto& finding : check(board, channel)) one.findings.push_back({std::move(finding)});
      one.omissions = omissions(board, channel);
      if (chain::of_ideal_parts(chain::build(board, channel))) one.ideal.push_back(channel);
    }
    result.add(std::move(one));
  }
  return result;
}

}  // namespace tamlo::check
