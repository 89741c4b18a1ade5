// SPDX-License-Identifier: Apache-2.0
// Faults that are planted in virtual units: how often the diagnosis names them first.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <string>
#include <vector>

#include "boards.hpp"
#include "tamlo/meter/diagnose.hpp"
#include "tamlo/model/detail/accuracy.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo::meter::planted {
namespace {

using model::Board;
using testing::precise;
using testing::value;

// A divided voltage "x" behind an amplifier with two gains and an attenuation, beside it a sensor
// of volts "y" on the same converter.
Board voltage() {
  auto board = testing::pack_voltage();
  board.references.front().output_resistance.reset();
  board.references.push_back({.name = "other", .voltage = value("3.3 V ±1 %", "V")});
  board.conditions.mains = model::Value{50.0};
  auto& adc = board.converters.front();
  adc.leakage = value("±50 nA", "A");
  adc.attenuations = {
      {.name = "unity", .ratio = value("1", ""), .usable = testing::range("0..2.5 V")},
      {.name = "low", .ratio = value("0.4 ±0.2 %", ""), .usable = testing::range("0..6 V")}};
  auto& x = board.channels.front();
  x.attenuation = "unity";
  x.rate = 1000.0;
  x.frontend.push_back(model::Amplifier{.gain = value("1 ±0.1 %", ""),
                                        .offset = value("±0.3 mV", "V"),
                                        .gains = {{.name = "one", .gain = value("1 ±0.1 %", "")},
                                                  {.name = "two", .gain = value("2 ±0.1 %", "")}},
                                        .use = "one"});
  model::Channel y{
      .name = "y", .measures = "voltage", .span = testing::range("0..2.4 V"), .converter = "adc"};
  y.attenuation = "unity";
  y.rate = 1000.0;
  board.channels.push_back(y);
  board.meters.push_back(testing::bench_meter());
  return board;
}

// The same without the amplifier, whose output no leakage would move.
Board divided() {
  auto board = voltage();
  board.channels.front().frontend.pop_back();
  return board;
}

// A thermistor, whose law depends on its beta.
Board thermistor() {
  auto board = testing::board({.span = "0..80 degC"});
  auto& x = board.channels.front();
  x.sensor = model::Ntc{.law = model::Thermistor{.r25 = value("10 kohm ±1 %", "ohm"),
                                                 .beta = value("3950 K ±0.5 %", "K")}};
  x.frontend = {model::SensorDivider{
      .bias_resistor = value("10 kohm ±0.1 %", "ohm"), .sensor_at_bottom = true, .supply = "ref"}};
  board.converters.front().offset = value("±2 LSB", "V");
  board.converters.front().noise = value("0.6 LSB rms", "V");
  x.average.count = 16;
  model::Meter meter{.name = "probe"};
  meter.ranges = {{.full_scale = value("200 degC", "degC"),
                   .digits = 20000,
                   .accuracy = value("±0.05 K", "K")}};
  board.meters.push_back(meter);
  return board;
}

struct Planted {
  const char* fault;
  const char* says;  // in the signature or the suspects that come first
  int least;         // of 20 units that it is named first
  Board (*board)() = voltage;
  std::function<void(Board&)> as_built{}, firmware{};
  const char* parameter = nullptr;  // that is moved, by a part of itself or by an amount
  double by = 0.0;
  bool relative = false;
  std::function<double(double)> register_shows{};
  std::function<void(std::vector<Reading>&)> rows{};
  const char* second = nullptr;  // of two faults at once
};

struct Readings {
  std::vector<Reading> rows;
  std::vector<OtherChannel> others;
};

// Twelve positions of five readings, by a unit that is drawn, and a meter that is.
Readings readings_of(const Planted& planted, bool faulty, std::uint64_t number) {
  auto board = planted.board(), as_built = board, firmware = board;
  if (faulty && planted.as_built) planted.as_built(as_built);
  if (faulty && planted.firmware) planted.firmware(firmware);
  const auto built = chain::build(as_built, "x"), programmed = chain::build(firmware, "x");
  auto unit = simulate::draw(built, 77, number);
  if (faulty && planted.parameter != nullptr) {
    EXPECT_TRUE(simulate::move(unit, built, planted.parameter, planted.by, planted.relative));
  }
  math::RandomStream noise(78, number);
  const auto& meter = board.meters.front();
  const auto& limit = meter.ranges.front().accuracy.limits.front();
  const double off = limit.basis == quantity::Basis::relative ? limit.size : 0.0;
  const double gain = 1.0 + off * (2.0 * noise.uniform() - 1.0);
  const auto& span = board.channels.front().span;
  Readings result;
  for (int i = 0; i < 12; ++i) {
    const double x = span.low + span.width() * (i + 0.3) / 12.3;
    const auto& on = meter.ranges[range_for(meter, x).value()];
    const double place =
        (on.full_scale.or_zero() - on.full_scale.unit.offset) / on.digits;  // of its display
    for (int repeat = 0; repeat < 5; ++repeat) {
      double found = simulate::UnitReader(built, built, x).register_value(unit, noise);
      if (faulty && planted.register_shows) found = planted.register_shows(found);
      result.rows.push_back({.meter = std::round(x * gain / place) * place,
                             .reading = chain::reading(programmed, found)});
    }
  }
  if (faulty && planted.rows) planted.rows(result.rows);
  result.rows = group(result.rows, meter);
  return result;
}

// The input of "y" on the bench, and what "x" shows where the two are exchanged.
double input_of_y(std::size_t row) { return 0.2 + 0.17 * static_cast<double>((row * 5) % 12); }

Readings exchanged(std::uint64_t number, bool faulty) {
  const Planted none{"", "", 0};
  auto result = readings_of(none, false, number);
  const auto board = voltage();
  const auto x = chain::build(board, "x"), y = chain::build(board, "y");
  const auto unit = simulate::draw(y, 79, number);
  math::RandomStream noise(80, number);
  OtherChannel other{.name = "y"};
  for (std::size_t i = 0; i < result.rows.size(); ++i) {
    other.readings.push_back({.meter = input_of_y(i), .reading = input_of_y(i)});
    if (!faulty) continue;
    result.rows[i].reading =
        chain::reading(x, simulate::UnitReader(y, y, input_of_y(i)).register_value(unit, noise));
    result.rows[i].spread.reset();
    result.rows[i].repeats = 1;
  }
  result.others = {other};
  return result;
}

model::Channel& channel_of(Board& board) { return board.channels.front(); }

const std::vector<Planted>& faults() {
  const auto meter_off = [](double by, double from) {
    return [=](std::vector<Reading>& rows) {
      for (auto& row : rows) row.meter *= row.meter > from ? 1.0 + by : 1.0;
    };
  };
  static const std::vector<Planted> all{
      {.fault = "reference +2 %",
       .says = "ref voltage",
       .least = 18,
       .parameter = "ref voltage",
       .by = 0.02,
       .relative = true},
      {.fault = "swapped reference",
       .says = "swapped reference",
       .least = 18,
       .as_built = [](Board& b) { b.converters.front().reference = "other"; }},
      {.fault = "resistor +1 %",
       .says = "divider top",
       .least = 18,
       .parameter = "divider top",
       .by = 0.01,
       .relative = true},
      {.fault = "resistor +10 %",
       .says = "divider top",
       .least = 18,
       .parameter = "divider top",
       .by = 0.1,
       .relative = true},
      {.fault = "gain switch",
       .says = "wrong gain setting",
       .least = 18,
       .as_built =
           [](Board& b) {
             auto& amplifier = std::get<model::Amplifier>(channel_of(b).frontend.back());
             amplifier.gain = value("2 ±0.1 %", "");
           }},
      {.fault = "alignment by 4 bits",
       .says = "alignment: codes are shifted left by 4",
       .least = 18,
       .register_shows = [](double found) { return 16.0 * found; }},
      {.fault = "one bit lost",
       .says = "one bit lost",
       .least = 18,
       .register_shows = [](double found) { return std::floor(found / 2.0); }},
      {.fault = "leakage 3 uA",
       .says = "leakage",
       .least = 16,
       .board = divided,
       .parameter = "adc leakage",
       .by = 3e-6},
      {.fault = "offset +25 LSB",
       .says = "adc offset",
       .least = 16,
       .parameter = "adc offset",
       .by = 25.0},
      {.fault = "amplifier offset 10 mV",
       .says = "amplifier offset",
       .least = 16,
       .parameter = "amplifier offset",
       .by = 0.01},
      {.fault = "average of 1 for 16",
       .says = "wrong number averaged: it looks like 1 ",
       .least = 16,
       .as_built = [](Board& b) { channel_of(b).average.count = 1; }},
      {.fault = "average of 4 for 16",
       .says = "wrong number averaged: it looks like",
       .least = 16,
       .as_built = [](Board& b) { channel_of(b).average.count = 4; }},
      {.fault = "mains 20 mV",
       .says = "interference",
       .least = 16,
       .as_built =
           [](Board& b) {
             channel_of(b).interference = {{.frequency = {50.0}, .amplitude = 0.02}};
           }},
      {.fault = "meter 1 % off on one range",
       .says = "on its range of",
       .least = 16,
       .rows = meter_off(0.01, 6.0)},
      {.fault = "meter 3 % off on all ranges",
       .says = "on all its ranges",
       .least = 16,
       .rows = meter_off(0.03, 0.0)},
      {.fault = "exchanged rows",
       .says = "swapped rows",
       .least = 18,
       .rows =
           [](std::vector<Reading>& rows) {
             for (std::size_t i = 0; i < 5; ++i)
               std::swap(rows[10 + i].reading, rows[40 + i].reading);
           }},
      {.fault = "ratio and offset",
       .says = "divider top",
       .least = 14,
       .parameter = "divider top",
       .by = 0.01,
       .relative = true,
       .register_shows = [](double found) { return found + 40.0; },
       .second = "offset"},
      {.fault = "sensor law, beta +5 %",
       .says = "sensor beta",
       .least = 18,
       .board = thermistor,
       .parameter = "sensor beta",
       .by = 0.05,
       .relative = true},
      {.fault = "count convention",
       .says = "count convention",
       .least = 18,
       .board = precise,
       .firmware =
           [](Board& b) { channel_of(b).scaling.convention = model::Convention::last_code; }},
  };
  return all;
}

// Among what comes first: the first signature, or else the suspects that cannot be told apart.
bool named_first(const Diagnosis& diagnosis, const std::string& says) {
  if (!diagnosis.signatures.empty())
    return diagnosis.signatures.front().fault.find(says) != std::string::npos;
  return !diagnosis.suspects.empty() &&
         std::ranges::any_of(diagnosis.suspects.front().sources, [&](const auto& source) {
           return source.name.find(says) != std::string::npos;
         });
}

// Two at once: one acts as the first does, in proportion, and one as the second.
bool both_named(const Diagnosis& diagnosis, const char* second) {
  const auto& pair = diagnosis.together.pair;
  return pair.size() == 2 && std::ranges::any_of(pair, [&](const auto& source) {
           return source.name.find(second) != std::string::npos;
         });
}

TEST(PlantedFaults, AreNamedFirst) {
  constexpr std::uint64_t units = 20;
  for (const auto& planted : faults()) {
    const auto board = planted.board();
    int named = 0;
    for (std::uint64_t n = 0; n < units; ++n) {
      const auto readings = readings_of(planted, true, n);
      const auto diagnosis = diagnose(board, "x", board.meters.front(), readings.rows);
      named += (planted.second != nullptr ? both_named(diagnosis, planted.second)
                                          : named_first(diagnosis, planted.says))
                   ? 1
                   : 0;
    }
    fmt::print("{:30} {:2} of {}\n", planted.fault, named, units);
    EXPECT_GE(named, planted.least) << planted.fault;
  }
  int named = 0;
  const auto board = voltage();
  for (std::uint64_t n = 0; n < units; ++n) {
    const auto readings = exchanged(n, true);
    named += named_first(
                 diagnose(board, "x", board.meters.front(), readings.rows, 0.95, readings.others),
                 "exchanged channels")
                 ? 1
                 : 0;
  }
  fmt::print("{:30} {:2} of {}\n", "exchanged channels", named, units);
  EXPECT_GE(named, 18);
}

TEST(PlantedFaults, SoundUnitsAreBlamedInTwoPercentAtMost) {
  const Planted none{"", "", 0};
  const auto board = voltage();
  constexpr int units = 1000 / testing::fewer;
  int blamed = 0;
  for (std::uint64_t n = 0; n < units; ++n) {
    const auto readings = readings_of(none, false, 1000 + n);
    const auto diagnosis = diagnose(board, "x", board.meters.front(), readings.rows);
    blamed += diagnosis.fault || !diagnosis.signatures.empty() ? 1 : 0;
  }
  fmt::print("blamed: {} of {} sound units\n", blamed, units);
  EXPECT_LE(blamed, 0.02 * units + testing::scatter(units));
}

}  // namespace
}  // namespace tamlo::meter::planted
