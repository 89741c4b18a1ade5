// SPDX-License-Identifier: Apache-2.0
#include "tamlo/model/validate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>

#include "findings.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/quantity/detail/number.hpp"

namespace tamlo::model {
namespace {

constexpr std::size_t most_parts = 64, most_correlations = 1000;  // of a channel (docs/limits.md)

void validate_conditions(const Conditions& c, Findings& f) {
  f.ordered("conditions.temperature", c.temperature, true);
  f.above("conditions.temperature", c.temperature.low, 0.0);
  f.above("conditions.specified_at", c.specified_at, 0.0);
  f.at_least("conditions.age", c.age, 0.0);
  if (c.mains) f.above("conditions.mains", *c.mains, 0.0);
  f.above("conditions.observation", c.observation, 0.0);
}

void validate_reference(const Reference& r, Findings& f) {
  const auto path = "reference." + r.name;
  f.name(path, r.name);
  f.finite(path + ".voltage", r.voltage.or_zero());
  if (r.voltage.or_zero() == 0.0) {
    f.add("out-of-bounds", path + ".voltage", "0 V", "a voltage that is not 0");
  }
  f.not_zero(path + ".voltage", r.voltage);
  if (r.noise) f.value(path + ".noise", *r.noise);
  if (r.output_resistance) f.at_least(path + ".output_resistance", *r.output_resistance, 0.0);
  f.at_least(path + ".load_change", r.load_change, 0.0);
}

void validate_format(const std::string& path, const RegisterFormat& of, Findings& f) {
  using Kind = RegisterFormat::Kind;
  if (of.kind == Kind::shifted || of.kind == Kind::replicated) f.within(path, of.bits, 1, 40);
  if (of.kind == Kind::dropped) f.within(path, of.bits, 1, 31);
  if (of.kind == Kind::divided) {
    f.within(path, static_cast<double>(of.divisor), 2, std::ldexp(1.0, 40));
  }
  if (of.kind == Kind::counts && of.at_low >= of.at_high) {
    f.add("out-of-bounds", path, "counts that do not rise", "at_high above at_low");
  }
}

void validate_converter(const Converter& c, Findings& f) {
  const auto path = "converter." + c.name;
  f.name(path, c.name);
  f.within(path + ".resolution", c.resolution, 1, 32);
  if (c.input_range) f.ordered(path + ".input_range", *c.input_range);
  if (c.input_limit) f.ordered(path + ".input_limit", *c.input_limit);
  f.value(path + ".offset", c.offset);
  f.value(path + ".gain", c.gain);
  f.value(path + ".inl", c.inl);
  f.value(path + ".dnl", c.dnl);
  f.value(path + ".noise", c.noise);
  f.value(path + ".leakage", c.leakage);
  for (const auto& point : c.inl_table) {
    f.finite(path + ".inl", point.code);
    f.finite(path + ".inl", point.inl);
  }
  for (const auto& of : c.attenuations) {
    f.name(path + ".attenuation", of.name);
    f.positive(path + ".attenuation." + of.name, of.ratio);
  }
  if (c.clock) {
    f.above(path + ".clock.source", c.clock->source, 0.0);
    f.at_least(path + ".clock.divider", c.clock->divider, 1.0);
  }
  if (c.conversion) f.at_least(path + ".conversion", *c.conversion, 0.0);
  if (c.sampling_capacitor) f.above(path + ".sampling_capacitor", *c.sampling_capacitor, 0.0);
  f.at_least(path + ".switch_resistance", c.switch_resistance, 0.0);
  if (c.jitter) f.at_least(path + ".jitter", *c.jitter, 0.0);
  if (c.max_rate) f.above(path + ".max_rate", *c.max_rate, 0.0);
  if (c.data_rate) f.above(path + ".data_rate", *c.data_rate, 0.0);
  f.within(path + ".sinc_order", c.sinc_order, 1, 5);
  for (const auto& format : c.formats_before) validate_format(path + ".report", format, f);
  validate_format(path + ".report", c.reporting, f);
}

void validate_length(const std::string& path, const Length& length, Findings& f) {
  f.within(path, length.count, 1, 1 << 20);
  if (length.time) f.above(path, *length.time, 0.0);
}

void validate_filter(const std::string& path, const DigitalStage& stage, Findings& f) {
  if (const auto* of = std::get_if<BlockAverage>(&stage)) validate_length(path, of->length, f);
  if (const auto* of = std::get_if<MovingAverage>(&stage)) validate_length(path, of->length, f);
  if (const auto* of = std::get_if<Exponential>(&stage)) {
    f.within(path + ".weight", of->weight, std::numeric_limits<double>::min(), 1.0);
    if (of->time_constant) f.above(path + ".time_constant", *of->time_constant, 0.0);
  }
  if (const auto* of = std::get_if<Sinc>(&stage)) {
    f.within(path + ".order", of->order, 1, 5);
    f.within(path + ".decimation", of->decimation, 1, 4096);
  }
  if (const auto* of = std::get_if<Median>(&stage)) {
    f.within(path + ".length", of->length, 1, 255);
    if (of->length % 2 == 0) {
      f.add("out-of-bounds", path + ".length", "an even length", "an odd length, with a middle");
    }
  }
  if (const auto* of = std::get_if<Butterworth>(&stage)) {
    f.within(path + ".order", of->order, 1, 8);
    f.above(path + ".cutoff", of->cutoff, 0.0);
  }
  if (const auto* of = std::get_if<Notch>(&stage)) {
    f.above(path + ".frequency", of->frequency, 0.0);
    f.above(path + ".width", of->width, 0.0);
  }
  if (const auto* of = std::get_if<FirFilter>(&stage)) {
    double sum = 0.0;
    for (const double tap : of->taps) sum += tap;
    if (!std::isfinite(sum) || sum == 0.0) {
      f.add("out-of-bounds", path + ".taps", "taps of sum 0", "taps whose sum is not 0");
    }
  }
}

void validate_scaling(const std::string& path, const Scaling& scaling, Findings& f) {
  if (const auto& integer = scaling.integer) {
    f.within(path + ".word", integer->bits, 2, 64);
    f.finite(path + ".count", integer->count);
    f.above(path + ".per_code", integer->per_code, 0.0);
    f.at_least(path + ".filter_rounding", integer->filter_rounding, 0.0);
    for (const auto& step : integer->steps) {
      const bool divides = step.operation == Operation::divide && step.operand == 0;
      const bool shifts =
          step.operation == Operation::shift_right && (step.operand < 0 || step.operand > 63);
      const bool clamps = step.operation == Operation::clamp && step.operand > step.most;
      const bool no_lines =
          step.operation == Operation::lines &&
          (step.lines.empty() || !std::ranges::is_sorted(step.lines, {}, &IntegerLine::from));
      const bool no_polynomial =
          step.operation == Operation::polynomial &&
          (step.coefficients.empty() || step.operand < 0 || step.operand > 63);
      if (divides || shifts || clamps || no_lines || no_polynomial) {
        f.add("out-of-bounds", path + ".steps", "a step that has no result",
              "a division by what is not 0, a shift of 0 to 63, a clamp from low to high, lines "
              "that rise");
      }
    }
  }
  if (const auto& taught = scaling.taught) {
    f.finite(path + ".taught", taught->low_reading);
    f.finite(path + ".taught", taught->high_reading);
    if (!std::isfinite(taught->high_code - taught->low_code) ||
        taught->high_code == taught->low_code) {
      f.add("out-of-bounds", path + ".taught", "two points of one code", "two different codes");
    }
  }
  if (scaling.tare) f.finite(path + ".tare", *scaling.tare);
  if (scaling.decimals) f.within(path + ".decimals", *scaling.decimals, 0, 12);
}

void validate_correction(const std::string& path, const Correction& of, Findings& f) {
  for (const double c : of.coefficients) f.finite(path, c);
  for (const double node : of.readings) f.finite(path, node);
  for (const double node : of.corrected) f.finite(path, node);
  f.finite(path, of.centre);
  f.above(path, of.half_width, 0.0);
  f.at_least(path, of.standard_uncertainty, 0.0);
  if (of.readings.size() != of.corrected.size() || !std::ranges::is_sorted(of.readings)) {
    f.add("out-of-bounds", path, "nodes that do not rise", "as many corrected as readings, rising");
  }
  const auto k = of.readings.empty() ? of.coefficients.size() : of.readings.size();
  for (const auto* numbers : {&of.covariance, &of.positions, &of.weights}) {
    for (const double number : *numbers) f.finite(path, number);
  }
  if (!of.covariance.empty() && of.covariance.size() != k * k) {
    f.add("out-of-bounds", path + ".covariance", fmt::format("{} numbers", of.covariance.size()),
          fmt::format("{}: a row for each of the {} coefficients or nodes", k * k, k));
  }
  if (of.weights.size() != k * of.positions.size()) {
    f.add("out-of-bounds", path + ".weights", fmt::format("{} numbers", of.weights.size()),
          fmt::format("{}: for each of the {} coefficients or nodes one for each position",
                      k * of.positions.size(), k));
  }
  if (of.positions.empty() != of.covariance.empty()) {
    f.add("out-of-bounds", path, "only one of positions and covariance", "both, or neither");
  }
  if (of.readings.empty() == of.coefficients.empty()) {
    f.add("out-of-bounds", path, "no correction", "coefficients, or nodes");
  }
}

void validate_zones(const std::string& path, const Zones& of, Findings& f) {
  constexpr std::size_t most_zones = 255;
  for (const double edge : of.edges) f.finite(path + ".edges", edge);
  f.at_least(path + ".hysteresis", of.hysteresis, 0.0);
  f.at_most(path + ".edges", of.edges.size(), most_zones - 1);
  const bool rising = std::ranges::adjacent_find(of.edges, std::greater_equal{}) == of.edges.end();
  if (of.edges.empty() || !rising) {
    f.add("out-of-bounds", path + ".edges", "edges that do not rise", "one edge or more, rising");
  }
  if (of.names.size() != of.edges.size() + 1) {
    f.add("out-of-bounds", path + ".names", "other names than zones", "one name more than edges");
  }
  for (const auto& name : of.names) f.name(path + ".names", name);
}

void validate_channel(const Channel& c, Findings& f) {
  const auto path = "channel." + c.name;
  f.name(path, c.name);
  f.name(path + ".measures", c.measures);
  f.name(path + ".span", c.span.unit.symbol);
  f.at_most(path + ".frontend", c.frontend.size(), most_parts);
  f.at_most(path + ".interference", c.interference.size(), most_parts);
  f.at_most(path + ".filter", c.filter.size(), most_parts);
  f.at_most(path + ".correlation", c.correlations.size(), most_correlations);
  if (c.scaling.integer)
    f.at_most(path + ".scaling.steps", c.scaling.integer->steps.size(), most_parts);
  f.ordered(path + ".span", c.span);
  validate_signal_path(c, f);
  if (c.sampling) f.above(path + ".sampling", *c.sampling, 0.0);
  if (c.rate) f.above(path + ".rate", *c.rate, 0.0);
  validate_length(path + ".average", c.average, f);
  for (const auto& stage : c.filter) validate_filter(path + ".filter", stage, f);
  for (const auto& of : c.interference) {
    f.above(path + ".interference.frequency", of.frequency, 0.0);
    f.at_least(path + ".interference.amplitude", of.amplitude, 0.0);
  }
  if (c.fastest) f.above(path + ".fastest", *c.fastest, 0.0);
  if (c.threshold) {
    f.finite(path + ".threshold.at", c.threshold->at);
    f.at_least(path + ".threshold.hysteresis", c.threshold->hysteresis, 0.0);
    if (c.threshold->false_trips) {
      f.above(path + ".threshold.false_trip_every", *c.threshold->false_trips, 0.0);
    }
  }
  if (c.zones) validate_zones(path + ".zones", *c.zones, f);
  for (const auto& of : c.correlations) {
    f.within(path + ".correlation.coefficient", of.coefficient, -1.0, 1.0);
  }
  validate_scaling(path + ".scaling", c.scaling, f);
  if (c.correction) validate_correction(path + ".correction", *c.correction, f);
  if (c.target.accuracy) f.limit(path + ".target.accuracy", *c.target.accuracy);
  if (c.target.noise_free) f.finite(path + ".target.noise_free", *c.target.noise_free);
  if (c.target.latency) f.above(path + ".target.latency", *c.target.latency, 0.0);
}

void validate_meter(const Meter& m, Findings& f) {
  const auto path = "meter." + m.name;
  f.name(path, m.name);
  if (m.ranges.empty()) f.add("out-of-bounds", path + ".ranges", "no range", "one range or more");
  for (const auto& range : m.ranges) {
    f.value(path + ".ranges.full_scale", range.full_scale);
    f.above(path + ".ranges.digits", range.digits, 0.0);
    f.value(path + ".ranges.accuracy", range.accuracy);
  }
  if (m.input_resistance) f.positive(path + ".input_resistance", *m.input_resistance);
  if (m.temperature) f.ordered(path + ".temperature", *m.temperature, true);
  f.at_least(path + ".age", m.age, 0.0);
}

void validate_link(const Link& link, Findings& f) {
  const auto path = "link." + link.name;
  f.name(path, link.name);
  f.above(path + ".every", link.every, 0.0);
  for (const auto& value : link.values) {
    f.finite(path + ".values.scale", value.scale);
    if (value.at < 0) f.add("out-of-bounds", path + ".values.at", "a place below 0", "0 or more");
    if (link.speaks == Speaks::frames &&
        static_cast<std::size_t>(value.at) + size_of(value.type) > link.length) {
      f.add("out-of-bounds", path + ".values.at", "a number that ends behind the frame",
            "a place inside the frame");
    }
  }
  if (link.speaks == Speaks::frames && (link.length < 1 || link.begins.size() >= link.length)) {
    f.add("out-of-bounds", path + ".length", "a frame without room for a number",
          "more bytes than it begins with");
  }
}

void validate_source(const Source& source, Findings& f) {
  const auto path = "source." + source.name;
  f.name(path, source.name);
  f.ordered(path + ".range", source.range, false);
}

template <class Named>
void validate_names(const char* section, const std::vector<Named>& all, Findings& f) {
  std::vector<std::string> names;
  for (const auto& one : all) names.push_back(one.name);
  std::ranges::sort(names);
  for (auto at = std::ranges::adjacent_find(names); at != names.end();
       at = std::adjacent_find(std::upper_bound(at, names.end(), *at), names.end())) {
    f.add("duplicate", std::string(section) + "." + *at, "a name that occurs twice",
          "each name once");
  }
}

void validate_shared(const Board& board, Findings& f) {
  validate_conditions(board.conditions, f);
  for (const auto& of : board.references) validate_reference(of, f);
  for (const auto& of : board.converters) validate_converter(of, f);
  validate_names("reference", board.references, f);
  validate_names("converter", board.converters, f);
}

std::string joined(const std::vector<Problem>& problems) {
  std::string text;
  for (const auto& of : problems) {
    text += (text.empty() ? "" : "\n") + of.path + ": " + of.problem + "; allowed: " + of.hint;
  }
  return text;
}

}  // namespace

std::string Findings::shown(double number) { return quantity::format_number(number); }

std::vector<Problem> validate(const Board& board) {
  Findings f;
  validate_shared(board, f);
  for (const auto& of : board.channels) validate_channel(of, f);
  for (const auto& of : board.meters) validate_meter(of, f);
  for (const auto& of : board.links) validate_link(of, f);
  for (const auto& of : board.sources) validate_source(of, f);
  validate_names("channel", board.channels, f);
  validate_names("meter", board.meters, f);
  validate_names("link", board.links, f);
  validate_names("source", board.sources, f);
  return std::move(f.problems);
}

std::vector<Problem> validate(const Board& board, const Channel& channel) {
  Findings f;
  validate_shared(board, f);
  validate_channel(channel, f);
  if (std::ranges::count(board.channels, channel.name, &Channel::name) > 1) {
    f.add("duplicate", "channel." + channel.name, "a name that occurs twice", "each name once");
  }
  return std::move(f.problems);
}

InvalidBoard::InvalidBoard(std::vector<Problem> all)
    : Error(joined(all)), problems(std::move(all)) {}

}  // namespace tamlo::model
