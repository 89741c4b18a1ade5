// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/calibrate.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
#include <optional>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/regression.hpp"
#include "tamlo/meter/drift.hpp"
#include "tamlo/meter/units.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo::meter {
namespace {

const std::vector<double> positions{2.0, 9.0, 16.0, 24.0, 31.0, 38.0, 45.0, 52.0, 58.0};

// A meter whose limits are normal, so that what it is off can be drawn as it is said.
model::Meter normal_meter() {
  return {.name = "bench",
          .ranges = {{.full_scale = testing::value("60 V", "V"),
                      .digits = 60000,
                      .accuracy = testing::value("±0.06 % (k=2) ±6 mV (k=2)", "V")}}};
}

std::vector<Reading> exact(double (*error)(double)) {
  std::vector<Reading> rows;
  for (const double x : positions) rows.push_back({.meter = x, .reading = x + error(x)});
  return rows;
}

// Each model gives back the error that it can follow, and says what it cannot.
TEST(Calibrate, KnownErrorsAreTakenAway) {
  struct Case {
    Model model;
    double (*error)(double);
    double left;
  };
  const std::vector<Case> cases{
      {Model::offset, [](double) { return 0.2; }, 1e-12},
      {Model::gain, [](double x) { return 0.01 * x; }, 1e-12},
      {Model::two_point, [](double x) { return 0.2 + 0.01 * x; }, 1e-12},
      {Model::line, [](double x) { return 0.2 + 0.01 * x; }, 1e-12},
      {Model::weighted_line, [](double x) { return 0.2 + 0.01 * x; }, 1e-12},
      {Model::both_axes, [](double x) { return 0.2 + 0.01 * x; }, 1e-12},
      // x from y = 0.2 + 1.01 x + 1e-4 x^2 is no polynomial, but nearly one.
      {Model::polynomial, [](double x) { return 0.2 + 0.01 * x + 1e-4 * x * x; }, 5e-3},
      {Model::piecewise, [](double x) { return x < 31.0 ? 0.2 : 0.2 + 0.02 * (x - 31.0); }, 0.06},
  };
  const auto chain = chain::build(testing::pack_voltage(), "x");
  for (const auto& [model, error, left] : cases) {
    const auto c = calibrate(chain, testing::bench_meter(), exact(error), {.model = model});
    EXPECT_EQ(c.model, model);
    for (const double x : {3.0, 20.0, 40.0, 57.0}) {
      EXPECT_NEAR(chain::corrected(c.correction, x + error(x)), x, left) << name(model) << x;
    }
    // The parameters as they are printed are the correction.
    if (model == Model::line) {
      EXPECT_NEAR(c.parameters[0].value, -0.2 / 1.01, 1e-12);
      EXPECT_NEAR(c.parameters[1].value, 1.0 / 1.01, 1e-14);
    }
    if (model == Model::polynomial) {
      const double r = 33.0;
      EXPECT_NEAR(c.parameters[0].value + r * c.parameters[1].value + r * r * c.parameters[2].value,
                  chain::corrected(c.correction, r), 1e-12);
    }
  }
}

TEST(Calibrate, TheModelIsChosenByWhatItForetells) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto with_noise = [&](double (*error)(double)) {
    auto rows = exact(error);
    math::RandomStream noise(5, 5);
    for (auto& row : rows) row.reading += 0.01 * noise.normal();
    return calibrate(chain, testing::bench_meter(), rows);
  };
  EXPECT_EQ(with_noise([](double) { return 0.2; }).model, Model::offset);
  EXPECT_EQ(with_noise([](double x) { return 0.2 - 0.01 * x; }).model, Model::weighted_line);
  const auto bent = with_noise([](double x) { return 0.002 * x * x; });
  EXPECT_EQ(bent.model, Model::polynomial);
  EXPECT_LE(bent.order, 3);
  // All that were tried are shown, the chosen one first.
  EXPECT_EQ(bent.candidates.front().model, Model::polynomial);
  EXPECT_GE(bent.candidates.size(), 6U);
}

