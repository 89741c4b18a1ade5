// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "channel_parts.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using quantity::engineering;
using quantity::unit;

// Settings, each marked where it is the default.
class Settings {
 public:
  void add(const std::string& name, const std::string& value) {
    table_.rows.push_back({name, value});
  }
  void add(const std::string& name, const std::string& value,
           const std::vector<std::string>& defaults, const std::string& key) {
    const bool is_default = std::ranges::find(defaults, key) != defaults.end();
    add(name, is_default ? value + " (default)" : value);
  }
  Table table() && { return std::move(table_); }

 private:
  Table table_{.title = "", .columns = {{"setting", false}, {"value", false}}};
};

std::string or_none(const model::Value& value) {
  return value.limits.empty() ? "none" : quantity::to_string(value);
}

std::string filter_in_words(const chain::Chain& chain) {
  std::vector<std::string> names;
  for (const auto& stage : chain.firmware.digital.stages) names.push_back(stage.name);
  return names.empty() ? "none: every conversion is a reading"
                       : fmt::format("{}", fmt::join(names, ", then "));
}

std::string format_in_words(const model::RegisterFormat& register_format) {
  using Kind = model::RegisterFormat::Kind;
  switch (register_format.kind) {
    case Kind::plain:
      return "as it is";
    case Kind::shifted:
      return fmt::format("left-aligned in {} bit", register_format.bits);
    case Kind::replicated:
      return fmt::format("widened to {} bit by its own high bits", register_format.bits);
    case Kind::dropped:
      return fmt::format("without its {} lowest bits", register_format.bits);
    case Kind::divided:
      return fmt::format("divided by {}", register_format.divisor);
    case Kind::counts:
      return fmt::format("{} to {} counts over the span", register_format.at_low,
                         register_format.at_high);
  }
  return "";
}

std::string reporting_in_words(const chain::Chain& chain) {
  const auto& report = chain.report;
  std::string how;
  for (const auto& before : report.before) how += format_in_words(before.reporting) + ", then ";
  return fmt::format("{}; {} to {}, of which {} values occur: {:.4g} codes to a step",
                     how + format_in_words(report.reporting), report.first_reported,
                     report.last_reported, report.occurring, report.step);
}

std::string scaling_in_words(const chain::Chain& chain, const chain::Settings& s) {
  const auto& scaling = chain.channel.scaling;
  const auto& unit_of = chain.channel.span.unit;
  std::string text;
  if (scaling.integer) {
    text = fmt::format("{} integer steps in {} bit; off by up to {} from exact scaling",
                       scaling.integer->steps.size(), scaling.integer->bits,
                       amount(s.arithmetic_error.value_or(0.0), unit_of));
  } else if (scaling.taught) {
    const auto& line = *scaling.taught;
    text = fmt::format("taught: {} at code {:.10g}, {} at code {:.10g}",
                       with_unit(exact(line.low_reading, unit_of), unit_of), line.low_code,
                       with_unit(exact(line.high_reading, unit_of), unit_of), line.high_code);
  } else if (chain.report.reporting.kind == model::RegisterFormat::Kind::counts) {
    text = "by the counts at the ends of the span";
  } else {
    const double counts = chain.conversion.codes * chain.report.per_code;
    const bool full_scale = scaling.convention == model::Convention::full_scale;
    text = fmt::format("{}: volts = code * {} / {:.10g}", name(scaling.convention),
                       engineering(s.full_scale_range, unit("V"), 10),
                       full_scale ? counts : counts - 1.0);
    if (scaling.sensor) text += ", then another sensor's law: see the bias of the budget";
  }
  if (scaling.tare)
    text += fmt::format("; tared at {}", with_unit(exact(*scaling.tare, unit_of), unit_of));
  if (scaling.decimals) text += fmt::format("; shown with {} decimals", *scaling.decimals);
  return text;
}

