// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "fields_zones.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/result/results.hpp"

// The fields of check and channel.
namespace tamlo::result {

template <>
struct Fields<FoundAt> : FieldsOf<FoundAt> {
  static constexpr Field list[] = {
      field("identifier", TAMLO_GET(t.identifier), "stable, docs/findings.md explains it"),
      field("severity", TAMLO_GET(t.severity), "how bad it is"),
      field("channel", TAMLO_GET(t.channel), "empty of what is not one channel's"),
      field("key", TAMLO_GET(t.key), "of the description, that it is about"),
      field("file", TAMLO_GET(t.file), "where that stands"),
      field("line", TAMLO_GET(t.line), "from 1"),
      field("column", TAMLO_GET(t.column), "from 1"),
      field("end_column", TAMLO_GET(t.end_column), "behind its last character; 0: in another line"),
      field("found", TAMLO_GET(t.found), "what is so, with its numbers"),
      field("why", TAMLO_GET(t.why), "why it matters"),
      field("remedy", TAMLO_GET(t.remedy), "what cures it, with a number")};
};

template <>
struct Fields<check::Omission> : FieldsOf<check::Omission> {
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.channel), ""),
      field("key", TAMLO_GET(t.key), "where it would stand"),
      field("what", TAMLO_GET(t.what), "what is not said, and what follows")};
};

template <>
struct Fields<Check> : FieldsOf<Check> {
  static constexpr Field list[] = {
      field("errors", TAMLO_GET(t.count(check::Severity::error)), ""),
      field("warnings", TAMLO_GET(t.count(check::Severity::warning)), ""),
      field("advice", TAMLO_GET(t.count(check::Severity::advice)), ""),
      field("checked", TAMLO_GET(t.channels.size()), "channels"),
      field("channels", TAMLO_GET(t.channels), "that were checked"),
      field("findings", TAMLO_GET(t.findings), "errors first"),
      field("omissions", TAMLO_GET(t.omissions), "what the board does not say"),
      field("ideal", TAMLO_GET(t.ideal), "channels of which no part has a limit")};
};

template <>
struct Fields<chain::OperatingPoint> : FieldsOf<chain::OperatingPoint> {
  static constexpr Field list[] = {
      field("at", TAMLO_GET(t.at), quantity_value, "place of the quantity"),
      field("voltage", TAMLO_GET(t.voltage), in("V"), "at the pin"),
      field("code", TAMLO_GET(t.code), "of the converter"),
      field("reported", TAMLO_GET(t.reported), "the register value for that code"),
      field("clipped", TAMLO_GET(t.clipped), "the input lies beyond the codes"),
      field("reading", TAMLO_GET(t.reading), quantity_value, "that the firmware shows"),
      field("code_width", TAMLO_GET(t.code_width), difference, "of the converter"),
      field("step", TAMLO_GET(t.step), difference, "the smallest step of the reading"),
      field("convention_changes", TAMLO_GET(t.convention_changes), difference,
            "what the other count convention would add to the reading")};
};

template <>
struct Fields<chain::Timing> : FieldsOf<chain::Timing> {
  static constexpr Field list[] = {
      field("clock", TAMLO_GET(t.clock), in("Hz"), "of the converter; 0: not known"),
      field("sampling_time", TAMLO_GET(t.sampling_time), in("s"), ""),
      field("conversion_time", TAMLO_GET(t.conversion_time), in("s"), "with the sampling"),
      field("scan", TAMLO_GET(t.scan), "channels of the converter, in their order"),
      field("scan_period", TAMLO_GET(t.scan_period), in("s"), "of one round"),
      field("rate_limit", TAMLO_GET(t.rate_limit), in("Sa/s"), "what a channel can have at most"),
      field("rate", TAMLO_GET(t.rate), in("Sa/s"), "of this channel"),
      field("aggregate_rate", TAMLO_GET(t.aggregate_rate), in("Sa/s"), "of all channels"),
      field("busy", TAMLO_GET(t.busy), "part of the time that the converter is in use")};
};

