// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/firmware_overlay.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <array>
#include <cstdint>

#include "input_file.hpp"
#include "tamlo/error.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/math/detail/hash.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "toml_text.hpp"

namespace tamlo::io {
namespace {

std::string step_text(const model::IntegerStep& step) {
  using model::Operation;
  if (step.operation == Operation::clamp) {
    return fmt::format("{{ clamp = {{ least = {}, most = {} }} }}", step.operand, step.most);
  }
  if (step.operation == Operation::lines) {
    std::string result = "{ lines = [\n";
    for (const auto& line : step.lines) {
      result += fmt::format("    {{ from = {}, multiply = {}, add = {} }},\n", line.from,
                            line.multiply, line.add);
    }
    return result + "  ] }";
  }
  if (step.operation == Operation::polynomial) {
    return fmt::format("{{ polynomial = [{}], shift = {} }}", fmt::join(step.coefficients, ", "),
                       step.operand);
  }
  return fmt::format("{{ {} = {}{} }}", name(step.operation), step.operand,
                     step.round ? ", round = true" : "");
}

std::string number_text(double si, const quantity::Unit& unit) {
  const auto text = quantity::format_number(si, unit);
  return text.empty() ? fmt::format("{:.17g}", (si - unit.offset) / unit.scale()) : text;
}

// A value of the quantity, or a difference of two, so that it reads back the same.
std::string value_text(double si, const quantity::Unit& unit) {
  return toml_quoted(fmt::format("{} {}", number_text(si, unit), unit.symbol));
}

}  // namespace

std::string overlay_of(const model::Channel& before, const model::Channel& channel) {
  require(channel.scaling.integer.has_value(), "a channel that scales in integers");
  const auto& integer = *channel.scaling.integer;
  const auto difference = quantity::difference_unit(channel.span.unit);
  auto result = fmt::format("{}, the arithmetic of its code.\n[channel.{}]\n",
                            firmware_overlay_begins, toml_key(channel.name));
  if (before.average.truncated) {
    const auto& average = before.average;
    result += average.time ? fmt::format("average = {{ time = {} }}\n",
                                         value_text(*average.time, quantity::unit("s")))
                           : fmt::format("average = {}\n", average.count);
  }
  result +=
      fmt::format("scaling = {{ arithmetic = \"integer\", word = \"{} bit signed\", count = {}",
                  integer.bits, value_text(integer.count, difference));
  if (integer.per_code != 1.0)
    result += fmt::format(", per_code = {}", number_text(integer.per_code, {}));
  if (integer.filter_rounding > 0.0) {
    result +=
        fmt::format(", filter_rounding = {}", value_text(integer.filter_rounding, difference));
  }
  if (integer.corrects) result += ", corrects = true";
  if (channel.scaling.tare) {
    result += fmt::format(", tare = {}", value_text(*channel.scaling.tare, channel.span.unit));
  }
  result += ", steps = [\n";
  for (const auto& step : integer.steps) result += fmt::format("  {},\n", step_text(step));
  return result + "] }\n";
}

std::string hash_of(const std::vector<std::string>& paths,
                    const std::vector<std::string>& settings) {
  auto hash = math::hash_of({});
  for (const auto& path : paths) {
    if (is_read_once(path)) {
      hash = math::hash_of(read_file(path), hash);
      continue;
    }
    const auto file = open_input(path);
    std::array<char, 4096> bytes{};
    for (std::size_t n = 1; n > 0;) {
      n = std::fread(bytes.data(), 1, bytes.size(), file.get());
      hash = math::hash_of({bytes.data(), n}, hash);
    }
    if (std::ferror(file.get()) != 0) throw EnvironmentError(path + ": it cannot be read");
  }
  for (const auto& setting : settings) hash = math::hash_of(setting, hash);
  return fmt::format("{:016x}", hash);
}

}  // namespace tamlo::io
