// SPDX-License-Identifier: Apache-2.0
#include "tamlo/firmware/c_code.hpp"

#include <algorithm>
#include <cmath>
#include <span>

#include "tamlo/math/detail/hash.hpp"
#include "tamlo/quantity/format.hpp"
#include "writer.hpp"

namespace tamlo::firmware {
namespace {

constexpr double offset_scale = 256.0;
constexpr double gain_scale = 1073741824.0;  // 2^30
constexpr double most_gain = 0.25;

std::uint32_t crc32(std::span<const std::uint8_t> bytes) {
  std::uint32_t crc = 0xFFFFFFFFU;
  for (const auto byte : bytes) {
    crc ^= byte;
    for (int bit = 0; bit < 8; ++bit) crc = (crc >> 1) ^ ((crc & 1U) != 0 ? 0xEDB88320U : 0U);
  }
  return ~crc;
}

double farthest_reading(const Plan& plan) {
  return static_cast<double>(std::max(std::abs(plan.lowest), std::abs(plan.highest)));
}

// Counts that a corrected reading is off at most: its last place, and those of offset and gain.
double rounding_of(const Plan& plan) {
  return 0.5 + 0.5 / offset_scale + farthest_reading(plan) * 0.5 / gain_scale;
}

}  // namespace

std::uint16_t unit_word(const Plan& plan) {
  return static_cast<std::uint16_t>(
      math::hash_of(fmt::format("{} {:.17g}", plan.identifier, plan.count)));
}

UnitData unit_data(const Plan& plan, const model::Correction& correction, double temperature,
                   std::uint16_t day) {
  const auto& c = correction.coefficients;
  if (c.empty() || c.size() > 2) {
    throw FirmwareError(
        "a correction of more than an offset and a gain is no data of a unit; calibrate with "
        "--model line");
  }
  // A count n is the reading n count + offset of the unit.
  const double slope = c.size() > 1 ? c[1] / correction.half_width : 0.0;
  const double at_zero = (c[0] + slope * (plan.unit.offset - correction.centre)) / plan.count;
  const double largest = farthest_reading(plan) * (1.0 + std::abs(slope)) + std::abs(at_zero) + 1.0;
  if (!(std::abs(slope) <= most_gain) || !(largest < 2147483648.0) ||
      !(std::abs(at_zero) * offset_scale < 2147483648.0)) {
    throw FirmwareError(
        fmt::format("a correction by {:.3g} of the reading and {:.4g} counts: at most a quarter, "
                    "and readings of "
                    "32 bits; take a larger count",
                    slope, at_zero));
  }
  return {.offset = static_cast<std::int32_t>(std::llround(at_zero * offset_scale)),
          .gain = static_cast<std::int32_t>(std::llround(slope * gain_scale)),
          .temperature = static_cast<std::int16_t>(
              std::clamp(std::round((temperature - 273.15) * 10.0), -32768.0, 32767.0)),
          .day = day,
          .error = rounding_of(plan)};
}

std::array<std::uint8_t, unit_data_size> bytes_of(const Plan& plan, const UnitData& data) {
  std::array<std::uint8_t, unit_data_size> bytes{};
  std::size_t at = 0;
  const auto put = [&](std::uint32_t value, int size) {
    for (int i = 0; i < size; ++i) bytes[at++] = static_cast<std::uint8_t>(value >> (8 * i));
  };
  put(1, 1);
  put(unit_data_size, 1);
  put(unit_word(plan), 2);
  put(static_cast<std::uint32_t>(data.offset), 4);
  put(static_cast<std::uint32_t>(data.gain), 4);
  put(static_cast<std::uint16_t>(data.temperature), 2);
  put(data.day, 2);
  put(crc32(std::span(bytes).first(at)), 4);
  return bytes;
}

std::string c_unit_data(const Plan& plan, const UnitData& data) {
  const auto& name = plan.identifier;
  Writer to;
  to.line("/* SPDX-License-Identifier: 0BSD */");
  to.line("/* The correction of one unit for {}.h: {}_unit_from() takes it. */", name, name);
  to.line("#ifndef {}_UNIT_H", upper(name));
  to.line("#define {}_UNIT_H", upper(name));
  to.line("");
  to.line("#include <stdint.h>");
  to.line("");
  const auto bytes = bytes_of(plan, data);
  table(to, "uint8_t", name + "_unit_bytes", {bytes.begin(), bytes.end()}, "");
  to.line("");
  to.line("#endif");
  return to.text();
}

void unit_members(Writer& to, const Plan& plan) {
  const auto& name = plan.identifier;
  to.line("");
  to.line(
      "/* The correction of one unit, from bytes that \"tamlo firmware --unit-data\" writes. */");
  to.line("#define {}_UNIT_SIZE {}", upper(name), unit_data_size);
  to.line("struct {}_unit {{", name);
  to.line("int32_t offset; /* in 1/256 of a count */");
  to.line("int32_t gain; /* in 2^-30 */");
  to.line("int16_t temperature; /* in 0.1 degC, where it holds */");
  to.line("uint16_t day; /* of the calibration, from 2000-01-01; 0: not known */");
  to.line("}};");
  to.line("");
  to.line("/* True for bytes of this channel that are whole; else *unit corrects nothing. */");
  to.line("bool {}_unit_from(struct {}_unit *unit, const uint8_t bytes[{}]);", name, name,
          unit_data_size);
  to.line("");
  to.line("/* The reading of this unit: its correction rounds by at most {} counts. */",
          fmt::format("{:.3g}", quantity::rounded_up(rounding_of(plan), {}, 3)));
  to.line("int32_t {}_corrected(int32_t reading, const struct {}_unit *unit);", name, name);
}

void unit_functions(Writer& to, const Plan& plan) {
  const auto& name = plan.identifier;
  to.line("");
  to.line(
      "static uint32_t {}_unit_word(const uint8_t *bytes, unsigned int from, unsigned int size) {{",
      name);
  to.line("uint32_t word = 0u;");
  to.line("for (unsigned int i = size; i > 0u; --i) word = (word << 8) | bytes[(from + i) - 1u];");
  to.line("return word;");
  to.line("}}");
  to.line("");
  to.line("/* CRC-32 (ISO 3309), bit by bit: it runs once. */");
  to.line("static uint32_t {}_unit_crc(const uint8_t *bytes, unsigned int size) {{", name);
  to.line("uint32_t crc = 0xffffffffu;");
  to.line("for (unsigned int i = 0u; i < size; ++i) {{");
  to.line("crc ^= bytes[i];");
  to.line("for (unsigned int bit = 0u; bit < 8u; ++bit) {{");
  to.line("const uint32_t low = crc & 1u;");
  to.line("crc >>= 1;");
  to.line("if (low != 0u) crc ^= 0xedb88320u;");
  to.line("}}");
  to.line("}}");
  to.line("return crc ^ 0xffffffffu;");
  to.line("}}");
  to.line("");
  to.line("bool {}_unit_from(struct {}_unit *unit, const uint8_t bytes[{}]) {{", name, name,
          unit_data_size);
  to.line("const bool whole = (bytes[0] == 1u) && (bytes[1] == {}u) &&", unit_data_size);
  to.line("                   ({}_unit_word(bytes, 2u, 2u) == 0x{:04x}u) &&", name,
          unit_word(plan));
  to.line("                   ({}_unit_word(bytes, 16u, 4u) == {}_unit_crc(bytes, 16u));", name,
          name);
  to.line("/* two's complement, as all int32_t are */");
  to.line("unit->offset = whole ? (int32_t){}_unit_word(bytes, 4u, 4u) : 0;", name);
  to.line("unit->gain = whole ? (int32_t){}_unit_word(bytes, 8u, 4u) : 0;", name);
  to.line("unit->temperature = whole ? (int16_t){}_unit_word(bytes, 12u, 2u) : 0;", name);
  to.line("unit->day = whole ? (uint16_t){}_unit_word(bytes, 14u, 2u) : 0u;", name);
  to.line("return whole;");
  to.line("}}");
  to.line("");
  to.line("int32_t {}_corrected(int32_t reading, const struct {}_unit *unit) {{", name, name);
  to.line(
      "const int64_t sum = ((int64_t)reading * unit->gain) + ((int64_t)unit->offset * 4194304) +");
  to.line("                    536870912;");
  to.line("return (int32_t)(reading + {});", whole_part("sum", 30));
  to.line("}}");
}

}  // namespace tamlo::firmware
