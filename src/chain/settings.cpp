// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/settings.hpp"

#include <cmath>

#include "tamlo/chain/averaging.hpp"

namespace tamlo::chain {
namespace {

double other_convention(const Chain& chain, double code) {
  using enum model::Convention;
  Chain other = chain;
  auto& convention = other.channel.scaling.convention;
  convention = convention == full_scale ? last_code : full_scale;
  return reading(other, code);
}

Landmark landmark(const Chain& chain, double x) {
  const double unlimited = code(chain, x, chain.nominal);
  const auto converted = convert(chain, unlimited);
  const auto reported = static_cast<double>(converted.code);
  const double shown = reading(chain, reported);
  return {.at = x,
          .voltage = voltage(chain, x, chain.nominal),
          .code = converted.code,
          .clipped = converted.clipped,
          .reading = shown,
          .code_width = code_width_at(chain, x),
          .convention_changes = other_convention(chain, reported) - shown};
}

}  // namespace

Settings settings(const Chain& chain) {
  const auto& span = chain.channel.span;
  const double first = code(chain, span.low, chain.nominal);
  const double last = code(chain, span.high, chain.nominal);
  const double noise = noise_in_codes(chain, span.middle());
  const int count = chain.channel.average;
  Settings result{.signal_path = {},
                  .source_resistance = signal(chain, span.middle(), chain.nominal).resistance,
                  .full_scale_range = full_scale_range(chain),
                  .code_width = code_width(chain),
                  .range_used = std::abs(last - first) / chain.conversion.codes,
                  .codes_used = std::abs(last - first),
                  .last_code = last_code(chain),
                  .noise_in_codes = noise,
                  .noise_after_average =
                      std::hypot(noise / std::sqrt(count), quantisation_standard(noise, count)),
                  .allowed = {},
                  .landmarks = {}};
  for (const auto& stage : chain.stages) result.signal_path.push_back(stage.name);
  if (const auto& accuracy = chain.channel.target.accuracy) {
    result.allowed = allowed_at(chain, *accuracy, span.high);
  }
  for (const double x : {span.low, span.middle(), span.high}) {
    result.landmarks.push_back(landmark(chain, x));
  }
  return result;
}

Walk walk(const Chain& chain, double x) {
  Walk result{};
  result.steps.push_back({chain.channel.measures, x, chain.channel.span.unit});
  Signal passing{.value = x};
  for (const auto& stage : chain.stages) {
    passing = forward(stage.law, passing, chain.nominal);
    result.steps.push_back({"after " + stage.name, passing.value, stage.output});
  }
  const auto converted = convert(chain, code(chain, x, chain.nominal));
  result.code = converted.code;
  result.clipped = converted.clipped;
  const auto reported = static_cast<double>(converted.code);
  result.steps.push_back({"code", reported, quantity::unit("LSB")});
  result.steps.push_back(
      {"volts by the firmware", firmware_volts(chain, reported), quantity::unit("V")});
  result.reading = reading(chain, reported);
  result.steps.push_back({"reading", result.reading, chain.channel.span.unit});
  result.error = result.reading - x;
  return result;
}

WalkBack walk_back(const Chain& chain, std::int64_t code) {
  const auto number = static_cast<double>(code);
  WalkBack result{};
  result.steps.push_back({"code", number, quantity::unit("LSB")});
  double value = firmware_volts(chain, number);
  result.steps.push_back({"volts by the firmware", value, quantity::unit("V")});
  for (std::size_t i = chain.stages.size(); i-- > 1;) {
    value = inverse(chain.stages[i].law, value, chain.nominal);
    result.steps.push_back({"before " + chain.stages[i].name, value, chain.stages[i - 1].output});
  }
  result.reading = reading(chain, number);
  result.steps.push_back({"reading", result.reading, chain.channel.span.unit});
  result.from = quantity_at(chain, number - 0.5);
  result.to = quantity_at(chain, number + 0.5);
  result.open_below = code == first_code(chain);
  result.open_above = code == last_code(chain);
  return result;
}

}  // namespace tamlo::chain
