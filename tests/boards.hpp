// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>

#include "tamlo/chain/chain.hpp"
#include "tamlo/quantity/notation.hpp"

// Boards for the tests of the core, which reads no file.
namespace tamlo::testing {

/// Statistical tests draw fewer by this factor under the sanitizers, where a draw costs ten times
/// as much; their bounds follow from the number that is drawn.
#if defined(__SANITIZE_ADDRESS__)
inline constexpr int fewer = 5;
#else
inline constexpr int fewer = 1;
#endif

/// Three standard deviations of a count of 95 % of so many, where fewer are drawn.
inline double scatter(int count) { return fewer > 1 ? 3.0 * std::sqrt(0.95 * 0.05 * count) : 0.0; }

inline quantity::Value value(const char* text, const char* unit) {
  using quantity::Basis;
  return quantity::parse_value(text, {.unit = quantity::unit(unit),
                                      .bases = {Basis::absolute, Basis::relative, Basis::code,
                                                Basis::digit, Basis::span, Basis::range}});
}

inline quantity::Range range(const char* text) { return quantity::parse_range(text, {}); }

/// One channel "x" of volts on one converter "adc" and one reference "ref", without any error.
struct Plain {
  int bits = 12;
  const char* reference = "2.5 V";
  const char* span = "0..2.5 V";
  const char* top = nullptr;  ///< of a divider, with `bottom`
  const char* bottom = nullptr;
};

inline model::Board board(const Plain& plain = {}) {
  model::Board result;
  result.references.push_back({.name = "ref", .voltage = value(plain.reference, "V")});
  result.converters.push_back({.name = "adc", .resolution = plain.bits, .reference = "ref"});
  model::Channel channel{
      .name = "x", .measures = "voltage", .span = range(plain.span), .converter = "adc"};
  if (plain.top != nullptr) {
    channel.frontend.push_back(
        model::Divider{.top = value(plain.top, "ohm"), .bottom = value(plain.bottom, "ohm")});
  }
  result.channels.push_back(channel);
  return result;
}

/// The pack voltage of the demo, all its errors included.
inline model::Board pack_voltage() {
  auto result = board({.reference = "2.5 V ±0.05 % ±10 ppm/K ±40 ppm/year",
                       .span = "0..60 V",
                       .top = "240 kohm ±0.1 % ±25 ppm/K",
                       .bottom = "10 kohm ±0.1 % ±25 ppm/K"});
  result.conditions.temperature = range("15..45 degC");
  result.conditions.age = 31557600.0;
  result.references.front().noise = value("9 uV rms", "V");
  auto& adc = result.converters.front();
  adc.offset = value("±2 LSB ±2 ppm/K", "V");
  adc.gain = value("±3 LSB ±4 ppm/K", "V");
  adc.inl = value("±1.5 LSB", "V");
  adc.dnl = value("±0.9 LSB", "V");
  adc.noise = value("0.6 LSB rms", "V");
  auto& channel = result.channels.front();
  channel.average.count = 16;
  channel.target.accuracy = value("±0.5 % of span", "V").limits.front();
  return result;
}

inline model::Meter bench_meter() {
  return {.name = "bench",
          .ranges = {{.full_scale = value("6 V", "V"),
                      .digits = 6000,
                      .accuracy = value("±0.05 % ±2 digits", "V")},
                     {.full_scale = value("60 V", "V"),
                      .digits = 6000,
                      .accuracy = value("±0.05 % ±2 digits", "V")}}};
}

/// A meter good enough to see single codes, of volts or of the channel's own unit.
inline model::Meter fine_meter(const char* unit = "V", const char* accuracy = "±10 uV") {
  auto full_scale = value("100 V", "V");
  full_scale.unit = quantity::unit(unit);
  return {.name = "fine",
          .ranges = {{.full_scale = full_scale, .digits = 1e8, .accuracy = value(accuracy, unit)}}};
}

/// Twelve bits on 2.5 V whose parts are so good that half a code shows.
inline model::Board precise() {
  auto result = board({.reference = "2.5 V ±0.002 %", .span = "0..2.45 V"});
  auto& adc = result.converters.front();
  adc.offset = value("±0.05 LSB", "V");
  adc.gain = value("±0.05 LSB", "V");
  adc.noise = value("0.7 LSB rms", "V");
  result.channels.front().average.count = 64;
  result.meters.push_back(fine_meter());
  return result;
}

inline std::size_t source(const chain::Chain& chain, const std::string& name) {
  for (std::size_t i = 0; i < chain.sources.size(); ++i) {
    if (chain.sources[i].name == name) return i;
  }
  throw chain::ChainError("no source " + name);
}

}  // namespace tamlo::testing
