// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/board_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <string>
#include <utility>

#include "board_parts.hpp"
#include "field.hpp"

namespace tamlo::io {
namespace {

using quantity::Basis;
using quantity::Expected;
using quantity::unit;

// An error of a converter: volts, LSB, or a part of the full-scale range.
const Expected converter_error = in("V", {Basis::absolute, Basis::relative, Basis::code});
const Expected code_error = in("LSB", {Basis::absolute});
const Expected converter_noise = in("V", {Basis::absolute, Basis::code});

std::vector<std::string> names_of(const std::vector<std::pair<std::string, Fields>>& entries) {
  std::vector<std::string> names;
  for (const auto& [name, fields] : entries) names.push_back(name);
  return names;
}

model::Conditions read_conditions(Fields fields) {
  model::Conditions result;
  if (auto v = fields.range("temperature", in("degC"), above_zero())) result.temperature = *v;
  if (auto v = fields.plain("specified_at", unit("degC"), above_zero())) result.specified_at = *v;
  if (auto v = fields.plain("age", unit("year"), not_negative())) result.age = *v;
  fields.not_yet({"mains"});
  fields.finish();
  result.defaults = fields.defaults();
  return result;
}

model::Reference read_reference(const std::string& name, Fields fields) {
  model::Reference result{.name = name, .voltage = {}, .noise = {}};
  fields.require("voltage", "a voltage, such as \"2.5 V ±0.05 % ±10 ppm/K\"");
  if (auto v = fields.value("voltage", in("V"), above_zero())) result.voltage = *v;
  result.noise = fields.noise("noise", in("V"));
  fields.finish();
  return result;
}

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
  if (auto v = fields.limits("dnl", converter_error)) result.dnl = *v;
  if (auto v = fields.noise("noise", converter_noise)) result.noise = *v;
  result.input_limit = fields.range("input_limit", in("V"));
  for (auto& [name_of, of] : fields.entries("attenuation")) {
    result.attenuations.push_back(read_attenuation(name_of, std::move(of)));
  }
  fields.not_yet({"architecture", "sampling_capacitor", "switch_resistance", "clock", "conversion",
                  "max_rate"});
  fields.finish();
  result.defaults = fields.defaults();
  return result;
}

model::Target read_target(Fields fields, const quantity::Unit& unit) {
  model::Target result;
  const Expected expected{.unit = quantity::difference_unit(unit),
                          .bases = {Basis::absolute, Basis::relative, Basis::span, Basis::code}};
  if (auto v = fields.limits("accuracy", expected)) {
    const bool one = v->limits.size() == 1 && v->limits.front().drift == quantity::Drift::none &&
                     v->limits.front().size > 0.0;
    if (one) result.accuracy = v->limits.front();
    if (!one) {
      fields.report("accuracy", fmt::format("\"{}\"", quantity::to_string(*v)),
                    "one limit above 0 without a drift, such as \"±0.5 % of span\"");
    }
  }
  fields.not_yet({"noise_free", "latency"});
  fields.finish();
  return result;
}

void read_scaling(Fields fields, model::Scaling& scaling) {
  if (auto v = fields.choice("convention", {"full scale", "last code"})) {
    scaling.convention = *v == 0 ? model::Convention::full_scale : model::Convention::last_code;
  }
  fields.choice("arithmetic", {"float"});
  fields.finish();
}

// A converter that has attenuations needs the channel's choice of one.
void read_attenuation_choice(Fields& fields, const model::Converter& converter,
                             model::Channel& channel) {
  std::vector<std::string> names;
  for (const auto& attenuation : converter.attenuations) names.push_back(attenuation.name);
  if (!names.empty()) fields.require("attenuation", one_of("", names));
  const auto section = fmt::format("converter.{}.attenuation", converter.name);
  if (auto v = fields.name_of("attenuation", section, names)) channel.attenuation = *v;
}

model::Channel read_channel(const std::string& name, Fields fields,
                            const std::vector<model::Converter>& converters,
                            const std::vector<std::string>& references) {
  model::Channel result{.name = name};
  result.measures = fields.text("measures").value_or(name);
  // Without a sensor the quantity is the voltage itself.
  const bool volts = !fields.has("sensor");
  fields.require("span", "what the channel must measure, such as \"0..60 V\"");
  if (auto v = fields.range("span", volts ? in("V") : Expected{})) {
    result.span = *v;
  } else {
    result.span = {.low = 0.0, .high = 1.0, .unit = quantity::unit("V")};
  }
  std::vector<std::string> names;
  for (const auto& converter : converters) names.push_back(converter.name);
  fields.require("converter", "the name of a [converter] of this board");
  if (auto v = fields.name_of("converter", "converter", names)) result.converter = *v;
  if (auto v = fields.integer("input", 0, 1023)) result.input = static_cast<int>(*v);
  read_signal_path(fields, references, result);
  if (const auto* converter = model::find(converters, result.converter)) {
    read_attenuation_choice(fields, *converter, result);
  }
  if (auto v = fields.integer("average", 1, 1 << 20)) result.average = static_cast<int>(*v);
  if (auto scaling = fields.table("scaling")) read_scaling(*std::move(scaling), result.scaling);
  if (auto target = fields.table("target")) {
    result.target = read_target(*std::move(target), result.span.unit);
  }
  fields.not_yet({"sampling", "rate", "filter"});
  fields.finish();
  result.defaults = fields.defaults();
  return result;
}

model::Meter read_meter(const std::string& name, Fields fields) {
  model::Meter result{.name = name, .ranges = {}};
  fields.require("ranges",
                 "the ranges: [ { full_scale = \"6 V\", digits = 6000, accuracy = ... } ]");
  for (auto& range : fields.tables("ranges")) {
    model::MeterRange of;
    range.require("full_scale", "the top of the range, such as \"6 V\"");
    range.require("digits", "the counts of the display at full scale, such as 6000");
    range.require("accuracy", "limits, such as \"±0.05 % ±2 digits\"");
    const auto unit = result.ranges.empty() ? std::optional<quantity::Unit>{}
                                            : result.ranges.front().full_scale.unit;
    if (auto v = range.value("full_scale", {.unit = unit}, above_zero())) of.full_scale = *v;
    if (auto v = range.integer("digits", 1, 1'000'000'000)) of.digits = static_cast<double>(*v);
    const Expected accuracy{
        .unit = quantity::difference_unit(of.full_scale.unit),
        .bases = {Basis::absolute, Basis::relative, Basis::range, Basis::digit}};
    if (auto v = range.limits("accuracy", accuracy)) {
      of.accuracy = *v;
      const auto drifts = [](const auto& l) { return l.drift != quantity::Drift::none; };
      if (std::ranges::any_of(v->limits, drifts)) {
        range.report("accuracy", "a drift, that no figure is computed from yet",
                     "limits that hold where the meter is used");
      }
    }
    range.finish();
    result.ranges.push_back(std::move(of));
  }
  std::ranges::stable_sort(
      result.ranges, {}, [](const model::MeterRange& range) { return range.full_scale.or_zero(); });
  fields.not_yet({"input_resistance", "touches", "temperature", "age"});
  fields.finish();
  return result;
}

model::Board read_board(Fields fields) {
  model::Board board;
  fields.require("format", "format = 1");
  fields.integer("format", 1, 1);
  if (auto section = fields.table("board")) {
    board.title = section->text("title").value_or("");
    section->finish();
  }
  if (auto section = fields.table("conditions")) {
    board.conditions = read_conditions(*std::move(section));
  } else {
    board.conditions.defaults = {"temperature", "specified_at", "age"};
  }
  const auto references = fields.entries("reference");
  const auto converters = fields.entries("converter");
  for (const auto& [name, of] : references) board.references.push_back(read_reference(name, of));
  for (const auto& [name, of] : converters) {
    board.converters.push_back(read_converter(name, of, names_of(references)));
  }
  fields.require("channel", "at least one [channel.NAME] section");
  for (const auto& [name, of] : fields.entries("channel")) {
    board.channels.push_back(read_channel(name, of, board.converters, names_of(references)));
  }
  for (const auto& [name, of] : fields.entries("meter")) {
    board.meters.push_back(read_meter(name, of));
  }
  fields.finish();
  return board;
}

toml::table parse(const std::string& path) {
  const auto text = read_file(path);
  try {
    return toml::parse(std::string_view(text), std::string_view(path));
  } catch (const toml::parse_error& error) {
    throw BadInput({{.file = path,
                     .line = error.source().begin.line,
                     .column = error.source().begin.column,
                     .key = {},
                     .found = fmt::format("text that is not TOML ({})", error.description()),
                     .allowed = "TOML: [section] headers, and key = \"value\" lines"}});
  }
}

// Moves every entry of `over` into `base`; tables are merged, all else is replaced. Nodes are
// moved, not copied, because only so do they keep the place where they stood.
void merge(toml::table& base, toml::table& over) {
  for (auto&& [key, node] : over) {
    auto* inner = node.as_table();
    auto* under = base.get_as<toml::table>(key.str());
    if (inner != nullptr && under != nullptr) {
      merge(*under, *inner);
    } else {
      node.visit(
          [&, k = toml::key(key)](auto& value) { base.insert_or_assign(k, std::move(value)); });
    }
  }
}

}  // namespace

model::Board load_board(const std::vector<std::string>& paths) {
  toml::table merged;
  for (std::size_t i = 0; i < paths.size(); ++i) {
    auto file = parse(paths[i]);
    if (i == 0) {
      merged = std::move(file);
    } else {
      merge(merged, file);
    }
  }
  std::vector<Diagnostic> diagnostics;
  auto board = read_board(Fields(merged, "", diagnostics));
  for (auto& d : diagnostics) {
    if (d.file.empty()) d.file = paths.front();
    if (d.line == 0) d.line = d.column = 1;
  }
  if (diagnostics.empty()) return board;
  std::ranges::stable_sort(diagnostics, [&](const Diagnostic& a, const Diagnostic& b) {
    const auto rank = [&](const Diagnostic& d) {
      return std::tuple(std::ranges::find(paths, d.file) - paths.begin(), d.line, d.column);
    };
    return rank(a) < rank(b);
  });
  throw BadInput(std::move(diagnostics));
}

}  // namespace tamlo::io
