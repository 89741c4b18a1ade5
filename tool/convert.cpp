// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <charconv>
#include <cstdint>
#include <functional>
#include <iostream>
#include <string_view>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/json.hpp"
#include "tamlo/io/value_column.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

// What the firmware finds, in decimal, hexadecimal (0x), octal (0o) or binary (0b).
std::int64_t code_of(const std::string& text, const chain::Chain& chain) {
  std::string_view digits(text);
  const bool negative = digits.starts_with('-');
  if (negative) digits.remove_prefix(1);
  int base = 10;
  if (digits.starts_with("0x")) base = 16;
  if (digits.starts_with("0o")) base = 8;
  if (digits.starts_with("0b")) base = 2;
  if (base != 10) digits.remove_prefix(2);
  std::int64_t code = 0;
  const char* end = digits.data() + digits.size();
  const auto [stop, error] = std::from_chars(digits.data(), end, code, base);
  if (negative) code = -code;
  const bool whole = error == std::errc{} && stop == end && !digits.starts_with('-');
  const auto codes = chain::codes_reported_as(chain.report, code);
  if (whole && codes.first <= codes.last) return code;
  throw io::BadInput(
      {{.file = "command line",
        .key = "--code",
        .found = fmt::format("\"{}\"", text),
        .allowed = fmt::format("a code from {} to {} that occurs, also as 0x... or 0b...",
                               chain.report.first_reported, chain.report.last_reported)}});
}

chain::Chain the_one(std::vector<chain::Chain> chains) {
  if (chains.size() == 1) return std::move(chains.front());
  std::vector<std::string> known;
  for (const auto& chain : chains) known.push_back(chain.channel.name);
  throw io::BadInput({{.file = "command line",
                       .key = "channel",
                       .found = fmt::format("{} channels", chains.size()),
                       .allowed = io::one_of("", known)}});
}

bool from_standard_input(const std::vector<std::string>& words) {
  return words.size() == 1 && words.front() == "-";
}

}  // namespace

int run_convert(const Arguments& arguments) {
  const auto chain = the_one(chains_of(io::load_board(arguments.boards), arguments));
  const auto& span = chain.channel.span;
  const auto volts = quantity::unit("V");
  std::vector<chain::Walk> walks;
  std::vector<chain::WalkBack> back;
  bool column = false;
  const auto at = [&](double x) { walks.push_back(chain::walk(chain, x)); };
  const auto pin = [&](double v) { at(chain::quantity_at_voltage(chain, v)); };
  const auto each = [&](const char* option, const std::vector<std::string>& words,
                        const quantity::Unit& unit, const std::function<void(double)>& take) {
    if (from_standard_input(words)) {
      column = true;
      for (const double value : io::read_column(std::cin, unit)) take(value);
      return;
    }
    for (const auto& word : words) take(value_of(option, word, unit));
  };
  each("--at", arguments.at, span.unit, at);
  each("--pin", arguments.pin, volts, pin);
  if (from_standard_input(arguments.code)) {
    column = true;
    for (const auto& word : io::read_words(std::cin)) {
      back.push_back(chain::walk_back(chain, code_of(word, chain)));
    }
  } else {
    for (const auto& code : arguments.code) {
      back.push_back(chain::walk_back(chain, code_of(code, chain)));
    }
  }
  if (walks.empty() && back.empty() && !column) {
    for (const double x : {span.low, span.middle(), span.high}) at(x);
  }
  if (wants_json(arguments)) {
    print(io::to_json(chain, walks, back));
    return done;
  }
  std::vector<report::Report> reports;
  if (column || !arguments.step.empty()) {
    reports = report::columns(walks, back);
    if (!arguments.step.empty()) {
      std::vector<std::string> known;
      for (auto& report : reports) {
        if (report::keep_column(report, arguments.step, known)) continue;
        throw io::BadInput({{.file = "command line",
                             .key = "--step",
                             .found = fmt::format("\"{}\"", arguments.step),
                             .allowed = io::one_of(arguments.step, known)}});
      }
    }
  } else {
    for (const auto& walk : walks) reports.push_back(report::of(chain, walk));
    for (const auto& walk : back) reports.push_back(report::of(chain, walk));
  }
  print(reports, arguments);
  return done;
}

}  // namespace tamlo::tool
