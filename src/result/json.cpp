// SPDX-License-Identifier: Apache-2.0
// A document in JSON, the schema (JSON Schema, draft 7) of all documents of a command, and findings
// for programs that show them beside the lines that they are about (SARIF 2.1.0, OASIS).
#include <nlohmann/json.hpp>

#include <algorithm>

#include "field.hpp"
#include "tamlo/result/results.hpp"
#include "tamlo/version.hpp"

namespace tamlo::result {
namespace {

using Json = nlohmann::ordered_json;

constexpr int format = 2;

Json json_of(const Shape& shape, const Value& value) {
  if (value.none()) return nullptr;
  switch (shape.form) {
    case Form::flag:
      return std::get<bool>(value.of);
    case Form::count:
      return std::get<std::int64_t>(value.of);
    case Form::number:
      return std::get<double>(value.of);
    case Form::text:
      return std::get<std::string>(value.of);
    case Form::list: {
      Json result = Json::array();
      for (const auto& part : value.parts()) result.push_back(json_of(shape.parts[0], part));
      return result;
    }
    case Form::object: {
      Json result = Json::object();
      for (std::size_t i = 0; i < shape.parts.size(); ++i) {
        result[shape.parts[i].name] = json_of(shape.parts[i], value.parts()[i]);
      }
      return result;
    }
  }
  return nullptr;
}

// In words: "in the unit of the channel" or "in V".
std::string measured(const Measure& measure) {
  switch (measure.scale) {
    case Scale::plain:
      return *measure.unit != '\0' ? std::string("in ") + measure.unit : "";
    case Scale::quantity:
      return "in the unit of the channel";
    case Scale::difference:
      return "in the unit of the channel, differences of degC in K";
    case Scale::sample:
    case Scale::sample_difference:
      return "in codes, or in the unit of the channel";
    case Scale::sample_slope:
      return "in codes or the unit of the channel, a second; a sample where no rate is known";
    case Scale::sample_time:
      return "in s; in samples where no rate is known";
    case Scale::sample_frequency:
      return "in Hz; in cycles a sample where no rate is known";
  }
  return "";
}

Json schema_of(const Shape& shape) {
  Json result = Json::object();
  auto text = shape.meaning;
  if (const auto unit = measured(shape.measure); !unit.empty() && shape.form != Form::object) {
    text += (text.empty() ? "" : "; ") + unit;
  }
  if (!text.empty()) result["description"] = text;
  const char* const types[] = {"number", "integer", "string", "boolean", "object", "array"};
  const char* const type = types[static_cast<std::size_t>(shape.form)];
  result["type"] = shape.optional ? Json{type, "null"} : Json(type);
  if (!shape.choices.empty()) {
    result["enum"] = shape.choices;
    if (shape.optional) result["enum"].push_back(nullptr);
  }
  if (shape.form == Form::list) result["items"] = schema_of(shape.parts[0]);
  if (shape.form != Form::object) return result;
  result["properties"] = Json::object();
  result["required"] = Json::array();
  for (const auto& part : shape.parts) {
    result["properties"][part.name] = schema_of(part);
    result["required"].push_back(part.name);
  }
  result["additionalProperties"] = false;
  return result;
}

}  // namespace

std::string json(const Document& document) {
  Json result{{"format", format}, {"command", document.command}, {"tamlo", tamlo::version}};
  result.update(json_of(document.shape, document.value));
  // Bytes that are no text, as in a name of a file, lose nobody a result.
  return result.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

std::string schema(const char* command, const Shape& shape) {
  auto body = schema_of(shape);
  Json properties{{"format", {{"const", format}}},
                  {"command", {{"const", command}}},
                  {"tamlo", {{"description", "version of the tool"}, {"type", "string"}}}};
  properties.update(body["properties"]);
  Json required{"format", "command", "tamlo"};
  for (const auto& name : body["required"]) required.push_back(name);
  const Json result{{"$schema", "http://json-schema.org/draft-07/schema#"},
                    {"title", std::string("tamlo ") + command + " --format json"},
                    {"type", "object"},
                    {"properties", properties},
                    {"required", required},
                    {"additionalProperties", false}};
  return result.dump(1) + "\n";
}

std::string json_text(std::string_view text) {
  return Json(text).dump(-1, ' ', false, Json::error_handler_t::replace);
}

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
