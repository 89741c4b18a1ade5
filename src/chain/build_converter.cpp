// SPDX-License-Identifier: Apache-2.0
// From the pin to the code, and when.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

#include "builder.hpp"
#include "tamlo/error.hpp"

namespace tamlo::chain {
namespace {

using quantity::Distribution;

constexpr double boltzmann = 1.380649e-23;  // J/K, exact

double farads_at_pin(const model::Channel& channel, const std::vector<double>& nominal,
                     const std::vector<PathStage>& stages) {
  if (channel.frontend.empty()) return 0.0;
  if (!std::holds_alternative<model::Lowpass>(channel.frontend.back())) return 0.0;
  // A meter may hang behind it.
  const auto last = std::find_if(stages.rbegin(), stages.rend(), [](const PathStage& stage) {
    return std::holds_alternative<LowpassLaw>(stage.law);
  });
  return nominal[std::get<LowpassLaw>(last->law).capacitor];
}

// What the frequency of a sine may be off: what it says itself or, of a multiple of the mains, what
// the mains do.
double limit_of_frequency(const model::Interference& sine, const model::Conditions& conditions) {
  const double frequency = sine.frequency.or_zero();
  const auto& mains = conditions.mains;
  if (!sine.frequency.limits.empty() || !mains) return limit_of(sine.frequency, conditions);
  const double order = std::round(frequency / mains->or_zero());
  const bool of_mains =
      order >= 1.0 && std::abs(frequency - order * mains->or_zero()) <= 1e-9 * frequency;
  return of_mains ? order * limit_of(*mains, conditions) : 0.0;
}

}  // namespace

void Builder::add_timing() {
  const auto& channel = chain_.channel;
  chain_.timing = timing(board_, chain_.converter, channel);
  std::vector<model::DigitalStage> stages{model::BlockAverage{channel.average}};
  stages.insert(stages.end(), channel.filter.begin(), channel.filter.end());
  try {
    chain_.firmware.digital = prepare(stages, chain_.timing.rate);
  } catch (const ArgumentError& error) {
    throw ChainError(fmt::format("channel {}: {}", channel.name, error.what()));
  }
}

void Builder::computed(Source source) {
  source.standard_uncertainty = quantity::standard_uncertainty(source.limit, source.distribution);
  chain_.sources.push_back(std::move(source));
}

void Builder::add_pin_noise(PinDisturbance& added, const std::string& name,
                            const std::string& specification, double rms) {
  added.terms.push_back(parameter(name, 0.0, "V"));
  computed({.name = name,
            .stage = "pin",
            .specification = specification,
            .parameter = added.terms.back(),
            .nature = Noise{},
            .distribution = Distribution::normal,
            .limit = rms});
}

// Johnson noise of what drives the pin, through the last low-pass k T / C of its capacitor whatever
// the resistance (Nyquist, 1928), and that of the sampling switch, k T / C of the sampling
// capacitor.
void Builder::add_thermal_noise(PinDisturbance& added) {
  const double kt = boltzmann * chain_.conditions.temperature.high;
  const auto farads = [](double value) {
    return quantity::engineering(value, quantity::unit("F"), 4);
  };
  for (auto part = chain_.path.stages.rbegin(); part != chain_.path.stages.rend(); ++part) {
    const auto* lowpass = std::get_if<LowpassLaw>(&part->law);
    if (lowpass == nullptr) continue;
    const double capacitor = chain_.nominal[lowpass->capacitor];
    add_pin_noise(added, "resistor noise", "kT/C of " + farads(capacitor),
                  std::sqrt(kt / capacitor));
    break;
  }
  if (const auto& capacitor = chain_.converter.sampling_capacitor) {
    add_pin_noise(added, "sampling noise", "kT/C of " + farads(*capacitor),
                  std::sqrt(kt / *capacitor));
  }
}

void Builder::add_pin() {
  const auto& channel = chain_.channel;
  const auto& converter = chain_.converter;
  set_nominals();
  chain_.path.time_constants = time_constants_at(chain_, channel.span.middle());
  for (const double end : {channel.span.low, channel.span.high}) {
    const auto there = time_constants_at(chain_, end);
    for (std::size_t i = 0; i < there.size(); ++i) {
      const double time_constant = chain_.path.time_constants[i];
      if (std::abs(there[i] - time_constant) > 1e-6 * time_constant)
        chain_.path.time_constants_vary = true;
    }
  }
  if (converter.sampling_capacitor && chain_.timing.sampling_time > 0.0) {
    chain_.path.sampling =
        Sampling{.time = chain_.timing.sampling_time,
                 .period = chain_.timing.rate > 0.0 ? 1.0 / chain_.timing.rate : 0.0,
                 .switch_resistance = converter.switch_resistance,
                 .capacitor = *converter.sampling_capacitor,
                 .pin_capacitor = farads_at_pin(channel, chain_.nominal, chain_.path.stages)};
  }

  PinDisturbance added;
  for (const auto& each : channel.interference) {
    const double frequency = each.frequency.or_zero();
    const auto name =
        fmt::format("interference {}", quantity::engineering(frequency, quantity::unit("Hz"), 4));
    added.terms.push_back(parameter(unique(name), 0.0, "V"));
    computed({.name = chain_.parameters.back().name,
              .stage = "pin",
              .specification = quantity::engineering(each.amplitude, quantity::unit("V"), 4),
              .parameter = added.terms.back(),
              .nature = InterferenceEffect{.frequency = frequency,
                                           .limit = limit_of_frequency(each, chain_.conditions)},
              .distribution = Distribution::arcsine,
              .limit = each.amplitude * analog_magnitude(chain_, frequency)});
  }
  if (converter.jitter && channel.fastest) {
    const double amplitude = std::abs(voltage(chain_, channel.span.high, chain_.nominal) -
                                      voltage(chain_, channel.span.low, chain_.nominal)) /
                             2.0;
    // Slope of the sine, root mean square, times the time by which it is missed.
    add_pin_noise(added, "aperture jitter",
                  quantity::engineering(*converter.jitter, quantity::unit("s"), 4) + " rms",
                  2.0 * std::numbers::pi * *channel.fastest * amplitude * *converter.jitter /
                      std::numbers::sqrt2);
  }
  for (const auto& limit : channel.dither.limits)
    add_pin_noise(added, "injected dither", quantity::to_string(limit), limit.size);
  add_thermal_noise(added);
  if (!added.terms.empty()) stage("pick-up", std::move(added), "V");

  if (!converter.leakage.limits.empty()) {
    stage("pin",
          LeakageLaw{deviation(converter.name + " leakage", "pin", converter.leakage, "A", {})},
          "V");
  }
  const auto neighbour = before_in_scan(chain_.timing, channel.name);
  if (!chain_.path.sampling || neighbour == channel.name) return;
  const auto* other = model::find(board_.channels, neighbour);
  if (other == nullptr) return;
  const auto range = Builder(board_, *other, converter).pin_range();
  SamplingLaw law{.sampling = *chain_.path.sampling,
                  .neighbour = parameter(neighbour + " before", range.middle(), "V")};
  computed({.name = "rest of " + neighbour,
            .stage = "sampling",
            .specification = fmt::format("scanned before, {} to {}",
                                         quantity::engineering(range.low, range.unit, 4),
                                         quantity::engineering(range.high, range.unit, 4)),
            .parameter = law.neighbour,
            .nature = Nonlinearity{},
            .distribution = Distribution::uniform,
            .limit = range.width() / 2.0});
  stage("sampling", law, "V");
}

void Builder::add_converter() {
  const auto& converter = chain_.converter;
  const auto& name = converter.name;
  auto& law = chain_.conversion;
  chain_.path.parameters = chain_.parameters.size();
  law.codes = std::ldexp(1.0, converter.resolution);
  // Straight binary counts from the low end; the other codings have their 0 in the middle.
  if (converter.coding != model::Coding::straight_binary) law.code_zero = law.codes / 2.0;
  law.shift = converter.first_transition == model::FirstTransition::full_code ? -0.5 : 0.0;
  law.reference = reference(converter.reference);
  law.has_negative = !converter.negative_reference.empty();
  if (law.has_negative) law.negative_reference = reference(converter.negative_reference);
  if (converter.input_range) {
    const double nominal = chain_.parameters[law.reference].nominal;
    law.low_factor = converter.input_range->low / nominal;
    law.high_factor = converter.input_range->high / nominal;
  }
  model::Value inl = converter.inl;
  model::Value ratio{.nominal = 1.0};
  for (const auto& attenuation : converter.attenuations) {
    if (attenuation.name != chain_.channel.attenuation) continue;
    ratio = attenuation.ratio;
    if (attenuation.inl) inl = *attenuation.inl;
  }
  law.attenuation = part("attenuation ratio", "converter", ratio, "");
  set_nominals();
  const auto range = ends(law, chain_.nominal);
  // The converter's own errors are in LSB; relative ones are parts of the full-scale range, volts
  // are volts behind the attenuation.
  const Scale scale{.absolute = law.codes / ((range.high - range.low) * ratio.or_zero()),
                    .relative = law.codes,
                    .code = 1.0};
  const auto error = [&](const std::string& what, const model::Value& value, const Nature& nature) {
    return deviation(name + " " + what, "converter", value, "LSB", scale, nature);
  };
  const auto own = chain_.sources.size();
  law.offset = error("offset", converter.offset, Tolerance{});
  law.gain = error("gain", converter.gain, Tolerance{});
  for (auto each = own; each < chain_.sources.size(); ++each) chain_.sources[each].shared = true;
  // A total error may have another sign at every code, as INL may.
  const bool in_total = !converter.total_error.limits.empty();
  law.inl = in_total ? error("total error", converter.total_error, Nonlinearity{})
                     : error("INL", inl, Nonlinearity{});
  law.dnl = error("DNL", converter.dnl, Nonlinearity{});
  law.inl_table = converter.inl_table;
  for (auto& point : law.inl_table) point.code -= static_cast<double>(first_code(chain_));
  law.noise = error("noise", converter.noise, Noise{});
  law.quantisation = parameter(name + " quantisation", 0.0, "LSB");
}

void Builder::add_register_format() {
  set_nominals();
  const auto& span = chain_.channel.span;
  const auto& converter = chain_.converter;
  // A code c is taken for the voltage c q, whatever the first transition.
  const auto code_at = [&](double x) {
    return code(chain_, x, chain_.nominal) - chain_.conversion.shift;
  };
  chain_.report = report_law(converter.reporting, converter.resolution, first_code(chain_),
                             code_at(span.low), code_at(span.high), converter.formats_before);
  chain_.named.quantisation = chain_.sources.size();
  const bool plain = chain_.report.step == 1.0;
  computed({.name = "quantisation",
            .stage = "converter",
            .specification = plain ? fmt::format("{} bit", converter.resolution)
                                   : fmt::format("{} bit, {:.3g} codes to a step",
                                                 converter.resolution, chain_.report.step),
            .parameter = chain_.conversion.quantisation,
            .nature = Quantisation{},
            .distribution = Distribution::uniform,
            .limit = chain_.report.width / 2.0});
}

}  // namespace tamlo::chain
