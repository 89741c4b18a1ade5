// SPDX-License-Identifier: Apache-2.0
#include "tamlo/firmware/c_code.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "quantity_formula.hpp"
#include "tamlo/math/detail/expression.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"
#include "writer.hpp"

namespace tamlo::firmware {
namespace {

// The reading of a channel in SI, from its counts.
Part reading_of(const Plan& plan, const model::Channel& channel) {
  const auto& span = channel.span;
  const double count = plan.count, offset = span.unit.offset;
  Part counts{.text = fmt::format("(float){}", plan.identifier),
              .low = (span.low - offset) / count,
              .high = (span.high - offset) / count};
  if (counts.size() >= 0x1p24) counts.error = half_place * counts.size();
  for (std::size_t i = 0; i < counts.at.size(); ++i)
    counts.at[i] = std::lerp(counts.low, counts.high, 0.13 + 0.27 * static_cast<double>(i));
  const auto whole = counts_of_one(count);
  auto factor = constant(whole.value_or(count));
  if (whole) factor.error = 0.0;
  const auto value = whole ? quotient(counts, factor) : product(counts, factor);
  return offset == 0.0 ? value : sum(value, constant(offset));
}

Part in_unit(const Part& value, const quantity::Unit& unit) {
  auto result = unit.offset == 0.0 ? value : difference(value, constant(unit.offset));
  return unit.scale() == 1.0 ? result : quotient(result, constant(unit.scale()));
}

// The functions that the text calls.
void helpers(Writer& to, const std::string& prefix, const std::string& text) {
  const auto helper = [&](const char* name, const char* parameters, const char* gives) {
    if (text.find(prefix + name) == std::string::npos) return;
    to.line("static float {}{}({}) {{", prefix, name, parameters);
    to.line("return {};", gives);
    to.line("}}");
    to.line("");
  };
  helper("_smaller", "float a, float b", "(a < b) ? a : b");
  helper("_larger", "float a, float b", "(a > b) ? a : b");
  helper("_magnitude", "float a", "(a < 0.0f) ? -a : a");
}

std::string declaration(const QuantityPlan& plan) {
  std::string parameters;
  for (const auto& name : plan.channels)
    parameters += (parameters.empty() ? "int32_t " : ", int32_t ") + identifier_of(name);
  return fmt::format("float {}_value({})", plan.identifier, parameters);
}

void comment(Writer& to, const QuantityPlan& plan, const CodeOptions& options) {
  const auto difference_unit = quantity::difference_unit(plan.unit);
  to.line("/* {} = {}", said(plan.quantity), said(plan.expression));
  origin(to, options);
  to.line(" *");
  to.line(" * readings              in the counts of NAME_reading of each channel");
  to.line(" * error of arithmetic   at most {}, while each reading lies in its span",
          said(amount(quantity::rounded_up(plan.bound, difference_unit, 3), plan.unit, 3)));
  to.line(" * operations            {} in single precision", plan.operations);
  to.line(" */");
}

}  // namespace

QuantityPlan plan(const model::Board& board, const model::Quantity& quantity,
                  const std::vector<Plan>& plans) {
  QuantityPlan result{.quantity = quantity.name,
                      .identifier = identifier_of(quantity.name),
                      .expression = quantity.expression,
                      .unit = quantity.span.unit,
                      .channels = model::channels_of(board, quantity)};
  std::map<std::string, Part> names{{"_pi", constant(std::numbers::pi)},
                                    {"_e", constant(std::numbers::e)}};
  Writer to;
  std::vector<Part> readings;
  for (const auto& name : result.channels) {
    const auto found = std::ranges::find(plans, name, &Plan::channel);
    if (found == plans.end()) throw FirmwareError("no code of " + name + ", which it needs");
    auto reading = reading_of(*found, *model::find(board.channels, name));
    readings.push_back(reading);
    result.operations += reading.operations;
    const auto local = found->identifier + "_si";
    to.line("const float {} = {};", local, reading.text);
    reading.text = local;
    reading.operations = 0;
    names.emplace(name, std::move(reading));
  }
  const auto value = read_formula(quantity.expression, result.identifier, names);
  // What was read must be what everything else here computes with.
  const math::Expression formula(quantity.expression, result.channels);
  for (std::size_t i = 0; i < value.at.size(); ++i) {
    std::vector<double> x;
    for (const auto& reading : readings) x.push_back(reading.at[i]);
    const double exact = formula(x);
    if (!(std::abs(exact - value.at[i]) <= 1e-9 * (std::abs(exact) + value.size())))
      throw FirmwareError("its formula reads otherwise in C: put brackets about its parts");
  }
  const auto shown = in_unit(value, result.unit);
  to.line("return {};", shown.text);
  result.bound = shown.error * result.unit.scale();
  result.operations += shown.operations;
  result.source = to.text();
  result.calls_library = shown.text.find("sqrtf(") != std::string::npos;
  return result;
}

CodeFiles c_code(const QuantityPlan& plan, const CodeOptions& options) {
  const auto guard = upper(plan.quantity);
  Writer header, source;
  header.line("/* SPDX-License-Identifier: 0BSD */");
  comment(header, plan, options);
  header.line("#ifndef {}_H", guard);
  header.line("#define {}_H", guard);
  header.line("");
  header.line("#include <stdint.h>");
  header.line("");
  header.line("#ifdef __cplusplus");
  header.line("extern \"C\" {{");
  header.line("#endif");
  header.line("/* {} in {}, from readings in counts. */", said(plan.quantity),
              plan.unit.symbol.empty() ? "its unit" : said(plan.unit.symbol));
  header.line("{};", declaration(plan));
  header.line("#ifdef __cplusplus");
  header.line("}}");
  header.line("#endif");
  header.line("");
  header.line("#endif");
  source.line("/* SPDX-License-Identifier: 0BSD */");
  comment(source, plan, options);
  source.line("#include \"{}.h\"", plan.identifier);
  if (plan.calls_library) source.line("\n#include <math.h>");
  source.line("");
  helpers(source, plan.identifier, plan.source);
  source.line("{} {{", declaration(plan));
  for (std::size_t at = 0; at < plan.source.size();) {
    const auto end = plan.source.find('\n', at);
    source.line("{}", plan.source.substr(at, end - at));
    at = end + 1;
  }
  source.line("}}");
  return {.header = header.text(), .source = source.text()};
}

}  // namespace tamlo::firmware
