// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "fields_zones.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/result/results.hpp"

// The fields of check and channel.
namespace tamlo::result {

template <>
struct Fields<check::LocatedFinding> : FieldsOf<check::LocatedFinding> {
  static constexpr Field list[] = {
      field("identifier", TAMLO_AT(identifier), "stable, docs/findings.md explains it"),
      field("severity", TAMLO_AT(severity), "how bad it is"),
      field("channel", TAMLO_AT(channel), "empty of what is not one channel's"),
      field("key", TAMLO_AT(key), "of the description, that it is about"),
      field("file", TAMLO_AT(file), "where that stands"),
      field("line", TAMLO_AT(line), "from 1"),
      field("column", TAMLO_AT(column), "from 1"),
      field("end_column", TAMLO_AT(end_column), "behind its last character; 0: in another line"),
      field("found", TAMLO_AT(found), "what is so, with its numbers"),
      field("why", TAMLO_AT(why), "why it matters"),
      field("remedy", TAMLO_AT(remedy), "what cures it, with a number"),
      field("changes", TAMLO_AT(changes),
            "the remedy as settings KEY=VALUE, where it is of these")};
};

template <>
struct Fields<check::Omission> : FieldsOf<check::Omission> {
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(channel), ""), field("key", TAMLO_AT(key), "where it would stand"),
      field("what", TAMLO_AT(what), "what is not said, and what follows")};
};

template <>
struct Fields<model::UsedPart> : FieldsOf<model::UsedPart> {
  static constexpr Field list[] = {
      field("section", TAMLO_AT(section), "of the board"),
      field("file", TAMLO_AT(file), "of the part"),
      field("keys", TAMLO_AT(keys), "that come from it"),
      field("overridden", TAMLO_AT(overridden), "keys that the board has itself")};
};

template <>
struct Fields<check::Examined> : FieldsOf<check::Examined> {
  static constexpr const char* command = "check";
  static constexpr Field list[] = {
      field("errors", TAMLO_GET(t.count(check::Severity::error)), ""),
      field("warnings", TAMLO_GET(t.count(check::Severity::warning)), ""),
      field("advice", TAMLO_GET(t.count(check::Severity::advice)), ""),
      field("checked", TAMLO_GET(t.channels.size()), "channels"),
      field("checked_quantities", TAMLO_GET(t.quantities.size()), "of several channels"),
      field("channels", TAMLO_AT(channels), "that were checked"),
      field("quantities", TAMLO_AT(quantities), "of several channels, that were checked"),
      field("findings", TAMLO_AT(findings), "errors first"),
      field("omissions", TAMLO_AT(omissions), "what the board does not say"),
      field("ideal", TAMLO_AT(ideal), "channels of which no part has a limit"),
      field("parts", TAMLO_AT(parts), "sections with keys from files of parts")};
};

template <>
struct Fields<chain::OperatingPoint> : FieldsOf<chain::OperatingPoint> {
  static constexpr Field list[] = {
      field("at", TAMLO_AT(at), quantity_value, "place of the quantity"),
      field("voltage", TAMLO_AT(voltage), in("V"), "at the pin"),
      field("code", TAMLO_AT(code), "of the converter"),
      field("reported", TAMLO_AT(reported), "the register value for that code"),
      field("clipped", TAMLO_AT(clipped), "the input lies beyond the codes"),
      field("reading", TAMLO_AT(reading), quantity_value, "that the firmware shows"),
      field("code_width", TAMLO_AT(code_width), difference, "of the converter"),
      field("step", TAMLO_AT(step), difference, "the smallest step of the reading"),
      field("convention_changes", TAMLO_AT(convention_changes), difference,
            "what the other count convention would add to the reading")};
};

template <>
struct Fields<chain::Timing> : FieldsOf<chain::Timing> {
  static constexpr Field list[] = {
      field("clock", TAMLO_AT(clock), in("Hz"), "of the converter; 0: not known"),
      field("sampling_time", TAMLO_AT(sampling_time), in("s"), ""),
      field("conversion_time", TAMLO_AT(conversion_time), in("s"), "with the sampling"),
      field("scan", TAMLO_AT(scan), "channels of the converter, in their order"),
      field("scan_period", TAMLO_AT(scan_period), in("s"), "of one round"),
      field("rate_limit", TAMLO_AT(rate_limit), in("Sa/s"), "what a channel can have at most"),
      field("rate", TAMLO_AT(rate), in("Sa/s"), "of this channel"),
      field("aggregate_rate", TAMLO_AT(aggregate_rate), in("Sa/s"), "of all channels"),
      field("busy", TAMLO_AT(busy), "part of the time that the converter is in use")};
};

