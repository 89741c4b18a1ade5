// SPDX-License-Identifier: Apache-2.0
#include "tamlo/firmware/c_code.hpp"

#include <algorithm>
#include <cctype>
#include <cmath>

#include "tamlo/chain/chain.hpp"
#include "tamlo/math/detail/hash.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "tamlo/quantity/format.hpp"
#include "writer.hpp"

namespace tamlo::firmware {

std::string said(const std::string& text) {
  auto result = quantity::printable(text);
  // Neither ends the comment, nor seems to begin another.
  for (const auto& [mark, apart] : {std::pair{"*/", "* /"}, {"/*", "/ *"}}) {
    for (auto at = result.find(mark); at != std::string::npos; at = result.find(mark, at)) {
      result.replace(at, 2, apart);
    }
  }
  std::erase(result, '\\');
  return result;
}

std::string amount(double si, const quantity::Unit& unit, int digits) {
  const auto relative = quantity::difference_unit(unit);
  return fmt::format("{} {}", quantity::significant(si, relative, digits), relative.symbol);
}

void origin(Writer& to, const CodeOptions& options) {
  to.line(" * Made by {} from a description whose hash is {}; make it again rather than edit it.",
          options.made_by, options.description);
}

namespace {

// One count of the reading.
std::string one_count(const Plan& plan) {
  return quantity::engineering(plan.count, quantity::difference_unit(plan.unit), 6);
}

// A bound that stays one when it is rounded.
std::string at_most(double value, int digits) {
  return fmt::format("{:.{}g}", quantity::rounded_up(value, {}, digits), digits);
}

std::string beside_span(const Plan& plan, std::int64_t code) {
  if (plan.gives(code)) return "which the span has, too: nothing tells it from a sound one";
  return code < plan.lowest_code ? "below those of the span" : "above those of the span";
}

void comment(Writer& to, const Plan& plan, const CodeOptions& options) {
  const auto& arithmetic = plan.arithmetic;
  const auto unit = plan.unit;
  to.line("/* {}: {} from register values {} to {}.", said(plan.channel), said(options.measures),
          plan.first_reported, plan.last_reported);
  origin(to, options);
  to.line(" *");
  to.line(" * one count             {}", said(one_count(plan)));
  to.line(" * reading               {}", in_words(arithmetic));
  to.line(" * number                {} * {:g}",
          plan.first_reported != 0 ? fmt::format("(register value - ({}))", plan.first_reported)
                                   : "register value",
          plan.filter.per_code);
  to.line(
      " * error of arithmetic   at most {} ({} counts), met at register value {:.10g}",
      said(amount(quantity::rounded_up(plan.bound, quantity::difference_unit(unit), 4), unit, 4)),
      at_most(plan.bound / plan.count, 4), plan.bound_at);
  to.line(" * direction             {}",
          plan.wrong_step == 0
              ? std::string("readings never step against the quantity")
              : fmt::format("readings step back by up to {} counts, as the formula does",
                            plan.wrong_step));
  if (arithmetic.form != Form::straight) {
    const double first = static_cast<double>(arithmetic.first) / plan.filter.per_code;
    const double last = static_cast<double>(arithmetic.last) / plan.filter.per_code;
    to.line(" * valid                 register values {:g} to {:g}; beyond them the reading stays",
            first, last);
  }
  to.line(" * widest intermediate   {} of {} bits", arithmetic.widest(), arithmetic.bits);
  to.line(" * tables                {} bytes", arithmetic.table_bytes());
  to.line(" * operations a reading  {}", plan.operations);
  for (const auto& [what, code] : {std::pair{"an open sensor      ", plan.open_code},
                                   std::pair{"a shorted sensor    ", plan.shorted_code},
                                   std::pair{"without reference   ", plan.no_reference_code}}) {
    if (code) to.line(" * {}  reads register value {}, {}", what, *code, beside_span(plan, *code));
  }
  if (has_filter(plan)) {
    to.line(" * filters round         at most {} register values",
            at_most(plan.filter.rounding, 3));
    if (plan.filter.transient > 0.0) {
      to.line(" * while the input moves up to {} more, as filters are in integers",
              at_most(plan.filter.transient, 3));
    }
    to.line(" * valid readings        from number {} after a start", plan.filter.settling);
  }
  to.line(" * MISRA C:2012          all but 15.5 (advisory): functions return where they are done");
  if (plan.corrected)
    to.line(" * calibration           the correction of one unit is in the numbers");
  if (plan.tared) {
    to.line(" * tare                  not here: subtract the reading that was taken at {}",
            said(*plan.tared));
  }
  to.line(" */");
}

std::string header(const Plan& plan, const CodeOptions& options, std::uint32_t edition) {
  const auto& name = plan.identifier;
  Writer to;
  to.line("/* SPDX-License-Identifier: 0BSD */");
  comment(to, plan, options);
  to.line("#ifndef {}_H", upper(name));
  to.line("#define {}_H", upper(name));
  to.line("#define {}_EDITION 0x{:08x}", upper(name), edition);
  to.line("");
  to.line("#include <stdbool.h>");
  to.line("#include <stdint.h>");
  to.line("");
  to.line(
      "/* Where tables lie: a core with a memory of its own for them may have __flash here. */");
  to.line("#ifndef TABLE_MEMORY");
  to.line("#define TABLE_MEMORY");
  to.line("#endif");
  to.line("");
  Writer body;
  body.line("");
  body.line("/* The reading for one register value, in counts of {}. */", said(one_count(plan)));
  body.line("int32_t {}_reading({} code);", name, code_type(plan));
  body.line("");
  body.line("/* Register values that the span can give with every part at its limits. */");
  const char* const sign = code_bits(plan) < 0 ? "" : "u";
  body.line("#define {}_LOWEST {}{}", upper(name), plan.lowest_code, sign);
  body.line("#define {}_HIGHEST {}{}", upper(name), plan.highest_code, sign);
  body.line(
      "/* 0 for a value among them, 1 below, 2 above: sensor, wires or a supply are at fault. */");
  body.line("uint8_t {}_fault({} code);", name, code_type(plan));
  if (has_filter(plan)) {
    body.line("");
    body.line("/* Average and filter, one conversion after the other. */");
    body.line("struct {}_filter {{", name);
    filter_members(body, plan);
    body.line("}};");
    body.line("");
    body.line("void {}_start(struct {}_filter *filter);", name, name);
    body.line("");
    body.line("/* True when a reading is due and valid; it is then in *reading. */");
    body.line("bool {}_add(struct {}_filter *filter, {} code, int32_t *reading);", name, name,
              code_type(plan));
  }
  if (!plan.edges_up.empty()) {
    body.line("");
    body.line("/* The zone of a reading, from 0, where the last one was in zone `before`. */");
    body.line("uint8_t {}_zone(uint8_t before, int32_t reading);", name);
  }
  if (!plan.edges_up.empty() && plan.debounce > 1) {
    body.line("");
    body.line(
        "/* The same once {} readings in a row say so; all members begin with 0, or `zone` with",
        plan.debounce);
    body.line(" * that of the first reading. */");
    body.line("struct {}_switch {{", name);
    body.line("uint8_t zone;");
    body.line("uint8_t next; /* that the last readings say */");
    body.line("uint8_t count; /* of them */");
    body.line("}};");
    body.line("uint8_t {0}_debounced(struct {0}_switch *state, int32_t reading);", name);
  }
  if (options.units) unit_members(body, plan);
  if (options.floating) {
    body.line("");
    body.line("/* The same in {}, for a machine that has floating point. */",
              plan.unit.symbol.empty() ? "its unit" : said(plan.unit.symbol));
    body.line("float {}_value(int32_t reading);", name);
  }
  if (options.text) {
    body.line("");
    body.line(
        "/* The reading with its unit, right-aligned, in {} characters and the one that ends it. "
        "*/",
        text_size(plan) - 1);
    body.line("#define {}_TEXT_SIZE {}", upper(name), text_size(plan));
    body.line("{};", text_declaration(plan));
  }
  return to.text() + "#ifdef __cplusplus\nextern \"C\" {\n#endif\n" + body.text() +
         "\n#ifdef __cplusplus\n}\n#endif\n\n#endif\n";
}

// The register value, from 0, held where no register is.
void from_first(Writer& to, const Plan& plan) {
  const auto first = plan.first_reported, last = plan.last_reported;
  const int bits = code_bits(plan);
  const std::int64_t values = std::int64_t{1} << std::abs(bits);
  std::string name = "code";
  to.line("static uint32_t {}_from_first({} code) {{", plan.identifier, code_type(plan));
  if (last - first + 1 < values) {
    const bool lowest = first == (bits < 0 ? -values / 2 : 0);
    name = "held";
    hold(to, code_type(plan), "code", lowest ? std::nullopt : std::optional(first), last);
  }
  if (first == 0) to.line("return {};", name);
  if (first > 0) to.line("return (uint32_t){} - {}u;", name, first);
  if (first < 0) {
    to.line("const int32_t above = (int32_t){} + {};", name, -first);
    to.line("return (uint32_t)above;");
  }
  to.line("}}");
}

// A register value times what the filter makes of it.
void reading_function(Writer& to, const Plan& plan) {
  double gain = 1.0;
  int dropped = 0;
  for (const auto& stage : plan.filter.stages) {
    gain *= stage.gain;
    if (stage.kind != FilterStage::Kind::taps) dropped += stage.reduce;
  }
  const double largest = static_cast<double>(plan.last_reported - plan.first_reported) * gain;
  const std::string type = largest < 2147483648.0 ? "uint32_t" : "uint64_t";
  auto number = fmt::format("{}_from_first(code)", plan.identifier);
  if (gain != 1.0) number = fmt::format("(({}){} * {:.0f}u)", type, number, gain);
  if (dropped > 0) {
    number = fmt::format("({} + {}u) >> {}", number, std::int64_t{1} << (dropped - 1), dropped);
  }
  to.line("int32_t {}_reading({} code) {{", plan.identifier, code_type(plan));
  // On its way to a narrower type only.
  if (type != number_type(plan)) number = fmt::format("({})({})", number_type(plan), number);
  to.line("return {}_scaled({});", plan.identifier, number);
  to.line("}}");
}

void fault_function(Writer& to, const Plan& plan) {
  const bool below = plan.lowest_code > plan.first_reported;
  const bool above = plan.highest_code < plan.last_reported;
  to.line("uint8_t {}_fault({} code) {{", plan.identifier, code_type(plan));
  if (!below && !above) to.line("(void)code;");
  if (below) to.line("if (code < {}_LOWEST) return 1u;", upper(plan.identifier));
  if (above) to.line("if (code > {}_HIGHEST) return 2u;", upper(plan.identifier));
  to.line("return 0u;");
  to.line("}}");
}

// The functions, without what stands above them.
std::string functions(const Plan& plan, const CodeOptions& options) {
  Writer to;
  scaled_function(to, plan);
  to.line("");
  from_first(to, plan);
  to.line("");
  reading_function(to, plan);
  to.line("");
  fault_function(to, plan);
  if (has_filter(plan)) filter_functions(to, plan);
  if (!plan.edges_up.empty()) zone_function(to, plan);
  if (options.units) unit_functions(to, plan);
  if (options.floating) value_function(to, plan);
  if (options.text) text_function(to, plan);
  return to.text();
}

}  // namespace

CodeFiles c_code(const Plan& plan, const CodeOptions& options) {
  const auto body = functions(plan, options);
  const auto edition = static_cast<std::uint32_t>(math::hash_of(body));
  Writer to;
  to.line("/* SPDX-License-Identifier: 0BSD */");
  comment(to, plan, options);
  to.line("#include \"{}.h\"", plan.identifier);
  // A write that was ended between the two files, or a copy of one, is seen by the compiler.
  to.line("#if {}_EDITION != 0x{:08x}", upper(plan.identifier), edition);
  to.line("#error \"{0}.h and {0}.c are of different runs\"", plan.identifier);
  to.line("#endif");
  to.line("");
  return {.header = header(plan, options, edition), .source = to.text() + body};
}

}  // namespace tamlo::firmware
