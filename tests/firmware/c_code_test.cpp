// SPDX-License-Identifier: Apache-2.0
// The code of every channel of the demo and the examples, compiled and run: bit for bit what the
// chain says of it, within the bound that it states.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <random>

#include "firmware/wide_filter.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/firmware/c_code.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/overlays.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

namespace fs = std::filesystem;

const std::vector<std::string> strict{"-pedantic",         "-Wall",   "-Wextra", "-Wconversion",
                                      "-Wsign-conversion", "-Werror", "-O1"};

void compile(const std::string& compiler, std::vector<std::string> options,
             const std::vector<std::string>& sources) {
  options.insert(options.end(), strict.begin(), strict.end());
  options.insert(options.end(), sources.begin(), sources.end());
  const auto result = run(compiler, options);
  ASSERT_EQ(result.status, 0) << compiler << "\n" << result.errors;
}

std::vector<std::int32_t> numbers(const std::string& bytes) {
  std::vector<std::int32_t> result(bytes.size() / 4);
  std::memcpy(result.data(), bytes.data(), 4 * result.size());
  return result;
}

// Every register value of a channel is run; of more than 2^17 every so-many-th is printed, and one
// number of those in between, up to 2^20 of them. The sanitizers watch the code in C in any case;
// where they watch this test too, fewer are compared.
std::int64_t stride_for(const firmware::Plan& plan, std::int64_t most) {
  return 1 + (plan.last_reported - plan.first_reported) / most;
}
std::int64_t stride_of(const firmware::Plan& plan) {
  return stride_for(plan, (1 << 17) / (fewer * fewer));
}
std::int64_t hash_stride_of(const firmware::Plan& plan) { return stride_for(plan, 1 << 20); }

std::string code_type(const firmware::Plan& plan) {
  const int bits = firmware::code_bits(plan);
  return fmt::format("{}int{}_t", bits < 0 ? "" : "u", std::abs(bits));
}

// A function that prints, as int32, the readings of all register values, then those of the filter
// for the codes of a generator of its own.
std::string driver_of(const firmware::Plan& plan) {
  const auto& name = plan.identifier;
  const auto type = code_type(plan);
  auto text = fmt::format(
      "#include \"{0}.h\"\nstatic void run_{0}(void) {{\n"
      "  for (long code = {1}; code <= {2}; code += {3}) put({0}_reading(({4})code));\n",
      name, plan.first_reported, plan.last_reported, stride_of(plan), type);
  text += fmt::format(
      "  long faults = 0;\n"
      "  for (long code = {1}; code <= {2}; code += {3}) faults += {0}_fault(({4})code) > 0;\n"
      "  put((int32_t)faults);\n",
      name, plan.first_reported, plan.last_reported, stride_of(plan), type);
  if (stride_of(plan) > 1) {
    text += fmt::format(
        "  uint32_t hash = 2166136261u;\n"
        "  for (long code = {1}; code <= {2}; code += {4})\n"
        "    hash = (hash ^ (uint32_t){0}_reading(({3})code)) * 16777619u;\n"
        "  put((int32_t)hash);\n",
        name, plan.first_reported, plan.last_reported, type, hash_stride_of(plan));
  }
  if (!plan.filter.stages.empty()) {
    text += fmt::format(
        "  static struct {0}_filter filter;\n  int32_t reading = 0;\n  uint32_t state = 1;\n"
        "  {0}_start(&filter);\n"
        "  for (long i = 0; i < {1}; ++i) {{\n"
        "    state = state * 1664525u + 1013904223u;\n"
        "    const long code = {2} + (long)((state >> 4) % {3}u);\n"
        "    if ({0}_add(&filter, ({4})code, &reading)) put(reading);\n"
        "  }}\n",
        name, wide_filter_conversions, plan.first_reported,
        plan.last_reported - plan.first_reported + 1, type);
  }
  return text + "}\n";
}

// One number of what the chain says of so many register values.
std::uint32_t hash_of_all(const chain::Chain& chain, const firmware::Plan& plan) {
  std::uint32_t hash = 2166136261U;
  for (auto code = plan.first_reported; code <= plan.last_reported; code += hash_stride_of(plan)) {
    const auto value = chain::evaluate(*chain.channel.scaling.integer, code).value;
    hash = (hash ^ static_cast<std::uint32_t>(static_cast<std::int32_t>(value))) * 16777619U;
  }
  return hash;
}

class Code : public ::testing::TestWithParam<std::string> {};

