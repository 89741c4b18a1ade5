// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/settings.hpp"
#include "tamlo/math/detail/search.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "tamlo/chain/chain.hpp"

namespace tamlo::chain {
namespace {

double other_convention(const Chain& chain, double reported) {
  using enum model::Convention;
  const auto& scaling = chain.channel.scaling;
  if (scaling.integer || scaling.taught) return reading(chain, reported);
  Chain other = chain;
  auto& convention = other.channel.scaling.convention;
  convention = convention == full_scale ? last_code : full_scale;
  return reading(other, reported);
}

OperatingPoint operating_point(const Chain& chain, double x) {
  const auto converted = convert(chain, code(chain, x, chain.nominal));
  const auto found = reported(chain.report, converted.code);
  const auto number = static_cast<double>(found);
  const double shown = reading(chain, number);
  return {.at = x,
          .voltage = voltage(chain, x, chain.nominal),
          .code = converted.code,
          .reported = found,
          .clipped = converted.clipped,
          .reading = shown,
          .code_width = code_width_at(chain, x),
          .step = step_at(chain, x),
          .convention_changes = other_convention(chain, number) - shown};
}

// The levels of a loop of 4 to 20 mA; others have no such convention.
std::vector<LoopLevel> loop_levels(const Chain& chain) {
  const auto* loop =
      chain.channel.sensor ? std::get_if<model::CurrentLoop>(&*chain.channel.sensor) : nullptr;
  std::vector<LoopLevel> result;
  if (loop == nullptr || loop->low != 0.004 || loop->high != 0.020) return result;
  const auto& span = chain.channel.span;
  for (const auto& [meaning, current] :
       {std::pair{"failure, at or below", 0.0036}, std::pair{"measuring range, low end", 0.0038},
        std::pair{"measuring range, high end", 0.0205}, std::pair{"failure, at or above", 0.021}}) {
    const double x = span.low + (current - loop->low) / (loop->high - loop->low) * span.width();
    const auto mark = operating_point(chain, x);
    result.push_back({.meaning = meaning,
                      .current = current,
                      .reported = mark.reported,
                      .clipped = mark.clipped,
                      .reading = mark.reading});
  }
  return result;
}

// The difference of every reported value's reading from what it should be, without rounding.
std::optional<double> arithmetic_error(const Chain& chain) {
  if (!chain.channel.scaling.integer) return {};
  Chain exactly = chain;
  exactly.channel.scaling.integer.reset();
  double worst = 0.0;
  for (auto value = chain.report.first_reported; value <= chain.report.last_reported; ++value) {
    const auto number = static_cast<double>(value);
    const double error = reading(chain, number) - reading(exactly, number);
    if (std::isfinite(error)) worst = std::max(worst, std::abs(error));
  }
  return worst;
}

void each_of_the_firmware(const Chain& chain, std::int64_t found, std::vector<Step>& steps) {
  const auto& scaling = chain.channel.scaling;
  const auto number = static_cast<double>(found);
  if (!reports_codes(chain.report)) {
    steps.push_back({"reported", number, quantity::unit("LSB")});
  }
  if (!scaling.integer && !scaling.taught) {
    steps.push_back({"volts by the firmware", firmware_volts(chain, number), quantity::unit("V")});
  }
  if (!scaling.integer) return;
  auto partly = *scaling.integer;
  partly.steps.clear();
  for (const auto& step : scaling.integer->steps) {
    partly.steps.push_back(step);
    steps.push_back({"after " + std::string(name(step.operation)),
                     static_cast<double>(evaluate(partly, found).value), quantity::unit("LSB")});
  }
}

}  // namespace

std::optional<BiasResistor> bias_resistor(const Chain& chain) {
  for (const auto& stage : chain.path.stages) {
    const auto* law = std::get_if<SensorDividerLaw>(&stage.law);
    if (const auto* heated = std::get_if<SelfHeatedLaw>(&stage.law)) {
      law = std::get_if<SensorDividerLaw>(&heated->feed);
    }
    if (law == nullptr) continue;
    auto p = chain.nominal;
    const auto& span = chain.channel.span;
    const auto output_span = [&](double resistance) {
      p[law->bias_resistor] = resistance;
      return std::abs(voltage(chain, span.high, p) - voltage(chain, span.low, p));
    };
    const double own = chain.nominal[law->bias_resistor];
    // Over nine decades about the own one, by the logarithm.
    const double best =
        std::exp(math::golden_section([&](double log) { return output_span(std::exp(log)); },
                                      std::log(own) - 10.0, std::log(own) + 10.0, 119)
                     .first);
    return BiasResistor{.resistance = own,
                        .best = best,
                        .output_span = output_span(own),
                        .best_output_span = output_span(best)};
  }
  return {};
}

std::optional<double> loop_left(const Chain& chain) {
  const auto* loop =
      chain.channel.sensor ? std::get_if<model::CurrentLoop>(&*chain.channel.sensor) : nullptr;
  if (loop == nullptr || !loop->supply) return {};
  constexpr double most = 0.021;
  double left = *loop->supply - loop->burden.value_or(0.0);
  for (const auto& stage : chain.path.stages) {
    if (const auto* shunt = std::get_if<ShuntLaw>(&stage.law)) {
      left -= most * chain.nominal[shunt->resistance];
    }
  }
  return left;
}

Settings settings(const Chain& chain) {
  const auto& span = chain.channel.span;
  const double first = code(chain, span.low, chain.nominal);
  const double last = code(chain, span.high, chain.nominal);
  Settings result{.source_resistance = signal(chain, span.middle(), chain.nominal).resistance,
                  .full_scale_range = full_scale_range(chain),
                  .code_width = code_width(chain),
                  .range_used = std::abs(last - first) / chain.conversion.codes,
                  .codes_used = std::abs(last - first),
                  .last_code = last_code(chain),
                  .noise_in_codes = noise_in_codes(chain, span.middle()),
                  .noise_after_average =
                      reading_noise(chain, span.middle()) / code_width_at(chain, span.middle())};
  for (const auto& stage : chain.path.stages) result.signal_path.push_back(stage.name);
  if (const auto& accuracy = chain.channel.target.accuracy) {
    result.allowed = allowed_at(chain, *accuracy, span.high);
  }
  for (const double x : {span.low, span.middle(), span.high}) {
    result.operating_points.push_back(operating_point(chain, x));
  }
  result.loop = loop_levels(chain);
  result.loop_left = loop_left(chain);
  result.bias_resistor = bias_resistor(chain);
  result.arithmetic_error = arithmetic_error(chain);
  return result;
}

Trace trace(const Chain& chain, double x) {
  Trace result{.at = x};
  result.steps.push_back({chain.channel.measures, x, chain.channel.span.unit});
  Signal passing{.value = x};
  for (const auto& stage : chain.path.stages) {
    passing = forward(stage.law, passing, chain.nominal);
    result.steps.push_back({"after " + stage.name, passing.value, stage.output});
  }
  const auto converted = convert(chain, code(chain, x, chain.nominal));
  result.code = converted.code;
  result.clipped = converted.clipped;
  result.steps.push_back({"code", static_cast<double>(converted.code), quantity::unit("LSB")});
  const auto found = reported(chain.report, converted.code);
  each_of_the_firmware(chain, found, result.steps);
  result.reading = reading(chain, static_cast<double>(found));
  result.steps.push_back({"reading", result.reading, chain.channel.span.unit});
  result.error = result.reading - x;
  return result;
}

InverseTrace inverse_trace(const Chain& chain, std::int64_t found) {
  const auto codes = codes_reported_as(chain.report, found);
  InverseTrace result{};
  result.reported = found;
  result.steps.push_back({"code", static_cast<double>(codes.first), quantity::unit("LSB")});
  each_of_the_firmware(chain, found, result.steps);
  const double middle = (static_cast<double>(codes.first) + static_cast<double>(codes.last)) / 2.0 -
                        static_cast<double>(first_code(chain));
  double value = inverse(chain.conversion, middle, chain.nominal);
  for (std::size_t i = chain.path.stages.size(); i-- > 0;) {
    result.steps.push_back({"at " + chain.path.stages[i].name, value, chain.path.stages[i].output});
    value = inverse(chain.path.stages[i].law, value, chain.nominal);
  }
  result.reading = reading(chain, static_cast<double>(found));
  result.steps.push_back({"reading", result.reading, chain.channel.span.unit});
  result.from = quantity_at(chain, static_cast<double>(codes.first) - 0.5);
  result.to = quantity_at(chain, static_cast<double>(codes.last) + 0.5);
  result.open_below = codes.first == first_code(chain);
  result.open_above = codes.last == last_code(chain);
  if (result.from > result.to) {  // of a sensor that falls
    std::swap(result.from, result.to);
    std::swap(result.open_below, result.open_above);
  }
  return result;
}

}  // namespace tamlo::chain
