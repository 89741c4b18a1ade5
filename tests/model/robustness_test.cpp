// SPDX-License-Identifier: Apache-2.0
// What no caller may do to the library: bad arguments end in an Error that says what is wrong, and
// boards built in code are held to what a file is held to.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>
#include <type_traits>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/budget/channel_trials.hpp"
#include "tamlo/budget/propagate.hpp"
#include "tamlo/chain/detail/batch.hpp"
#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/chain/detail/reading_distribution.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/detail/linear.hpp"
#include "tamlo/math/regression.hpp"
#include "tamlo/meter/calibrate.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/model/validate.hpp"
#include "tamlo/signal/capture.hpp"
#include "tamlo/signal/sine.hpp"
#include "tamlo/signal/spectrum.hpp"
#include "tamlo/simulate/detail/stimulus.hpp"
#include "tamlo/simulate/sampler.hpp"

namespace tamlo {
namespace {

const double nan = std::numeric_limits<double>::quiet_NaN();
const double infinite = std::numeric_limits<double>::infinity();

using model::Board;
using model::Channel;
using model::Converter;
using testing::value;

// One change to a sound board, and the path that its problem must name.
struct Broken {
  const char* path;
  std::function<void(Board&, Converter&, Channel&)> change;
};

const Broken broken[] = {
    {"reference.ref.voltage",
     [](Board& b, Converter&, Channel&) { b.references[0].voltage.nominal = nan; }},
    {"reference.ref.voltage",
     [](Board& b, Converter&, Channel&) { b.references[0].voltage.nominal = 0.0; }},
    {"reference.ref.voltage",
     [](Board& b, Converter&, Channel&) {
       b.references[0].voltage = value("2.5 V ±1 %", "V");
       b.references[0].voltage.limits[0].size = nan;
     }},
    {"reference.ref",
     [](Board& b, Converter&, Channel&) { b.references.push_back(b.references[0]); }},
    {"converter.adc.resolution", [](Board&, Converter& adc, Channel&) { adc.resolution = 99; }},
    {"converter.adc.resolution", [](Board&, Converter& adc, Channel&) { adc.resolution = 0; }},
    {"converter.adc.noise",
     [](Board&, Converter& adc, Channel&) {
       adc.noise = value("1 LSB rms", "V");
       adc.noise.limits[0].size = infinite;
     }},
    {"converter.adc.sampling_capacitor",
     [](Board&, Converter& adc, Channel&) { adc.sampling_capacitor = -8e-12; }},
    {"converter.adc.report",
     [](Board&, Converter& adc, Channel&) {
       adc.reporting = {.kind = model::RegisterFormat::Kind::divided, .divisor = 0};
     }},
    {"conditions.temperature",
     [](Board& b, Converter&, Channel&) { b.conditions.temperature.low = -126.85; }},
    {"conditions.age", [](Board& b, Converter&, Channel&) { b.conditions.age = nan; }},
    {"channel.x.span",
     [](Board&, Converter&, Channel& of) { std::swap(of.span.low, of.span.high); }},
    {"channel.x.span", [](Board&, Converter&, Channel& of) { of.span.high = infinite; }},
    {"channel.x.average", [](Board&, Converter&, Channel& of) { of.average.count = 0; }},
    {"channel.x.filter", [](Board&, Converter&, Channel& of) { of.filter = {model::Median{4}}; }},
    {"channel.x.filter",
     [](Board&, Converter&, Channel& of) { of.filter = {model::Exponential{.weight = 0.0}}; }},
    {"channel.x.frontend[0].divider.bottom",
     [](Board&, Converter&, Channel& of) {
       of.frontend = {
           model::Divider{.top = value("1 kohm", "ohm"), .bottom = value("-1 kohm", "ohm")}};
     }},
    {"channel.x.frontend[0].divider.bottom",
     [](Board&, Converter&, Channel& of) {
       of.frontend = {
           model::Divider{.top = value("1 kohm", "ohm"), .bottom = value("1 kohm ±100 %", "ohm")}};
     }},
    {"channel.x.frontend[0]",
     [](Board&, Converter&, Channel& of) {
       of.frontend = {model::Shunt{.resistance = value("100 ohm", "ohm")}};
     }},
    {"channel.x.frontend",
     [](Board&, Converter&, Channel& of) { of.sensor = model::CurrentLoop{}; }},
    {"channel.x.target.accuracy",
     [](Board&, Converter&, Channel& of) {
       of.target.accuracy = value("±1 V", "V").limits[0];
       of.target.accuracy->size = nan;
     }},
    {"channel.x.scaling.steps",
     [](Board&, Converter&, Channel& of) {
       of.scaling.integer = model::IntegerScaling{.steps = {{model::Operation::divide, 0}}};
     }},
    {"channel.x.correction",
     [](Board&, Converter&, Channel& of) {
       of.correction = model::Correction{.coefficients = {nan}};
     }},
    {"channel.x", [](Board& b, Converter&, Channel& of) { b.channels.push_back(Channel(of)); }},
};

TEST(Robustness, ABoardBuiltInCodeIsHeldToWhatAFileIsHeldTo) {
  EXPECT_TRUE(model::validate(testing::pack_voltage()).empty());
  for (const auto& [path, change] : broken) {
    const std::string path_of = path;
    auto b = testing::board({.span = "0..2.4 V"});
    b.channels.reserve(2);
    change(b, b.converters.front(), b.channels.front());
    const auto problems = model::validate(b);
    const auto named = std::ranges::find_if(
        problems, [&](const auto& of) { return of.path.starts_with(path_of); });
    ASSERT_NE(named, problems.end()) << path;
    EXPECT_FALSE(named->code.empty() || named->problem.empty() || named->hint.empty()) << path;
    try {
      chain::build(b, "x");
      ADD_FAILURE() << path;
    } catch (const model::InvalidBoard& error) {
      EXPECT_NE(std::string(error.what()).find(path), std::string::npos) << error.what();
    }
  }
}

const std::vector<double> few_values{1.0, 2.0};

TEST(Robustness, BadArgumentsEndInAnError) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto meter = testing::bench_meter();
  const std::vector<double> few{1.0, 2.0};
  std::vector<double> one(1);
  const std::vector<std::int64_t> codes{1, 2};
  const std::vector<budget::Input> three{budget::normal("a", 0, 1), budget::normal("b", 0, 1),
                                         budget::normal("c", 0, 1)};
  const budget::Model sum = [](std::span<const double> x) { return x[0] + x[1] + x[2]; };
  const auto compared = [&](meter::Reading row) {
    return [=] { meter::compare(chain, meter, {row}); };
  };
  const std::pair<const char*, std::function<void()>> calls[] = {
      {"a unit", [] { quantity::unit("Volt"); }},
      {"coverage", [&] { budget::evaluate(chain, {.coverage = 1.5}); }},
      {"coverage, not a number", [&] { budget::evaluate(chain, {.coverage = nan}); }},
      {"a point", [&] { budget::evaluate(chain, {.at = {nan}}); }},
      {"sigma", [] { chain::quantisation_standard(nan, 16.0); }},
      {"sigma below 0", [] { chain::systematic_quantisation_variance(-1.0); }},
      {"lengths of codes", [&] { chain::codes(chain, few, chain.nominal, one); }},
      {"lengths of readings", [&] { chain::readings(chain, codes, one); }},
      {"meter", compared({.meter = nan, .reading = 1.0})},
      {"reading", compared({.meter = 1.0, .reading = infinite})},
      {"repeats", compared({.meter = 1.0, .reading = 1.0, .repeats = 0})},
      {"spread", compared({.meter = 1.0, .reading = 1.0, .repeats = 2, .spread = nan})},
      {"calibrate", [&] { meter::calibrate(chain, meter, {{.meter = nan, .reading = 1.0}}); }},
      {"correlation",
       [&] {
         propagate(sum, three, 0.95, {{0, 1, 1.5}});
       }},
      {"contradiction",
       [&] {
         propagate(sum, three, 0.95, {{0, 1, 0.9}, {1, 2, 0.9}, {0, 2, -0.9}});
       }},
      {"an input",
       [&] {
         budget::propagate(sum, {three[0], three[1], budget::normal("c", nan, 1)});
       }},
      {"no inputs", [&] { budget::propagate(sum, {}); }},
      {"an output that is not there",
       [&] {
         (void)budget::propagate([](auto, std::span<double> y) { y[0] = 1.0; }, 1, three)
             .correlation(0, 1);
       }},
      {"columns that are shorter",
       [] {
         math::fit_columns({{1.0}}, few_values, {.variances = {1, 1}});
       }},
      {"columns of zeros",
       [] {
         math::fit_columns({{0.0, 0.0}}, few_values, {.variances = {1, 1}});
       }},
      {"values that are more", [] { (void)math::chi_squared(few_values, {.variances = {1.0}}); }},
      {"shared columns that are shorter",
       [] {
         (void)math::chi_squared(few_values, {.variances = {1.0, 1.0}, .columns = {{1.0}}});
       }},
      {"no values", [] { (void)math::median({}); }},
      {"a median, not a number",
       [] {
         (void)math::median(std::vector<double>{1.0, nan});
       }},
      {"a line, not a number",
       [] {
         (void)math::fit_both_axes(few_values, std::vector<double>{nan, 1.0}, few_values,
                                   few_values);
       }},
      {"a line without uncertainties",
       [] {
         const std::vector<double> none{0.0, 0.0};
         (void)math::fit_both_axes(few_values, few_values, none, none);
       }},
      {"a sine, not a number",
       [] {
         signal::fit_four(std::vector<double>{1.0, 2.0, nan, 1.0, 2.0, 3.0});
       }},
      {"a frequency, not a number", [] { (void)signal::nearest_coherent(nan, 1000); }},
      {"a frequency beyond half", [] { (void)signal::nearest_coherent(1e300, 1000); }},
      {"a spectrum without powers", [] { (void)signal::tones({}); }},
      {"figures of such a spectrum",
       [] { (void)signal::sine_figures({.segment = 64, .segments = 1}); }},
      {"an average of nothing",
       [] { (void)chain::prepare({model::BlockAverage{{.count = 0}}}, 1000.0); }},
      {"quantile", [] { math::normal_quantile(1.0); }},
      {"freedom", [] { math::student_quantile(0.5, 0.0); }},
      {"segment", [] { signal::SpectrumParts(signal::Window::hann, 1000); }},
      {"spectra",
       [] {
         signal::SpectrumParts a(signal::Window::hann, 64);
         a.merge(signal::SpectrumParts(signal::Window::hann, 128));
       }},
      {"captures",
       [] {
         signal::Capture a({.bin_width = 1.0});
         a.merge(signal::Capture({.bin_width = 2.0}));
       }},
      {"histogram", [] { (void)signal::Histogram{}.mean(); }},
      {"histogram's shape", [] { (void)signal::Histogram{}.shape(); }},
      {"a value",
       [] {
         signal::Moments{}.add(std::vector<double>{1.0, nan});
       }},
      {"a record",
       [] {
         signal::Capture{}.add(std::vector<double>{1.0, nan});
       }},
      {"a large record",
       [] { signal::Capture({.bin_width = 1e-300}).add(std::vector<double>{1.0}); }},
      {"stability",
       [] {
         signal::stability(std::vector<double>{1.0, 2.0});
       }},
  };
  for (const auto& [name, call] : calls) EXPECT_THROW(call(), Error) << name;
}

// What was moved from is empty, and may be used again.
TEST(Robustness, WhatWasMovedFromIsEmpty) {
  signal::Histogram from;
  from.add(7, 3);
  const signal::Histogram to(std::move(from));
  EXPECT_EQ(to.count(), 3u);
  EXPECT_TRUE(from.empty());
  EXPECT_EQ(from.at(7), 0u);
  from.add(-2);
  EXPECT_EQ(from.max(), -2);
  signal::Capture capture({.bin_width = 1.0});
  capture.add(std::vector<double>{1.0, 2.0, 3.0});
  const signal::Capture taken(std::move(capture));
  EXPECT_EQ(taken.histogram().count(), 3u);
  EXPECT_TRUE(capture.histogram().empty());
}

// What a model throws on any thread comes out of the call.
TEST(Robustness, AModelThatThrowsEndsItsTrialsAndNothingElse) {
  const budget::Model throws = [](std::span<const double> x) {
    return x[0] > 1.0 ? throw DataError("above 1") : x[0];
  };
  for (const int threads : {1, 2, 4}) {
    EXPECT_THROW(budget::simulate(throws, {budget::normal("a", 0.0, 1.0)},
                                  {.count = 100'000, .threads = threads}),
                 DataError);
  }
}

// What keeps a reference takes none of a temporary.
TEST(Robustness, TemporariesAreRefused) {
  EXPECT_FALSE((std::is_constructible_v<simulate::BenchMeter, model::Meter&&, std::uint64_t>));
  EXPECT_FALSE((std::is_constructible_v<chain::ReadingDistribution, chain::Chain&&, double>));
  EXPECT_FALSE(
      (std::is_constructible_v<simulate::Sampler, chain::Chain&&, const chain::Chain&,
                               simulate::VirtualUnit, const simulate::Sampler::Settings&>));
}

}  // namespace
}  // namespace tamlo
