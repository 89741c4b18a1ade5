// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <cmath>
#include <utility>

#include "board_parts.hpp"

namespace tamlo::io {
namespace {

using quantity::Basis;
using quantity::Expected;
using quantity::unit;

// An error of a converter: volts, LSB, or a part of the full-scale range.
const Expected converter_error = in("V", {Basis::absolute, Basis::relative, Basis::code});
const Expected converter_noise = in("V", {Basis::absolute, Basis::code});

model::Attenuation read_attenuation(const std::string& name, Fields fields) {
  model::Attenuation result{.name = name};
  fields.require("ratio",
                 "the part of the pin's voltage that is converted, such as \"0.25 ±0.3 %\"");
  fields.require("usable", "the voltages at the pin that it serves, such as \"0..9.6 V\"");
  if (auto v = fields.value("ratio", in(""), above_zero())) result.ratio = *v;
  if (auto v = fields.range("usable", in("V"))) result.usable = *v;
  result.inl = fields.limits("inl", converter_error);
  fields.finish();
  return result;
}

model::Clock read_clock(Fields fields) {
  model::Clock result;
  fields.require("source", "the clock before the divider, such as \"80 MHz\"");
  if (auto v = fields.plain("source", unit("Hz"), above_zero())) result.source = *v;
  if (auto v = fields.integer("divider", 1, 1 << 20)) result.divider = static_cast<int>(*v);
  for (const double v : fields.numbers("dividers", whole_above_zero())) {
    result.dividers.push_back(static_cast<int>(v));
  }
  result.limits = fields.range("limits", in("Hz"), above_zero());
  fields.finish();
  return result;
}

// What a converter needs to be told for its times, and for what its input takes from the pin.
void read_time(Fields& fields, model::Converter& result) {
  if (auto v = fields.choice("architecture", {"sar", "delta sigma", "other"})) {
    result.architecture = static_cast<model::Architecture>(*v);
  }
  if (auto clock = fields.table("clock")) result.clock = read_clock(*std::move(clock));
  result.conversion = fields.plain("conversion", unit("cycles"), not_negative());
  result.sampling_capacitor = fields.plain("sampling_capacitor", unit("F"), above_zero());
  if (auto v = fields.plain("switch_resistance", unit("ohm"), not_negative())) {
    result.switch_resistance = *v;
  }
  if (auto v = fields.noise("jitter", in("s", {Basis::absolute}))) {
    result.jitter = v->limits.front().size;
  }
  result.max_rate = fields.plain("max_rate", unit("Sa/s"), above_zero());
  result.scan = fields.texts("scan");
  const bool filtered = result.architecture == model::Architecture::delta_sigma;
  if (filtered) fields.require("data_rate", "a delta sigma converter's rate, such as \"50 Sa/s\"");
  result.data_rate = fields.plain("data_rate", unit("Sa/s"), above_zero());
  if (auto v = fields.integer("sinc_order", 1, 5)) result.sinc_order = static_cast<int>(*v);
  for (const auto* key : {"data_rate", "sinc_order"}) {
    if (filtered || !fields.has(key)) continue;
    fields.report(key, "a key of a filter inside the converter",
                  "this key beside architecture = \"delta sigma\"");
  }
}

// A word for what has so many bits until here.
int word_of(Fields& fields, const char* key, int bits_until_here) {
  const Bounds bits{.low = static_cast<double>(bits_until_here),
                    .high = 40.0,
                    .text = fmt::format("from {} bit to 40 bit", bits_until_here)};
  const double bit = fields.plain(key, unit("bit"), bits).value_or(bits_until_here);
  if (bit != std::floor(bit)) fields.report(key, "a part of a bit", "a whole number of bits");
  return static_cast<int>(bit);
}

void read_counts(Fields fields, model::RegisterFormat& result) {
  constexpr std::int64_t most = std::int64_t{1} << 40;
  result.kind = model::RegisterFormat::Kind::counts;
  result.least = -most;
  result.most = most;
  for (const auto* key : {"at_low", "at_high"}) {
    fields.require(key, "the counts at the ends of the span, such as 0 and 20000");
  }
  if (auto v = fields.integer("at_low", -most, most)) result.at_low = *v;
  if (auto v = fields.integer("at_high", -most, most)) result.at_high = *v;
  if (auto v = fields.integer("least", -most, result.at_low)) result.least = *v;
  if (auto v = fields.integer("most", result.at_high, most)) result.most = *v;
  if (result.at_low >= result.at_high) {
    fields.report("at_high", "counts that do not rise", "at_high above at_low");
    result.at_high = result.at_low + 1;
  }
  fields.finish();
}

// One format, and how many bits are left behind it.
model::RegisterFormat read_format(Fields fields, int& bits) {
  using Kind = model::RegisterFormat::Kind;
  model::RegisterFormat result;
  int found = 0, left = bits;
  if (auto v = fields.choice("align", {"right", "left"})) {
    ++found;
    result.kind = *v == 0 ? Kind::plain : Kind::shifted;
    fields.require("word", "the width of the word, such as \"16 bit\"");
    result.bits = word_of(fields, "word", bits);
    if (*v == 1) left = result.bits;
  }
  if (fields.has("widen")) {
    ++found;
    left = result.bits = word_of(fields, "widen", bits);
    result.kind = Kind::replicated;
  }
  if (auto v = fields.integer("drop", 1, std::max(1, bits - 1))) {
    ++found;
    result.kind = Kind::dropped;
    result.bits = static_cast<int>(*v);
    left = bits - result.bits;
  }
  if (auto v = fields.integer("divide", 2, std::int64_t{1} << std::max(1, bits - 1))) {
    ++found;
    result.kind = Kind::divided;
    result.divisor = *v;
    left = std::max(1, bits - static_cast<int>(std::floor(std::log2(static_cast<double>(*v)))));
  }
  if (auto counts = fields.table("counts")) {
    ++found;
    read_counts(*std::move(counts), result);
  }
  if (found != 1) {
    fields.report("", fmt::format("{} ways to report a code", found),
                  "one of align, widen, drop, divide, counts; several in a row as an array");
  }
  fields.finish();
  bits = left;
  return result;
}

// One, or several in a row of which only the last may be of counts.
void read_reporting(Fields& fields, model::Converter& converter) {
  int bits = converter.resolution;
  if (fields.is_table("report")) {
    converter.reporting = read_format(*fields.table("report"), bits);
    return;
  }
  auto formats = fields.tables("report");
  for (std::size_t i = 0; i < formats.size(); ++i) {
    const bool last = i + 1 == formats.size();
    if (!last && formats[i].has("counts")) {
      formats[i].report("counts", "counts before another format", "counts as the last of them");
    }
    auto format = read_format(std::move(formats[i]), bits);
    if (!last && format.kind == model::RegisterFormat::Kind::plain) continue;
    if (last) {
      converter.reporting = format;
    } else if (format.kind != model::RegisterFormat::Kind::counts) {
      converter.formats_before.push_back(format);
    }
  }
}

}  // namespace

model::Converter read_converter(const std::string& name, Fields fields,
                                const std::vector<std::string>& references) {
  model::Converter result{.name = name};
  fields.require("resolution", "a resolution, such as \"12 bit\"");
  const Bounds bits{.low = 1.0, .high = 32.0, .text = "from 1 bit to 32 bit"};
  if (auto v = fields.plain("resolution", unit("bit"), bits)) {
    result.resolution = static_cast<int>(*v);
    if (result.resolution != *v) {
      fields.report("resolution", fmt::format("\"{} bit\"", *v), "a whole number of bits");
    }
  }
  fields.require("reference", "the name of a [reference] of this board");
  if (auto v = fields.name_of("reference", "reference", references)) result.reference = *v;
  if (auto v = fields.choice("coding", {"straight binary", "offset binary", "two's complement"})) {
    result.coding = static_cast<model::Coding>(*v);
  }
  if (auto v = fields.name_of("negative_reference", "reference", references)) {
    result.negative_reference = *v;
  }
  result.input_range = fields.range("input_range", in("V"));
  if (result.input_range && !result.negative_reference.empty()) {
    fields.report("input_range", "both input_range and negative_reference",
                  "one of them: each says where the range begins");
  }
  if (auto v = fields.limits("leakage", in("A", {Basis::absolute}))) result.leakage = *v;
  if (auto v = fields.choice("first_transition", {"0.5 LSB", "1 LSB"})) {
    result.first_transition =
        *v == 0 ? model::FirstTransition::half_code : model::FirstTransition::full_code;
  }
  if (auto v = fields.limits("offset", converter_error)) result.offset = *v;
  if (auto v = fields.limits("gain", converter_error)) result.gain = *v;
  if (auto v = fields.limits("inl", converter_error)) result.inl = *v;
  if (auto path = fields.text("inl_table")) result.inl_table = read_inl_table(fields, *path);
  if (auto v = fields.limits("dnl", converter_error)) result.dnl = *v;
  if (auto v = fields.noise("noise", converter_noise)) result.noise = *v;
  result.input_limit = fields.range("input_limit", in("V"));
  for (auto& [name_of, of] : fields.entries("attenuation")) {
    result.attenuations.push_back(read_attenuation(name_of, std::move(of)));
  }
  read_time(fields, result);
  if (fields.has("report")) {
    read_reporting(fields, result);
  } else {
    (void)fields.table("report");  // so that its default is shown
  }
  fields.finish();
  result.defaults = fields.defaults();
  return result;
}

}  // namespace tamlo::io