TEST(Calibrate, WhatCannotBeDeterminedIsRefusedWithTheReason) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto meter = testing::bench_meter();
  const std::vector<Reading> one{{.meter = 48.0, .reading = 48.1}};
  const std::vector<Reading> same{{.meter = 48.0, .reading = 48.1},
                                  {.meter = 48.0, .reading = 48.2}};
  struct Case {
    std::vector<Reading> rows;
    CalibrationRequest request;
    const char* says;
  };
  for (const auto& [rows, request, says] : {
           Case{one, {.model = Model::line}, "needs readings at 2 different positions; there is 1"},
           Case{same, {.model = Model::two_point}, "all are at 48.10 V"},
           Case{exact([](double) { return 0.0; }), {.model = Model::polynomial, .order = 6}, ""},
           Case{{one[0], {.meter = 20.0, .reading = 20.0}},
                {.model = Model::polynomial, .order = 3},
                "a polynomial of order 3 needs readings at 4 different positions; there are 2"},
           Case{{{.meter = 0.0, .reading = 0.0}},
                {.model = Model::gain},
                "all readings are at zero"},
       }) {
    try {
      calibrate(chain, meter, rows, request);
      EXPECT_STREQ(says, "");
    } catch (const CalibrationError& error) {
      ASSERT_STRNE(says, "") << error.what();
      EXPECT_NE(std::string(error.what()).find(says), std::string::npos) << error.what();
    }
  }
  EXPECT_EQ(calibrate(chain, meter, one).model, Model::offset);
  EXPECT_THROW(calibrate(chain, meter, {}), CompareError);
}

TEST(Calibrate, AWildRowIsNamedAndKept) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  auto rows = exact([](double x) { return 0.1 + 0.002 * x; });
  math::RandomStream noise(6, 6);
  for (auto& row : rows) row.reading += 0.005 * noise.normal();
  const CalibrationRequest line{.model = Model::weighted_line};
  EXPECT_TRUE(calibrate(chain, testing::bench_meter(), rows, line).outliers.empty());
  rows[4].reading += 0.5;
  const auto c = calibrate(chain, testing::bench_meter(), rows, line);
  ASSERT_EQ(c.outliers.size(), 1U);
  EXPECT_EQ(c.outliers[0].row, 4U);
  EXPECT_EQ(c.residuals.size(), rows.size());
  EXPECT_TRUE(c.overdispersed);
}

// The meter's own limits stay however many rows there are, and are most of what is left of a line.
TEST(Calibrate, TheMetersPartDoesNotAverageAway) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto meter = normal_meter();
  for (const int times : {1, 20}) {
    std::vector<Reading> rows;
    for (int i = 0; i < times; ++i) {
      for (const double x : positions)
        rows.push_back({.meter = x + 1e-3 * i, .reading = x + 1e-3 * i});
    }
    const auto c = calibrate(chain, meter, rows, {.model = Model::weighted_line});
    // At full scale: 0.03 % of 60 V and 3 mV, standard.
    EXPECT_NEAR(c.residual_uncertainty.back().meter / c.coverage_factor, std::hypot(0.018, 0.003),
                1e-4);
    if (times == 20) {
      EXPECT_LT(c.residual_uncertainty.back().fit, 0.15 * c.residual_uncertainty.back().meter);
    }
  }
}

// A unit where its limits hold, and the same after temperature and age.
struct DriftingUnit {
  simulate::VirtualUnit calibrated{}, later{};

  DriftingUnit(const chain::Chain& chain, math::RandomStream& stream)
      : calibrated(simulate::nominal(chain)), later(calibrated) {
    for (const auto& source : chain.sources) {
      const auto kind = source.kind();
      const double moved = source.limit * (2.0 * stream.uniform() - 1.0);
      if (kind == chain::Kind::tolerance) calibrated.parameters[source.parameter] += moved;
      if (kind == chain::Kind::tolerance || kind == chain::Kind::temperature ||
          kind == chain::Kind::ageing) {
        later.parameters[source.parameter] += moved;
      }
    }
  }