template <>
struct Fields<chain::FilterFigures> : FieldsOf<chain::FilterFigures> {
  static constexpr Field list[] = {
      field("name", TAMLO_GET(t.name), "of the stage"),
      field("rate", TAMLO_GET(t.rate), "of what comes in"),
      field("output_rate", TAMLO_GET(t.output_rate), "of what comes out"),
      field("cutoff", TAMLO_GET(t.cutoff), in("Hz"),
            "where 3 dB are lost; parts of the rate without one"),
      field("noise_left", TAMLO_GET(t.noise_left), "part of the standard deviation of white noise"),
      field("delay", TAMLO_GET(t.delay), in("s"),
            "of slow signals; samples where no rate is known"),
      field("rejection_50_hz", TAMLO_GET(t.rejection_50_hz), unbounded_in("dB"),
            "none: rejected completely"),
      field("rejection_60_hz", TAMLO_GET(t.rejection_60_hz), unbounded_in("dB"),
            "none: rejected completely"),
      field("to_code", TAMLO_GET(t.to_code), "readings until a full step has settled to 1 LSB"),
      field("to_permille", TAMLO_GET(t.to_permille), "readings until it has settled to 0.1 %"),
      field("to_target", TAMLO_GET(t.to_target),
            "readings until it has settled to what the target allows")};
};

template <>
struct Fields<chain::Alias> : FieldsOf<chain::Alias> {
  static constexpr Field list[] = {
      field("frequency", TAMLO_GET(t.frequency), in("Hz"), "of what gets in"),
      field("appears_at", TAMLO_GET(t.appears_at), in("Hz"), "in the readings"),
      field("at_pin", TAMLO_GET(t.at_pin), in("V"), "amplitude"),
      field("analog", TAMLO_GET(t.analog), "part that the low-passes let through"),
      field("digital", TAMLO_GET(t.digital), "part that average and filter let through"),
      field("amplitude", TAMLO_GET(t.amplitude), difference, "in the reading")};
};

template <>
struct Fields<chain::Settling> : FieldsOf<chain::Settling> {
  static constexpr Field list[] = {
      field("time", TAMLO_GET(t.time), in("s"), "that the sampling switch is closed"),
      field("needed", TAMLO_GET(t.needed), unbounded_in("s"), "to half a code of a full step"),
      field("left_in_codes", TAMLO_GET(t.left_in_codes), in("LSB"), "of such a step"),
      field("time_constant", TAMLO_GET(t.time_constant), in("s"),
            "without a capacitor at the pin")};
};

template <>
struct Fields<chain::Dynamics> : FieldsOf<chain::Dynamics> {
  static constexpr Field list[] = {
      field("timing", TAMLO_GET(t.timing), "of the converter and this channel"),
      field("stages", TAMLO_GET(t.stages), "average and filter, stage by stage"),
      field("series", TAMLO_GET(t.series), "all stages together"),
      field("aliases", TAMLO_GET(t.aliases), "interference that gets in"),
      field("settling", TAMLO_GET(t.settling), "of the sampling capacitor"),
      field("analog_settling", TAMLO_GET(t.analog_settling), in("s"), "of the low-passes alone"),
      field("latency", TAMLO_GET(t.latency), in("s"), "until a reading shows a step; 0: not known"),
      field("first_valid", TAMLO_GET(t.first_valid),
            "number of the first valid reading after a start"),
      field("mains_periods", TAMLO_GET(t.mains_periods), "in the window of the longest average"),
      field("mains_rejection", TAMLO_GET(t.mains_rejection), unbounded_in("dB"),
            "of the mains by the conversions that stand; null for what is taken out whole")};
};