template <>
struct Fields<chain::FilterFigures> : FieldsOf<chain::FilterFigures> {
  static constexpr Field list[] = {
      field("name", TAMLO_AT(name), "of the stage"),
      field("rate", TAMLO_AT(rate), "of what comes in"),
      field("output_rate", TAMLO_AT(output_rate), "of what comes out"),
      field("cutoff", TAMLO_AT(cutoff), in("Hz"),
            "where 3 dB are lost; parts of the rate without one"),
      field("noise_left", TAMLO_AT(noise_left), "part of the standard deviation of white noise"),
      field("delay", TAMLO_AT(delay), in("s"), "of slow signals; samples where no rate is known"),
      field("rejection_50_hz", TAMLO_AT(rejection_50_hz), unbounded_in("dB"),
            "none: rejected completely"),
      field("rejection_60_hz", TAMLO_AT(rejection_60_hz), unbounded_in("dB"),
            "none: rejected completely"),
      field("to_code", TAMLO_AT(to_code), "readings until a full step has settled to 1 LSB"),
      field("to_permille", TAMLO_AT(to_permille), "readings until it has settled to 0.1 %"),
      field("to_target", TAMLO_AT(to_target),
            "readings until it has settled to what the target allows")};
};

template <>
struct Fields<chain::Alias> : FieldsOf<chain::Alias> {
  static constexpr Field list[] = {
      field("frequency", TAMLO_AT(frequency), in("Hz"), "of what gets in"),
      field("appears_at", TAMLO_AT(appears_at), in("Hz"), "in the readings"),
      field("at_pin", TAMLO_AT(at_pin), in("V"), "amplitude"),
      field("analog", TAMLO_AT(analog), "part that the low-passes let through"),
      field("digital", TAMLO_AT(digital), "part that average and filter let through"),
      field("amplitude", TAMLO_AT(amplitude), difference, "in the reading")};
};

template <>
struct Fields<chain::Settling> : FieldsOf<chain::Settling> {
  static constexpr Field list[] = {
      field("time", TAMLO_AT(time), in("s"), "that the sampling switch is closed"),
      field("needed", TAMLO_AT(needed), unbounded_in("s"), "to half a code of a full step"),
      field("left_in_codes", TAMLO_AT(left_in_codes), in("LSB"), "of such a step"),
      field("time_constant", TAMLO_AT(time_constant), in("s"), "without a capacitor at the pin")};
};

template <>
struct Fields<chain::Dynamics> : FieldsOf<chain::Dynamics> {
  static constexpr Field list[] = {
      field("timing", TAMLO_AT(timing), "of the converter and this channel"),
      field("stages", TAMLO_AT(stages), "average and filter, stage by stage"),
      field("series", TAMLO_AT(series), "all stages together"),
      field("aliases", TAMLO_AT(aliases), "interference that gets in"),
      field("settling", TAMLO_AT(settling), "of the sampling capacitor"),
      field("analog_settling", TAMLO_AT(analog_settling), in("s"), "of low-passes and amplifiers"),
      field("latency", TAMLO_AT(latency), in("s"), "until a reading shows a step; 0: not known"),
      field("first_valid", TAMLO_AT(first_valid),
            "number of the first valid reading after a start"),
      field("mains_periods", TAMLO_AT(mains_periods), "in the window of the longest average"),
      field("mains_rejection", TAMLO_AT(mains_rejection), unbounded_in("dB"),
            "of the mains by the conversions that stand; null for what is taken out whole")};
};

