// SPDX-License-Identifier: Apache-2.0
// Keys of a converter.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "findings.hpp"
#include "key_rows.hpp"

namespace tamlo::model {
namespace {

// An error of a converter: volts, LSB, or a part of the full-scale range.
const std::vector<Basis> error{Basis::absolute, Basis::relative, Basis::code};

const Keys& clock_keys() {
  static const Keys keys{{
      plain("source", "Hz", at<&Clock::source>)
          .above_zero()
          .needed("the clock before the divider, such as \"80 MHz\"")
          .means("clock before the divider"),
      integer("divider", 1, 1 << 20, at<&Clock::divider>).means("what it is divided by", "1"),
      numbers("dividers", at<&Clock::dividers>)
          .within({.low = 1.0, .high = 1 << 20, .text = "whole numbers above 0", .whole = true})
          .means("the dividers that the hardware has", "every whole number"),
      range("limits", "Hz", at<&Clock::limits>)
          .above_zero()
          .means("limits of the converter's clock, `\"0.5..12 MHz\"`", "none"),
  }};
  return keys;
}

constexpr std::int64_t most_count = std::int64_t{1} << 40;

const Keys& counts_keys() {
  static const Keys keys{
      {
          integer("at_low", -most_count, most_count, at<&RegisterFormat::at_low>)
              .needed("the counts at the ends of the span, such as 0 and 20000")
              .means("counts at the low end of the channel's span"),
          integer("at_high", -most_count, most_count, at<&RegisterFormat::at_high>)
              .needed("the counts at the ends of the span, such as 0 and 20000")
              .means("counts at its high end"),
          integer("least", -most_count, most_count, at<&RegisterFormat::least>)
              .means("smallest count that is reported", "any"),
          integer("most", -most_count, most_count, at<&RegisterFormat::most>)
              .means("largest count that is reported", "any"),
      },
      +[](const RegisterFormat& format, const Place& place) {
        if (format.at_low >= format.at_high) {
          place.add("at_high", "counts that do not rise", "at_high above at_low");
        } else if (format.least > format.at_low) {
          place.add("least", "a least count above at_low", "at most at_low");
        } else if (format.most < format.at_high) {
          place.add("most", "a largest count below at_high", "at least at_high");
        }
      }};
  return keys;
}

}  // namespace

const Keys& attenuation_keys() {
  static const Keys keys{{
      value("ratio", "", at<&Attenuation::ratio>)
          .above_zero()
          .needed("the part of the pin's voltage that is converted, such as \"0.25 ±0.3 %\"")
          .means("part of the pin's voltage that is converted"),
      range("usable", "V", at<&Attenuation::usable>)
          .needed("the voltages at the pin that it serves, such as \"0..9.6 V\"")
          .means("voltages at the pin that it serves"),
      limits("inl", "V", error, at<&Attenuation::inl>)
          .means("takes the place of the converter's", "that of the converter"),
  }};
  return keys;
}

const Keys& report_keys() {
  static const Keys keys{{
      choice("align", {"right", "left"}, nullptr)
          .with_own_reader()
          .means("`{ align = \"right\", word = \"16 bit\" }`: the code; with `\"left\"` the code, "
                 "shifted to the top of the word"),
      plain("word", "bit", nullptr).with_own_reader().means("width of the word, beside `align`"),
      plain("widen", "bit", nullptr)
          .with_own_reader()
          .means("`{ widen = \"16 bit\" }`: the code with its high bits again below it"),
      integer("drop", 1, 31, nullptr)
          .with_own_reader()
          .means("`{ drop = 2 }`: the code without its lowest two bits"),
      integer("divide", 2, std::int64_t{1} << 31, nullptr)
          .with_own_reader()
          .means("`{ divide = 16 }`: the code divided by a whole number, toward zero"),
      table("counts", {.keys = counts_keys})
          .with_own_reader()
          .means("`{ counts = { at_low = 4000, at_high = 20000, least = 0, most = 22800 } }`: "
                 "counts, held between least and most"),
  }};
  return keys;
}

const Keys& converter_keys() {
  static const Keys keys{
      {
          text("use", nullptr)
              .with_own_reader()
              .means("a file with keys of a converter, `\"parts/sar_12bit.toml\"`; keys that stand "
                     "here win",
                     "none"),
          plain("resolution", "bit", at<&Converter::resolution>)
              .within({.low = 1.0, .high = 32.0, .text = "from 1 bit to 32 bit"})
              .needed("a resolution, such as \"12 bit\"")
              .means("`\"1 bit\"` to `\"32 bit\"`"),
          name_in_section("reference", "reference", at<&Converter::reference>)
              .needed("the name of a [reference] of this board")
              .means("reference whose voltage is the full-scale range"),
          choice("coding", names_of<Coding>(), at<&Converter::coding>)
              .means("`\"straight binary\"`, `\"offset binary\"` (from 0) or `\"two's "
                     "complement\"` (from −2^(N−1))",
                     "`\"straight binary\"`"),
          name_in_section("negative_reference", "reference", at<&Converter::negative_reference>)
              .means("a reference at the low end of the range", "the low end is 0 V"),
          range("input_range", "V", at<&Converter::input_range>)
              .means("range at the nominal reference, `\"-10..10 V\"`; it follows the reference",
                     "0 V to the reference"),
          limits("leakage", "A", {Basis::absolute}, at<&Converter::leakage>)
              .means("of the pin, `\"±50 nA\"`; it flows through the resistance of what drives "
                     "the pin",
                     "none"),
          choice("first_transition", names_of<FirstTransition>(), at<&Converter::first_transition>)
              .means("`\"0.5 LSB\"` (the converter rounds) or `\"1 LSB\"` (it truncates)",
                     "`\"0.5 LSB\"`"),
          limits("offset", "V", error, at<&Converter::offset>)
              .means("error at zero; relative limits are parts of the full-scale range", "none"),
          limits("gain", "V", error, at<&Converter::gain>)
              .means("error at full scale without the offset, in proportion to the code", "none"),
          limits("inl", "V", error, at<&Converter::inl>).means("integral nonlinearity", "none"),
          limits("total_error", "V", error, at<&Converter::total_error>)
              .means(
                  "total unadjusted error: the largest error of a code as delivered, in place of "
                  "`offset`, `gain` and `inl`. It may differ from code to code, so no adjustment "
                  "is taken to remove it",
                  "none"),
          text("inl_table", nullptr)
              .with_own_reader()
              .means("measured INL, a CSV file beside the board: `code, inl [LSB]`. It is a bias "
                     "that the firmware does not correct; `inl` is then its uncertainty",
                     "none"),
          limits("dnl", "V", error, at<&Converter::dnl>).means("differential nonlinearity", "none"),
          noise("noise", "V", {Basis::absolute, Basis::code, Basis::relative},
                at<&Converter::noise>)
              .means("input-referred, of one conversion: `\"0.6 LSB rms\"`, `\"350 uV rms\"` or "
                     "`\"2.3 mVpp\"` (6.6 rms); of the full-scale range `\"3 ppm rms\"`, `\"18.5 "
                     "bit noise-free\"` (log2 of the range over 6.6 rms) or `\"21.2 bit "
                     "effective\"` (over the rms); with the steps of the codes, which are then "
                     "taken off, `\"72 dB SNR\"`, `\"71 dB SINAD\"` or `\"11.4 bit ENOB\"`, of "
                     "which the last two hold distortion that counts as noise",
                     "none"),
          range("input_limit", "V", at<&Converter::input_limit>)
              .means("absolute maximum input range", "none"),
          entries("attenuation", inner<&Converter::attenuations>(attenuation_keys))
              .means("attenuations that can be chosen inside the converter", "none"),
          choice("architecture", {"sar", "delta sigma", "other"}, at<&Converter::architecture>)
              .means("how it converts", "`\"sar\"`"),
          table("clock", inner<&Converter::clock>(clock_keys))
              .means("`{ source = \"80 MHz\", divider = 8, limits = \"0.5..12 MHz\", dividers = "
                     "[1, 2, 4, 8] }`",
                     "none: no times"),
          plain("conversion", "cycles", at<&Converter::conversion>)
              .not_negative()
              .means("cycles of a conversion without its sampling, `\"13 cycles\"`", "none"),
          plain("sampling_capacitor", "F", at<&Converter::sampling_capacitor>)
              .above_zero()
              .means("`\"8 pF\"`: what the pin must charge", "none"),
          plain("switch_resistance", "ohm", at<&Converter::switch_resistance>)
              .not_negative()
              .means("`\"1 kohm\"`: between the pin and that capacitor", "0 ohm"),
          noise("jitter", "s", {Basis::absolute}, at<&Converter::jitter>)
              .means("of the sampling instant, `\"50 ps rms\"`", "none"),
          plain("max_rate", "Sa/s", at<&Converter::max_rate>)
              .above_zero()
              .means("of all channels together, `\"40 kSa/s\"`", "none"),
          texts("scan", at<&Converter::scan>)
              .means("names of its channels, in the order of conversion", "as in the file"),
          plain("data_rate", "Sa/s", at<&Converter::data_rate>)
              .above_zero()
              .means("of a delta sigma converter, `\"50 Sa/s\"`", "required there"),
          integer("sinc_order", 1, 5, at<&Converter::sinc_order>)
              .means("of a delta sigma converter: order of its own filter", "3"),
          table("report", {.keys = report_keys})
              .with_own_reader()
              .means("what the firmware finds in place of the code, see below", "the code"),
      },
      +[](const Converter& c, const Place& place) {
        if (c.input_range && !c.negative_reference.empty()) {
          place.add("input_range", "both input_range and negative_reference",
                    "one of them: each says where the range begins");
        }
        const auto given = [](const Value& value) { return !value.limits.empty(); };
        const bool in_parts = given(c.offset) || given(c.gain) || given(c.inl) ||
                              std::ranges::any_of(c.attenuations, [](const Attenuation& each) {
                                return each.inl.has_value();
                              });
        if (given(c.total_error) && in_parts) {
          place.add(
              "total_error", "a total error beside offset, gain or inl",
              "one or the other: the total error holds all three, and would count them twice");
        }
        const double steps = std::exp2(-c.resolution) / std::sqrt(12.0);
        for (const auto& limit : c.noise.limits) {
          if (!limit.with_steps || limit.size >= steps) continue;
          place.add("noise", fmt::format("{} at {} bit", quantity::to_string(limit), c.resolution),
                    fmt::format("at most {:.2f} dB, which the steps of so many bits leave alone",
                                -20.0 * std::log10(steps * std::sqrt(8.0))));
        }
        const bool filtered = c.architecture == Architecture::delta_sigma;
        if (filtered && !c.data_rate) {
          place.add("data_rate", "missing key",
                    "the rate of a delta sigma converter, such as \"50 Sa/s\"", "missing-key");
        }
      }};
  return keys;
}

}  // namespace tamlo::model
