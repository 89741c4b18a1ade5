// SPDX-License-Identifier: Apache-2.0
// What the hardware lets the firmware choose: the attenuation in the converter, the amplifier's
// gain.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "examination.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::check {
namespace {

// Whether the voltages that the span puts on the pin lie inside what an attenuation serves.
bool serves(const Examination& e, const model::Attenuation& attenuation) {
  const double low = chain::voltage(e.chain, e.span.low, e.chain.nominal);
  const double high = chain::voltage(e.chain, e.span.high, e.chain.nominal);
  return attenuation.usable.holds(std::min(low, high)) &&
         attenuation.usable.holds(std::max(low, high));
}

void examine_attenuation(const Examination& e) {
  const model::Attenuation* chosen = nullptr;
  const model::Attenuation* finest = nullptr;
  for (const auto& attenuation : e.chain.converter.attenuations) {
    if (attenuation.name == e.chain.channel.attenuation) chosen = &attenuation;
    if (!serves(e, attenuation)) continue;
    if (finest == nullptr || attenuation.ratio.or_zero() > finest->ratio.or_zero()) {
      finest = &attenuation;
    }
  }
  if (chosen == nullptr || finest == chosen) return;
  const Remedy change =
      finest == nullptr ? Remedy{"no attenuation serves this span: divide it before the pin", {}}
                        : Remedy{fmt::format("attenuation = \"{}\"", finest->name),
                                 [name = finest->name](model::Board&, model::Channel& channel) {
                                   channel.attenuation = name;
                                 }};
  if (!serves(e, *chosen)) {
    e.report("attenuation-exceeded", Severity::error,
             fmt::format("the span puts up to {} on the pin; attenuation {} serves {}",
                         in_unit(chain::voltage(e.chain, e.span.high, e.chain.nominal), "V"),
                         chosen->name, quantity::to_string(chosen->usable)),
             "outside of it the converter is neither accurate nor linear", {change});
  } else {
    e.report("attenuation-too-strong", Severity::advice,
             fmt::format("attenuation {} serves this span too", finest->name),
             fmt::format("its code width is {:.3g} times finer",
                         finest->ratio.or_zero() / chosen->ratio.or_zero()),
             {change});
  }
}

// The amplifier of that number among those of the channel, on another of its gains.
Remedy use(std::size_t number, const model::GainChoice& choice) {
  return {fmt::format("use = \"{}\"", choice.name),
          [number, choice](model::Board&, model::Channel& channel) {
            std::size_t at = 0;
            for (auto& part : channel.frontend) {
              auto* amplifier = std::get_if<model::Amplifier>(&part);
              if (amplifier == nullptr || at++ != number) continue;
              amplifier->gain = choice.gain;
              amplifier->use = choice.name;
            }
          }};
}

// The amplifier that can be switched, its law, and whether a gain keeps the span in the range with
// every tolerance at its worst.
void examine_gain(const Examination& e) {
  const auto first = static_cast<double>(chain::first_code(e.chain));
  const auto last = static_cast<double>(chain::last_code(e.chain));
  std::vector<const chain::AmplifierLaw*> laws;
  for (const auto& stage : e.chain.path.stages) {
    if (const auto* law = std::get_if<chain::AmplifierLaw>(&stage.law)) laws.push_back(law);
  }
  std::size_t next = 0;
  for (const auto& part : e.chain.channel.frontend) {
    const auto* amplifier = std::get_if<model::Amplifier>(&part);
    if (amplifier == nullptr) continue;
    const auto* law = laws.at(next++);
    if (amplifier->gains.empty()) continue;
    const auto fits = [&](double gain) {
      auto tried = e.chain;
      tried.nominal[law->gain] = gain;
      return std::ranges::all_of(std::vector{e.span.low, e.span.high}, [&](double x) {
        const auto worst = chain::worst_case(tried, x, chain::code);
        return worst.low >= first - 0.5 && worst.high <= last + 0.5;
      });
    };
    const model::GainChoice* best = nullptr;
    for (const auto& choice : amplifier->gains) {
      const bool more = best == nullptr || choice.gain.or_zero() > best->gain.or_zero();
      if (more && fits(choice.gain.or_zero())) best = &choice;
    }
    if (best == nullptr || best->name == amplifier->use) continue;
    if (!fits(amplifier->gain.or_zero())) {
      e.report("gain-too-high", Severity::error,
               fmt::format("with gain {} the span leaves the converter's range", amplifier->use),
               "the ends of the span read the last code and look valid", {use(next - 1, *best)});
    } else {
      e.report("gain-too-low", Severity::advice,
               fmt::format("gain {} still keeps the span in the range", best->name),
               fmt::format("its code width is {:.3g} times finer",
                           best->gain.or_zero() / amplifier->gain.or_zero()),
               {use(next - 1, *best)});
    }
  }
}

}  // namespace

void examine_choices(const Examination& e) {
  examine_attenuation(e);
  examine_gain(e);
}

}  // namespace tamlo::check
