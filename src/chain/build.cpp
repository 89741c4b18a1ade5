// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <cmath>
#include <map>
#include <utility>

#include "tamlo/chain/chain.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::chain {
namespace {

// What a parameter of the converter is measured in: LSB, where relative limits are parts of the
// full-scale range.
Scale in_codes(double codes, double code_width) {
  return {.absolute = 1.0 / code_width, .relative = codes, .code = 1.0};
}

class Builder {
 public:
  Builder(const model::Channel& channel, const model::Converter& converter,
          const model::Conditions& conditions) {
    chain_.channel = channel;
    chain_.converter = converter;
    chain_.conditions = conditions;
  }

  Chain finish(const model::Reference& reference) {
    if (chain_.channel.sensor) add(*chain_.channel.sensor);
    for (const auto& stage : chain_.channel.frontend) {
      std::visit([&](const auto& of) { add(of); }, stage);
    }
    add(reference);
    for (const auto& parameter : chain_.parameters) chain_.nominal.push_back(parameter.nominal);
    return std::move(chain_);
  }

 private:
  Chain chain_;
  std::map<std::string, int> used_;

  // "divider", and "divider 2" for the second of a channel.
  std::string unique(const std::string& name) {
    const int count = ++used_[name];
    return count == 1 ? name : fmt::format("{} {}", name, count);
  }

  std::size_t parameter(std::string name, double nominal, std::string_view unit) {
    chain_.parameters.push_back({std::move(name), nominal, quantity::unit(unit)});
    return chain_.parameters.size() - 1;
  }

  void source(const std::string& called, std::size_t parameter, const std::string& stage,
              const model::Limit& limit, const Scale& scale, Kind kind) {
    const double size = half_width(limit, scale, chain_.conditions);
    if (size == 0.0) return;  // no drift under these conditions, or "±0 %"
    chain_.sources.push_back(
        {.name = unique(called),
         .stage = stage,
         .written = quantity::to_string(limit),
         .parameter = parameter,
         .kind = kind,
         .distribution = limit.distribution,
         .limit = size,
         .standard = standard_uncertainty(size, limit.distribution, limit.coverage_factor)});
  }

  // A part with a nominal in SI, such as a resistor.
  std::size_t part(const std::string& name, const std::string& stage, const model::Value& value,
                   std::string_view unit) {
    const auto index = parameter(name, value.or_zero(), unit);
    for (const auto& limit : value.limits) {
      const auto kind = kind_of(limit);
      source(fmt::format("{} {}", name, chain::name(kind)), index, stage, limit,
             {.relative = std::abs(value.or_zero())}, kind);
    }
    return index;
  }

  void add(const model::LinearSensor& sensor) {
    const auto& span = chain_.channel.span;
    const LinearSensorLaw law{.at_low = part("sensor at low", "sensor", sensor.at_low, "V"),
                              .at_high = part("sensor at high", "sensor", sensor.at_high, "V"),
                              .low = span.low,
                              .high = span.high};
    chain_.stages.push_back({"sensor", law, quantity::unit("V")});
  }

  void add(const model::Divider& divider) {
    const auto stage = unique("divider");
    const DividerLaw law{.top = part(stage + " top", stage, divider.top, "ohm"),
                         .bottom = part(stage + " bottom", stage, divider.bottom, "ohm")};
    chain_.stages.push_back({stage, law, quantity::unit("V")});
  }

  // One of the converter's own errors, in LSB.
  std::size_t error(const std::string& what, const model::Value& value, const Scale& scale,
                    Kind kind) {
    const auto called = chain_.converter.name + " " + what;
    const auto index = parameter(called, 0.0, "LSB");
    for (const auto& limit : value.limits) {
      // "main offset tolerance", "main offset temperature"; but "main INL", "main noise".
      const bool drifts = limit.drift != quantity::Drift::none;
      const auto own = drifts ? kind_of(limit) : kind;
      const bool plain = own == Kind::shape || own == Kind::noise;
      source(plain ? called : fmt::format("{} {}", called, chain::name(own)), index, "converter",
             limit, scale, own);
    }
    return index;
  }

  void add(const model::Reference& reference) {
    const auto& converter = chain_.converter;
    const auto voltage = part(reference.name + " voltage", "reference", reference.voltage, "V");
    if (reference.noise) {
      // Noise of the reference moves the same voltage as its tolerance does.
      for (const auto& limit : reference.noise->limits) {
        source(reference.name + " noise", voltage, "reference", limit,
               {.relative = reference.voltage.or_zero()}, Kind::noise);
      }
    }
    const double codes = std::ldexp(1.0, converter.resolution);
    const auto scale = in_codes(codes, reference.voltage.or_zero() / codes);
    const bool truncates = converter.first_transition == model::FirstTransition::full_code;
    chain_.conversion = {.reference = voltage,
                         .offset = error("offset", converter.offset, scale, Kind::tolerance),
                         .gain = error("gain", converter.gain, scale, Kind::tolerance),
                         .inl = error("INL", converter.inl, scale, Kind::shape),
                         .dnl = error("DNL", converter.dnl, scale, Kind::shape),
                         .noise = error("noise", converter.noise, scale, Kind::noise),
                         .quantisation = parameter(converter.name + " quantisation", 0.0, "LSB"),
                         .codes = codes,
                         .shift = truncates ? -0.5 : 0.0};
    chain_.quantisation_source = chain_.sources.size();
    chain_.sources.push_back(
        {.name = "quantisation",
         .stage = "converter",
         .written = fmt::format("{} bit", converter.resolution),
         .parameter = chain_.conversion.quantisation,
         .kind = Kind::quantisation,
         .distribution = quantity::Distribution::uniform,
         .limit = 0.5,
         .standard = quantity::standard_uncertainty(0.5, quantity::Distribution::uniform)});
  }
};

}  // namespace

Chain build(const model::Board& board, std::string_view name) {
  const auto* channel = model::find(board.channels, name);
  if (channel == nullptr) throw ChainError(fmt::format("the board has no channel \"{}\"", name));
  const auto* converter = model::find(board.converters, channel->converter);
  if (converter == nullptr) {
    throw ChainError(
        fmt::format("channel {}: the board has no converter \"{}\"", name, channel->converter));
  }
  const auto* reference = model::find(board.references, converter->reference);
  if (reference == nullptr) {
    throw ChainError(fmt::format("converter {}: the board has no reference \"{}\"", converter->name,
                                 converter->reference));
  }
  return Builder(*channel, *converter, board.conditions).finish(*reference);
}

}  // namespace tamlo::chain
