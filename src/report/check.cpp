// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include "tamlo/report/reports.hpp"

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

}  // namespace

Report of(const result::Check& check) {
  const auto& channels = check.channels;
  const auto& findings = check.findings;
  const auto errors = check.count(check::Severity::error);
  const auto warnings = check.count(check::Severity::warning);
  const auto advice = check.count(check::Severity::advice);
  Report report;
  report.verdict.push_back(
      {findings.empty() ? fmt::format("SOUND: nothing found in {} channel{}", channels.size(),
                                      channels.size() == 1 ? "" : "s")
       : channels.empty()
           ? fmt::format("NOT READ: {} error{}; what else there is shows once they are corrected",
                         errors, errors == 1 ? "" : "s")
           : fmt::format("{}: {} error{}, {} warning{}, {} advice in {} channel{}",
                         errors > 0 ? "UNSOUND" : "USABLE", errors, errors == 1 ? "" : "s",
                         warnings, warnings == 1 ? "" : "s", advice, channels.size(),
                         channels.size() == 1 ? "" : "s"),
       errors > 0         ? Tone::bad
       : findings.empty() ? Tone::good
                          : Tone::doubtful});
  for (const auto& f : findings) {
    report.remarks.push_back({fmt::format("{} {}: {}", name(f.severity),
                                          f.channel.empty() ? "board" : f.channel, f.identifier),
                              tone(f.severity)});
    // As of what cannot be read, so that a terminal or an editor leads there.
    report.remarks.push_back(
        {"  at      " + (f.line > 0 ? fmt::format("{}:{}:{}: ", f.file, f.line, f.column) : "") +
         f.key});
    report.remarks.push_back({"  found   " + f.found});
    if (!f.why.empty()) report.remarks.push_back({"  why     " + f.why});
    report.remarks.push_back({"  remedy  " + f.remedy});
  }
  return report;
}

}  // namespace tamlo::report
