// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cstdint>
#include <functional>
#include <iostream>
#include <string_view>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/columns.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

struct ConvertArguments : BoardArguments {
  std::vector<std::string> at, code, pin;
  std::string step;
  Form format{};
};

// What the firmware finds, in decimal, hexadecimal (0x), octal (0o) or binary (0b).
std::int64_t code_of(const std::string& text, const chain::Chain& chain) {
  std::string_view digits(text);
  const bool negative = digits.starts_with('-');
  if (negative) digits.remove_prefix(1);
  const auto size = quantity::parse_whole(digits);
  const bool whole = size && *size <= std::uint64_t{1} << 62;
  const auto code = whole ? static_cast<std::int64_t>(*size) * (negative ? -1 : 1) : 0;
  const auto codes = chain::codes_reported_as(chain.report, code);
  if (whole && codes.first <= codes.last) return code;
  refuse("--code", fmt::format("\"{}\"", text),
         fmt::format("a code from {} to {} that occurs, also as 0x... or 0b...",
                     chain.report.first_reported, chain.report.last_reported));
}

chain::Chain the_one(std::vector<chain::Chain> chains) {
  if (chains.size() == 1) return std::move(chains.front());
  std::vector<std::string> known;
  for (const auto& chain : chains) known.push_back(chain.channel.name);
  refuse("channel", fmt::format("{} channels", chains.size()), io::one_of("", known));
}

bool from_standard_input(const std::vector<std::string>& words) {
  return words.size() == 1 && words.front() == "-";
}

}  // namespace

namespace {

// Values of the quantity and codes, from the command line or a column of standard input.
struct Asked {
  std::vector<double> values{};
  std::vector<std::int64_t> codes{};
  bool column = false;
};

Asked asked_of(const ConvertArguments& arguments, const chain::Chain& chain) {
  Asked wanted;
  const auto each = [&](const char* option, const std::vector<std::string>& words,
                        const quantity::Unit& unit, const std::function<double(double)>& at) {
    if (from_standard_input(words)) {
      wanted.column = true;
      for (const double value : io::read_column(std::cin, unit)) wanted.values.push_back(at(value));
      return;
    }
    for (const auto& word : words) wanted.values.push_back(at(value_of(option, word, unit)));
  };
  each("--at", arguments.at, chain.channel.span.unit, [](double x) { return x; });
  each("--pin", arguments.pin, quantity::unit("V"),
       [&](double v) { return chain::quantity_at_voltage(chain, v); });
  wanted.column = wanted.column || from_standard_input(arguments.code);
  for (const auto& word :
       from_standard_input(arguments.code) ? io::read_words(std::cin) : arguments.code) {
    wanted.codes.push_back(code_of(word, chain));
  }
  if (wanted.values.empty() && wanted.codes.empty() && !wanted.column) {
    const auto& span = chain.channel.span;
    wanted.values = {span.low, span.middle(), span.high};
  }
  return wanted;
}

// Of --step: where one comes from, and the one that was asked for.
template <class Trace>
void keep_step(Trace& trace, const std::string& step) {
  if (step.empty()) return;
  std::vector<std::string> known;
  for (std::size_t i = 1; i < trace.steps.size(); ++i) {
    known.push_back(trace.steps[i].stage);
    if (trace.steps[i].stage != step) continue;
    trace.steps = {trace.steps[0], trace.steps[i]};
    return;
  }
  refuse("--step", fmt::format("\"{}\"", step), io::one_of(step, known));
}

std::string rows_of(const std::vector<report::Report>& reports, result::Format format) {
  const auto& table = reports.front().tables.front();
  return format == result::Format::csv ? result::csv(table) : result::markdown(table);
}

// Of very many values a piece at a time, so that memory does not grow with them.
template <class Value, class Trace>
void print_columns(const std::vector<Value>& values, Trace trace,
                   const ConvertArguments& arguments) {
  constexpr std::size_t piece = 4096;
  std::uint64_t clipped = 0;
  for (std::size_t from = 0; from < values.size(); from += piece) {
    std::vector<decltype(trace(values.front()))> traces;
    for (std::size_t i = from; i < std::min(values.size(), from + piece); ++i) {
      keep_step(traces.emplace_back(trace(values[i])), arguments.step);
      if constexpr (std::is_same_v<Value, double>) clipped += traces.back().clipped ? 1 : 0;
    }
    std::vector<report::Report> reports{report::columns(traces, arguments.format == "csv")};
    reports.front().tables.front().continued = from > 0;
    show(
        reports, [&](result::Format in) { return rows_of(reports, in); }, arguments.format);
  }
  if (clipped == 0 || arguments.format == "csv") return;
  print("\n");
  print({report::clipped(clipped, values.size())});
}

int run_convert(const ConvertArguments& arguments) {
  const auto chain = the_one(chains_of(io::load_board(arguments.boards), arguments));
  const auto wanted = asked_of(arguments, chain);
  const auto there = [&](double x) { return chain::trace(chain, x); };
  const auto back = [&](std::int64_t code) { return chain::inverse_trace(chain, code); };
  if (arguments.format != "json" && (wanted.column || !arguments.step.empty())) {
    if (!arguments.format.tables.empty() || arguments.format == "xlsx") {
      refuse("convert", "a column of values as a table in a file", "--format csv, with > FILE.csv");
    }
    print_columns(wanted.values, there, arguments);
    print_columns(wanted.codes, back, arguments);
    return done;
  }
  constexpr std::size_t most = 100'000;
  if (wanted.values.size() + wanted.codes.size() > most) {
    refuse("convert",
           fmt::format("{} values in one document", wanted.values.size() + wanted.codes.size()),
           fmt::format("at most {}, or --format csv", most));
  }
  result::ChannelTraces traces{.channel = chain.channel.name, .unit = chain.channel.span.unit};
  for (const double x : wanted.values) {
    keep_step(traces.forward.emplace_back(there(x)), arguments.step);
  }
  for (const auto code : wanted.codes) {
    keep_step(traces.back.emplace_back(back(code)), arguments.step);
  }
  const auto reports =
      arguments.format == "json" ? std::vector<report::Report>{} : report::of(traces);
  show(result::Traces{{traces}}, reports, arguments.format);
  return done;
}

void declare_convert(Options& options, ConvertArguments& a) {
  options.board(a, {.one_channel = true});
  options.group("What is converted; - reads a column from standard input, each may be repeated");
  options.repeated("--at", a.at, {"VALUE", "of the quantity", "both ends of the span, its middle"});
  options.repeated("--pin", a.pin, {"VOLTAGE", "at the converter's pin"});
  options.repeated("--code", a.code, {"CODE", "to go back from: 2048, 0x800, 0b1000"});
  options.group("Output");
  options.option("--step", a.step, {"NAME", "one step alone, such as code or reading"});
  options.format(a.format);
}

}  // namespace

extern const Command convert_command{
    .name = "convert",
    .question = "what does a value become at every step of the chain, and back?",
    .examples = {R"(convert demo/board.toml pack_voltage --at "48 V")",
                 R"(convert demo/board.toml pack_voltage --code 0x800 --format csv)"},
    .describe = [](Options& options) {
      return described<ConvertArguments>(options, declare_convert, run_convert);
    }};

}  // namespace tamlo::tool
