// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <utility>
#include <vector>

#include "tamlo/quantity/format.hpp"
#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

Tone tone(check::Severity severity) {
  switch (severity) {
    case check::Severity::error:
      return Tone::bad;
    case check::Severity::warning:
      return Tone::doubtful;
    case check::Severity::advice:
      return Tone::heading;
  }
  return Tone::plain;
}

// The same omission of several channels once.
void add_omissions(const check::Examined& check, Report& report) {
  std::vector<std::pair<std::string, std::string>> lines;  // what, and the channels
  for (const auto& omission : check.omissions) {
    const auto known =
        std::ranges::find(lines, omission.what, &std::pair<std::string, std::string>::first);
    if (known == lines.end()) {
      lines.emplace_back(omission.what, omission.channel);
    } else {
      known->second += ", " + omission.channel;
    }
  }
  if (lines.empty()) return;
  if (!check.findings.empty() || !check.parts.empty()) report.remarks.push_back({""});
  report.remarks.push_back({"not checked, because the board does not say:", Tone::heading});
  for (const auto& [what, of_channels] : lines) say(report.remarks, "  {} ({})", what, of_channels);
}

// Which keys come from which file of a part.
void add_parts(const check::Examined& check, Report& report) {
  if (!check.parts.empty() && !check.findings.empty()) report.remarks.push_back({""});
  for (const auto& part : check.parts) {
    const auto own = part.overridden.empty() ? std::string()
                                             : fmt::format("; the board has its own {}",
                                                           fmt::join(part.overridden, ", "));
    say(report.remarks, "{} from {}: {}{}", part.section, part.file, fmt::join(part.keys, ", "),
        own);
  }
}

// "3 channels and 2 quantities"
std::string counted(const check::Examined& check) {
  const auto channels = check.channels.size(), quantities = check.quantities.size();
  const auto of_channels = fmt::format("{} channel{}", channels, quantity::plural(channels));
  const auto of_quantities = fmt::format("{} quantit{}", quantities, quantities == 1 ? "y" : "ies");
  if (quantities == 0) return of_channels;
  return channels == 0 ? of_quantities : of_channels + " and " + of_quantities;
}

// The verdict without findings: of parts without limits it says little.
std::string nothing_found(const check::Examined& check) {
  const auto count = counted(check);
  if (check.ideal.empty()) return fmt::format("SOUND: nothing found in {}", count);
  return fmt::format(
      "SOUND, BUT OF IDEAL PARTS: nothing found in {}, and no part of {} has a limit", count,
      fmt::join(check.ideal, ", "));
}

}  // namespace

Report of(const check::Examined& check) {
  const auto& findings = check.findings;
  const auto errors = check.count(check::Severity::error);
  const auto warnings = check.count(check::Severity::warning);
  const auto advice = check.count(check::Severity::advice);
  Report report;
  report.verdict.push_back(
      {findings.empty() ? nothing_found(check)
       : check.channels.empty() && check.quantities.empty()
           ? fmt::format("NOT READ: {} error{}; other findings show once they are corrected",
                         errors, quantity::plural(errors))
           : fmt::format("{}: {} error{}, {} warning{}, {} advice in {}",
                         errors > 0 ? "UNSOUND" : "USABLE", errors, quantity::plural(errors),
                         warnings, quantity::plural(warnings), advice, counted(check)),
       errors > 0         ? Tone::bad
       : findings.empty() ? Tone::good
                          : Tone::doubtful});
  // A span that the converter does not hold makes every other figure one of another board.
  for (const auto& f : findings) {
    if (f.identifier != "span-beyond-range") continue;
    report.verdict.insert(report.verdict.begin(),
                          {fmt::format("CLIPPED {}: {}", f.channel, f.found), Tone::bad});
  }
  for (const auto& f : findings) {
    say(report.remarks, tone(f.severity), "{} {}: {}", name(f.severity),
        f.channel.empty() ? "board" : f.channel, f.identifier);
    // As of what cannot be read, so that a terminal or an editor leads there.
    report.remarks.push_back(
        {"  at      " + (f.line > 0 ? fmt::format("{}:{}:{}: ", f.file, f.line, f.column) : "") +
         f.key});
    report.remarks.push_back({"  found   " + f.found});
    if (!f.why.empty()) report.remarks.push_back({"  why     " + f.why});
    report.remarks.push_back({"  remedy  " + f.remedy});
  }
  add_parts(check, report);
  add_omissions(check, report);
  return report;
}

}  // namespace tamlo::report
