// SPDX-License-Identifier: Apache-2.0
// Faults of a board or a firmware that differ from its description: the chain is changed so, and
// asked what it would have read.
#include "signatures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <iterator>
#include <optional>

#include "tamlo/math/detail/coverage.hpp"

namespace tamlo::meter {
namespace {

using chain::Chain;
using model::Board;
using model::Channel;

// A setting is named where the readings make it likelier than its prior of 1 in 1000 forbids, which
// is where chi-squared falls by 2 ln 1000.
constexpr double falls_by = 13.8, explained = 0.01;

// What it reads. Where the wrong board ends, its codes do.
double read(const ChangedChain& changed, double x, chain::Parameters p) {
  const double code = std::clamp(chain::code(changed.as_built, x, p),
                                 static_cast<double>(chain::first_code(changed.as_built)),
                                 static_cast<double>(chain::last_code(changed.as_built)));
  const double reported = changed.as_built.report.offset + changed.as_built.report.gain * code;
  return chain::smooth_reading(
      changed.firmware, changed.found ? changed.found(changed.as_built, reported) : reported);
}

Effects effects_of(const ChangedChain& changed, const std::vector<double>& at) {
  const auto& sources = changed.as_built.sources;
  Effects result{.coverage_factor = 1.0};
  result.of_source.assign(sources.size(), {});
  auto p = changed.as_built.nominal;
  for (std::size_t i = 0; i < at.size(); ++i) {
    const double x = changed.at.empty() ? at[i] : changed.at[i];
    result.bias.push_back(read(changed, x, p) - at[i]);
    result.expanded.push_back(0.0);
    const auto standards = chain::standards_at(changed.as_built, x);
    for (std::size_t s = 0; s < sources.size(); ++s) {
      double& moved = p[sources[s].parameter];
      const double nominal = moved;
      moved = nominal + standards[s];
      const double above = read(changed, x, p);
      moved = nominal - standards[s];
      const double below = read(changed, x, p);
      moved = nominal;
      result.of_source[s].push_back((above - below) / 2.0);
    }
  }
  return result;
}

// Boards and firmwares that are not as described, each with its name.
struct FaultyBoard {
  std::string fault;
  std::function<void(Board&, Channel&)> as_built{};
  std::function<void(Board&, Channel&)> firmware{};
  std::function<double(const Chain&, double)> found{};
};

model::Converter& converter_of(Board& board, const Channel& channel) {
  return *std::ranges::find(board.converters, channel.converter, &model::Converter::name);
}

void attenuations(std::vector<FaultyBoard>& into, const DiagnosisContext& context) {
  for (const auto& other : context.chain.converter.attenuations) {
    if (other.name == context.chain.channel.attenuation) continue;
    into.push_back(
        {fmt::format("wrong attenuation setting: the converter is on \"{}\"", other.name),
         [name = other.name](Board&, Channel& c) { c.attenuation = name; }});
  }
}

void references(std::vector<FaultyBoard>& into, const DiagnosisContext& context) {
  for (const auto& other : context.board.references) {
    if (other.name == context.chain.converter.reference) continue;
    into.push_back(
        {fmt::format("swapped reference: the converter runs on \"{}\"", other.name),
         [name = other.name](Board& b, Channel& c) { converter_of(b, c).reference = name; }});
  }
}

void conventions(std::vector<FaultyBoard>& into, const DiagnosisContext& context) {
  using model::Convention;
  const bool last = context.chain.channel.scaling.convention == Convention::last_code;
  into.push_back({fmt::format("count convention off by one: the firmware divides by {}",
                              last ? "all codes" : "the last code"),
                  {},
                  [last](Board&, Channel& c) {
                    c.scaling.convention = last ? Convention::full_scale : Convention::last_code;
                  }});
  using model::FirstTransition;
  const bool full = context.chain.converter.first_transition == FirstTransition::full_code;
  into.push_back({full ? "rounding where truncation was described: readings are half a code high"
                       : "truncation not compensated: readings are half a code low",
                  [full](Board& b, Channel& c) {
                    converter_of(b, c).first_transition =
                        full ? FirstTransition::half_code : FirstTransition::full_code;
                  }});
}

void gains(std::vector<FaultyBoard>& into, const DiagnosisContext& context) {
  const auto& parts = context.chain.channel.frontend;
  for (std::size_t i = 0; i < parts.size(); ++i) {
    const auto* amplifier = std::get_if<model::Amplifier>(&parts[i]);
    if (amplifier == nullptr) continue;
    for (const auto& other : amplifier->gains) {
      if (other.name == amplifier->use) continue;
      into.push_back({fmt::format("wrong gain setting: the amplifier is on \"{}\"", other.name),
                      [i, gain = other.gain](Board&, Channel& c) {
                        std::get<model::Amplifier>(c.frontend[i]).gain = gain;
                      }});
    }
  }
}

// What a register may be taken for.
void formats(std::vector<FaultyBoard>& into, const DiagnosisContext& context) {
  const int bits = context.chain.converter.resolution;
  // Bits that are shifted out are lost: half of what they hold on average.
  const auto shift = [&](int by) {
    const double lost = by < 0 ? (1.0 - std::ldexp(1.0, by)) / 2.0 : 0.0;
    return [by, lost](const Chain&, double reported) { return std::ldexp(reported, by) - lost; };
  };
  for (int by = 1; by <= std::min(8, bits - 2); ++by) {
    const auto count = by == 1 ? std::string("1 bit") : fmt::format("{} bits", by);
    into.push_back(
        {fmt::format("alignment: codes are shifted left by {}", count), {}, {}, shift(by)});
    into.push_back({by == 1 ? std::string("one bit lost: codes are shifted right by 1 bit")
                            : fmt::format("alignment: codes are shifted right by {}", count),
                    {},
                    {},
                    shift(-by)});
  }
  into.push_back(
      {"codes counted from the wrong end", {}, {}, [](const Chain& chain, double reported) {
         return static_cast<double>(chain.report.first_reported + chain.report.last_reported) -
                reported;
       }});
  const bool signed_codes = context.chain.converter.coding == model::Coding::twos_complement;
  if (signed_codes) {
    into.push_back({"inverted sign", {}, {}, [](const Chain&, double value) { return -value; }});
  }
  if (!context.chain.converter.input_range && !signed_codes) return;
  into.push_back({"the sign bit is inverted: offset binary for two's complement, or the other way",
                  {},
                  {},
                  [](const Chain& other, double reported) {
                    const auto first = static_cast<double>(other.report.first_reported);
                    const double half =
                        (static_cast<double>(other.report.last_reported) - first + 1.0) / 2.0;
                    return reported >= first + half ? reported - half : reported + half;
                  }});
}

void live_zero(std::vector<FaultyBoard>& into, const DiagnosisContext& context) {
  const auto& sensor = context.chain.channel.sensor;
  const bool loop = sensor && std::holds_alternative<model::CurrentLoop>(*sensor);
  const auto* linear = sensor ? std::get_if<model::LinearSensor>(&*sensor) : nullptr;
  if (!loop && (linear == nullptr || linear->at_low.or_zero() == 0.0)) return;
  into.push_back({"live zero ignored: the firmware takes the low end of the span for a signal of 0",
                  {},
                  [loop](Board&, Channel& c) {
                    if (loop) {
                      std::get<model::CurrentLoop>(*c.sensor).low = 0.0;
                    } else {
                      std::get<model::LinearSensor>(*c.sensor).at_low.nominal = 0.0;
                    }
                  }});
}

void loads(std::vector<FaultyBoard>& into, const DiagnosisContext& context) {
  if (!context.chain.channel.loaded_by.empty()) return;
  for (const auto& meter : context.board.meters) {
    if (!meter.input_resistance) continue;
    into.push_back(
        {fmt::format("loading by the meter: the input resistance of \"{}\" loads the pin",
                     meter.name),
         [name = meter.name](Board&, Channel& c) { c.loaded_by = name; }});
  }
}

std::vector<FaultyBoard> changes_of(const DiagnosisContext& context) {
  std::vector<FaultyBoard> changes;
  attenuations(changes, context);
  references(changes, context);
  conventions(changes, context);
  gains(changes, context);
  formats(changes, context);
  live_zero(changes, context);
  loads(changes, context);
  return changes;
}

// The chain of the board with that change; nothing where there is no such board.
std::optional<Chain> changed(const DiagnosisContext& context,
                             const std::function<void(Board&, Channel&)>& change) {
  if (!change) return context.chain;
  auto board = context.board;
  auto& channel = *std::ranges::find(board.channels, context.channel, &Channel::name);
  change(board, channel);
  try {
    return chain_as_metered(board, context.channel, context.meter);
  } catch (const Error&) {
    return {};
  }
}

// Both ends of a change; nothing where there is no such board.
std::optional<ChangedChain> changed_chain(const DiagnosisContext& context,
                                          const FaultyBoard& change) {
  auto as_built = changed(context, change.as_built);
  auto firmware = changed(context, change.firmware);
  if (!as_built || !firmware) return {};
  return ChangedChain{
      .as_built = std::move(*as_built), .firmware = std::move(*firmware), .found = change.found};
}

// Another channel's input is converted in place of this one's: its rows say what it had.
void exchanged(std::vector<Signature>& found, const DiagnosisContext& context) {
  for (const auto& other : context.others) {
    if (other.readings.size() != context.readings.size()) continue;
    try {
      ChangedChain changed{.as_built = chain::build(context.board, other.name),
                           .firmware = context.chain};
      for (const auto& reading : other.readings) changed.at.push_back(reading.meter);
      keep_if_it_explains(
          found, context,
          {.fault = fmt::format("exchanged channels: it reads the input of {}", other.name)},
          gather_changed(context, changed));
    } catch (const Error&) {
      // A channel that cannot be built, or whose rows this meter does not hold.
    }
  }
}

// A firmware in integers whose words are narrower than described wraps where the product is too
// large.
void overflows(std::vector<Signature>& found, const DiagnosisContext& context) {
  const auto& integer = context.chain.channel.scaling.integer;
  if (!integer) return;
  for (const int bits : {32, 16}) {
    for (const bool is_signed : {true, false}) {
      if (bits > integer->bits || (bits == integer->bits && is_signed == integer->is_signed)) {
        continue;
      }
      auto firmware = context.chain;
      firmware.channel.scaling.integer->bits = bits;
      firmware.channel.scaling.integer->is_signed = is_signed;
      auto evidence =
          gather_changed(context, {.as_built = context.chain, .firmware = context.chain});
      bool wraps = false;
      for (std::size_t i = 0; i < evidence.rows(); ++i) {
        const double code = chain::code(context.chain, evidence.at[i], context.chain.nominal);
        const auto by = [&](double value) {
          const auto reported = static_cast<double>(chain::register_value(context.chain, value));
          return chain::reading(firmware, reported) - chain::reading(context.chain, reported);
        };
        // Where it wraps or not by the next code, the row says little.
        const double within = 1.0 + evidence.standard_uncertainty(i) /
                                        chain::code_width_at(context.chain, evidence.at[i]);
        const double open = by(code + within) - by(code - within);
        evidence.effects.bias[i] += by(code);
        evidence.measured.variances[i] += open * open / 4.0;
        wraps = wraps || by(code) != 0.0;
      }
      if (!wraps) continue;
      const auto fault = fmt::format("firmware overflow: its words are of {} bits, {}", bits,
                                     is_signed ? "signed" : "unsigned");
      keep_if_it_explains(found, context, {.fault = fault}, evidence);
    }
  }
}

}  // namespace

RowFigures gather_changed(const DiagnosisContext& context, const ChangedChain& changed) {
  const bool same = changed.as_built.channel.name == context.chain.channel.name;
  auto effects = effects_of(changed, context.evidence.at);
  if (same)
    return figures_of_rows(changed.as_built, context.meter, context.readings, std::move(effects));
  // Of another input: its sources, and the meter and positions of this channel.
  auto chain = changed.as_built;
  chain.channel.span = context.chain.channel.span;
  return figures_of_rows(chain, context.meter, context.readings, std::move(effects));
}

void keep_if_it_explains(std::vector<Signature>& found, const DiagnosisContext& context,
                         Signature signature, const RowFigures& evidence) {
  if (!context.claimed) return;
  signature.chi_squared = math::chi_squared(evidence.unexpected(), evidence.all());
  signature.probability =
      math::chi_squared_survival(signature.chi_squared, static_cast<int>(evidence.rows()));
  // Not negated: what is not a number explains nothing.
  if (!(signature.probability > explained)) return;
  if (!(context.chi_squared - signature.chi_squared >= falls_by)) return;
  if (!signature.evidence.empty()) signature.evidence += "; ";
  signature.evidence += fmt::format("with it chi-squared falls from {:.0f} to {:.1f} of {} rows",
                                    context.chi_squared, signature.chi_squared, evidence.rows());
  found.push_back(std::move(signature));
}

std::vector<std::pair<std::string, std::vector<double>>> known_shifts(
    const DiagnosisContext& context) {
  std::vector<std::pair<std::string, std::vector<double>>> shifts;
  for (const auto& change : changes_of(context)) {
    // What a register is taken for shows at once, wherever the bench measures.
    const auto changed = change.found ? std::nullopt : changed_chain(context, change);
    if (!changed) continue;
    std::vector<double> rows;
    for (std::size_t i = 0; i < context.evidence.rows(); ++i) {
      const double x = context.evidence.at[i];
      rows.push_back(read(*changed, x, changed->as_built.nominal) - x -
                     context.evidence.effects.bias[i]);
    }
    if (std::ranges::any_of(rows, [](double value) { return value != 0.0; })) {
      shifts.emplace_back(change.fault, std::move(rows));
    }
  }
  return shifts;
}

std::vector<Signature> changed_chains(const DiagnosisContext& context) {
  std::vector<Signature> found;
  for (const auto& change : changes_of(context)) {
    // The firmware scales as described, whatever the board is.
    const auto changed = changed_chain(context, change);
    if (!changed) continue;
    auto evidence = gather_changed(context, *changed);
    // What a register is taken for may lose bits: the place within a code is as good as random.
    for (std::size_t i = 0; change.found && i < evidence.rows(); ++i) {
      evidence.measured.variances[i] +=
          squared(chain::code_width_at(context.chain, evidence.at[i])) / 12.0;
    }
    keep_if_it_explains(found, context, {.fault = change.fault}, evidence);
  }
  exchanged(found, context);
  overflows(found, context);
  return found;
}

std::vector<Signature> signatures(const DiagnosisContext& context) {
  // What the values themselves show comes first, then what explains the differences best.
  auto result = marks(context);
  // A part that is off explains the rows better: then it is no bit and no setting. Of bits there
  // are many, and a setting has nothing to fit.
  constexpr double clearly = 10.0;
  const auto keep = [&](std::vector<Signature> some, double worse_by) {
    std::erase_if(some, [&](const Signature& signature) {
      return signature.chi_squared > context.left_by_one + worse_by;
    });
    return some;
  };
  auto found = keep(high_bits_and_swaps(context), 0.0);
  if (context.claimed) {
    for (auto& signature : keep(changed_chains(context), clearly))
      found.push_back(std::move(signature));
  }
  std::ranges::stable_sort(found, {}, &Signature::chi_squared);
  std::ranges::move(found, std::back_inserter(result));
  // ObservedNoise is judged by the description, and so only where nothing else is off.
  if (!context.claimed) std::ranges::move(noise_faults(context), std::back_inserter(result));
  return result;
}

}  // namespace tamlo::meter
