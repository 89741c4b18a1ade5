// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include "builder.hpp"
#include "correction.hpp"
#include "tamlo/model/validate.hpp"

namespace tamlo::chain {

Builder::Builder(const model::Board& board, const model::Channel& channel,
                 const model::Converter& converter)
    : board_(board) {
  chain_.channel = channel;
  // From here on an edge is where the quantity switches upward.
  if (auto& zones = chain_.channel.zones) {
    for (double& edge : zones->edges) edge += model::upward(zones->side, zones->hysteresis);
    zones->side = model::HysteresisSide::below;
  }
  if (auto& threshold = chain_.channel.threshold) {
    threshold->at += model::upward(threshold->side, threshold->hysteresis);
    threshold->side = model::HysteresisSide::below;
  }
  chain_.converter = converter;
  chain_.conditions = board.conditions;
  if (const auto& adjustment = channel.adjustment) {
    // What is off on the day of the adjustment is gone: drift and ageing count from there.
    auto& conditions = chain_.conditions;
    conditions.specified_at = adjustment->temperature.value_or(conditions.specified_at);
    conditions.age = adjustment->age.value_or(conditions.age);
  }
}

Chain Builder::finish() {
  add_timing();
  add_signal_path();
  add_converter();
  add_register_format();
  add_firmware();
  add_relations();
  check_response();
  auto& answer = chain_.firmware.digital.answer;
  if (answer && answer->size() > longest_kept) answer = nullptr;
  return std::move(chain_);
}

// What a span makes of the codes is asked by all that follows.
void Builder::check_response() const {
  const auto& span = chain_.channel.span;
  const auto at = [&](double x) { return code(chain_, x, chain_.nominal); };
  const double moved = std::abs(at(span.high) - at(span.low));
  const bool whole = std::isfinite(at(span.middle())) &&
                     std::isfinite(code_width_at(chain_, span.low)) &&
                     std::isfinite(code_width_at(chain_, span.high));
  constexpr double least = 1e-6, most = 1e15;  // codes
  if (whole && moved >= least && moved <= most) return;
  throw model::InvalidBoard(
      {{.path = "channel." + chain_.channel.name,
        .problem = fmt::format("a span over which the code moves by {:.3g}", moved),
        .hint = "a sensor and parts that carry the span to the converter",
        .code = "no-response"}});
}

quantity::Range Builder::pin_range() {
  add_parts();
  set_nominals();
  const auto& span = chain_.channel.span;
  const double a = voltage(chain_, span.low, chain_.nominal);
  const double b = voltage(chain_, span.high, chain_.nominal);
  return {.low = std::min(a, b), .high = std::max(a, b), .unit = quantity::unit("V")};
}

void Builder::add_signal_path() {
  add_parts();
  add_believed_parts();
  const auto parts = static_cast<std::ptrdiff_t>(chain_.path.stages.size());
  add_load();
  add_pin();
  // Behind the parts there is one way for both.
  auto& believed = chain_.path.believed;
  if (!believed.empty())
    believed.insert(believed.end(), chain_.path.stages.begin() + parts, chain_.path.stages.end());
  add_densities();
}

void Builder::add_relations() {
  set_correlations();
  set_correction();
  set_adjustment();
}

void Builder::add_parts() {
  if (chain_.channel.sensor) {
    std::visit([&](const auto& sensor) { build_part(*this, sensor); }, *chain_.channel.sensor);
  }
  for (const auto& stage : chain_.channel.frontend) {
    std::visit([&](const auto& part) { build_part(*this, part); }, stage);
  }
}

// The firmware knows nominal values alone: what it takes the parts for has parameters of its own,
// and no sources.
void Builder::add_believed_parts() {
  const auto& known = chain_.channel.scaling.sensor;
  if (!known) return;
  auto own = *this;
  own.chain_.path.stages.clear();
  own.chain_.channel.sensor = known;
  const auto sources = own.chain_.sources.size();
  std::visit([&](const auto& sensor) { build_part(own, sensor); }, *known);
  if (own.chain_.sources.size() > sources) {
    throw model::InvalidBoard({{.path = "channel." + chain_.channel.name + ".scaling.sensor",
                                .problem = "limits of the sensor that the firmware computes with",
                                .hint = "its nominal values: the firmware knows no others",
                                .code = "not-a-signal"}});
  }
  for (const auto& stage : chain_.channel.frontend)
    std::visit([&](const auto& part) { build_part(own, part); }, stage);
  chain_.parameters = std::move(own.chain_.parameters);
  chain_.path.believed = std::move(own.chain_.path.stages);
}

// A meter at the pin, if the channel says so.
void Builder::add_load() {
  const auto& name = chain_.channel.loaded_by;
  if (!name.empty()) {
    const auto* meter = model::find(board_.meters, name);
    if (meter == nullptr || !meter->input_resistance) {
      throw ChainError(
          fmt::format("channel {}: the board has no meter \"{}\" with an input_resistance",
                      chain_.channel.name, name));
    }
    const auto called = "meter " + name;
    stage(called,
          LoadLaw{part(called + " input resistance", called, *meter->input_resistance, "ohm")},
          "V");
  }
  chain_.path.before_pin = chain_.path.stages.size();
}

void Builder::set_adjustment() {
  const auto& name = chain_.channel.adjusted_with;
  if (name.empty()) return;
  const auto* meter = model::find(board_.meters, name);
  if (meter == nullptr || meter->touches != model::Touches::quantity) {
    throw ChainError(fmt::format("channel {}: the board has no meter \"{}\" of the quantity",
                                 chain_.channel.name, name));
  }
  chain_.adjusted_with = *meter;
}

void Builder::set_correlations() {
  std::vector<std::size_t> taken;
  const auto place = [&](const std::string& name) {
    const auto at = std::ranges::find(chain_.sources, name, &Source::name);
    const auto index = static_cast<std::size_t>(at - chain_.sources.begin());
    if (at == chain_.sources.end() || random(at->kind())) {
      std::string known;
      for (const auto& source : chain_.sources) {
        if (!random(source.kind())) known += (known.empty() ? "" : ", ") + source.name;
      }
      throw ChainError(fmt::format("no fixed source \"{}\" among {}", name, known));
    }
    if (std::ranges::find(taken, index) != taken.end()) {
      throw ChainError(fmt::format("source \"{}\" in two correlations", name));
    }
    taken.push_back(index);
    return index;
  };
  for (const auto& [first, second, coefficient] : chain_.channel.correlations) {
    const auto a = place(first);
    chain_.correlations.push_back(
        {.first = a, .second = place(second), .coefficient = coefficient});
  }
}

void Builder::set_correction() {
  const auto correction = chain_.channel.correction;
  if (correction) chain_ = with_correction(std::move(chain_), *correction);
  if (const auto adjustment = chain_.channel.adjustment) {
    const auto made =
        correction_by(chain_, *adjustment, model::find(board_.meters, adjustment->with));
    chain_ = with_correction(std::move(chain_), made);
  }
}

void Builder::set_nominals() {
  chain_.nominal.clear();
  for (const auto& parameter : chain_.parameters) chain_.nominal.push_back(parameter.nominal);
}

std::string Builder::unique(const std::string& name) {
  const int count = ++used_[name];
  return count == 1 ? name : fmt::format("{} {}", name, count);
}

std::size_t Builder::parameter(std::string name, double nominal, std::string_view unit) {
  chain_.parameters.push_back({std::move(name), nominal, quantity::unit(unit)});
  return chain_.parameters.size() - 1;
}

void Builder::source(const std::string& called, std::size_t parameter, const std::string& stage,
                     const model::Limit& limit, const Scale& scale, Nature nature) {
  const double size = half_width(limit, scale, chain_.conditions);
  if (size == 0.0) return;  // no drift under these conditions, or "±0 %"
  chain_.sources.push_back({.name = unique(called),
                            .stage = stage,
                            .specification = quantity::to_string(limit),
                            .parameter = parameter,
                            .nature = nature,
                            .distribution = limit.distribution,
                            .limit = size,
                            .standard_uncertainty = standard_uncertainty(size, limit.distribution,
                                                                         limit.coverage_factor),
                            .in_stage = chain_.path.stages.size()});
}

std::size_t Builder::part(const std::string& name, const std::string& stage,
                          const model::Value& value, std::string_view unit) {
  const auto index = parameter(name, value.or_zero(), unit);
  for (const auto& limit : value.limits) {
    const auto nature = nature_of(limit);
    source(fmt::format("{} {}", name, chain::name(kind_of(nature))), index, stage, limit,
           {.relative = std::abs(value.or_zero())}, nature);
  }
  return index;
}

std::size_t Builder::deviation(const std::string& name, const std::string& stage,
                               const model::Value& value, std::string_view unit, const Scale& scale,
                               const Nature& nature) {
  const auto index = parameter(name, 0.0, unit);
  for (const auto& limit : value.limits) {
    // "main offset tolerance", "main offset temperature"; but "main INL", "main noise".
    const bool drifts = limit.drift != quantity::Drift::none;
    const auto own = drifts ? nature_of(limit) : nature;
    const auto kind = kind_of(own);
    const bool plain = kind == Kind::nonlinearity || kind == Kind::noise;
    source(plain ? name : fmt::format("{} {}", name, chain::name(kind)), index, stage, limit, scale,
           own);
  }
  return index;
}

std::size_t Builder::reference(const std::string& name) {
  const auto known = references_.find(name);
  if (known != references_.end()) return known->second;
  const auto* reference = model::find(board_.references, name);
  if (reference == nullptr)
    throw ChainError(fmt::format("the board has no reference \"{}\"", name));
  const auto before = chain_.sources.size();
  const auto index = part(name + " voltage", "reference", reference->voltage, "V");
  if (reference->noise) {
    // Noise of the reference moves the same voltage as its tolerance does.
    for (const auto& limit : reference->noise->limits) {
      source(name + " noise", index, "reference", limit, {}, Noise{});
    }
  }
  if (reference->output_resistance && reference->load_change > 0.0) {
    computed({.name = name + " load",
              .stage = "reference",
              .specification =
                  "±" + quantity::engineering(reference->load_change, quantity::unit("A"), 4),
              .parameter = index,
              .nature = Temperature{},  // it comes and goes, so that no adjustment takes it away
              .distribution = quantity::Distribution::uniform,
              .limit = *reference->output_resistance * reference->load_change});
  }
  // It feeds stages, and is in none.
  for (auto source = before; source < chain_.sources.size(); ++source) {
    chain_.sources[source].in_stage.reset();
    chain_.sources[source].shared = !random(chain_.sources[source].kind());
  }
  references_.emplace(name, index);
  return index;
}

void Builder::stage(const std::string& name, Law law, std::string_view output) {
  chain_.path.stages.push_back({name, std::move(law), quantity::unit(output)});
}

Chain build(const model::Board& board, std::string_view name) {
  const auto* channel = model::find(board.channels, name);
  if (channel == nullptr) throw ChainError(fmt::format("the board has no channel \"{}\"", name));
  if (auto problems = model::validate(board, *channel); !problems.empty()) {
    throw model::InvalidBoard(std::move(problems));
  }
  const auto* converter = model::find(board.converters, channel->converter);
  if (converter == nullptr) {
    throw ChainError(
        fmt::format("channel {}: the board has no converter \"{}\"", name, channel->converter));
  }
  return Builder(board, *channel, *converter).finish();
}

}  // namespace tamlo::chain
