// SPDX-License-Identifier: Apache-2.0
// What the hardware lets the firmware choose: the attenuation in the converter, the amplifier's
// gain.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <vector>

#include "examination.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::check {
namespace {

using chain::Chain;

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
    e.report("attenuation-exceeded", "attenuation", Severity::error,
             fmt::format("the span puts up to {} on the pin; attenuation {} serves {}",
                         in_unit(chain::voltage(e.chain, e.span.high, e.chain.nominal), "V"),
                         chosen->name, quantity::to_string(chosen->usable)),
             "outside of it the converter is neither accurate nor linear", {change});
  } else {
    e.report("attenuation-too-strong", "attenuation", Severity::advice,
             fmt::format("attenuation {} serves this span too", finest->name),
             fmt::format("its code width is {:.3g} times finer",
                         finest->ratio.or_zero() / chosen->ratio.or_zero()),
             {change});
  }
}

// An amplifier as the channel has it, and where it stands in the front end and in the signal path.
struct Placed {
  const model::Amplifier& amplifier;
  std::size_t part, stage;
};

std::vector<Placed> amplifiers_of(const Examination& e) {
  std::vector<Placed> result;
  std::size_t stage = 0;
  const auto& stages = e.chain.path.stages;
  const auto& parts = e.chain.channel.frontend;
  for (std::size_t part = 0; part < parts.size(); ++part) {
    const auto* amplifier = std::get_if<model::Amplifier>(&parts[part]);
    if (amplifier == nullptr) continue;
    while (!std::holds_alternative<chain::AmplifierLaw>(stages.at(stage).law)) ++stage;
    result.push_back({*amplifier, part, stage++});
  }
  return result;
}

// The amplifier on another gain.
Remedy with_gain(const Placed& placed, const model::GainChoice& choice, std::string text) {
  return {std::move(text), [part = placed.part, choice](model::Board&, model::Channel& channel) {
            auto& amplifier = std::get<model::Amplifier>(channel.frontend[part]);
            amplifier.gain = choice.gain;
            amplifier.use = choice.name;
          }};
}

Remedy use(const Placed& placed, const model::GainChoice& choice) {
  return with_gain(placed, choice, fmt::format("use = \"{}\"", choice.name));
}

// The chain up to that amplifier, whose output has no end.
Chain unending(Chain chain, std::size_t stage) {
  auto& law = std::get<chain::AmplifierLaw>(chain.path.stages[stage].law);
  law.low = -std::numeric_limits<double>::infinity();
  law.high = std::numeric_limits<double>::infinity();
  chain.path.stages.resize(stage + 1);
  return chain;
}

// What keeps an output that would go to `wanted` within its `end`. Less gain brings it toward 0 V,
// and helps only where its end lies beyond.
Remedy within_output(const Placed& placed, const std::string& name, double wanted, double end) {
  model::GainChoice choice{.name = placed.amplifier.use, .gain = placed.amplifier.gain};
  const double gain = choice.gain.or_zero();
  const double lower = std::floor(gain * end / wanted * 995.0) / 1000.0;
  if (!(end / wanted > 0.0 && end / wanted < 1.0 && lower > 0.0)) {
    return {fmt::format("move the signal before the {} by {}, or use one whose output reaches {}",
                        name, volts(std::abs((wanted - end) / gain)), volts(wanted)),
            {}};
  }
  choice.gain.nominal = lower;
  return with_gain(
      placed, choice,
      fmt::format("lower the gain of the {} from {:.6g} to at most {:.6g}", name, gain, lower));
}

// An amplifier whose output ends before the span does: by the nominal values, or only with every
// tolerance at its worst.
void examine_output(const Examination& e, const Placed& placed) {
  const auto& ends = placed.amplifier.output;
  if (!ends) return;
  const auto free = unending(e.chain, placed.stage);
  const auto& name = e.chain.path.stages[placed.stage].name;
  for (const double x : {e.span.high, e.span.low}) {
    const double nominal = chain::voltage(free, x, free.nominal);
    const auto worst = chain::worst_case(free, x, chain::voltage);
    if (ends->holds(worst.low) && ends->holds(worst.high)) continue;
    const bool over = worst.high > ends->high;
    const double wanted = over ? worst.high : worst.low, end = over ? ends->high : ends->low;
    const auto remedy = within_output(placed, name, wanted, end);
    const auto found = [&](double output, const char* how) {
      return fmt::format("at {} the {} would have to give {}{}; its output ends at {}", e.shown(x),
                         name, volts(output), how, volts(end));
    };
    if (!ends->holds(nominal)) {
      e.report("amplifier-saturates", "frontend", Severity::error, found(nominal, ""),
               "readings stop there and look valid", {remedy});
    } else {
      e.report("amplifier-near-its-end", "frontend", Severity::warning,
               found(wanted, " with tolerances at their worst"),
               "readings of some units stop before the span does, and look valid", {remedy});
    }
  }
}