TEST_P(Code, DoesWhatTheChainSays) {
  const auto board = io::load_board({GetParam()});
  const Folder folder;
  std::vector<firmware::Plan> plans;
  std::vector<std::string> sources;
  std::string driver =
      "#include <stdint.h>\n#include <stdio.h>\n"
      "static void put(int32_t value) { fwrite(&value, 4, 1, stdout); }\n";
  std::string calls;
  for (const auto& channel : board.channels) {
    const auto plan = firmware::plan(chain::build(board, channel.name), {});
    const auto code = firmware::c_code(
        plan, {.text = true, .measures = "a */ b", .made_by = "tests", .description = "none"});
    folder.write(plan.identifier + ".h", code.header);
    sources.push_back(folder.write(plan.identifier + ".c", code.source));
    driver += driver_of(plan);
    calls += fmt::format("  run_{}();\n", plan.identifier);
    plans.push_back(plan);
  }
  compile("/usr/bin/clang", {"-std=c99", "-fsyntax-only"}, sources);
  compile("/usr/bin/g++", {"-xc++", "-std=c++20", "-fsyntax-only"}, sources);
  sources.push_back(folder.write("driver.c", driver + "int main(void) {\n" + calls + "}\n"));
  const auto program = folder.path("driver");
  compile("/usr/bin/gcc",
          {"-std=c99", "-fsanitize=address,undefined", "-fno-sanitize-recover", "-o", program},
          sources);
  const auto ran = run(program, {});
  ASSERT_EQ(ran.status, 0) << ran.errors;
  const auto readings = numbers(ran.output);
  std::size_t at = 0;
  for (const auto& plan : plans) {
    const auto& name = plan.identifier;
    const auto& channel = *model::find(board.channels, plan.channel);
    const auto overlay = folder.write(
        name + ".toml", io::overlay_of(channel, firmware::with_integers(channel, plan)));
    const auto chain = chain::build(io::load_board({GetParam(), overlay}), plan.channel);
    const auto plain = firmware::formula(chain::build(board, plan.channel));
    const double offset = plan.unit.offset;
    for (auto code = plan.first_reported; code <= plan.last_reported; code += stride_of(plan)) {
      const double said = chain::reading(chain, static_cast<double>(code));
      const auto reading = readings.at(at++);
      ASSERT_EQ(reading, std::llround((said - offset) / plan.count)) << name << " " << code;
      const auto number = static_cast<double>(code) * plan.filter.per_code;
      if (number < static_cast<double>(plan.arithmetic.first) ||
          number > static_cast<double>(plan.arithmetic.last)) {
        continue;
      }
      const double error =
          reading * plan.count + offset - chain::reading(plain, static_cast<double>(code));
      ASSERT_LE(std::abs(error), plan.bound * (1.0 + 1e-6) + 1e-12) << name << " " << code;
    }
    EXPECT_LE(plan.bound, plan.allowed * (1.0 + 1e-9));
    std::int32_t faults = 0;
    for (auto code = plan.first_reported; code <= plan.last_reported; code += stride_of(plan))
      faults += code < plan.lowest_code || code > plan.highest_code;
    EXPECT_EQ(readings.at(at++), faults) << name;
    if (stride_of(plan) > 1) {
      const auto hash = static_cast<std::uint32_t>(readings.at(at++));
      if (fewer == 1) {
        EXPECT_EQ(hash, hash_of_all(chain, plan)) << name;
      }
    }
    if (plan.filter.stages.empty()) continue;
    for (const auto wanted : wide_filter(plan)) ASSERT_EQ(readings.at(at++), wanted) << name;
  }
  EXPECT_EQ(at, readings.size());
}

