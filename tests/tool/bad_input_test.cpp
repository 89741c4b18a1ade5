// SPDX-License-Identifier: Apache-2.0
// What the user wrote is wrong: exit status 2, the place by file, line and column, what was found,
// what is allowed; nothing on standard output.
#include <gtest/gtest.h>

#include <algorithm>
#include <span>

#include "tool/expect.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

const Mistake board_mistakes[] = {
    {"format = 1", "format = 2", ":1:10: format:", "the integer 2, expected 1"},
    {"format = 1", "", ":1:1: format:", "missing key: expected format = 1"},
    {"format = 1", "format = \"1\"", ":1:10: format:", "found \"1\""},
    {"format = 1", "format 1", ":1:8:", "text that is not TOML"},
    {"format = 1", "format = 1\nformat = 1", ":2:10:", "cannot redefine"},
    {"format = 1", "format = 1\nfromat = 1", ":2:1: fromat:", "did you mean \"format\"?"},
    {"\"12 bit\"", "12.5", ":8:14: converter.adc.resolution:", "found the number 12.5"},
    {"\"12 bit\"", "\"12 A\"", ":8:18: converter.adc.resolution:", "a unit of bit"},
    {"\"12 bit\"", "\"40 bit\"", ":8:14: converter.adc.resolution:", "from 1 bit to 32 bit"},
    {"\"12 bit\"", "\"12.5 bit\"", ":8:14: converter.adc.resolution:", "a whole number of bits"},
    {"resolution = \"12 bit\"\n", "", ":7:1: converter.adc.resolution:", "missing key"},
    {"resolution", "resolutoin", ":8:1: converter.adc.resolutoin:", "did you mean \"resolution\"?"},
    {"reference = \"ref\"", "reference = \"rev\"",
     ":9:13: converter.adc.reference:", "a reference of this board: ref"},
    {"\"2.5 V ±0.1 %\"", "\"2.5 v ±0.1 %\"", ":5:16: reference.ref.voltage:", "did you mean V?"},
    {"\"2.5 V ±0.1 %\"", "\"2.5 ±0.1 %\"", ":5:16: reference.ref.voltage:", "no unit"},
    {"\"2.5 V ±0.1 %\"", "\"-2.5 V\"", ":5:11: reference.ref.voltage:", "a value above 0"},
    {"\"2.5 V ±0.1 %\"", "\"±0.1 %\"", ":5:11: reference.ref.voltage:", "a nominal value"},
    {"\"2.5 V ±0.1 %\"", "\"2.5 V ±0.1 % of\"", ":5:23: reference.ref.voltage:", "a limit in V"},
    {"\"2.5 V ±0.1 %\"", "\"2.5 V ±0.1 LSB\"", ":5:23: reference.ref.voltage:", "a limit in V"},
    {"\"2.5 V ±0.1 %\"", "\"1e999 V\"", ":5:12: reference.ref.voltage:", "a double can hold"},
    {"\"2.5 V ±0.1 %\"", "[\"2.5 V\"]", ":5:11: reference.ref.voltage:", "found an array"},
    {"voltage = \"2.5 V ±0.1 %\"\n", "", ":4:1: reference.ref.voltage:", "missing key"},
    {"\"9 uV rms\"", "\"9 uV\"", ":6:10: reference.ref.noise:", "\"9 uV rms\" or \"9 uV pp\""},
    {"\"15..45 degC\"", "\"45..15 degC\"", ":3:20: conditions.temperature:", "above 45"},
    {"\"15..45 degC\"", "\"15..45\"", ":3:22: conditions.temperature:", "a unit of degC"},
    {"\"15..45 degC\"", "\"-300..45 degC\"",
     ":3:15: conditions.temperature:", "above absolute zero"},
    {"temperature =", "mains = \"50\"\ntemperature =", ":3:12: conditions.mains:", "a unit of Hz"},
    {"\"±2 LSB\"", "\"±2 lsb\"", ":10:14: converter.adc.offset:", "did you mean LSB?"},
    {"\"±2 LSB\"", "\"+2 LSB\"", ":10:11: converter.adc.offset:", "begins with ±"},
    {"offset = ", "sampling_capacitor = \"8 kF/s\"\noffset = ",
     ":10:25: converter.adc.sampling_capacitor:", "a unit of F"},
    {"offset = ", "architecture = \"flash\"\noffset = ", ":10:16: converter.adc.architecture:",
     "\"sar\" or \"delta sigma\""},
    {"offset = ", "architecture = \"delta sigma\"\noffset = ", ":7:1: converter.adc.data_rate:",
     "the rate of a delta sigma converter"},
    {"offset = ", "sinc_order = 3\noffset = ", ":10:14: converter.adc.sinc_order:",
     "beside architecture"},
    {"offset = ", "clock = { source = \"8 MHz\", divider = 0 }\noffset = ",
     ":10:39: converter.adc.clock.divider:", "an integer from 1"},
    {"offset = ", "clock = { source = \"8 MHz\", dividers = [1, 2.5] }\noffset = ",
     ":10:40: converter.adc.clock.dividers:", "whole numbers above 0"},
    {"offset = ", "scan = [\"v\", \"w\"]\noffset = ", ":10:8: converter.adc.scan:",
     "channels, each once, expected v"},
    {"offset = ", "report = { drop = 2, divide = 4 }\noffset = ", ":10:10: converter.adc.report:",
     "one of align, widen, drop, divide, counts"},
    {"offset = ", "report = { widen = \"10 bit\" }\noffset = ",
     ":10:20: converter.adc.report.widen:", "from 12 bit"},
    {"offset = ", "report = { counts = { at_low = 100, at_high = 0 } }\noffset = ",
     ":10:47: converter.adc.report.counts.at_high:", "at_high above at_low"},
    {"offset = ", "first_transition = \"0.4 LSB\"\noffset = ", ":10:20: converter.adc.first_tran",
     "\"0.5 LSB\" or \"1 LSB\""},
    {"\"-0.3..2.8 V\"", "\"-0.3 2.8 V\"", ":11:21: converter.adc.input_limit:", "\"..\""},
    {"\"0..24 V\"", "\"0..24 A\"", ":13:15: channel.v.span:", "a unit of V"},
    {"span = \"0..24 V\"\n", "", ":12:1: channel.v.span:", "what the channel must measure"},
    {"converter = \"adc\"", "converter = \"main\"",
     ":14:13: channel.v.converter:", "a converter of this board: adc"},
    {"\"90 kohm ±0.1 %\"", "\"90 Kohm\"",
     ":15:38: channel.v.frontend[0].divider.top:", "did you mean kohm? capitals count"},
    {"\"90 kohm ±0.1 %\"", "\"90 kohm ±0.1 %/V\"",
     ":15:48: channel.v.frontend[0].divider.top:", "also per K, per year"},
    {"bottom = \"10 kohm ±0.1 %\"", "bottom = \"0 ohm\"", ":15:61: channel.v.frontend[0].divider.b",
     "above 0"},
    {", bottom = \"10 kohm ±0.1 %\"", "",
     ":15:26: channel.v.frontend[0].divider.bottom:", "a resistor, such as"},
    {"{ divider =", "{ splitter =", ":15:16: channel.v.frontend[0].splitter:", "divider"},
    {"{ divider =", "{ shunt = { resistance = \"1 ohm\" } }, { divider =",
     ":15:24: channel.v.frontend[0].shunt:", "volts at the input of this part"},
    {"top = \"90 kohm ±0.1 %\"", "top = \"sensor\"",
     ":15:26: channel.v.frontend[0].divider.supply:", "the name of a [reference]"},
    {"average = 16", "sensor = { platinum = { r0 = \"100 ohm\" } }",
     ":16:23: channel.v.sensor.platinum:", "a span in degC or K"},
    {"average = 16", "sensor = { ntc = {} }",
     ":16:18: channel.v.sensor.ntc.a:", "r25 and beta, or"},
    {"average = 16",
     "scaling = { arithmetic = \"integer\", word = \"8 bit\", count = \"1 mV\", steps = [] }",
     ":16:44: channel.v.scaling.word:", "16 bit signed"},
    {"average = 16",
     "scaling = { arithmetic = \"integer\", word = \"16 bit signed\", count = \"1 mV\", "
     "steps = [ { divide = 0 } ] }",
     ":16:98: channel.v.scaling.steps[0].divide:", "a divisor that is not 0"},
    {"average = 16", "sensor = { thermo = { } }", ":16:12: channel.v.sensor.thermo:", "ntc"},
    {"average = 16", "attenuation = \"half\"",
     ":16:15: channel.v.attenuation:", "a [converter.adc.attenuation.NAME] section"},
    {"offset = ", "input_range = \"-10..10 V\"\nnegative_reference = \"ref\"\noffset = ",
     ":10:15: converter.adc.input_range:", "one of them"},
    {"offset = ", "coding = \"gray\"\noffset = ", ":10:10: converter.adc.coding:",
     "\"offset binary\" or"},
    {"{ divider = {", "{ lowpass = { }, divider = {",
     ":15:14: channel.v.frontend[0]:", "several parts in one place"},
    {"{ divider = {", "{ lowpass = { resistor = \"1 kohm\" } }, { divider = {",
     ":15:26: channel.v.frontend[0].lowpass.capacitor:", "missing key"},
    {"90 kohm ±0.1 %\"", "90 kohm ±0.1 %\", network = \"±1 %\"",
     ":15:62: channel.v.frontend[0].divider.network:", "without limits"},
    {"{ divider =", "{ amplifier = { gains = { a = \"1\" }, use = \"b\" } }, { divider =",
     ":15:57: channel.v.frontend[0].amplifier.use:", "\"a\""},
    {"{ divider =",
     "{ wire_drop = { voltage = \"1 mV\", gains = { a = \"1\" }, use = \"a\" } }, { "
     "divider =",
     ":15:48: channel.v.frontend[0].wire_drop.gains:", "unknown key"},
    {"average = 16",
     "sensor = { light = { resistance = \"1 kohm\", at = \"1 V\", exponent = \"1\", gains = { a = "
     "\"1\" } } }",
     ":16:73: channel.v.sensor.light.gains:", "unknown key"},
    {"average = 16", "resolution = \"12 bit\"",
     ":16:1: channel.v.resolution:", "unknown key: expected it in [converter.NAME]"},
    {"average = 16", "filter = { kind = \"median\", length = 5, average = 3 }",
     ":16:41: channel.v.filter.average:", "unknown key: expected it in [channel.NAME]"},
    {"average = 16", "average = 0", ":16:11: channel.v.average:", "an integer from 1 to 1048576"},
    {"average = 16", "average = 16.5", ":16:11: channel.v.average:", "found the number 16.5"},
    {"average = 16", "averages = 16", ":16:1: channel.v.averages:", "did you mean \"average\"?"},
    {"average = 16", "filter = { kind = \"mean\" }",
     ":16:19: channel.v.filter.kind:", "\"moving average\" or"},
    {"average = 16", "filter = { kind = \"median\", length = 4 }",
     ":16:38: channel.v.filter.length:", "an odd length"},
    {"average = 16", "filter = [ { kind = \"moving average\", time = \"1 s\" } ]",
     ":16:10: channel.v.filter:", "a known rate: rate ="},
    {"average = 16",
     "rate = \"100 Sa/s\"\nfilter = { kind = \"notch\", frequency = \"50 Hz\", width = \"1 Hz\" }",
     ":17:10: channel.v.filter:", "below half the rate"},
    {"average = 16", "filter = { kind = \"taps\", taps = [1, -1] }",
     ":16:34: channel.v.filter.taps:", "taps whose sum is 0"},
    {"average = 16", "filter = { kind = \"exponential\", weight = 1.5 }",
     ":16:43: channel.v.filter.weight:", "above 0, up to 1"},
    {"average = 16", "average = { count = 4, time = \"1 s\" }",
     ":16:11: channel.v.average:", "count = 16, or time"},
    {"average = 16", "threshold = { at = \"30 V\" }",
     ":16:20: channel.v.threshold.at:", "a value in 0..24 V"},
    {"average = 16",
     "correlation = [ { between = [\"divider top tolerance\", \"thing\"], coefficient = 0.5 } ]",
     ":16:15: channel.v.correlation:", "divider bottom tolerance"},
    {"average = 16", "correlation = [ { between = [\"a\"], coefficient = 2 } ]",
     ":16:29: channel.v.correlation[0].between:", "found 1 names, expected two"},
    {"average = 16", "interference = [ { frequency = \"50 Hz\" } ]",
     ":16:18: channel.v.interference[0].amplitude:", "missing key"},
    {"average = 16", "scaling = { taught = [ { code = 1, reading = \"0 V\" } ] }",
     ":16:22: channel.v.scaling.taught:", "found 1 points, expected two"},
    {"average = 16",
     "scaling = { convention = \"full scale\", arithmetic = \"integer\", word = \"16 bit signed\", "
     "count = \"1 mV\", steps = [ { multiply = 2, round = true } ] }",
     ":16:138: channel.v.scaling.steps[0].round:", "round beside divide"},
    {"average = 16", "scaling = { convention = \"4095\" }",
     ":16:26: channel.v.scaling.convention:", "\"full scale\" or \"last code\""},
    {"average = 16", "sensor = { table = \"curve.csv\" }",
     ":16:20: channel.v.sensor.table:", "a CSV file beside the board"},
    {"average = 16", "sensor = { light = { }, loop = { } }",
     ":16:10: channel.v.sensor:", "several sensors in one place"},
    {"\"±0.5 % of span\"", "\"±0.5 % of spam\"",
     ":17:34: channel.v.target.accuracy:", "span, range or reading"},
    {"\"±0.5 % of span\"", "\"±0.5 % of span ±1 mV\"",
     ":17:23: channel.v.target.accuracy:", "one limit above 0"},
    {"digits = 6000", "digits = 0", ":19:44: meter.bench.ranges[0].digits:", "an integer from 1"},
    {"\"±0.05 % ±2 digits\"", "\"±0.05 % ±2 LSB\"",
     ":19:73: meter.bench.ranges[0].accuracy:", "digits"},
    {"[meter.bench]", "[meter.bench]\ntouches = \"board\"",
     ":19:11: meter.bench.touches:", "\"quantity\" or \"pin\""},
    {"[meter.bench]", "[meter.bench]\ninput_resistance = \"0 ohm\"",
     ":19:20: meter.bench.input_resistance:", "above 0"},
    {"average = 16", "loaded_by = \"bench\"",
     ":16:13: channel.v.loaded_by:", "an input_resistance"},
    {"average = 16", "correction = { centre = \"1 V\" }",
     ":16:14: channel.v.correction.coefficients:", "coefficients = [...]"},
    {"average = 16", "correction = { readings = [2, 1], corrected = [1, 2] }",
     ":16:27: channel.v.correction.readings:", "each above the one before"},
};

