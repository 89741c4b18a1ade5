// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using quantity::engineering;
using quantity::unit;

// A setting, and whether the file says so or it is the default.
class Settings {
 public:
  void add(const std::string& name, const std::string& value, const std::string& where = {}) {
    table_.rows.push_back({name, value, where});
  }
  void add(const std::string& name, const std::string& value,
           const std::vector<std::string>& defaults, const std::string& key) {
    const bool is_default = std::ranges::find(defaults, key) != defaults.end();
    add(name, value, is_default ? "default" : "");
  }
  Table table() && { return std::move(table_); }

 private:
  Table table_{
      .title = "", .columns = {{"setting", false}, {"value", false}, {"", false}}, .rows = {}};
};

std::string or_none(const model::Value& value) {
  return value.limits.empty() ? "none" : quantity::to_string(value);
}

Table landmarks(const chain::Chain& chain, const chain::Settings& settings) {
  const auto& span = chain.channel.span;
  const auto difference = quantity::difference_unit(span.unit);
  Table table{.title = chain.channel.name + ": over the span",
              .columns = {{heading("at", span.unit)},
                          {"at the pin [V]"},
                          {"code"},
                          {heading("reading", span.unit)},
                          {heading("code width", difference)},
                          {heading("other convention adds", difference)}},
              .rows = {}};
  for (const auto& mark : settings.landmarks) {
    const auto code = fmt::format("{}{}", mark.code, mark.clipped ? " (clipped)" : "");
    table.rows.push_back({figure(mark.at, span.unit, span.width(), 5),
                          figure(mark.voltage, unit("V"), settings.full_scale_range, 6),
                          {code, std::to_string(mark.code)},
                          figure(mark.reading, span.unit, mark.code_width, 3),
                          figure(mark.code_width, difference, mark.code_width, 4),
                          figure(mark.convention_changes, difference, mark.code_width, 3)});
  }
  return table;
}

}  // namespace

Report of(const chain::Chain& chain, const chain::Settings& s) {
  const auto& channel = chain.channel;
  const auto& converter = chain.converter;
  Report report;
  report.verdict.push_back(
      {fmt::format("{}: {} over {}, one code is {} at the pin and {} of {}", channel.name,
                   channel.measures, quantity::to_string(channel.span),
                   engineering(s.code_width, unit("V"), 10),
                   amount(s.landmarks.back().code_width, channel.span.unit, 4), channel.measures),
       Tone::heading});

  Settings settings;
  settings.add("signal path", s.signal_path.empty()
                                  ? "straight to the pin"
                                  : fmt::format("{}; {} at the pin", fmt::join(s.signal_path, ", "),
                                                engineering(s.source_resistance, unit("ohm"), 4)));
  settings.add("converter",
               fmt::format("{}, {} bit, codes {} to {}", converter.name, converter.resolution,
                           chain::first_code(chain), s.last_code));
  if (channel.input >= 0) settings.add("input", std::to_string(channel.input));
  settings.add("reference", fmt::format("{}, full-scale range {}", converter.reference,
                                        engineering(s.full_scale_range, unit("V"), 10)));
  for (const auto& attenuation : converter.attenuations) {
    if (attenuation.name != channel.attenuation) continue;
    settings.add("attenuation", fmt::format("{}: {}, serves {}", attenuation.name,
                                            quantity::to_string(attenuation.ratio),
                                            quantity::to_string(attenuation.usable)));
  }
  settings.add("code width", engineering(s.code_width, unit("V"), 10));
  settings.add("range used",
               fmt::format("{:.4g} %, {:.0f} codes", 100.0 * s.range_used, s.codes_used));
  settings.add("coding", std::string(name(converter.coding)), converter.defaults, "coding");
  settings.add("first transition", std::string(name(converter.first_transition)),
               converter.defaults, "first_transition");
  settings.add("offset", or_none(converter.offset), converter.defaults, "offset");
  settings.add("gain", or_none(converter.gain), converter.defaults, "gain");
  settings.add("INL", or_none(converter.inl), converter.defaults, "inl");
  settings.add("DNL", or_none(converter.dnl), converter.defaults, "dnl");
  settings.add("noise", fmt::format("{:.3g} LSB rms a conversion", s.noise_in_codes),
               converter.defaults, "noise");
  settings.add("average", std::to_string(channel.average), channel.defaults, "average");
  settings.add("after averaging",
               fmt::format("{:.3g} LSB rms, quantisation and noise", s.noise_after_average));
  settings.add("convention",
               fmt::format("{}: volts = code * {} / {}", name(channel.scaling.convention),
                           engineering(s.full_scale_range, unit("V"), 10),
                           channel.scaling.convention == model::Convention::full_scale
                               ? chain.conversion.codes
                               : chain.conversion.codes - 1.0),
               channel.defaults, "scaling");
  settings.add("target",
               s.allowed ? fmt::format("{} (±{} at the end of the span)",
                                       quantity::to_string(*channel.target.accuracy),
                                       amount(*s.allowed, channel.span.unit))
                         : "none",
               channel.defaults, "target");
  const auto& conditions = chain.conditions;
  const auto celsius = unit("degC");
  const auto& temperature = conditions.temperature;
  settings.add("temperature",
               temperature.width() > 0.0 ? quantity::to_string(temperature)
                                         : exact(temperature.low, celsius) + " degC",
               conditions.defaults, "temperature");
  settings.add("limits hold at", exact(conditions.specified_at, celsius) + " degC",
               conditions.defaults, "specified_at");
  settings.add("age", exact(conditions.age, unit("year")) + " years", conditions.defaults, "age");
  report.tables.push_back(std::move(settings).table());
  report.tables.push_back(landmarks(chain, s));
  for (const auto& mark : s.landmarks) {
    if (!mark.clipped) continue;
    report.remarks.push_back(
        {fmt::format("CLIPPED: {} is beyond the converter; it reads code {}",
                     with_unit(exact(mark.at, channel.span.unit), channel.span.unit), mark.code),
         Tone::bad});
  }
  return report;
}

}  // namespace tamlo::report