  // INL and DNL are those of each place.
  static double read(const chain::Chain& chain, simulate::VirtualUnit unit, double x,
                     math::RandomStream& stream) {
    unit.parameters[chain.conversion.inl] = 1.5 * (2.0 * stream.uniform() - 1.0);
    unit.parameters[chain.conversion.dnl] = 0.9 * (2.0 * stream.uniform() - 1.0);
    return simulate::read(chain, chain, unit, x, stream);
  }

  std::vector<Reading> beside_a_meter(const chain::Chain& chain, math::RandomStream& stream) const {
    const double gain = 3e-4 * stream.normal(), offset = 3e-3 * stream.normal();
    std::vector<Reading> rows;
    for (const double at : positions) {
      const double x = at + 0.05 * stream.uniform();
      rows.push_back({.meter = std::round((x * (1.0 + gain) + offset) / 0.001) * 0.001,
                      .reading = read(chain, calibrated, x, stream)});
    }
    return rows;
  }
};

// Over simulated units, meters and noise, what is said to be left holds the truth 95 % of the time.
// A unit is calibrated where its limits hold, and drifts by temperature and age afterwards.
TEST(Calibrate, WhatIsLeftHoldsTheTruth) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto meter = normal_meter();
  int held = 0, count = 0;
  for (std::uint64_t n = 0; n < 800 / testing::fewer; ++n) {
    math::RandomStream stream(11, n);
    const DriftingUnit unit(chain, stream);
    const auto rows = unit.beside_a_meter(chain, stream);
    const auto c = calibrate(chain, meter, rows, {.model = Model::weighted_line});
    const double x = 2.0 + 56.0 * stream.uniform();
    const double reading = DriftingUnit::read(chain, unit.later, x, stream);
    const auto left = residual_uncertainty(c, chain, meter, rows, {x}).front();
    held += std::abs(chain::corrected(c.correction, reading) - x) <= left.after ? 1 : 0;
    ++count;
  }
  EXPECT_NEAR(held / static_cast<double>(count), 0.95, 0.022 + testing::scatter(count) / count);
}

// The budget of a board with a correction of whatever model says at each place what the calibration
// said, and units keep to it there: those with an offset alone as well, of which the rest of each
// tolerance stays.
TEST(Calibrate, TheBudgetWithACorrectionIsThatOfTheCalibration) {
  auto board = testing::pack_voltage();
  const auto chain = chain::build(board, "x");
  const auto meter = normal_meter();
  const std::vector<double> places{3.0, 12.0, 21.0, 30.0, 39.0, 48.0, 57.0};
  using Asked = std::optional<Model>;
  constexpr std::uint64_t units = 60 / testing::fewer;
  for (const Asked model :
       {Asked(Model::offset), Asked(Model::gain), Asked(Model::two_point), Asked(Model::line),
        Asked(Model::both_axes), Asked(Model::polynomial), Asked(Model::piecewise), Asked()}) {
    const auto called = model ? name(*model) : std::string_view("best");
    SCOPED_TRACE(called);
    int held = 0, count = 0;
    for (std::uint64_t n = 0; n < units; ++n) {
      math::RandomStream stream(13, n);
      const DriftingUnit unit(chain, stream);
      const auto rows = unit.beside_a_meter(chain, stream);
      const auto c = calibrate(chain, meter, rows, {.model = model});
      board.channels.front().correction = c.correction;
      const auto budget =
          budget::evaluate(chain::build(board, "x"), {.at = places, .search = false});
      const auto said = residual_uncertainty(c, chain, meter, rows, places);
      for (std::size_t i = 0; i < places.size(); ++i) {
        const auto& point = budget.points[i];
        // Trials of the one are of fewer units than those of the other.
        const bool drawn = point.method == budget::Method::trials;
        EXPECT_NEAR(std::abs(point.bias) + point.expanded, said[i].after,
                    drawn ? 0.08 * point.expanded : 1e-9);
        const double reading = DriftingUnit::read(chain, unit.later, places[i], stream);
        const double error = chain::corrected(c.correction, reading) - places[i];
        held += std::abs(error - point.bias) <= point.expanded ? 1 : 0;
        ++count;
      }
    }
    const double part = held / static_cast<double>(count);
    fmt::print("{:12} {:.1f} % of {} within\n", called, 100.0 * part, count);
    // What the seven places of a unit share makes a count of them spread more.
    const double scatter = 3.0 * std::sqrt(0.95 * 0.05 / (3.0 * static_cast<double>(units)));
    EXPECT_GE(part, 0.945 - scatter);
    EXPECT_LE(part, 0.97 + scatter);
  }
}