const Mistake readings_mistakes[] = {
    {"channel, meter", "channel, metre", ":2:1: header:", "column \"meter\""},
    {"meter [V]", "meter", ":2:10: meter:", "a unit in brackets, such as \"meter [V]\""},
    {"meter [V]", "metre [V]",
     ":2:1: header:", "no column \"meter\" among channel, metre, reading"},
    {"reading [V]", "note", ":2:1: header:", "neither \"reading\" nor \"code\" among"},
    {"reading [V]\nv, 5.00, 5.003", "reading [V], time\nv, 5, 5.003, noon",
     ":3:14: time:", "a date such as 2026-11-25"},
    {"reading [V]\nv, 5.00, 5.003", "reading [V], time\nv, 5, 5.003, 2026-02-30",
     ":3:14: time:", "a date such as"},
    {"reading [V]\nv, 5.00, 5.003", "reading [V], repeats\nv, 5, 5.003, 0",
     ":3:14: repeats:", "a whole number of 1 or more"},
    {"reading [V]\nv, 5.00, 5.003", "reading [V], spread [V]\nv, 5, 5.003, 0.1",
     ":3:14: spread:", "a column \"repeats\""},
    {"reading [V]\nv, 5.00, 5.003", "reading [V], direction\nv, 5, 5.003, up",
     ":3:14: direction:", "rising or falling"},
    {"reading [V]\nv, 5.00, 5.003\nv, 20.00, 20.01",
     "reading [V], meter_range\nv, 5, 5.003, 100 V\nv, 20, 20, 60 V",
     ":3:1: meter_range:", "a range of meter bench: 60 V"},
    {"reading [V]", "reading [l/min]", ":3:10: reading:", "a column \"reading [V]\""},
    {"v, 5.00, 5.003", "w, 5.00, 5.003", ":3:1: channel:", "a channel of the board: v"},
    {"v, 5.00, 5.003", "v, 5;00, 5.003", ":3:4: meter:", "a decimal number"},
    {"v, 5.00, 5.003", "v, 5.00, 5.0 V", ":3:10: reading:", "found \"5.0 V\""},
    {"v, 5.00, 5.003", "v, 5.00", ":3:1:", "found 2 cells, expected 3"},
    {"v, 5.00, 5.003", "v, , 5.003", ":3:1: meter:", "what the meter showed"},
    {"v, 5.00, 5.003", "v, 5.00, nan", ":3:10: reading:", "found \"nan\""},
    {"v, 5.00, 5.003", "v, 5.00, ", ":3:1: reading:", "neither a reading nor a code"},
    {"reading [V]\nv, 5.00, 5.003", "code\nv, 5.00, 5000", ":3:10: code:", "from 0 to 4095"},
    {"reading [V]\nv, 5.00, 5.003\nv, 20.00, 20.01", "reading [V], u_meter [V]\nv, 5, 5, 0",
     ":3:1: u_meter:", "above 0"},
    {small_readings, "", ":1:1:", "no header"},
    {"v, 5.00, 5.003\nv, 20.00, 20.01\n", "", ":2:1:", "at least one row"},
};