template <>
struct Fields<ChannelSettings> : FieldsOf<ChannelSettings> {
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
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.chain.channel.name), ""),
      field("unit", TAMLO_GET(t.chain.channel.span.unit), "of the quantity"),
      field("measures", TAMLO_GET(t.chain.channel.measures), "the quantity"),
      field("span_low", TAMLO_GET(t.chain.channel.span.low), quantity_value, ""),
      field("span_high", TAMLO_GET(t.chain.channel.span.high), quantity_value, ""),
      field("converter", TAMLO_GET(t.chain.converter.name), ""),
      field("input", TAMLO_GET(t.chain.channel.input), "of the converter; -1: none said"),
      field("reference", TAMLO_GET(t.chain.converter.reference), ""),
      field("attenuation", TAMLO_GET(t.chain.channel.attenuation), ""),
      field("attenuation_ratio", TAMLO_GET(ratio(t.chain)), "as the board has it"),
      field("architecture", TAMLO_GET(t.chain.converter.architecture), ""),
      field("resolution", TAMLO_GET(t.chain.converter.resolution), in("bit"), ""),
      field("first_transition", TAMLO_GET(t.chain.converter.first_transition), ""),
      field("convention", TAMLO_GET(t.chain.channel.scaling.convention), ""),
      field("signal_path", TAMLO_GET(t.settings.signal_path), "parts between the quantity and the converter"),
      field("source_resistance", TAMLO_GET(t.settings.source_resistance), in("ohm"), "that the pin sees at mid-span"),
      field("coding", TAMLO_GET(t.chain.converter.coding), ""),
      field("full_scale_range", TAMLO_GET(t.settings.full_scale_range), in("V"), ""),
      field("code_width", TAMLO_GET(t.settings.code_width), in("V"), ""),
      field("range_used", TAMLO_GET(t.settings.range_used), "part of the full-scale range that the span covers"),
      field("codes_used", TAMLO_GET(t.settings.codes_used), "between the ends of the span"),
      field("first_code", TAMLO_GET(chain::first_code(t.chain)), ""),
      field("last_code", TAMLO_GET(t.settings.last_code), ""),
      field("first_reported", TAMLO_GET(t.chain.report.first_reported), "lowest register value"),
      field("last_reported", TAMLO_GET(t.chain.report.last_reported), "highest register value"),
      field("values_occurring", TAMLO_GET(t.chain.report.occurring), "different register values"),
      field("codes_to_a_step", TAMLO_GET(t.chain.report.step), "codes that share a register value"),
      field("offset", TAMLO_GET(limits(t.chain.converter.offset)), "limits, as the board has them"),
      field("gain", TAMLO_GET(limits(t.chain.converter.gain)), "limits, as the board has them"),
      field("inl", TAMLO_GET(limits(t.chain.converter.inl)), "limits, as the board has them"),
      field("dnl", TAMLO_GET(limits(t.chain.converter.dnl)), "limits, as the board has them"),
      field("noise_in_codes", TAMLO_GET(t.settings.noise_in_codes), in("LSB"), "rms of one conversion at mid-span"),
      field("noise_after_average", TAMLO_GET(t.settings.noise_after_average), in("LSB"), "rms of a reading there, with its quantisation"),
      field("target", [](const T& t) {
            const auto& accuracy = t.chain.channel.target.accuracy;
            return accuracy ? std::optional(quantity::to_string(*accuracy)) : std::nullopt;
          }, "accuracy, as the board has it"),
      field("allowed", TAMLO_GET(t.settings.allowed), difference, "by the target, at the upper end of the span"),
      field("temperature_low", TAMLO_GET(celsius(t.chain.conditions.temperature.low)), in("degC"), ""),
      field("temperature_high", TAMLO_GET(celsius(t.chain.conditions.temperature.high)), in("degC"), ""),
      field("specified_at", TAMLO_GET(celsius(t.chain.conditions.specified_at)), in("degC"), "where the limits hold"),
      field("age", TAMLO_GET(quantity::in_unit(t.chain.conditions.age, quantity::unit("year"))), in("year"), ""),
      field("operating_points", TAMLO_GET(t.settings.operating_points), "low end, middle and high end of the span"),
      field("clock_divider", [](const T& t) {
            const auto& clock = t.chain.converter.clock;
            return clock ? std::optional(clock->divider) : std::nullopt;
          }, ""),
      field("data_rate", TAMLO_GET(t.chain.converter.data_rate), in("Sa/s"), "of a delta sigma converter"),
      field("sinc_order", TAMLO_GET(t.chain.converter.sinc_order), "of a delta sigma converter"),
      field("readings_per_sample", TAMLO_GET(1.0 / chain::decimation(t.chain.firmware.digital)), "that average and filter leave"),
      field("dynamics", TAMLO_GET(t.dynamics), "in time"), field("threshold", TAMLO_GET(t.threshold), ""),
      field("zone_edges", TAMLO_GET(t.zone_edges), "between the channel's zones"),
      field("zones", TAMLO_GET(t.zones), "that the firmware tells apart"),
      field("ramp", TAMLO_GET(t.ramp), "how the reading follows a moving quantity"),
      field("sine", TAMLO_GET(t.sine), "what is left of a sine in the readings"),
      field("loop", TAMLO_GET(t.settings.loop), "levels of a current loop"),
      field("loop_left", TAMLO_GET(t.settings.loop_left), in("V"), "left for the wires at 21 mA"),
      field("bias_resistor", TAMLO_GET(t.settings.bias_resistor), "of a resistive sensor"),
      field("integer_bits", [](const T& t) {
            const auto& integer = t.chain.channel.scaling.integer;
            return integer ? std::optional(integer->bits) : std::nullopt;
          }, in("bit"), "of a firmware that scales in integers"),
      field("arithmetic_error", TAMLO_GET(t.settings.arithmetic_error), difference, "largest, of the firmware's integers over all codes"),
      field("defaults", TAMLO_GET(t.chain.channel.defaults), "keys that the board leaves out")};
};

template <>
struct Fields<Settings> : FieldsOf<Settings> {
  static constexpr Field list[] = {field("channels", TAMLO_GET(t.channels), "")};
};

}  // namespace tamlo::result