// A unit that has drifted by more than its ageing, and one that has not.
TEST(Drift, BetweenTwoDates) {
  auto board = testing::pack_voltage();
  board.references.front().voltage = testing::value("2.5 V ±0.05 % ±0.1 %/year", "V");
  const auto chain = chain::build(board, "x");
  const auto rows = [&](double part, double time) {
    std::vector<Reading> result;
    for (const double x : positions) {
      result.push_back({.meter = x, .reading = x * (1.0 + part), .time = time});
    }
    return result;
  };
  const double year = chain.conditions.age;
  const auto earlier = rows(0.0, 0.0);
  struct Case {
    double part;
    bool significant, within;
  };
  for (const auto& [part, significant, within] :
       {Case{0.0, false, true}, Case{5e-4, true, true}, Case{3e-3, true, false}}) {
    const auto later = rows(part, year);
    ASSERT_EQ(elapsed_between(earlier, later), year);
    const auto d = drift(Evidence(chain, normal_meter(), earlier),
                         Evidence(chain, normal_meter(), later), year);
    EXPECT_EQ(d.significant, significant) << part;
    EXPECT_EQ(d.within_ageing, within) << part;
    const auto& top = d.places.back();
    EXPECT_NEAR(top.change, 60.0 * part, 1e-3) << part;
    EXPECT_NEAR(top.ageing, 1.96 * 60.0 * 1e-3 / std::sqrt(3.0), 1e-3);
    // The same meter twice: only what is new in each row is left, millivolts of volts.
    EXPECT_LT(top.expanded, 0.03);
    if (part > 0.0) {
      // 0.3 V allowed at full scale, less the uncertainty of the later line.
      const auto line = calibrate(chain, normal_meter(), later, {.model = Model::weighted_line});
      const double room = 0.3 - 1.959964 * line.standard_at(60.0);
      EXPECT_NEAR(*d.until_missed / year, room / (60.0 * part) - 1.0, 0.02) << part;
      EXPECT_EQ(d.missed_at, 60.0);
    }
  }
  EXPECT_FALSE(elapsed_between(earlier, {{.meter = 1.0, .reading = 1.0}}));
}

// Units whose offsets and gains are known: their spread, its interval, and how many would do.
TEST(Units, SpreadAndShares) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto draw = [&](double wide, std::uint64_t seed) {
    std::vector<std::pair<std::string, Evidence>> rows;
    for (std::uint64_t n = 0; n < 40; ++n) {
      const auto drawn = simulate::draw(chain, seed, n);
      auto unit = drawn;
      for (std::size_t i = 0; i < unit.parameters.size(); ++i) {
        unit.parameters[i] += (wide - 1.0) * (unit.parameters[i] - chain.nominal[i]);
      }
      math::RandomStream noise(seed + 1, n);
      std::vector<Reading> of;
      for (const double x : positions) {
        of.push_back({.meter = x, .reading = simulate::read(chain, chain, unit, x, noise)});
      }
      rows.emplace_back(std::to_string(n), Evidence(chain, testing::bench_meter(), of));
    }
    return units(rows);
  };
  const auto sound = draw(1.0, 21);
  EXPECT_EQ(sound.offset.differs, 0);
  EXPECT_EQ(sound.gain.differs, 0);
  EXPECT_LT(sound.gain.low, sound.gain.deviation);
  EXPECT_GT(sound.gain.high, sound.gain.deviation);
  EXPECT_GT(sound.as_built.expected, 0.99);
  EXPECT_EQ(sound.as_built.met, 40);
  const auto wide = draw(4.0, 23);
  EXPECT_EQ(wide.gain.differs, 1);
  EXPECT_LT(wide.as_built.expected, 0.95);
  EXPECT_NEAR(wide.as_built.met / 40.0, wide.as_built.expected, 0.15);
  EXPECT_EQ(wide.after_two_point.met, 40);
  EXPECT_THROW(
      units({{"a", Evidence(chain, testing::bench_meter(), exact([](double) { return 0.0; }))}}),
      CompareError);
}