// Coefficients in integers move a reading while its input moves: the input that moves it most, from
// the difference of the answers of the stage and of the described filter to a single 1.
TEST(Filters, KeepTheirBoundWhileTheInputMoves) {
  for (const char* filter :
       {"kind = \"exponential\", weight = 0.03", "kind = \"exponential\", weight = 0.3",
        "kind = \"taps\", taps = [0.1, 0.23, 0.34, 0.23, 0.1]",
        "kind = \"Butterworth\", order = 2, cutoff = \"20 Hz\""}) {
    const auto board =
        io::load_board_text(replaced(small_board, "average = 16",
                                     fmt::format("rate = \"1 kSa/s\"\nfilter = {{ {} }}", filter)),
                            "drawn");
    const auto chain = chain::build(board, "v");
    const auto plan = firmware::plan(chain, {});
    const auto& stage = plan.filter.stages.front();
    const auto answer = chain::impulse_response(chain.firmware.digital.stages.front());
    const auto n = answer.size();
    constexpr std::int64_t range = 4095;
    std::vector<Whole> one(2 * n, 0);
    one[n] = range;
    const auto made = through(stage, one);
    double off = 0.0;
    for (const bool upward : {true, false}) {
      std::vector<Whole> input(2 * n + 1, range / 2);
      double exact = 0.0;
      for (std::size_t k = 0; k < n; ++k) {
        const double difference =
            static_cast<double>(made[n + k]) / plan.filter.per_code / range - answer[k];
        input[2 * n - k] = (difference > 0.0) == upward ? range : 0;
        exact += answer[k] * static_cast<double>(input[2 * n - k]);
      }
      const double result =
          static_cast<double>(through(stage, input).back()) / plan.filter.per_code;
      off = std::max(off, std::abs(result - std::max(0.0, exact)));
    }
    EXPECT_LE(off, plan.filter.rounding + plan.filter.transient) << filter;
    EXPECT_GE(off, 0.5 * plan.filter.transient - plan.filter.rounding) << filter;
    EXPECT_GT(plan.filter.transient, 0.0) << filter;
  }
}

// The integers of all stages follow the described filter in floating point: at rest within what
// they round, and while codes jump within what coefficients add to that.
void follows_the_description(const model::Board& board, const char* name, bool keeps_rest) {
  const auto chain = chain::build(board, name);
  const auto plan = firmware::plan(chain, {});
  EXPECT_EQ(plan.filter.stages.front().keeps_rest, keeps_rest) << name;
  EXPECT_LE(plan.filter.rounding, 1.0) << name;
  const auto answer = chain::impulse_response(chain.firmware.digital);
  const std::size_t rests_from = 6000, count = rests_from + 3 * answer.size();
  const auto range = static_cast<std::uint32_t>(plan.last_reported + 1);
  std::vector<Whole> codes{range / 2};
  std::uint32_t state = 7;
  while (codes.size() < count) {
    state = state * 1664525U + 1013904223U;
    // Jumps of every size, then from one end to the other for as long as it takes to go over.
    const auto jump = codes.size() < rests_from / 2 ? (state >> 4) % range
                      : codes.size() / 200 % 2 == 0 ? 0
                                                    : range - 1;
    codes.push_back(codes.size() < rests_from ? jump : range / 5);
  }
  auto made = codes;
  for (const auto& stage : plan.filter.stages) made = through(stage, made);
  double worst = 0.0;
  for (std::size_t i = 0; i < count; i += 37) {
    double exact = 0.0, left = 1.0;
    for (std::size_t k = 0; k < answer.size(); ++k) {
      exact += answer[k] * static_cast<double>(codes[i >= k ? i - k : 0]);
      left -= answer[k];
    }
    exact = std::max(0.0, exact + left * static_cast<double>(codes.front()));
    const double off = std::abs(static_cast<double>(made[i]) / plan.filter.per_code - exact);
    const bool rests = i >= rests_from + 2 * answer.size();
    ASSERT_LE(off, plan.filter.rounding + (rests ? 1e-5 : plan.filter.transient))
        << name << " " << i;
    if (rests) worst = std::max(worst, off);
  }
  EXPECT_LE(worst, plan.filter.rounding) << name;
}

TEST(Filters, OfTwentyFourBitsKeepTheirBound) {
  const auto board = io::load_board({TAMLO_SOURCE "/tests/firmware/wide_filters.toml"});
  for (const char* name : {"exponential", "slow_section", "two_sections"})
    follows_the_description(board, name, true);
}

TEST(Filters, OfSeveralSectionsKeepTheirBound) {
  for (const char* filter : {"kind = \"Butterworth\", order = 4, cutoff = \"5 Hz\"",
                             "kind = \"Butterworth\", order = 3, cutoff = \"20 Hz\""}) {
    const auto board =
        io::load_board_text(replaced(small_board, "average = 16",
                                     fmt::format("rate = \"1 kSa/s\"\nfilter = {{ {} }}", filter)),
                            "drawn");
    follows_the_description(board, "v", false);
  }
}

