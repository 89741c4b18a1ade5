// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/diagnose.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo::meter {
namespace {

using model::Board;
using testing::fine_meter;
using testing::precise;
using testing::value;

Board with_attenuations() {
  auto board = testing::pack_voltage();
  board.meters.push_back(testing::bench_meter());
  auto& adc = board.converters.front();
  adc.attenuations = {
      {.name = "unity", .ratio = value("1", ""), .usable = testing::range("0..2.5 V")},
      {.name = "half", .ratio = value("0.5 ±0.2 %", ""), .usable = testing::range("0..5 V")}};
  board.channels.front().attenuation = "unity";
  board.references.push_back({.name = "other", .voltage = value("3.3 V ±1 %", "V")});
  return board;
}

Board in_integers() {
  auto board = precise();
  board.channels.front().scaling.integer =
      model::IntegerScaling{.steps = {{.operation = model::Operation::multiply, .operand = 20}},
                            .bits = 32,
                            .count = 2.5 / 4096.0 / 20.0};
  return board;
}

Board of_loop() {
  auto board = testing::board({.span = "0..2.45 V"});
  auto& channel = board.channels.front();
  channel.span = quantity::Range{.low = 0.0, .high = 10.0, .unit = quantity::label_unit("bar_")};
  channel.sensor = model::CurrentLoop{};
  channel.frontend = {model::Shunt{.resistance = value("120 ohm ±0.1 %", "ohm")}};
  board.converters.front().offset = value("±2 LSB", "V");
  auto meter = fine_meter();
  meter.ranges.front().full_scale.unit = channel.span.unit;
  meter.ranges.front().accuracy = value("±0.1 %", "V");
  board.meters.push_back(meter);
  return board;
}

Board loaded() {
  auto board = testing::pack_voltage();
  auto meter = testing::bench_meter();
  meter.input_resistance = value("1 Mohm ±1 %", "ohm");
  board.meters.push_back(meter);
  return board;
}

Board clipped() {
  auto board = testing::pack_voltage();
  board.meters.push_back(testing::bench_meter());
  board.channels.front().span.high = 59.0;
  std::get<model::Divider>(board.channels.front().frontend.front()).bottom =
      value("12 kohm ±0.1 %", "ohm");
  return board;
}

Board plain() {
  auto board = testing::pack_voltage();
  board.meters.push_back(testing::bench_meter());
  return board;
}

Board single_conversions() {
  auto board = precise();
  board.channels.front().average.count = 1;
  return board;
}

model::Channel& channel_of(Board& board) { return board.channels.front(); }

struct Fault {
  const char* says;  // how the signature begins
  Board (*board)();
  std::function<void(Board&)> as_built{};  // what was built
  std::function<void(Board&)> firmware{};  // what was programmed
  std::function<void(std::vector<Reading>&, const chain::Chain&)> readings{};
};

const std::vector<Fault>& faults() {
  static const std::vector<Fault> all{
      {"count convention off by one",
       precise,
       {},
       [](Board& b) { channel_of(b).scaling.convention = model::Convention::last_code; }},
      {"truncation not compensated", precise,
       [](Board& b) { b.converters.front().first_transition = model::FirstTransition::full_code; }},
      {"wrong attenuation setting", with_attenuations,
       [](Board& b) { channel_of(b).attenuation = "half"; }},
      {"swapped reference", with_attenuations,
       [](Board& b) { b.converters.front().reference = "other"; }},
      {"firmware overflow",
       in_integers,
       {},
       [](Board& b) {
         channel_of(b).scaling.integer->bits = 16;
         channel_of(b).scaling.integer->is_signed = false;
       }},
      {"live zero ignored",
       of_loop,
       {},
       [](Board& b) { std::get<model::CurrentLoop>(*channel_of(b).sensor).low = 0.0; }},
      {"loading by the meter", loaded, [](Board& b) { channel_of(b).loaded_by = "bench"; }},
      {"clipping", clipped},
      {"missing bit: bit 9 is always 0",
       plain,
       {},
       {},
       [](std::vector<Reading>& rows, const chain::Chain& chain) {
         for (auto& row : rows) {
           const double code = chain::code(chain, row.reading, chain.nominal);
           if (std::fmod(code, 1024.0) >= 512.0) {
             row.reading -= 512.0 * chain::code_width_at(chain, row.reading);
           }
         }
       }},
      {"missing bit: the lowest bit never moves",
       single_conversions,
       {},
       {},
       [](std::vector<Reading>& rows, const chain::Chain& chain) {
         for (auto& row : rows) {
           const double code = std::round(chain::code(chain, row.reading, chain.nominal));
           row.reading = chain::reading(chain, 2.0 * std::floor(code / 2.0));
         }
       }},
      {"swapped rows",
       plain,
       {},
       {},
       [](std::vector<Reading>& rows, const chain::Chain&) {
         std::swap(rows[3].reading, rows[9].reading);
       }},
  };
  return all;
}

std::vector<Reading> readings_of(const Fault& fault, bool faulty, std::uint64_t number) {
  auto board = fault.board(), as_built = board, firmware = board;
  if (faulty && fault.as_built) fault.as_built(as_built);
  if (faulty && fault.firmware) fault.firmware(firmware);
  const auto built = chain::build(as_built, "x"), programmed = chain::build(firmware, "x");
  const auto unit = simulate::draw(built, 77, number);
  math::RandomStream noise(78, number);
  std::vector<Reading> rows;
  const auto& span = board.channels.front().span;
  for (int i = 0; i < 18; ++i) {
    // The clipping board ends below its span; a sound unit is read below that.
    const double part = fault.says == std::string("clipping") && !faulty ? 0.85 : 1.0;
    const double x = span.low + span.width() * part * (i + 0.6) / 18.6;
    rows.push_back({.meter = x, .reading = simulate::read(built, programmed, unit, x, noise)});
  }
  if (faulty && fault.readings) fault.readings(rows, chain::build(board, "x"));
  return rows;
}

bool found(const Diagnosis& diagnosis, const std::string& says) {
  return !diagnosis.signatures.empty() && diagnosis.signatures.front().fault.starts_with(says);
}

// Every known fault, by readings that show it and by readings of sound units that do not.
TEST(Diagnose, KnownFaultsAreNamedAndSoundUnitsAreNot) {
  for (const auto& fault : faults()) {
    int named = 0, blamed = 0;
    constexpr int units = 20;
    for (std::uint64_t n = 0; n < units; ++n) {
      const auto board = fault.board();
      const auto& meter = board.meters.front();
      named += found(diagnose(board, "x", meter, readings_of(fault, true, n)), fault.says) ? 1 : 0;
      const auto sound = diagnose(board, "x", meter, readings_of(fault, false, n));
      blamed += sound.signatures.empty() ? 0 : 1;
    }
    EXPECT_GE(named, units - 1) << fault.says;
    EXPECT_LE(blamed, 1) << fault.says;
  }
}

// Described for half of the voltage and built for all of it: the upper rows stand at the last code.
TEST(Diagnose, AWrongBoardMayEndBeforeItsSpan) {
  auto board = with_attenuations();
  channel_of(board).attenuation = "half";
  auto as_built = board;
  channel_of(as_built).attenuation = "unity";
  std::get<model::Divider>(channel_of(board).frontend.front()).bottom =
      value("20 kohm ±0.1 %", "ohm");
  channel_of(as_built).frontend = channel_of(board).frontend;
  for (std::uint64_t n = 0; n < 5; ++n) {
    const auto built = chain::build(as_built, "x"), programmed = chain::build(board, "x");
    const auto unit = simulate::draw(built, 77, n);
    math::RandomStream noise(78, n);
    std::vector<Reading> rows;
    for (int i = 0; i < 12; ++i) {
      const double x = 5.0 * i;
      rows.push_back({.meter = x, .reading = simulate::read(built, programmed, unit, x, noise)});
    }
    const auto diagnosis = diagnose(board, "x", board.meters.front(), rows);
    EXPECT_TRUE(std::ranges::any_of(diagnosis.signatures, [](const Signature& s) {
      return s.fault.starts_with("wrong attenuation setting");
    })) << n;
  }
}

// Units with one source pushed to three of its limits: it, or a group with it, comes first. And
// sound units, of which at most 5 % are blamed.
TEST(Diagnose, APushedSourceComesFirst) {
  auto board = testing::pack_voltage();
  board.meters.push_back(testing::bench_meter());
  const auto chain = chain::build(board, "x");
  const auto budget = budget::evaluate(chain, {.at = {5.0, 55.0}});
  std::vector<std::size_t> pushable;
  for (std::size_t s = 0; s < chain.sources.size(); ++s) {
    const auto kind = chain.sources[s].kind();
    if (chain::random(kind) || kind == chain::Kind::nonlinearity) continue;
    // What three of its limits do must stand out of what the meter alone can see.
    const auto& high = budget.points[1].contributions[s];
    if (3.0 * high.worst > 0.03) pushable.push_back(s);
  }
  ASSERT_GE(pushable.size(), 8U);
  const auto& meter = board.meters.front();
  const auto rows_of = [&](const simulate::VirtualUnit& drawn, std::uint64_t number) {
    auto unit = drawn;
    math::RandomStream noise(31, number);
    const double gain = noise.uniform() * 2 - 1, digits = noise.uniform() * 2 - 1;
    std::vector<Reading> rows;
    for (const double x : {1.0, 3.0, 5.0, 12.0, 24.0, 36.0, 48.0, 58.0}) {
      unit.parameters[chain.conversion.inl] = 1.5 * (2 * noise.uniform() - 1);
      unit.parameters[chain.conversion.dnl] = 0.9 * (2 * noise.uniform() - 1);
      const double digit = x <= 6.0 ? 0.001 : 0.01;
      const double shown = std::round((x * (1 + 5e-4 * gain) + 2 * digit * digits) / digit) * digit;
      rows.push_back({.meter = shown, .reading = simulate::read(chain, chain, unit, x, noise)});
    }
    return rows;
  };
  int first = 0, blamed = 0;
  constexpr int units = 1000;
  for (int i = 0; i < units; ++i) {
    const auto number = static_cast<std::uint64_t>(i);
    auto unit = simulate::draw(chain, 30, number);
    blamed += diagnose(board, "x", meter, rows_of(unit, number)).fault ? 1 : 0;
    const auto s = pushable[static_cast<std::size_t>(i) % pushable.size()];
    const auto& source = chain.sources[s];
    unit.parameters[source.parameter] += (i % 2 == 0 ? 3.0 : -3.0) * source.limit;
    const auto pushed = diagnose(board, "x", meter, rows_of(unit, number + units));
    const auto& named = pushed.suspects.front().sources;
    first += std::ranges::any_of(named, [&](const auto& n) { return n.name == source.name; });
  }
  EXPECT_GE(first, 0.95 * units);
  EXPECT_LE(blamed, 0.05 * units);
}

// A meter that is six of its limits off, beside a channel that can see it: it is named, first, the
// side is the meter's, and comparison and diagnosis say the same.
TEST(Diagnose, AMeterThatIsOffIsNamed) {
  auto board = testing::board({.bits = 16, .span = "0..2.4 V"});
  board.converters.front().offset = testing::value("±1 LSB", "V");
  board.references.front().voltage.limits = testing::value("2.5 V ±0.01 %", "V").limits;
  board.meters.push_back({.name = "bench",
                          .ranges = {{.full_scale = testing::value("6 V", "V"),
                                      .digits = 60'000,
                                      .accuracy = testing::value("±0.05 % ±2 digits", "V")}}});
  const auto chain = chain::build(board, "x");
  const auto& meter = board.meters.front();
  const std::vector<double> places{0.2, 0.6, 1.0, 1.4, 1.8, 2.2, 2.4};
  for (const auto& [relative, digits, says] :
       {std::tuple{6.0, 0.0, "0.05 %"}, std::tuple{0.0, 6.0, "2 digits"},
        std::tuple{0.0, 0.0, ""}}) {
    std::vector<Reading> rows;
    math::RandomStream noise(3, 3);
    for (const double x : places) {
      const double shown = x * (1.0 + relative * 5e-4) + digits * 2e-4;
      rows.push_back({.meter = std::round(shown / 1e-4) * 1e-4,
                      .reading = simulate::read(chain, chain, simulate::nominal(chain), x, noise)});
    }
    const auto result = diagnose(board, "x", meter, rows);
    const auto summary = compare(chain, meter, rows).summary;
    EXPECT_EQ(result.side, summary.side) << says;
    EXPECT_EQ(result.fault, !summary.agreement.agrees) << says;
    if (*says == '\0') {
      EXPECT_FALSE(result.fault);
      EXPECT_EQ(result.side, Side::neither);
      continue;
    }
    EXPECT_TRUE(result.fault) << says;
    const auto& first = result.suspects.front().sources.front();
    EXPECT_TRUE(first.of_meter) << first.name;
    EXPECT_NE(first.name.find(says), std::string::npos) << first.name;
    EXPECT_NEAR(std::abs(first.limits), 6.0, 0.5) << first.name;
  }
}

// A group is no excuse: what differs in its effect is told apart.
TEST(Diagnose, AnOffsetIsNotAGain) {
  auto board = testing::pack_voltage();
  board.meters.push_back(testing::bench_meter());
  const auto chain = chain::build(board, "x");
  for (const auto& [pushed, other] : {std::pair{"adc offset tolerance", "divider top tolerance"},
                                      std::pair{"divider top tolerance", "adc offset tolerance"}}) {
    const auto s = testing::source(chain, pushed);
    const auto unit = simulate::with_deviations(chain, {{s, 6.0 * chain.sources[s].limit}});
    math::RandomStream noise(1, 1);
    std::vector<Reading> rows;
    for (const double x : {1.0, 4.0, 15.0, 30.0, 45.0, 58.0}) {
      rows.push_back({.meter = x, .reading = simulate::read(chain, chain, unit, x, noise)});
    }
    const auto result = diagnose(board, "x", board.meters.front(), rows);
    EXPECT_TRUE(result.fault) << pushed;
    const auto& first = result.suspects.front().sources;
    const auto named = [&](const char* name) {
      return std::ranges::find(first, name, &Suspect::Source::name);
    };
    ASSERT_NE(named(pushed), first.end()) << pushed;
    EXPECT_NEAR(std::abs(named(pushed)->limits), 6.0, 0.6) << pushed;
    // Only what lies before the pin hides from a meter there.
    for (const auto& one : first) {
      EXPECT_EQ(one.before_pin, one.name.starts_with("divider")) << one.name;
    }
    EXPECT_EQ(named(other), first.end()) << pushed;
  }
}

}  // namespace
}  // namespace tamlo::meter