// Howe, 1969: two-sided factors for 95 % of all with a confidence of 95 %, by the tables of ISO
// 16269-6.
TEST(Units, ToleranceFactors) {
  for (const auto& [n, factor] : {std::pair{10, 3.379}, {20, 2.752}, {50, 2.379}, {100, 2.233}}) {
    EXPECT_NEAR(math::tolerance_factor(n, 0.95, 0.95) / factor, 1.0, 0.01) << n;
  }
}

// Pearson's data with York's weights: slope -0.480533407, intercept 5.479910224 (York and others,
// 2004, table II), through a calibration of a channel that has no errors of its own.
TEST(Calibrate, ErrorsInBothAxesAreYorks) {
  const std::vector<double> x{0.0, 0.9, 1.8, 2.6, 3.3, 4.4, 5.2, 6.1, 6.5, 7.4};
  const std::vector<double> y{5.9, 5.4, 4.4, 4.6, 3.5, 3.7, 2.8, 2.8, 2.4, 1.5};
  const std::vector<double> wx{1000, 1000, 500, 800, 200, 80, 60, 20, 1.8, 1.0};
  const std::vector<double> wy{1.0, 1.8, 4.0, 8.0, 20, 20, 70, 70, 100, 500};
  const auto chain =
      chain::build(testing::board({.bits = 32, .reference = "10 V", .span = "0..10 V"}), "x");
  std::vector<Reading> rows;
  std::vector<double> ux, uy;
  for (std::size_t i = 0; i < x.size(); ++i) {
    ux.push_back(1.0 / std::sqrt(wx[i]));
    uy.push_back(1.0 / std::sqrt(wy[i]));
    rows.push_back({.meter = y[i], .reading = x[i], .u_meter = uy[i], .u_reading = ux[i]});
  }
  const auto c = calibrate(chain, normal_meter(), rows, {.model = Model::both_axes});
  EXPECT_NEAR(c.parameters[0].value, 5.479910224, 1e-8);
  EXPECT_NEAR(c.parameters[1].value, -0.480533407, 1e-8);
  // Slopes near one, too: readings of the meter's own, with their errors in both axes.
  for (auto& row : rows) row.meter = 0.02 + 1.003 * row.reading + 0.1 * (row.meter - 4.0);
  std::vector<double> near;
  for (const auto& row : rows) near.push_back(row.meter);
  const auto steep = math::fit_both_axes(x, near, ux, uy);
  const auto d = calibrate(chain, normal_meter(), rows, {.model = Model::both_axes});
  EXPECT_NEAR(d.parameters[0].value, steep.offset, 1e-8);
  EXPECT_NEAR(d.parameters[1].value, steep.gain, 1e-8);
  // A row's own variance is that of reading - meter, as for a slope of one; here it is 0.95.
  EXPECT_NEAR(d.parameters[0].standard_uncertainty, steep.offset_standard,
              0.07 * steep.offset_standard);
  EXPECT_NEAR(d.parameters[1].standard_uncertainty, steep.gain_standard,
              0.07 * steep.gain_standard);
}

}  // namespace
}  // namespace tamlo::meter
