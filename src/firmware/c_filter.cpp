// SPDX-License-Identifier: Apache-2.0
// Average and filter as C. Between two stages there is a whole number of 0 or more, in an int32_t.
#include "writer.hpp"

namespace tamlo::firmware {
namespace {

using Kind = FilterStage::Kind;

std::string kept_type(const FilterStage& stage) { return unsigned_type(stage.in_bits); }

const char* sum_type(const FilterStage& stage) { return stage.wide ? "uint64_t" : "uint32_t"; }

std::string counter_type(int length) { return length < 256 ? "uint8_t" : "uint32_t"; }

void members_of(Writer& to, const FilterStage& s, std::size_t i) {
  to.line("/* {} */", s.name);
  switch (s.kind) {
    case Kind::sum:
      to.line("{} sum{};", sum_type(s), i);
      to.line("uint32_t count{};", i);
      return;
    case Kind::running_sum:
      to.line("{} sum{};", sum_type(s), i);
      to.line("{} kept{}[{}];", kept_type(s), i, s.length);
      to.line("{} at{};", counter_type(s.length), i);
      to.line("bool filled{};", i);
      return;
    case Kind::cascade:
      to.line("{} sums{}[{}];", sum_type(s), i, s.order);
      to.line("{} before{}[{}];", sum_type(s), i, s.order);
      to.line("uint32_t count{};", i);
      return;
    case Kind::exponential:
      to.line("int32_t value{};", i);
      if (s.keeps_rest) to.line("int32_t rest{};", i);
      to.line("bool filled{};", i);
      return;
    case Kind::median:
      to.line("{} kept{}[{}];", kept_type(s), i, s.length);
      to.line("{} sorted{}[{}];", kept_type(s), i, s.length);
      to.line("uint8_t at{};", i);
      to.line("bool filled{};", i);
      return;
    case Kind::section:
      to.line("int32_t in{}[2];", i);
      to.line("int32_t out{}[2];", i);
      if (s.keeps_rest) to.line("int32_t rest{}[2];", i);
      to.line("bool filled{};", i);
      return;
    case Kind::taps:
      to.line("{} kept{}[{}];", kept_type(s), i, s.length);
      to.line("{} at{};", counter_type(s.length), i);
      to.line("bool filled{};", i);
      return;
  }
}

// Nothing is left of what was before.
void start(Writer& to, const FilterStage& s, std::size_t i) {
  if (s.kind == Kind::sum) to.line("filter->sum{} = 0;", i);
  if (s.kind == Kind::cascade) {
    for (int k = 0; k < s.order; ++k) {
      to.line("filter->sums{}[{}] = 0;", i, k);
      to.line("filter->before{}[{}] = 0;", i, k);
    }
  }
  if (s.kind == Kind::sum || s.kind == Kind::cascade) {
    to.line("filter->count{} = 0;", i);
    return;
  }
  if (s.kind != Kind::exponential && s.kind != Kind::section) to.line("filter->at{} = 0;", i);
  to.line("filter->filled{} = false;", i);
}

// A sum as the next value: of 64 bits its bits that are dropped go first.
std::string from_sum(const FilterStage& s, const std::string& sum) {
  if (!s.wide) return fmt::format("(int32_t){}", sum);
  return fmt::format("(int32_t)(({} + {}u) >> {})", sum, std::int64_t{1} << (s.reduce - 1),
                     s.reduce);
}

void every_nth(Writer& to, const FilterStage& s, std::size_t i) {
  to.line("if (++filter->count{} < {}u) return false;", i, s.decimation);
  to.line("filter->count{} = 0;", i);
}

void next_place(Writer& to, const FilterStage& s, std::size_t i) {
  to.line("filter->at{} = ({})(((filter->at{} + 1u) < {}u) ? (filter->at{} + 1u) : 0u);", i,
          s.kind == Kind::median ? "uint8_t" : counter_type(s.length), i, s.length, i);
}

// The first value counts as one that was always there.
void fill(Writer& to, const FilterStage& s, std::size_t i, const std::string& array) {
  to.line("for (uint32_t i = 0u; i < {}u; ++i) filter->{}{}[i] = ({})value;", s.length, array, i,
          kept_type(s));
}

void add_running_sum(Writer& to, const FilterStage& s, std::size_t i) {
  to.line("if (!filter->filled{}) {{", i);
  fill(to, s, i, "kept");
  to.line("filter->sum{} = ({})value * {}u;", i, sum_type(s), s.length);
  to.line("filter->filled{} = true;", i);
  to.line("}}");
  to.line("filter->sum{} += ({})value - filter->kept{}[filter->at{}];", i, sum_type(s), i, i);
  to.line("filter->kept{}[filter->at{}] = ({})value;", i, i, kept_type(s));
  next_place(to, s, i);
  to.line("value = {};", from_sum(s, fmt::format("filter->sum{}", i)));
}

void add_cascade(Writer& to, const FilterStage& s, std::size_t i) {
  // The sums may wrap around: the differences are right again.
  to.line("filter->sums{}[0] += (uint32_t)value;", i);
  for (int k = 1; k < s.order; ++k)
    to.line("filter->sums{}[{}] += filter->sums{}[{}];", i, k, i, k - 1);
  every_nth(to, s, i);
  to.line("{{");
  to.line("{} now = filter->sums{}[{}];", sum_type(s), i, s.order - 1);
  to.line("{} then;", sum_type(s));
  for (int k = 0; k < s.order; ++k) {
    to.line("then = filter->before{}[{}];", i, k);
    to.line("filter->before{}[{}] = now;", i, k);
    to.line("now -= then;");
  }
  to.line("value = {};", from_sum(s, "now"));
  to.line("}}");
}

void add_exponential(Writer& to, const FilterStage& s, std::size_t i) {
  const bool narrow = !s.keeps_rest && s.in_bits + s.fraction + 1 + s.weight_shift < 30;
  const std::string type = narrow ? "int32_t" : "int64_t";
  const auto half = s.weight_shift > 0 ? std::int64_t{1} << (s.weight_shift - 1) : 0;
  // With the rest of the step before, or rounded.
  const auto added = s.keeps_rest ? fmt::format("filter->rest{}", i) : fmt::format("{}", half);
  if (s.fraction > 0) to.line("value *= {};", std::int64_t{1} << s.fraction);
  to.line("if (!filter->filled{}) {{", i);
  to.line("filter->value{} = value;", i);
  if (s.keeps_rest) to.line("filter->rest{} = 0;", i);
  to.line("filter->filled{} = true;", i);
  to.line("}}");
  to.line("{{");
  to.line("const {} step = (({})(value - filter->value{}) * {}) + {};", type, type, i, s.weight,
          added);
  to.line("const int32_t whole = (int32_t){};",
          whole_part("step", s.weight_shift, narrow ? 32 : 64));
  if (s.keeps_rest) {
    to.line("filter->rest{} = (int32_t)(step - ((int64_t)whole * {}));", i,
            std::int64_t{1} << s.weight_shift);
  }
  to.line("filter->value{} += whole;", i);
  to.line("}}");
  to.line("value = filter->value{};", i);
}

void add_median(Writer& to, const FilterStage& s, std::size_t i) {
  to.line("if (!filter->filled{}) {{", i);
  fill(to, s, i, "kept");
  to.line("for (uint32_t i = 0u; i < {}u; ++i) filter->sorted{}[i] = ({})value;", s.length, i,
          kept_type(s));
  to.line("filter->filled{} = true;", i);
  to.line("}}");
  to.line("{{");
  to.line("{} *const sorted = filter->sorted{};", kept_type(s), i);
  to.line("const {} now = ({})value;", kept_type(s), kept_type(s));
  to.line("const {} leaves = filter->kept{}[filter->at{}];", kept_type(s), i, i);
  to.line("unsigned int place = 0;");
  to.line("while (sorted[place] != leaves) ++place;");
  to.line(
      "for (; (place > 0u) && (sorted[place - 1u] > now); --place) sorted[place] = sorted[place - "
      "1u];");
  to.line(
      "for (; (place < {}u) && (sorted[place + 1u] < now); ++place) sorted[place] = sorted[place + "
      "1u];",
      s.length - 1);
  to.line("sorted[place] = now;");
  to.line("filter->kept{}[filter->at{}] = now;", i, i);
  next_place(to, s, i);
  to.line("value = (int32_t)sorted[{}];", s.length / 2);
  to.line("}}");
}

void add_section(Writer& to, const FilterStage& s, std::size_t i) {
  const auto& c = s.section;
  if (s.fraction > 0) to.line("value *= {};", std::int64_t{1} << s.fraction);
  to.line("if (!filter->filled{}) {{", i);
  for (const int k : {0, 1}) {
    to.line("filter->in{}[{}] = value;", i, k);
    to.line("filter->out{}[{}] = value;", i, k);
    if (s.keeps_rest) to.line("filter->rest{}[{}] = 0;", i, k);
  }
  to.line("filter->filled{} = true;", i);
  to.line("}}");
  to.line("{{");
  // With the rests of two steps before, or rounded.
  const auto added = s.keeps_rest
                         ? fmt::format("(2 * (int64_t)filter->rest{}[0]) - filter->rest{}[1]", i, i)
                         : fmt::format("{}", std::int64_t{1} << (coefficient_shift - 1));
  to.line(
      "const int64_t sum = ((int64_t)value * {}) + ((int64_t)filter->in{}[0] * {}) + "
      "((int64_t)filter->in{}[1] * {}) -",
      c.b0, i, c.b1, i, c.b2);
  to.line(
      "                    ((int64_t)filter->out{}[0] * {}) - ((int64_t)filter->out{}[1] * {}) + "
      "{};",
      i, c.a1, i, c.a2, added);
  to.line("filter->in{}[1] = filter->in{}[0];", i, i);
  to.line("filter->in{}[0] = value;", i);
  to.line("value = (int32_t){};", whole_part("sum", coefficient_shift));
  if (s.keeps_rest) {
    to.line("filter->rest{}[1] = filter->rest{}[0];", i, i);
    to.line("filter->rest{}[0] = (int32_t)(sum - ((int64_t)value * {}));", i,
            std::int64_t{1} << coefficient_shift);
  }
  to.line("filter->out{}[1] = filter->out{}[0];", i, i);
  to.line("filter->out{}[0] = value;", i);
  to.line("}}");
}

void add_taps(Writer& to, const FilterStage& s, std::size_t i) {
  const auto half = s.reduce > 0 ? std::int64_t{1} << (s.reduce - 1) : 0;
  to.line("if (!filter->filled{}) {{", i);
  fill(to, s, i, "kept");
  to.line("filter->filled{} = true;", i);
  to.line("}}");
  to.line("{{");
  std::string list;
  for (const auto tap : s.taps) list += fmt::format("{}{}", list.empty() ? "" : ", ", tap);
  to.line("static const TABLE_MEMORY int32_t taps[{}] = {{{}}};", s.taps.size(), list);
  to.line("int64_t sum = {};", half);
  to.line("uint32_t from = filter->at{};", i);
  to.line("filter->kept{}[from] = ({})value;", i, kept_type(s));
  to.line("for (uint32_t k = 0u; k < {}u; ++k) {{", s.taps.size());
  to.line("sum += (int64_t)taps[k] * (int64_t)filter->kept{}[from];", i);
  to.line("if (from == 0u) from = {}u;", s.taps.size());
  to.line("--from;");
  to.line("}}");
  next_place(to, s, i);
  const auto sum = s.reduce > 0 ? fmt::format("(sum >> {})", s.reduce) : "sum";
  to.line("value = (sum < 0) ? 0 : (int32_t){};", sum);
  to.line("}}");
}

void stage_code(Writer& to, const FilterStage& s, std::size_t i) {
  to.line("");
  to.line("/* {} */", s.name);
  switch (s.kind) {
    case Kind::sum:
      to.line("filter->sum{} += (uint32_t)value;", i);
      every_nth(to, s, i);
      to.line("value = {};", from_sum(s, fmt::format("filter->sum{}", i)));
      to.line("filter->sum{} = 0;", i);
      break;
    case Kind::running_sum:
      add_running_sum(to, s, i);
      break;
    case Kind::cascade:
      add_cascade(to, s, i);
      break;
    case Kind::exponential:
      add_exponential(to, s, i);
      break;
    case Kind::median:
      return add_median(to, s, i);
    case Kind::section:
      add_section(to, s, i);
      break;
    case Kind::taps:
      return add_taps(to, s, i);
  }
  if (s.holds_zero) {
    to.line("if (value < 0) value = 0; /* an undershoot below the first register value */");
  }
  if (s.reduce == 0 || s.wide) return;
  if (s.keeps_sign) {
    to.line("{{");
    to.line("const int32_t sum = value + {};", std::int64_t{1} << (s.reduce - 1));
    to.line("value = (int32_t){};", whole_part("sum", s.reduce));
    to.line("}}");
  } else {
    to.line("value = (int32_t)(((uint32_t)value + {}u) >> {});", std::int64_t{1} << (s.reduce - 1),
            s.reduce);
  }
}

bool may_overshoot(const IntegerFilter& filter) {
  for (const auto& stage : filter.stages) {
    if (stage.kind == Kind::section || stage.kind == Kind::taps) return true;
  }
  return false;
}

}  // namespace

void filter_members(Writer& to, const Plan& plan) {
  for (std::size_t i = 0; i < plan.filter.stages.size(); ++i) {
    members_of(to, plan.filter.stages[i], i);
  }
  to.line("uint32_t waiting; /* readings until one is valid */");
}

void filter_functions(Writer& to, const Plan& plan) {
  const auto& name = plan.identifier;
  to.line("");
  to.line("void {}_start(struct {}_filter *filter) {{", name, name);
  for (std::size_t i = 0; i < plan.filter.stages.size(); ++i) start(to, plan.filter.stages[i], i);
  to.line("filter->waiting = {}u;", plan.filter.settling - 1);
  to.line("}}");
  to.line("");
  to.line("bool {}_add(struct {}_filter *filter, {} code, int32_t *reading) {{", name, name,
          code_type(plan));
  to.line("int32_t value = (int32_t){}_from_first(code);", name);
  for (std::size_t i = 0; i < plan.filter.stages.size(); ++i) {
    stage_code(to, plan.filter.stages[i], i);
  }
  to.line("");
  if (may_overshoot(plan.filter)) {
    const double last = static_cast<double>(plan.last_reported - plan.first_reported);
    to.line("if (value > {:.0f}) value = {:.0f}; /* beyond the last register value */",
            last * plan.filter.per_code, last * plan.filter.per_code);
  }
  to.line("if (filter->waiting > 0u) {{");
  to.line("--filter->waiting;");
  to.line("return false;");
  to.line("}}");
  to.line("*reading = {}_scaled(({})value);", name, number_type(plan));
  to.line("return true;");
  to.line("}}");
}

}  // namespace tamlo::firmware