template <>
struct Fields<budget::ChannelSettings> : FieldsOf<budget::ChannelSettings> {
  static Units units(const T& t) { return {.quantity = t.chain.channel.span.unit}; }
  static double celsius(double kelvin) { return quantity::in_unit(kelvin, quantity::unit("degC")); }
  static std::string ratio(const chain::Chain& chain) {
    for (const auto& attenuation : chain.converter.attenuations) {
      if (attenuation.name == chain.channel.attenuation)
        return quantity::to_string(attenuation.ratio);
    }
    return "";
  }
  static std::string limits(const model::Value& value) {
    return value.limits.empty() ? "" : quantity::to_string(value);
  }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(chain.channel.name), ""),
      field("unit", TAMLO_AT(chain.channel.span.unit), "of the quantity"),
      field("measures", TAMLO_AT(chain.channel.measures), "the quantity"),
      field("span_low", TAMLO_AT(chain.channel.span.low), quantity_value, ""),
      field("span_high", TAMLO_AT(chain.channel.span.high), quantity_value, ""),
      field("converter", TAMLO_AT(chain.converter.name), ""),
      field("input", TAMLO_AT(chain.channel.input), "of the converter; -1: none said"),
      field("reference", TAMLO_AT(chain.converter.reference), ""),
      field("attenuation", TAMLO_AT(chain.channel.attenuation), ""),
      field("attenuation_ratio", TAMLO_GET(ratio(t.chain)), "as the board has it"),
      field("architecture", TAMLO_AT(chain.converter.architecture), ""),
      field("resolution", TAMLO_AT(chain.converter.resolution), in("bit"), ""),
      field("first_transition", TAMLO_AT(chain.converter.first_transition), ""),
      field("convention", TAMLO_AT(chain.channel.scaling.convention), ""),
      field("signal_path", TAMLO_AT(settings.signal_path), "parts between the quantity and the converter"),
      field("source_resistance", TAMLO_AT(settings.source_resistance), in("ohm"), "that the pin sees at mid-span"),
      field("coding", TAMLO_AT(chain.converter.coding), ""),
      field("full_scale_range", TAMLO_AT(settings.full_scale_range), in("V"), ""),
      field("code_width", TAMLO_AT(settings.code_width), in("V"), ""),
      field("range_used", TAMLO_AT(settings.range_used), "part of the full-scale range that the span covers"),
      field("codes_used", TAMLO_AT(settings.codes_used), "between the ends of the span"),
      field("first_code", TAMLO_GET(chain::first_code(t.chain)), ""),
      field("last_code", TAMLO_AT(settings.last_code), ""),
      field("first_reported", TAMLO_AT(chain.report.first_reported), "lowest register value"),
      field("last_reported", TAMLO_AT(chain.report.last_reported), "highest register value"),
      field("values_occurring", TAMLO_AT(chain.report.occurring), "different register values"),
      field("codes_to_a_step", TAMLO_AT(chain.report.step), "codes that share a register value"),
      field("offset", TAMLO_GET(limits(t.chain.converter.offset)), "limits, as the board has them"),
      field("gain", TAMLO_GET(limits(t.chain.converter.gain)), "limits, as the board has them"),
      field("inl", TAMLO_GET(limits(t.chain.converter.inl)), "limits, as the board has them"),
      field("total_error", TAMLO_GET(limits(t.chain.converter.total_error)), "limits, as the board has them"),
      field("dnl", TAMLO_GET(limits(t.chain.converter.dnl)), "limits, as the board has them"),
      field("noise_in_codes", TAMLO_AT(settings.noise_in_codes), in("LSB"), "rms of one conversion at mid-span"),
      field("noise_after_average", TAMLO_AT(settings.noise_after_average), in("LSB"), "rms of a reading there, with its quantisation"),
      field("target", [](const T& t) {
            const auto& accuracy = t.chain.channel.target.accuracy;
            return accuracy ? std::optional(quantity::to_string(*accuracy)) : std::nullopt;
          }, "accuracy, as the board has it"),
      field("allowed", TAMLO_AT(settings.allowed), difference, "by the target, at the upper end of the span"),
      field("temperature_low", TAMLO_GET(celsius(t.chain.conditions.temperature.low)), in("degC"), ""),
      field("temperature_high", TAMLO_GET(celsius(t.chain.conditions.temperature.high)), in("degC"), ""),
      field("specified_at", TAMLO_GET(celsius(t.chain.conditions.specified_at)), in("degC"), "where the limits hold"),
      field("age", TAMLO_GET(quantity::in_unit(t.chain.conditions.age, quantity::unit("year"))), in("year"), ""),
      field("operating_points", TAMLO_AT(settings.operating_points), "low end, middle and high end of the span"),
      field("clock_divider", [](const T& t) {
            const auto& clock = t.chain.converter.clock;
            return clock ? std::optional(clock->divider) : std::nullopt;
          }, ""),
      field("data_rate", TAMLO_AT(chain.converter.data_rate), in("Sa/s"), "of a delta sigma converter"),
      field("sinc_order", TAMLO_AT(chain.converter.sinc_order), "of a delta sigma converter"),
      field("readings_per_sample", TAMLO_GET(1.0 / chain::decimation(t.chain.firmware.digital)), "that average and filter leave"),
      field("dynamics", TAMLO_AT(dynamics), "in time"), field("threshold", TAMLO_AT(threshold), ""),
      field("zone_edges", TAMLO_AT(zone_edges), "between the channel's zones"),
      field("zones", TAMLO_AT(zones), "that the firmware tells apart"),
      field("ramp", TAMLO_AT(ramp), "how the reading follows a moving quantity"),
      field("sine", TAMLO_AT(sine), "what is left of a sine in the readings"),
      field("loop", TAMLO_AT(settings.loop), "levels of a current loop"),
      field("loop_left", TAMLO_AT(settings.loop_left), in("V"), "left for the wires at 21 mA"),
      field("bias_resistor", TAMLO_AT(settings.bias_resistor), "of a resistive sensor"),
      field("integer_bits", [](const T& t) {
            const auto& integer = t.chain.channel.scaling.integer;
            return integer ? std::optional(integer->bits) : std::nullopt;
          }, in("bit"), "of a firmware that scales in integers"),
      field("arithmetic_error", TAMLO_AT(settings.arithmetic_error), difference, "largest, of the firmware's integers over all codes"),
      field("defaults", TAMLO_AT(chain.channel.defaults), "keys that the board leaves out")};
};

template <>
struct Fields<ChannelsSettings> : FieldsOf<ChannelsSettings> {
  static constexpr const char* command = "channel";
  static constexpr Field list[] = {field("channels", TAMLO_AT(channels), "")};
};

}  // namespace tamlo::result
