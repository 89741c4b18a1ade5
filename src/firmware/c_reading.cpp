// SPDX-License-Identifier: Apache-2.0
// What is made of a reading: a text, a zone.
#include <algorithm>
#include <cmath>

#include "tamlo/math/detail/power_of_ten.hpp"
#include "writer.hpp"

namespace tamlo::firmware {
namespace {

// One count as a whole number of a decimal place of the unit.
struct Digits {
  std::int64_t factor = 1;
  int decimals = 0;
};
Digits digits_of(const Plan& plan) {
  const double count = plan.count / plan.unit.scale();
  for (int decimals = 0; decimals <= 9; ++decimals) {
    const double factor = count * math::power_of_ten(decimals);
    const double whole = std::round(factor);
    if (whole >= 1.0 && whole < 1e6 && std::abs(factor - whole) < 1e-9 * factor) {
      return {.factor = static_cast<std::int64_t>(whole), .decimals = decimals};
    }
  }
  throw FirmwareError(
      "a text of counts that are no whole number of a decimal place; take a count "
      "such as a power of ten of the unit");
}

std::int64_t largest(const Plan& plan) {
  return std::max(std::abs(plan.lowest), std::abs(plan.highest)) * digits_of(plan).factor;
}

int whole_digits(const Plan& plan) {
  int digits = 1;
  for (auto left = largest(plan); left >= 10; left /= 10) ++digits;
  return std::max(digits, digits_of(plan).decimals + 1);
}

// A string of C; bytes beyond ASCII by number.
std::string literal(const std::string& text) {
  std::string result = "\"";
  for (const char c : text) {
    const auto byte = static_cast<unsigned char>(c);
    if (byte < 0x20 || byte > 0x7e || c == '"' || c == '\\' || c == '?') {
      result += fmt::format("\\{:03o}", byte);
    } else {
      result += c;
    }
  }
  return result + "\"";
}

}  // namespace

void value_function(Writer& to, const Plan& plan) {
  const double count = plan.count / plan.unit.scale();
  to.line("");
  to.line("float {}_value(int32_t reading) {{", plan.identifier);
  if (const auto counts = counts_of_one(count)) {
    to.line("return (float)reading / {:.1f}f;", *counts);
  } else {
    to.line("return (float)reading * {:.9e}f;", count);
  }
  to.line("}}");
}

int text_size(const Plan& plan) {
  const auto digits = digits_of(plan);
  const int unit = plan.unit.symbol.empty() ? 0 : static_cast<int>(plan.unit.symbol.size()) + 1;
  return 1 + whole_digits(plan) + (digits.decimals > 0 ? 1 : 0) + unit + 1;
}

std::string text_declaration(const Plan& plan) {
  return fmt::format("void {}_text(char *out, int32_t reading)", plan.identifier);
}

void text_function(Writer& to, const Plan& plan) {
  const auto digits = digits_of(plan);
  const int width = 1 + whole_digits(plan) + (digits.decimals > 0 ? 1 : 0);
  const bool wide = largest(plan) >= 4294967296;
  to.line("");
  to.line("{} {{", text_declaration(plan));
  const auto unit = plan.unit.symbol.empty() ? std::string() : " " + plan.unit.symbol;
  to.line("static const char unit[] = {};", literal(unit));
  to.line("static const char figures[] = \"0123456789\";");
  // A reading that no register value gives is held, so that it never takes more room.
  hold(to, "int32_t", "reading", plan.lowest, plan.highest);
  const auto* type = wide ? "uint64_t" : "uint32_t";
  to.line("const bool negative = held < 0;");
  const auto times = digits.factor != 1 ? fmt::format(" * {}u", digits.factor) : "";
  to.line("{} left = (negative ? (0u - ({})held) : ({})held){};", type, type, type, times);
  to.line("int digits = 0;");
  to.line("int place = {};", width);
  const auto put = [&](const char* what) {
    to.line("--place;");
    to.line("out[place] = {};", what);
  };
  to.line("while ((left > 0u) || (digits <= {})) {{", digits.decimals);
  if (digits.decimals > 0) {
    to.line("if (digits == {}) {{", digits.decimals);
    put("'.'");
    to.line("}}");
  }
  put("figures[left % 10u]");
  to.line("left /= 10u;");
  to.line("++digits;");
  to.line("}}");
  to.line("if (negative) {{");
  put("'-'");
  to.line("}}");
  to.line("while (place > 0) {{");
  put("' '");
  to.line("}}");
  to.line("for (unsigned int i = 0u; i < sizeof unit; ++i) out[{}u + i] = unit[i];", width);
  to.line("}}");
}

void zone_function(Writer& to, const Plan& plan) {
  const auto& name = plan.identifier;
  const auto list = [](const std::vector<std::int64_t>& counts) {
    std::string result;
    for (const auto count : counts)
      result += fmt::format("{}{}", result.empty() ? "" : ", ", count);
    return result;
  };
  const auto last = plan.edges_up.size();
  to.line("");
  to.line("uint8_t {}_zone(uint8_t before, int32_t reading) {{", name);
  to.line("/* counts from which on a zone is entered, and below which it is left again */");
  to.line("static const TABLE_MEMORY int32_t enter[{}] = {{{}}};", last, list(plan.edges_up));
  to.line("static const TABLE_MEMORY int32_t leave[{}] = {{{}}};", last, list(plan.edges_down));
  to.line("uint8_t zone = before;");
  to.line("if (zone > {}u) zone = {}u;", last, last);
  to.line("while ((zone < {}u) && (reading >= enter[zone])) ++zone;", last);
  to.line("while ((zone > 0u) && (reading < leave[zone - 1u])) --zone;");
  to.line("return zone;");
  to.line("}}");
  if (plan.debounce == 1) return;
  to.line("");
  to.line("uint8_t {0}_debounced(struct {0}_switch *state, int32_t reading) {{", name);
  to.line("const uint8_t next = {}_zone(state->zone, reading);", name);
  to.line("if (next == state->zone) {{");
  to.line("state->count = 0u;");
  to.line("}} else {{");
  to.line("if (next != state->next) state->count = 0u;");
  to.line("state->next = next;");
  to.line("++state->count;");
  to.line("if (state->count >= {}u) {{", plan.debounce);
  to.line("state->zone = next;");
  to.line("state->count = 0u;");
  to.line("}}");
  to.line("}}");
  to.line("return state->zone;");
  to.line("}}");
}

}  // namespace tamlo::firmware