TEST(BadInput, TheSmallBoardItselfIsSound) {
  const Folder folder;
  const auto board = folder.write("board.toml", small_board);
  const auto rows = folder.write("readings.csv", small_readings);
  const auto result = tamlo({"compare", board, rows});
  EXPECT_EQ(result.status, 0) << result.errors;
  EXPECT_EQ(result.errors, "");
}

TEST(BadInput, EveryMistakeInABoardIsPlacedAndExplained) {
  for (const auto& [from, to, place, says] : board_mistakes) {
    const Folder folder;
    const auto path = folder.write("board.toml", replaced(small_board, from, to));
    SCOPED_TRACE(to);
    expect_refused(tamlo({"budget", path}), path + place, says);
  }
}

TEST(BadInput, EveryMistakeInReadingsIsPlacedAndExplained) {
  for (const auto& [from, to, place, says] : readings_mistakes) {
    const Folder folder;
    const auto board = folder.write("board.toml", small_board);
    const auto path = folder.write("readings.csv", replaced(small_readings, from, to));
    SCOPED_TRACE(to);
    expect_refused(tamlo({"compare", board, path}), path + place, says);
  }
}

// All mistakes of one file come together, in the order of its lines.
TEST(BadInput, AllMistakesAreShownTogether) {
  const Folder folder;
  auto text = replaced(small_board, "\"12 bit\"", "\"12 bits per sample\"");
  text = replaced(text, "\"2.5 V ±0.1 %\"", "\"2.5 mVolt\"");
  text = replaced(text, "average = 16", "averge = 16");
  const auto path = folder.write("board.toml", text);
  const auto result = tamlo({"check", path});
  EXPECT_EQ(result.status, 2);
  const auto first = result.errors.find(":5:16: reference.ref.voltage");
  const auto second = result.errors.find(":8:18: converter.adc.resolution");
  const auto third = result.errors.find(":16:1: channel.v.averge");
  EXPECT_LT(first, second);
  EXPECT_LT(second, third);
  EXPECT_NE(third, std::string::npos) << result.errors;
  EXPECT_EQ(std::ranges::count(result.errors, '\n'), 3) << result.errors;
}

