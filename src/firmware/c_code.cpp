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
namespace {

// A text of the user's, as it may stand in a comment.
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

// One count of the reading.
std::string one_count(const Plan& plan) {
  return quantity::engineering(plan.count, quantity::difference_unit(plan.unit), 6);
}

std::string amount(double si, const quantity::Unit& unit, int digits) {
  const auto relative = quantity::difference_unit(unit);
  return fmt::format("{} {}", quantity::significant(si, relative, digits), relative.symbol);
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
  to.line(" * Made by {} from a description whose hash is {}; make it again rather than edit it.",
          options.made_by, options.description);
  to.line(" *");
  to.line(" * one count             {}", said(one_count(plan)));
  to.line(" * reading               {}", in_words(arithmetic));
  to.line(" * number                {} * {:g}",
          plan.first_reported != 0 ? fmt::format("(register value - ({}))", plan.first_reported)
                                   : "register value",
          plan.filter.per_code);
  to.line(
      " * error of arithmetic   at most {} ({} counts), met at register value {:g}",
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
                                   std::pair{"a shorted sensor    ", plan.shorted_code}}) {
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

void scaled_straight(Writer& to, const Plan& plan) {
  const auto& arithmetic = plan.arithmetic;
  const auto& line = arithmetic.lines.front();
  // An int may have 16 bits: the word is that of the product, not of the number.
  const auto word = unsigned_type(arithmetic.bits);
  const auto number = number_type(plan) == word ? "number" : fmt::format("({})number", word);
  const auto product = fmt::format("({} * {}u)", number, std::abs(line.multiply));
  auto sum = line.multiply < 0 ? fmt::format("{}u - {}", line.add, product)
             : line.add != 0   ? fmt::format("{} + {}u", product, line.add)
                               : product;
  if (arithmetic.shift > 0) sum = fmt::format("({}) >> {}", sum, arithmetic.shift);
  to.line("static int32_t {}_scaled({} number) {{", plan.identifier, number_type(plan));
  to.line("const {} sum = {};", word, sum);
  to.line("return (int32_t)sum{};", added(arithmetic.base));
  to.line("}}");
}

// The number, held where the curve was fitted.
void hold(Writer& to, const Plan& plan, std::int64_t first, std::int64_t last) {
  to.line("{} held = number;", number_type(plan));
  if (first > 0) to.line("if (held < {}u) held = {}u;", first, first);
  to.line("if (held > {}u) held = {}u;", last, last);
}

// The last piece that begins at or before the number: half of what is left, again and again.
void find_piece(Writer& to, std::size_t pieces) {
  to.line("unsigned int piece = 0;");
  for (auto left = pieces; left > 1;) {
    const auto half = left / 2;
    to.line("piece += (held >= piece_from[piece + {}u]) ? {}u : 0u;", half, half);
    left -= half;
  }
}

void scaled_lines(Writer& to, const Plan& plan, std::int64_t first_number) {
  const auto& arithmetic = plan.arithmetic;
  const auto& name = plan.identifier;
  const auto type = number_type(plan);
  const bool even = arithmetic.form == Form::even_lines;
  std::vector<std::int64_t> from, slope, start;
  for (const auto& line : arithmetic.lines) {
    from.push_back(line.from - first_number);
    slope.push_back(line.multiply);
    start.push_back(line.add >> arithmetic.add_shift);
  }
  const bool single = slope.size() == 1;
  to.line("static int32_t {}_scaled({} number) {{", name, type);
  if (!single) {
    if (!even) table(to, unsigned_type(arithmetic.from_bits), "piece_from", from);
    table(to, fmt::format("int{}_t", arithmetic.multiply_bits), "piece_slope", slope);
    table(to, unsigned_type(arithmetic.add_bits), "piece_begins_at", start);
  }
  const auto first = arithmetic.first - first_number, last = arithmetic.last - first_number;
  hold(to, plan, first, last);
  if (single) {
    to.line("const {} along = {};", type,
            first > 0 ? fmt::format("({})(held - {}u)", type, first) : "held");
  } else if (even) {
    if (first > 0) to.line("held = ({})(held - {}u);", type, first);
    to.line("const unsigned int piece = (unsigned int)(held >> {});", arithmetic.even_shift);
    to.line("const {} along = ({})(held & {}u);", type, type,
            (std::int64_t{1} << arithmetic.even_shift) - 1);
  } else {
    find_piece(to, arithmetic.lines.size());
    to.line("const {} along = ({})(held - piece_from[piece]);", type, type);
  }
  const bool wide = arithmetic.bits == 64;
  const std::string word = wide ? "int64_t" : "int32_t", bare = "u" + word;
  const auto slopes = single ? fmt::format("{}", slope.front()) : "piece_slope[piece]";
  const auto starts = single ? fmt::format("{}u", start.front()) : "piece_begins_at[piece]";
  to.line("const {} product = ({}){} * ({})along;", word, word, slopes, word);
  const auto begin = arithmetic.add_shift > 0
                         ? fmt::format("(({}){} << {})", bare, starts, arithmetic.add_shift)
                         : starts;
  to.line("return (int32_t)((({})product + {}) >> {}){};", bare, begin, arithmetic.shift,
          added(arithmetic.base));
  to.line("}}");
}

void scaled_polynomial(Writer& to, const Plan& plan, std::int64_t first_number) {
  const auto& arithmetic = plan.arithmetic;
  const auto type = number_type(plan);
  const auto first = arithmetic.first - first_number, last = arithmetic.last - first_number;
  to.line("static int32_t {}_scaled({} number) {{", plan.identifier, type);
  to.line("int32_t sum = {};", arithmetic.coefficients.back());
  hold(to, plan, first, last);
  if (first > 0) to.line("held = ({})(held - {}u);", type, first);
  to.line("/* a shift of what may be negative, without one */");
  const std::uint32_t offset = std::uint32_t{1} << 31;
  for (auto c = arithmetic.coefficients.rbegin() + 1; c != arithmetic.coefficients.rend(); ++c) {
    to.line("{{");
    to.line("const int32_t product = sum * (int32_t)held;");
    to.line("sum = (int32_t)(((uint32_t)product + {:#x}u) >> {}) - {} + {};", offset,
            arithmetic.product_shift, offset >> arithmetic.product_shift, *c);
    to.line("}}");
  }
  const auto shifted = arithmetic.shift > 0
                           ? fmt::format("(int32_t)((uint32_t)sum >> {})", arithmetic.shift)
                           : "sum";
  to.line("return {}{};", shifted, added(arithmetic.base));
  to.line("}}");
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
    const char* const sign = bits < 0 ? "" : "u";
    name = "held";
    to.line("{} held = code;", code_type(plan));
    if (!lowest) to.line("if (held < {}{}) held = {}{};", first, sign, first, sign);
    to.line("if (held > {}{}) held = {}{};", last, sign, last, sign);
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
  const auto first_number = static_cast<std::int64_t>(
      std::llround(static_cast<double>(plan.first_reported) * plan.filter.per_code));
  if (plan.arithmetic.form == Form::straight) {
    scaled_straight(to, plan);
  } else if (plan.arithmetic.form == Form::polynomial) {
    scaled_polynomial(to, plan, first_number);
  } else {
    scaled_lines(to, plan, first_number);
  }
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