// An amplifier that cannot follow what moves fastest: the quantity over its span, or interference.
void examine_slew(const Examination& e, const Placed& placed) {
  const auto& law = std::get<chain::AmplifierLaw>(e.chain.path.stages[placed.stage].law);
  if (!std::isfinite(law.slew)) return;
  const double swing = chain::swing_of_stage(e.chain, placed.stage);
  const double at_pin = chain::swing_of_stage(e.chain, e.chain.path.stages.size() - 1);
  const auto& name = e.chain.path.stages[placed.stage].name;
  const auto asks = [&](double frequency, double amplitude, const std::string& what) {
    const double slope = 2.0 * std::numbers::pi * frequency * amplitude;
    if (slope <= law.slew) return false;
    const auto in_volts = [](double v) {
      return quantity::engineering(v, quantity::unit("V/s"), 3);
    };
    e.report("amplifier-slews", "frontend", Severity::warning,
             fmt::format("{} at {} would move the output of the {} by {}; it follows {}", what,
                         in_unit(frequency, "Hz"), name, in_volts(slope), in_volts(law.slew)),
             "what it does not follow becomes smaller, and moves the mean where both ways differ",
             {{fmt::format("an amplifier of {} or more, or a low-pass before it", in_volts(slope)),
               {}}});
    return true;
  };
  const auto& channel = e.chain.channel;
  if (channel.fastest && asks(*channel.fastest, swing / 2.0, "the span")) return;
  for (const auto& each : channel.interference) {
    const double amplitude = at_pin > 0.0 ? each.amplitude * swing / at_pin : each.amplitude;
    if (asks(each.frequency.or_zero(), amplitude, "interference")) return;
  }
}

// An amplifier that can be switched, and whether a gain keeps the span in the range with every
// tolerance at its worst.
void examine_gain(const Examination& e, const Placed& placed) {
  const auto& amplifier = placed.amplifier;
  if (amplifier.gains.empty()) return;
  const auto first = static_cast<double>(chain::first_code(e.chain));
  const auto last = static_cast<double>(chain::last_code(e.chain));
  const auto& law = std::get<chain::AmplifierLaw>(e.chain.path.stages[placed.stage].law);
  const auto fits = [&](double gain) {
    auto tried = e.chain;
    tried.nominal[law.gain] = gain;
    const auto free = unending(tried, placed.stage);
    return std::ranges::all_of(std::vector{e.span.low, e.span.high}, [&](double x) {
      const auto worst = chain::worst_case(tried, x, chain::code);
      const auto output = chain::worst_case(free, x, chain::voltage);
      return worst.low >= first - 0.5 && worst.high <= last + 0.5 && output.low >= law.low &&
             output.high <= law.high;
    });
  };
  const model::GainChoice* best = nullptr;
  for (const auto& choice : amplifier.gains) {
    const bool more = best == nullptr || choice.gain.or_zero() > best->gain.or_zero();
    if (more && fits(choice.gain.or_zero())) best = &choice;
  }
  if (best == nullptr || best->name == amplifier.use) return;
  if (!fits(amplifier.gain.or_zero())) {
    e.report("gain-too-high", "frontend", Severity::error,
             fmt::format("with gain {} the span leaves the range of converter or amplifier",
                         amplifier.use),
             "the ends of the span read the last code and look valid", {use(placed, *best)});
  } else {
    e.report("gain-too-low", "frontend", Severity::advice,
             fmt::format("gain {} still keeps the span in the range", best->name),
             fmt::format("its code width is {:.3g} times finer",
                         best->gain.or_zero() / amplifier.gain.or_zero()),
             {use(placed, *best)});
  }
}

}  // namespace

void examine_choices(const Examination& e) {
  examine_attenuation(e);
  for (const auto& placed : amplifiers_of(e)) {
    examine_output(e, placed);
    examine_slew(e, placed);
    examine_gain(e, placed);
  }
}

}  // namespace tamlo::check
