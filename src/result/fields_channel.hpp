// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "fields_zones.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/result/results.hpp"

// The fields of check and channel.
namespace tamlo::result {

template <>
struct Fields<FoundAt> {
  using T = FoundAt;
  static constexpr auto list = std::make_tuple(
      field("identifier", &T::identifier, "stable, docs/findings.md explains it"),
      field("severity", &T::severity, "how bad it is"),
      field("channel", &T::channel, "empty of what is not one channel's"),
      field("key", &T::key, "of the description, that it is about"),
      field("file", &T::file, "where that stands"), field("line", &T::line, "from 1"),
      field("column", &T::column, "from 1"),
      field("end_column", &T::end_column, "behind its last character; 0: in another line"),
      field("found", &T::found, "what is so, with its numbers"),
      field("why", &T::why, "why it matters"),
      field("remedy", &T::remedy, "what cures it, with a number"));
};

template <>
struct Fields<check::Omission> {
  using T = check::Omission;
  static constexpr auto list = std::make_tuple(
      field("channel", &T::channel, ""), field("key", &T::key, "where it would stand"),
      field("what", &T::what, "what is not said, and what follows"));
};

template <>
struct Fields<Check> {
  static constexpr auto list = std::make_tuple(
      field(
          "errors", [](const Check& t) { return t.count(check::Severity::error); }, ""),
      field(
          "warnings", [](const Check& t) { return t.count(check::Severity::warning); }, ""),
      field(
          "advice", [](const Check& t) { return t.count(check::Severity::advice); }, ""),
      field(
          "checked", [](const Check& t) { return t.channels.size(); }, "channels"),
      field("channels", &Check::channels, "that were checked"),
      field("findings", &Check::findings, "errors first"),
      field("omissions", &Check::omissions, "what the board does not say"),
      field("ideal", &Check::ideal, "channels of which no part has a limit"));
};

template <>
struct Fields<chain::OperatingPoint> {
  using T = chain::OperatingPoint;
  static constexpr auto list =
      std::make_tuple(field("at", &T::at, quantity_value, "place of the quantity"),
                      field("voltage", &T::voltage, in("V"), "at the pin"),
                      field("code", &T::code, "of the converter"),
                      field("reported", &T::reported, "the register value for that code"),
                      field("clipped", &T::clipped, "the input lies beyond the codes"),
                      field("reading", &T::reading, quantity_value, "that the firmware shows"),
                      field("code_width", &T::code_width, difference, "of the converter"),
                      field("step", &T::step, difference, "the smallest step of the reading"),
                      field("convention_changes", &T::convention_changes, difference,
                            "what the other count convention would add to the reading"));
};

template <>
struct Fields<chain::Timing> {
  using T = chain::Timing;
  static constexpr auto list = std::make_tuple(
      field("clock", &T::clock, in("Hz"), "of the converter; 0: not known"),
      field("sampling_time", &T::sampling_time, in("s"), ""),
      field("conversion_time", &T::conversion_time, in("s"), "with the sampling"),
      field("scan", &T::scan, "channels of the converter, in their order"),
      field("scan_period", &T::scan_period, in("s"), "of one round"),
      field("rate_limit", &T::rate_limit, in("Sa/s"), "what a channel can have at most"),
      field("rate", &T::rate, in("Sa/s"), "of this channel"),
      field("aggregate_rate", &T::aggregate_rate, in("Sa/s"), "of all channels"),
      field("busy", &T::busy, "part of the time that the converter is in use"));
};

template <>
struct Fields<chain::FilterFigures> {
  using T = chain::FilterFigures;
  static constexpr auto list = std::make_tuple(
      field("name", &T::name, "of the stage"), field("rate", &T::rate, "of what comes in"),
      field("output_rate", &T::output_rate, "of what comes out"),
      field("cutoff", &T::cutoff, in("Hz"), "where 3 dB are lost; parts of the rate without one"),
      field("noise_left", &T::noise_left, "part of the standard deviation of white noise"),
      field("delay", &T::delay, in("s"), "of slow signals; samples where no rate is known"),
      field("rejection_50_hz", &T::rejection_50_hz, unbounded_in("dB"),
            "none: rejected completely"),
      field("rejection_60_hz", &T::rejection_60_hz, unbounded_in("dB"),
            "none: rejected completely"),
      field("to_code", &T::to_code, "readings until a full step has settled to 1 LSB"),
      field("to_permille", &T::to_permille, "readings until it has settled to 0.1 %"),
      field("to_target", &T::to_target, "readings until it has settled to what the target allows"));
};

template <>
struct Fields<chain::Alias> {
  using T = chain::Alias;
  static constexpr auto list =
      std::make_tuple(field("frequency", &T::frequency, in("Hz"), "of what gets in"),
                      field("appears_at", &T::appears_at, in("Hz"), "in the readings"),
                      field("at_pin", &T::at_pin, in("V"), "amplitude"),
                      field("analog", &T::analog, "part that the low-passes let through"),
                      field("digital", &T::digital, "part that average and filter let through"),
                      field("amplitude", &T::amplitude, difference, "in the reading"));
};

template <>
struct Fields<chain::Settling> {
  using T = chain::Settling;
  static constexpr auto list = std::make_tuple(
      field("time", &T::time, in("s"), "that the sampling switch is closed"),
      field("needed", &T::needed, unbounded_in("s"), "to half a code of a full step"),
      field("left_in_codes", &T::left_in_codes, in("LSB"), "of such a step"),
      field("time_constant", &T::time_constant, in("s"), "without a capacitor at the pin"));
};

template <>
struct Fields<chain::Dynamics> {
  using T = chain::Dynamics;
  static constexpr auto list = std::make_tuple(
      field("timing", &T::timing, "of the converter and this channel"),
      field("stages", &T::stages, "average and filter, stage by stage"),
      field("series", &T::series, "all stages together"),
      field("aliases", &T::aliases, "interference that gets in"),
      field("settling", &T::settling, "of the sampling capacitor"),
      field("analog_settling", &T::analog_settling, in("s"), "of the low-passes alone"),
      field("latency", &T::latency, in("s"), "until a reading shows a step; 0: not known"),
      field("first_valid", &T::first_valid, "number of the first valid reading after a start"),
      field("mains_periods", &T::mains_periods, "in the window of the longest average"),
      field("mains_rejection", &T::mains_rejection, unbounded_in("dB"),
            "of the mains by the conversions that stand; null for what is taken out whole"));
};

template <>
struct Fields<ChannelSettings> {
  using T = ChannelSettings;
  static Units units(const T& t) { return {.quantity = t.chain.channel.span.unit}; }
  static double celsius(double kelvin) { return quantity::in_unit(kelvin, quantity::unit("degC")); }
  static std::string ratio(const chain::Chain& chain) {
    for (const auto& of : chain.converter.attenuations) {
      if (of.name == chain.channel.attenuation) return quantity::to_string(of.ratio);
    }
    return "";
  }
  static std::string limits(const model::Value& value) {
    return value.limits.empty() ? "" : quantity::to_string(value);
  }
  static constexpr auto list = std::make_tuple(
      field(
          "channel", [](const T& t) { return t.chain.channel.name; }, ""),
      field(
          "unit", [](const T& t) { return t.chain.channel.span.unit; }, "of the quantity"),
      field(
          "measures", [](const T& t) { return t.chain.channel.measures; }, "the quantity"),
      field(
          "span_low", [](const T& t) { return t.chain.channel.span.low; }, quantity_value, ""),
      field(
          "span_high", [](const T& t) { return t.chain.channel.span.high; }, quantity_value, ""),
      field(
          "converter", [](const T& t) { return t.chain.converter.name; }, ""),
      field(
          "input", [](const T& t) { return t.chain.channel.input; },
          "of the converter; -1: none said"),
      field(
          "reference", [](const T& t) { return t.chain.converter.reference; }, ""),
      field(
          "attenuation", [](const T& t) { return t.chain.channel.attenuation; }, ""),
      field(
          "attenuation_ratio", [](const T& t) { return ratio(t.chain); }, "as the board has it"),
      field(
          "architecture", [](const T& t) { return t.chain.converter.architecture; }, ""),
      field(
          "resolution", [](const T& t) { return t.chain.converter.resolution; }, in("bit"), ""),
      field(
          "first_transition", [](const T& t) { return t.chain.converter.first_transition; }, ""),
      field(
          "convention", [](const T& t) { return t.chain.channel.scaling.convention; }, ""),
      field(
          "signal_path", [](const T& t) { return t.settings.signal_path; },
          "parts between the quantity and the converter"),
      field(
          "source_resistance", [](const T& t) { return t.settings.source_resistance; }, in("ohm"),
          "that the pin sees at mid-span"),
      field(
          "coding", [](const T& t) { return t.chain.converter.coding; }, ""),
      field(
          "full_scale_range", [](const T& t) { return t.settings.full_scale_range; }, in("V"), ""),
      field(
          "code_width", [](const T& t) { return t.settings.code_width; }, in("V"), ""),
      field(
          "range_used", [](const T& t) { return t.settings.range_used; },
          "part of the full-scale range that the span covers"),
      field(
          "codes_used", [](const T& t) { return t.settings.codes_used; },
          "between the ends of the span"),
      field(
          "first_code", [](const T& t) { return chain::first_code(t.chain); }, ""),
      field(
          "last_code", [](const T& t) { return t.settings.last_code; }, ""),
      field(
          "first_reported", [](const T& t) { return t.chain.report.first_reported; },
          "lowest register value"),
      field(
          "last_reported", [](const T& t) { return t.chain.report.last_reported; },
          "highest register value"),
      field(
          "values_occurring", [](const T& t) { return t.chain.report.occurring; },
          "different register values"),
      field(
          "codes_to_a_step", [](const T& t) { return t.chain.report.step; },
          "codes that share a register value"),
      field(
          "offset", [](const T& t) { return limits(t.chain.converter.offset); },
          "limits, as the board has them"),
      field(
          "gain", [](const T& t) { return limits(t.chain.converter.gain); },
          "limits, as the board has them"),
      field(
          "inl", [](const T& t) { return limits(t.chain.converter.inl); },
          "limits, as the board has them"),
      field(
          "dnl", [](const T& t) { return limits(t.chain.converter.dnl); },
          "limits, as the board has them"),
      field(
          "noise_in_codes", [](const T& t) { return t.settings.noise_in_codes; }, in("LSB"),
          "rms of one conversion at mid-span"),
      field(
          "noise_after_average", [](const T& t) { return t.settings.noise_after_average; },
          in("LSB"), "rms of a reading there, with its quantisation"),
      field(
          "target",
          [](const T& t) {
            const auto& accuracy = t.chain.channel.target.accuracy;
            return accuracy ? std::optional(quantity::to_string(*accuracy)) : std::nullopt;
          },
          "accuracy, as the board has it"),
      field(
          "allowed", [](const T& t) { return t.settings.allowed; }, difference,
          "by the target, at the upper end of the span"),
      field(
          "temperature_low", [](const T& t) { return celsius(t.chain.conditions.temperature.low); },
          in("degC"), ""),
      field(
          "temperature_high",
          [](const T& t) { return celsius(t.chain.conditions.temperature.high); }, in("degC"), ""),
      field(
          "specified_at", [](const T& t) { return celsius(t.chain.conditions.specified_at); },
          in("degC"), "where the limits hold"),
      field(
          "age",
          [](const T& t) {
            return quantity::in_unit(t.chain.conditions.age, quantity::unit("year"));
          },
          in("year"), ""),
      field(
          "operating_points", [](const T& t) { return t.settings.operating_points; },
          "low end, middle and high end of the span"),
      field(
          "clock_divider",
          [](const T& t) {
            const auto& clock = t.chain.converter.clock;
            return clock ? std::optional(clock->divider) : std::nullopt;
          },
          ""),
      field(
          "data_rate", [](const T& t) { return t.chain.converter.data_rate; }, in("Sa/s"),
          "of a delta sigma converter"),
      field(
          "sinc_order", [](const T& t) { return t.chain.converter.sinc_order; },
          "of a delta sigma converter"),
      field(
          "readings_per_sample",
          [](const T& t) { return 1.0 / chain::decimation(t.chain.firmware.digital); },
          "that average and filter leave"),
      field("dynamics", &T::dynamics, "in time"), field("threshold", &T::threshold, ""),
      field("zone_edges", &T::zone_edges, "between the channel's zones"),
      field("zones", &T::zones, "that the firmware tells apart"),
      field("ramp", &T::ramp, "how the reading follows a moving quantity"),
      field("sine", &T::sine, "what is left of a sine in the readings"),
      field(
          "loop", [](const T& t) { return t.settings.loop; }, "levels of a current loop"),
      field(
          "loop_left", [](const T& t) { return t.settings.loop_left; }, in("V"),
          "left for the wires at 21 mA"),
      field(
          "bias_resistor", [](const T& t) { return t.settings.bias_resistor; },
          "of a resistive sensor"),
      field(
          "integer_bits",
          [](const T& t) {
            const auto& integer = t.chain.channel.scaling.integer;
            return integer ? std::optional(integer->bits) : std::nullopt;
          },
          in("bit"), "of a firmware that scales in integers"),
      field(
          "arithmetic_error", [](const T& t) { return t.settings.arithmetic_error; }, difference,
          "largest, of the firmware's integers over all codes"),
      field(
          "defaults", [](const T& t) { return t.chain.channel.defaults; },
          "keys that the board leaves out"));
};

template <>
struct Fields<Settings> {
  static constexpr auto list = std::make_tuple(field("channels", &Settings::channels, ""));
};

}  // namespace tamlo::result
