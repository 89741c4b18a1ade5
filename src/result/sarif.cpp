// SPDX-License-Identifier: Apache-2.0
// Findings for programs that show them beside the lines that they are about (SARIF 2.1.0, OASIS).
#include <nlohmann/json.hpp>

#include <algorithm>

#include "tamlo/result/results.hpp"
#include "tamlo/version.hpp"

namespace tamlo::result {
namespace {

using Json = nlohmann::ordered_json;

const char* level(check::Severity severity) {
  return severity == check::Severity::error     ? "error"
         : severity == check::Severity::warning ? "warning"
                                                : "note";
}

// A file by a reference that is one (RFC 3986): relative as it was given, "/" between its folders.
std::string reference_of(const std::string& path) {
  std::string result;
  for (const char c : path) {
    constexpr std::string_view plain = "/-._~!$&'()*+,;=@";
    const bool letter = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9');
    if (letter || plain.find(c) != std::string_view::npos) {
      result += c;
    } else {
      constexpr const char* digits = "0123456789ABCDEF";
      const auto byte = static_cast<unsigned char>(c);
      result += {'%', digits[byte / 16], digits[byte % 16]};
    }
  }
  return path.starts_with('/') ? "file://" + result : result;
}

Json location_of(const check::LocatedFinding& finding) {
  Json region{{"startLine", finding.line},
              {"startColumn", std::max<std::uint64_t>(finding.column, 1)}};
  if (finding.end_column > finding.column) region["endColumn"] = finding.end_column;
  return {{"physicalLocation",
           {{"artifactLocation", {{"uri", reference_of(finding.file)}}}, {"region", region}}}};
}

}  // namespace

std::string sarif(const check::Examined& check) {
  Json rules = Json::array(), results = Json::array();
  std::vector<std::string> known;
  for (const auto& finding : check.findings) {
    if (std::ranges::find(known, finding.identifier) == known.end()) {
      known.push_back(finding.identifier);
      rules.push_back({{"id", finding.identifier}});
    }
    auto text = finding.channel.empty() ? finding.found : finding.channel + ": " + finding.found;
    if (!finding.why.empty()) text += "; " + finding.why;
    if (!finding.remedy.empty()) text += ". Remedy: " + finding.remedy;
    Json result{{"ruleId", finding.identifier},
                {"level", level(finding.severity)},
                {"message", {{"text", text}}}};
    if (!finding.file.empty() && finding.line > 0)
      result["locations"] = Json::array({location_of(finding)});
    results.push_back(std::move(result));
  }
  const Json document{
      {"$schema", "https://json.schemastore.org/sarif-2.1.0.json"},
      {"version", "2.1.0"},
      {"runs",
       {{{"tool", {{"driver", {{"name", "tamlo"}, {"version", tamlo::version}, {"rules", rules}}}}},
         {"columnKind", "unicodeCodePoints"},
         {"results", results}}}}};
  return document.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace tamlo::result
