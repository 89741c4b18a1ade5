// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <charconv>
#include <cstdint>
#include <string_view>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/json.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

// A code in decimal, hexadecimal (0x) or binary (0b).
std::int64_t code_of(const std::string& text, const chain::Chain& chain) {
  std::string_view digits(text);
  const bool negative = digits.starts_with('-');
  if (negative) digits.remove_prefix(1);
  int base = 10;
  if (digits.starts_with("0x")) base = 16;
  if (digits.starts_with("0b")) base = 2;
  if (base != 10) digits.remove_prefix(2);
  std::int64_t code = 0;
  const char* end = digits.data() + digits.size();
  const auto [stop, error] = std::from_chars(digits.data(), end, code, base);
  if (negative) code = -code;
  const bool whole = error == std::errc{} && stop == end && !digits.starts_with('-');
  if (whole && code >= chain::first_code(chain) && code <= chain::last_code(chain)) return code;
  throw io::BadInput({{.file = "command line",
                       .key = "--code",
                       .found = fmt::format("\"{}\"", text),
                       .allowed = fmt::format("a code from {} to {}, also as 0x... or 0b...",
                                              chain::first_code(chain), chain::last_code(chain))}});
}

}  // namespace

int run_convert(const Arguments& arguments) {
  const auto chains = chains_of(io::load_board(arguments.boards), arguments);
  if (chains.size() != 1) {
    std::vector<std::string> known;
    for (const auto& chain : chains) known.push_back(chain.channel.name);
    throw io::BadInput({{.file = "command line",
                         .key = "channel",
                         .found = fmt::format("{} channels", chains.size()),
                         .allowed = io::one_of("", known)}});
  }
  const auto& chain = chains.front();
  const auto& span = chain.channel.span;
  std::vector<chain::Walk> walks;
  std::vector<chain::WalkBack> back;
  for (const auto& at : arguments.at) {
    walks.push_back(chain::walk(chain, value_of("--at", at, span.unit)));
  }
  for (const auto& pin : arguments.pin) {
    const double volts = value_of("--pin", pin, quantity::unit("V"));
    walks.push_back(chain::walk(chain, chain::quantity_at_voltage(chain, volts)));
  }
  for (const auto& code : arguments.code) {
    back.push_back(chain::walk_back(chain, code_of(code, chain)));
  }
  if (walks.empty() && back.empty()) {
    for (const double x : {span.low, span.middle(), span.high}) {
      walks.push_back(chain::walk(chain, x));
    }
  }
  if (wants_json(arguments)) {
    print(io::to_json(chain, walks, back));
    return done;
  }
  std::vector<report::Report> reports;
  for (const auto& walk : walks) reports.push_back(report::of(chain, walk));
  for (const auto& walk : back) reports.push_back(report::of(chain, walk));
  print(reports, arguments);
  return done;
}

}  // namespace tamlo::tool
