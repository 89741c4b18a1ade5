// SPDX-License-Identifier: Apache-2.0
// The calibration of a unit as data for code that all units run.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <array>
#include <cmath>
#include <sstream>

#include "tamlo/chain/chain.hpp"
#include "tamlo/firmware/c_code.hpp"
#include "tamlo/io/board_file.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

using firmware::UnitData;

std::string c_bytes(const std::array<std::uint8_t, firmware::unit_data_size>& bytes) {
  std::string text;
  for (const auto byte : bytes) text += fmt::format("{}, ", byte);
  return "{" + text + "}";
}

// Readings of the whole range with corrections up to the largest that is taken, in floating point
// from the coefficients, beside what the code in C makes of the bytes; and each bit damaged.
TEST(UnitData, CorrectsWithinItsBoundAndKnowsDamage) {
  const auto plan =
      firmware::plan(chain::build(io::load_board({example("temperatures.toml")}), "winding"), {});
  const auto code = firmware::c_code(plan, {.units = true});
  const double degree = plan.count, zero = plan.unit.offset;  // K for a count, and of count 0
  ASSERT_GT(zero, 273.0);
  const Folder folder;
  folder.write(plan.identifier + ".h", code.header);
  const auto source = folder.write(plan.identifier + ".c", code.source);
  std::string program = fmt::format(
      "#include <stdio.h>\n#include <string.h>\n#include \"{0}.h\"\n"
      "static void all(const uint8_t *bytes, int32_t from, int32_t to, int32_t step) {{\n"
      "  struct {0}_unit unit;\n  uint8_t damaged[{0}_SIZE];\n  int bit, taken = 0;\n"
      "  if (!{0}_unit_from(&unit, bytes)) printf(\"refused\\n\");\n"
      "  for (; from <= to; from += step) printf(\"%ld\\n\", (long){0}_corrected(from, &unit));\n"
      "  for (bit = 0; bit < 160; ++bit) {{\n"
      "    memcpy(damaged, bytes, 20);\n    damaged[bit / 8] ^= (uint8_t)(1u << (bit % 8));\n"
      "    taken += {0}_unit_from(&unit, damaged) || {0}_corrected(12345, &unit) != 12345;\n  }}\n"
      "  printf(\"%d\\n\", taken);\n}}\nint main(void) {{\n",
      plan.identifier);
  program = replaced(program, plan.identifier + "_SIZE", "20");
  std::vector<double> wanted;
  std::vector<double> bounds;
  for (const double offset : {0.0, 0.37, -11.0}) {
    for (const double gain : {0.0, 1e-4, -0.0126, 0.24}) {
      const model::Correction correction{
          .coefficients = {offset, gain * 50.0}, .centre = 320.0, .half_width = 50.0};
      const UnitData data = firmware::unit_data(plan, correction, 296.15, 9830);
      EXPECT_EQ(data.temperature, 230);
      program += fmt::format("  {{ static const uint8_t b[] = {}; all(b, {}, {}, {}); }}\n",
                             c_bytes(firmware::bytes_of(plan, data)), plan.lowest, plan.highest,
                             (plan.highest - plan.lowest) / 97);
      const auto step = (plan.highest - plan.lowest) / 97;
      for (auto n = plan.lowest; n <= plan.highest; n += step) {
        const double reading = static_cast<double>(n) * degree + zero;
        const double corrected = reading + offset + gain * (reading - 320.0);
        wanted.push_back((corrected - zero) / degree);
        bounds.push_back(data.error);
      }
      wanted.push_back(0.0);  // no damaged data are taken
      bounds.push_back(0.0);
    }
  }
  const auto driver = folder.write("driver.c", program + "  return 0;\n}\n");
  const auto out = folder.path("driver");
  const auto built = run(
      "/usr/bin/gcc", {"-std=c99", "-Wall", "-Wextra", "-Wconversion", "-Werror",
                       "-fsanitize=undefined", "-fno-sanitize-recover", "-o", out, source, driver});
  ASSERT_EQ(built.status, 0) << built.errors;
  const auto ran = run(out, {});
  ASSERT_EQ(ran.status, 0) << ran.errors;
  std::istringstream lines(ran.output);
  std::size_t at = 0;
  double worst = 0.0;
  for (std::string line; std::getline(lines, line); ++at) {
    ASSERT_NE(line, "refused");
    ASSERT_LT(at, wanted.size());
    const double off = std::abs(std::stod(line) - wanted[at]);
    worst = std::max(worst, off);
    ASSERT_LE(off, bounds[at] + 1e-9) << at << " " << line << " " << wanted[at];
  }
  EXPECT_EQ(at, wanted.size());
  EXPECT_GT(worst, 0.45);
}

TEST(UnitData, RefusesWhatIsNoLine) {
  const auto plan = firmware::plan(chain::build(io::load_board({demo_board}), "pack_voltage"), {});
  for (const auto& correction :
       {model::Correction{.coefficients = {0.1, 0.1, 0.1}},
        model::Correction{.readings = {1.0, 2.0}, .corrected = {1.1, 2.1}},
        model::Correction{.coefficients = {0.0, 0.3}}, model::Correction{.coefficients = {1e9}},
        model::Correction{.coefficients = {0.0, NAN}}}) {
    EXPECT_THROW(firmware::unit_data(plan, correction, 296.15), firmware::FirmwareError);
  }
  // The check word is that of ISO 3309: over 1, 20, ... as computed elsewhere (zlib.crc32).
  const auto bytes = firmware::bytes_of(
      plan, {.offset = -456, .gain = -13529098, .temperature = 230, .day = 9830});
  EXPECT_EQ(bytes[16] | bytes[17] << 8 | bytes[18] << 16 | bytes[19] << 24, 0x2a374e19);
}

}  // namespace
}  // namespace tamlo::testing
