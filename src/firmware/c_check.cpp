// SPDX-License-Identifier: Apache-2.0
// A program that runs the code on every register value.
#include <algorithm>
#include <cmath>

#include "tamlo/chain/chain.hpp"
#include "tamlo/firmware/c_code.hpp"
#include "writer.hpp"

namespace tamlo::firmware {

void table(Writer& to, const std::string& type, const std::string& name,
           const std::vector<std::int64_t>& values, const std::string& memory) {
  to.line("static const {}{} {}[{}] = {{", memory, type, name, values.size());
  for (std::size_t i = 0; i < values.size(); i += 10) {
    std::string row;
    for (std::size_t k = i; k < std::min(values.size(), i + 10); ++k) {
      row += fmt::format("{}{},", row.empty() ? "" : " ", values[k]);
    }
    to.line("{}", row);
  }
  to.line("}};");
}

ExpectedReadings expected(const chain::Chain& chain, const Plan& plan) {
  const auto exact = formula(chain);
  const double per_code = plan.filter.per_code;
  ExpectedReadings result;
  result.first = std::max(plan.first_reported,
                          static_cast<std::int64_t>(std::ceil(
                              static_cast<double>(plan.arithmetic.first) / per_code - 1e-9)));
  const auto last = std::min(plan.last_reported,
                             static_cast<std::int64_t>(std::floor(
                                 static_cast<double>(plan.arithmetic.last) / per_code + 1e-9)));
  result.stride = 1 + (last - result.first) / 65536;
  for (auto code = result.first; code <= last; code += result.stride) {
    const double reading = chain::reading(exact, static_cast<double>(code));
    result.counts.push_back((reading - plan.unit.offset) / plan.count);
  }
  return result;
}

std::string c_check(const Plan& plan, const ExpectedReadings& expected) {
  const auto& name = plan.identifier;
  constexpr double parts = 256.0;  // of a count
  Writer to;
  to.line("/* SPDX-License-Identifier: 0BSD */");
  to.line("/* Runs {}_reading on {} register values and prints the worst error. */", name,
          expected.counts.size());
  to.line("#include <stdio.h>");
  to.line("");
  to.line("#include \"{}.h\"", name);
  to.line("");
  to.line("/* What the plain formula reads, in counts times {:g}. */", parts);
  std::vector<std::int64_t> values;
  for (const double counts : expected.counts) values.push_back(std::llround(counts * parts));
  table(to, "int64_t", "expected", values);
  to.line("");
  to.line("int main(void) {{");
  to.line("int64_t worst = 0;");
  to.line("long at = 0;");
  to.line("unsigned long i;");
  to.line("for (i = 0; i < {}u; ++i) {{", values.size());
  to.line("const long code = (long)i * {} + {};", expected.stride, expected.first);
  to.line("int64_t error = (int64_t){}_reading(({})code) * {:g} - expected[i];", name,
          code_type(plan), parts);
  to.line("if (error < 0) error = -error;");
  to.line("if (error > worst) {{");
  to.line("worst = error;");
  to.line("at = code;");
  to.line("}}");
  to.line("}}");
  to.line("printf(\"{}: worst error %ld/{:g} counts at register value %ld\\n\", (long)worst, at);",
          name, parts);
  to.line("return worst <= {} ? 0 : 1;",
          static_cast<std::int64_t>(std::ceil(plan.bound / plan.count * parts)) + 1);
  to.line("}}");
  return to.text();
}

}  // namespace tamlo::firmware