// A mistake in a file that overrides another is placed in that file.
TEST(BadInput, AnOverrideIsBlamedItself) {
  const Folder folder;
  const auto board = folder.write("board.toml", small_board);
  const auto over = folder.write("what-if.toml", "[converter.adc]\nresolution = \"16 bytes\"\n");
  expect_refused(tamlo({"budget", board, over}), over + ":2:18: converter.adc.resolution",
                 "a unit of bit");
}

TEST(BadInput, OnTheCommandLine) {
  const Folder folder;
  const auto board = folder.write("board.toml", small_board);
  const auto rows = folder.write("readings.csv", small_readings);
  struct BadCall {
    std::vector<std::string> arguments;
    const char* says;
  };
  const BadCall cases[] = {
      {{"budget", board, "w"}, "no channel \"w\": expected v"},
      {{"budget", board, "v", "--at", "12 A"}, "a unit of V"},
      {{"budget", board, "v", "--at", "30 V"}, "a point of the span 0..24 V"},
      {{"budget", board, "--trials", "10"}, "a whole number from 1000"},
      {{"budget", board, "--trials", "auto", "--seed", "x"}, "a whole number from 0"},
      {{"budget", board, "--set", "average"}, "a key and its value"},
      {{"budget", board, "--set", "channel.v.average=0"}, "an integer from 1 to 1048576"},
      {{"budget", board, "--set", "channel.v.averge=4"}, "did you mean \"average\"?"},
      {{"budget", board, "--what-if", folder.path("none.toml")}, "no such file"},
      {{"budget", board, "--plot-kind", "trials", "--plot", "x.svg"}, "trials beside --trials"},
      {{"budget", board, "--plot-kind", "pie"}, "pie"},
      {{"budget", board, "--coverage", "95"}, "a probability from 0.5 to 0.9999"},
      {{"convert", board, "v", "--code", "4096"}, "a code from 0 to 4095"},
      {{"convert", board, "v", "--code", "0x"}, "also as 0x... or 0b..."},
      {{"convert", board, "v", "--code", "-1"}, "a code from 0 to 4095"},
      {{"convert", board, "v", "--pin", "1 ohm"}, "a unit of V"},
      {{"convert", board, "v", "--step", "colour"}, "one of"},
      {{"channel", board, "v", "--ramp", "5 V"}, "a change over time"},
      {{"channel", board, "v", "--sine", "5 Hz"}, "channel v, whose rate is not known"},
      {{"channel", demo_board, "--sine", "0 Hz"}, "a frequency above 0"},
      {{"channel", demo_board, "coolant_flow", "--plot-kind", "sampled", "--plot", "x.svg"},
       "--sine"},
      {{"channel", board, "v", "--staircase", "x.svg"}, "--ramp"},
      {{"channel", board, "v", "--ramp", "1 V/s", "--staircase", "x.svg", "--other-resolution",
        "99 bit"},
       "from 1 bit to 32 bit"},
      {{"channel", board, "v", "--plot", "x.txt"}, "ends in .svg or .png"},
      {{"compare", board}, "missing READINGS.csv after the board"},
      {{"compare", board, rows, "--meter", "other"}, "bench"},
      {{"compare", board, rows, "--clock-offset", "1 s"}, "does nothing without --join"},
      {{"compare", board, rows, "--elapsed", "1 year"}, "--elapsed does nothing without --since"},
      {{"budget", board, "--seed", "2"}, "--seed does nothing without --trials"},
      {{"budget", board, "--plot-kind", "span"}, "--plot-kind does nothing without --plot"},
      {{"explore", board, "--solve", "channel.v.frontend[0].divider.top", "--write", "x.toml"},
       "cannot stand beside"},
      {{"firmware", board, "--text"}, "--text does nothing without --write"},
      {{"simulate", board, "--at", "12 V", "--inl", "2 LSB"}, "--inl"},
      {{"simulate", board, "--at", "12 V", "--hum", "1 V at 50 Hz"}, "cannot stand beside"},
      {{"simulate", board, "--rate", "1 kSa/s", "--frequency", "5 Hz"}, "--input sine"},
      {{"simulate", board, "--rate", "1 kSa/s", "--high", "5 V"}, "--low with its value"},
      {{"serve", board, "--lines", "0", "--profile", "p.csv", "--input", "sine"},
       "cannot stand beside"},
      {{"calibrate", board, rows, "--order", "3"}, "--model polynomial"},
      {{"compare", board, rows, "--join", folder.path("none.csv")}, "no column \"time\""},
      {{"compare", board, rows, "--channel", "w"}, "no readings of \"w\""},
      {{"compare", board, rows, "--plot", "picture.gif"}, "ends in .svg or .png"},
      {{"compare", board, folder.path("none.csv")}, "no such file"},
      {{"compare", board, rows, "--since", rows}, "a column \"time\" in both files"},
      {{"compare", board, rows, "--since", rows, "--elapsed", "-1 year"}, "not earlier"},
      {{"compare", board, rows, "--plot-kind", "units", "--plot", "x.svg"}, "three units or more"},
      {{"calibrate", board}, "missing READINGS.csv after the board"},
      {{"page", board, "--write", "page.txt"}, "a file that ends in .html"},
      {{"calibrate", board, rows, "--model", "cubic"}, "cubic"},
      {{"calibrate", board, rows, "--model", "polynomial"},
       "needs readings at 3 different positions"},
      {{"calibrate", board, rows, "--model", "polynomial", "--order", "9"},
       "a whole number from 2 to 6"},
      {{"calibrate", board, rows, "--write", "x.csv"}, "ends in .toml"},
      {{"calibrate", board, rows, "--held-out", folder.path("none.csv")}, "no such file"},
      {{"check", folder.path("none.toml")}, "no such file"},
      {{"check", "/tmp"}, "a directory"},
      {{"budget", board, "--format", "yaml"}, "yaml"},
      {{"budget"}, "BOARD"},
      {{"frobnicate"}, "unknown command \"frobnicate\": expected one of demo"},
      {{}, "no command"},
  };
  for (const auto& [arguments, says] : cases) {
    const auto result = tamlo(arguments);
    SCOPED_TRACE(says);
    EXPECT_EQ(result.status, 2);
    EXPECT_EQ(result.output, "");
    EXPECT_NE(result.errors.find(says), std::string::npos) << result.errors;
  }
}

// The place that a message names is the key that --set takes.
TEST(BadInput, APlaceIsWrittenOneWay) {
  const Folder folder;
  const auto board = folder.write("board.toml", replaced(small_board, "top = \"", "top = \"9"));
  const std::string place = "channel.v.frontend[0].divider.top";
  const auto wrong = tamlo({"budget", board, "--set", place + "=1 kohmm"});
  EXPECT_NE(wrong.errors.find(place + ": found \"kohmm\""), std::string::npos) << wrong.errors;
  const auto set = tamlo({"budget", board, "--format", "csv", "--set", place + "=30 kohm"});
  EXPECT_EQ(set.output, tamlo({"budget", board, "--format", "csv", "--set",
                               "channel.v.frontend.0.divider.top=30 kohm"})
                            .output);
  EXPECT_NE(set.output, tamlo({"budget", board, "--format", "csv"}).output) << set.errors;
}

}  // namespace
}  // namespace tamlo::testing
