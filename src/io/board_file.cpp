// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/board_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <string>
#include <utility>

#include "field.hpp"

namespace tamlo::io {
namespace {

using quantity::Basis;
using quantity::Expected;

Expected in(std::string_view unit, std::vector<Basis> bases = {Basis::absolute, Basis::relative}) {
  return {.unit = quantity::unit(unit), .bases = std::move(bases)};
}
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
  if (auto v = fields.plain("specified_at", "degC", above_zero())) result.specified_at = *v;
  if (auto v = fields.plain("age", "year", not_negative())) result.age = *v;
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

model::Converter read_converter(const std::string& name, Fields fields,
                                const std::vector<std::string>& references) {
  model::Converter result{.name = name};
  fields.require("resolution", "a resolution, such as \"12 bit\"");
  const Bounds bits{.low = 1.0, .high = 32.0, .text = "from 1 bit to 32 bit"};
  if (auto v = fields.plain("resolution", "bit", bits)) {
    result.resolution = static_cast<int>(*v);
    if (result.resolution != *v) {
      fields.report("resolution", fmt::format("\"{} bit\"", *v), "a whole number of bits");
    }
  }
  fields.require("reference", "the name of a [reference] of this board");
  if (auto v = fields.name_of("reference", "reference", references)) result.reference = *v;
  fields.choice("coding", {"straight binary"});
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
  fields.not_yet({"architecture", "sampling_capacitor", "switch_resistance", "leakage", "clock",
                  "conversion", "max_rate", "attenuation"});
  fields.finish();
  result.defaults = fields.defaults();
  return result;
}

std::optional<model::LinearSensor> read_sensor(Fields fields) {
  std::optional<model::LinearSensor> result;
  if (auto linear = fields.table("linear")) {
    result.emplace();
    linear->require("at_low", "the output at the low end of the span, such as \"0.5 V ±0.5 %\"");
    linear->require("at_high", "the output at the high end of the span, such as \"4.5 V ±0.5 %\"");
    if (auto v = linear->value("at_low", in("V"))) result->at_low = *v;
    if (auto v = linear->value("at_high", in("V"))) result->at_high = *v;
    if (result->at_low.nominal && result->at_low.nominal == result->at_high.nominal) {
      linear->report("at_high", "the same output as at_low", "an output that follows the quantity");
    }
    linear->not_yet({"sensitivity", "offset", "at"});
    linear->finish();
  }
  const std::vector<std::string> later{"ntc",      "platinum", "bridge", "loop",
                                       "position", "light",    "table"};
  fields.not_yet(later);
  if (!result && std::ranges::none_of(later, [&](const auto& key) { return fields.has(key); })) {
    fields.require("linear", "a sensor that runs straight, such as { linear = { ... } }");
  }
  fields.finish();
  return result;
}

model::Stage read_stage(Fields fields) {
  model::Divider divider;
  if (auto of = fields.table("divider")) {
    for (const auto* key : {"top", "bottom"}) {
      of->require(key, "a resistor, such as \"240 kohm ±0.1 % ±25 ppm/K\"");
    }
    if (auto v = of->value("top", in("ohm"), not_negative())) divider.top = *v;
    if (auto v = of->value("bottom", in("ohm"), above_zero())) divider.bottom = *v;
    of->not_yet({"supply"});
    of->finish();
  } else if (!fields.has("lowpass")) {
    fields.require("divider", "a part of the front end, such as { divider = { ... } }");
  }
  fields.not_yet({"lowpass"});
  fields.finish();
  return divider;
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

model::Channel read_channel(const std::string& name, Fields fields,
                            const std::vector<std::string>& converters) {
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
  fields.require("converter", "the name of a [converter] of this board");
  if (auto v = fields.name_of("converter", "converter", converters)) result.converter = *v;
  if (auto v = fields.integer("input", 0, 1023)) result.input = static_cast<int>(*v);
  if (auto sensor = fields.table("sensor")) result.sensor = read_sensor(*std::move(sensor));
  for (auto& stage : fields.tables("frontend")) {
    result.frontend.push_back(read_stage(std::move(stage)));
  }
  if (auto v = fields.integer("average", 1, 1 << 20)) result.average = static_cast<int>(*v);
  if (auto scaling = fields.table("scaling")) read_scaling(*std::move(scaling), result.scaling);
  if (auto target = fields.table("target")) {
    result.target = read_target(*std::move(target), result.span.unit);
  }
  fields.not_yet({"attenuation", "sampling", "rate", "filter"});
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
    board.channels.push_back(read_channel(name, of, names_of(converters)));
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