Table operating_points(const chain::Chain& chain, const chain::Settings& settings) {
  const auto& span = chain.channel.span;
  const auto difference = quantity::difference_unit(span.unit);
  Table table{.title = chain.channel.name + ": over the span",
              .columns = {{heading("at", span.unit)},
                          {"at the pin [V]"},
                          {"code"},
                          {heading("reading", span.unit)},
                          {heading("step", difference)},
                          {heading("other convention adds", difference)}}};
  for (const auto& mark : settings.operating_points) {
    const auto code = fmt::format("{}{}", mark.reported, mark.clipped ? " (clipped)" : "");
    table.rows.push_back({figure(mark.at, span.unit, span.width(), 5),
                          figure(mark.voltage, unit("V"), settings.full_scale_range, 6),
                          {code, std::to_string(mark.reported)},
                          figure(mark.reading, span.unit, mark.step, 3),
                          figure(mark.step, difference, mark.step, 4),
                          figure(mark.convention_changes, difference, mark.code_width, 3)});
  }
  return table;
}

}  // namespace

Report of(const budget::ChannelSettings& of_channel) {
  const auto& chain = of_channel.chain;
  const auto& s = of_channel.settings;
  const auto& channel = chain.channel;
  const auto& converter = chain.converter;
  Report report;
  say(report.verdict, Tone::heading, "{}: {} over {}, one code is {} at the pin, a step {} of {}",
      channel.name, channel.measures, quantity::to_string(channel.span),
      engineering(s.code_width, unit("V"), 4),
      engineering(s.operating_points.back().step, quantity::difference_unit(channel.span.unit), 4),
      channel.measures);

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
  settings.add("code width", engineering(s.code_width, unit("V"), 4));
  settings.add("range used",
               fmt::format("{:.4g} %, {:.0f} codes", 100.0 * s.range_used, s.codes_used));
  settings.add("coding", std::string(name(converter.coding)), converter.defaults, "coding");
  settings.add("first transition", std::string(name(converter.first_transition)),
               converter.defaults, "first_transition");
  settings.add("offset", or_none(converter.offset), converter.defaults, "offset");
  settings.add("gain", or_none(converter.gain), converter.defaults, "gain");
  settings.add("INL", or_none(converter.inl), converter.defaults, "inl");
  if (!converter.total_error.limits.empty())
    settings.add("total error", or_none(converter.total_error), converter.defaults, "total_error");
  settings.add("DNL", or_none(converter.dnl), converter.defaults, "dnl");
  settings.add("noise", fmt::format("{:.3g} LSB rms a conversion", s.noise_in_codes),
               converter.defaults, "noise");
  settings.add("average and filter", filter_in_words(chain),
               channel.filter.empty() ? channel.defaults : std::vector<std::string>{}, "average");
  settings.add("noise of a reading",
               fmt::format("{:.3g} LSB rms, with quantisation", s.noise_after_average));
  if (!chain::reports_codes(chain.report)) {
    settings.add("reported as", reporting_in_words(chain));
  }
  settings.add("scaling", scaling_in_words(chain, s), channel.defaults, "scaling");
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
  settings.add("age",
               exact(conditions.age, unit("year")) +
                   (conditions.age == unit("year").scale() ? " year" : " years"),
               conditions.defaults, "age");
  report.tables.push_back(std::move(settings).table());
  report.tables.push_back(operating_points(chain, s));
  add_dynamics(of_channel, report);
  add_sensor(of_channel, report);
  for (const auto& mark : s.operating_points) {
    if (!mark.clipped) continue;
    say(report.remarks, Tone::bad, "CLIPPED: {} is beyond the converter; it reads code {}",
        with_unit(exact(mark.at, channel.span.unit), channel.span.unit), mark.reported);
  }
  if (const auto& ramp = of_channel.ramp) {
    const auto& span = channel.span.unit;
    say(report.remarks, "ramp: at {} a second the reading moves by a step of {} every {}",
        amount(ramp->slope, span), amount(ramp->step, span),
        engineering(ramp->time_between_steps, unit("s"), 4));
  }
  if (const auto& sine = of_channel.sine) {
    say(report.remarks, sine->alias ? Tone::doubtful : Tone::plain,
        "sine: of {} there are {} conversions and {} readings a period; {} % of it is "
        "in the readings{}",
        engineering(sine->frequency, unit("Hz"), 4),
        fmt::format("{:.3g}", sine->conversions_per_period),
        fmt::format("{:.3g}", sine->readings_per_period),
        fmt::format("{:.3g}", 100.0 * sine->shown),
        sine->alias ? fmt::format(", which show it at {}", engineering(*sine->alias, unit("Hz"), 4))
                    : "");
  }
  return report;
}

}  // namespace tamlo::report