// A thermistor below 10 kohm: open it lets the pin go to the supply, shorted to 0 V. A span that
// reaches there has these codes, too.
TEST(Faults, OfASensorAreCodesOutsideOfItsSpan) {
  for (const auto& [span, seen] : {std::pair{"-20..100 degC", true}, {"-90..100 degC", false}}) {
    const auto board = io::load_board_text(
        fmt::format(
            "format = 1\n[reference.r]\nvoltage = \"3 V ±1 %\"\n[converter.a]\nresolution = "
            "\"12 bit\"\nreference = \"r\"\n[channel.t]\nspan = \"{}\"\nconverter = "
            "\"a\"\nsensor = {{ ntc = {{ r25 = \"10 kohm ±1 %\", beta = \"3950 K\" }} }}\n"
            "frontend = [ {{ divider = {{ top = \"10 kohm ±1 %\", bottom = \"sensor\", supply = "
            "\"r\" }} }} ]\n",
            span),
        "drawn");
    const auto plan = firmware::plan(chain::build(board, "t"), {});
    EXPECT_EQ(plan.open_code, 4095);
    EXPECT_EQ(plan.shorted_code, 0);
    EXPECT_EQ(*plan.open_code > plan.highest_code, seen) << span;
    EXPECT_LT(*plan.shorted_code, plan.lowest_code) << span;
    // The same reference feeds the sensor: without it nothing is known of the codes.
    EXPECT_FALSE(plan.no_reference_code);
    // 967 ohm at 100 degC by beta, and 1 % more or less of it against 10 kohm.
    const double hot = 10e3 * std::exp(3950.0 * (1.0 / 373.15 - 1.0 / 298.15));
    const auto code = [](double sensor, double top) { return 4096.0 * sensor / (sensor + top); };
    EXPECT_NEAR(static_cast<double>(plan.lowest_code), code(0.99 * hot, 10.1e3), 1.0);
  }
}

// Of a voltage, any part of no reference is beyond the last code; about 0 V it depends on the sign.
TEST(Faults, OfAReferenceAreTheEndOfTheCodes) {
  const auto plan_of = [](const char* converter, const char* span) {
    const auto board = io::load_board_text(
        fmt::format(
            "format = 1\n[reference.r]\nvoltage = \"2.5 V\"\n[converter.a]\nresolution = \"12 "
            "bit\"\nreference = \"r\"\n{}\n[channel.v]\nspan = \"{}\"\nconverter = \"a\"\n",
            converter, span),
        "drawn");
    return firmware::plan(chain::build(board, "v"), {});
  };
  const auto plan = plan_of("", "0..2 V");
  EXPECT_EQ(plan.no_reference_code, 4095);
  EXPECT_FALSE(plan.gives(4095));
  EXPECT_TRUE(plan_of("", "0..2.5 V").gives(4095));
  const char* const bipolar = "input_range = \"-2.5..2.5 V\"\ncoding = \"two's complement\"";
  EXPECT_FALSE(plan_of(bipolar, "-2..2 V").no_reference_code);
  EXPECT_EQ(plan_of(bipolar, "-2..-1 V").no_reference_code, -2048);
}

// Files of two runs do not compile together.
TEST(CodeFiles, AreOfOneRun) {
  const auto chain = chain::build(io::load_board({demo_board}), "pack_voltage");
  const Folder folder;
  const auto write = [&](double count, bool with_header) {
    const auto code = firmware::c_code(firmware::plan(chain, {.count = count}), {});
    if (with_header) folder.write("pack_voltage.h", code.header);
    return folder.write("pack_voltage.c", code.source);
  };
  compile("/usr/bin/gcc", {"-std=c99", "-fsyntax-only"}, {write(0.01, true)});
  const auto mixed = run("/usr/bin/gcc", {"-std=c99", "-fsyntax-only", write(0.02, false)});
  EXPECT_NE(mixed.errors.find("are of different runs"), std::string::npos) << mixed.errors;
}

std::vector<std::string> boards() {
  // Those of a folder alone, for scripts/prove firmware.
  const char* const drawn = std::getenv("TAMLO_FIRMWARE_BOARDS");
  std::vector<std::string> result;
  for (const auto& entry : fs::directory_iterator(
           drawn != nullptr ? fs::path(drawn) : fs::path(example("bipolar.toml")).parent_path())) {
    if (entry.path().extension() == ".toml") result.push_back(entry.path().string());
  }
  if (drawn == nullptr) {
    result.insert(result.end(), {demo_board, TAMLO_SOURCE "/tests/firmware/wide_filters.toml",
                                 TAMLO_SOURCE "/tests/firmware/narrow_word.toml"});
  }
  std::ranges::sort(result);
  return result;
}

INSTANTIATE_TEST_SUITE_P(OfEveryBoard, Code, ::testing::ValuesIn(boards()),
                         [](const auto& of) { return fs::path(of.param).stem().string(); });

}  // namespace
}  // namespace tamlo::testing
