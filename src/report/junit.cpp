// SPDX-License-Identifier: Apache-2.0
// Headlines as the test cases of a suite.
#include <fmt/format.h>

#include <algorithm>

#include "tamlo/quantity/detail/number.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::report {
namespace {

std::string in_xml(std::string_view text) {
  std::string result;
  for (const char c : quantity::printable(text)) {
    if (c == '&' || c == '<' || c == '>' || c == '"' || c == '\'') {
      result += fmt::format("&#{};", static_cast<int>(c));
    } else {
      result += c;
    }
  }
  return result;
}

}  // namespace

std::string junit(const std::string& suite, const std::vector<Judged>& all) {
  const auto of_tone = [&](Tone tone) {
    return std::ranges::count(all, tone, [](const Judged& one) { return one.headline.tone; });
  };
  auto text = fmt::format(
      "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites>\n"
      "  <testsuite name=\"{}\" tests=\"{}\" failures=\"{}\" errors=\"0\" skipped=\"{}\">\n",
      in_xml(suite), all.size(), of_tone(Tone::bad), of_tone(Tone::plain));
  for (const auto& [name, headline] : all) {
    const auto* kind = headline.tone == Tone::bad     ? "failure"
                       : headline.tone == Tone::plain ? "skipped"
                                                      : nullptr;
    const auto message = in_xml(headline.text);
    text += fmt::format("    <testcase classname=\"{}\" name=\"{}\">", in_xml(suite), in_xml(name));
    text += kind != nullptr ? fmt::format("<{} message=\"{}\"/>", kind, message)
                            : fmt::format("<system-out>{}</system-out>", message);
    text += "</testcase>\n";
  }
  return text + "  </testsuite>\n</testsuites>\n";
}

}  // namespace tamlo::report
