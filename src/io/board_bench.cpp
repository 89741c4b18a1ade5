// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <filesystem>
#include <utility>

#include "board_parts.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/names.hpp"

namespace tamlo::io {
namespace {

// All ranges are in the unit of the first, and the accuracy of each is in that of its full scale.
void read_range(Fields fields, std::vector<model::MeterRange>& ranges, const Scope& around) {
  const auto& keys = model::meter_keys()["ranges"].inner.keys();
  model::MeterRange range;
  quantity::Expected full_scale;
  if (!ranges.empty()) full_scale.unit = ranges.front().full_scale.unit;
  if (auto v = fields.value("full_scale", full_scale, keys["full_scale"].bounds)) {
    range.full_scale = *v;
  }
  model::Channel measured;
  measured.span.unit = range.full_scale.unit;
  read_keys(fields, keys, &range, {.names = around.names, .channel = &measured});
  fields.finish();
  ranges.push_back(std::move(range));
}

}  // namespace

model::Meter read_meter(const std::string& name, Fields fields, const Scope& scope) {
  model::Meter result{.name = name};
  read_keys(fields, model::meter_keys(), &result, scope);
  for (auto& range : fields.tables("ranges")) read_range(std::move(range), result.ranges, scope);
  std::ranges::stable_sort(
      result.ranges, {}, [](const model::MeterRange& range) { return range.full_scale.or_zero(); });
  fields.finish();
  return result;
}

model::Quantity read_quantity(const std::string& name, Fields fields, const Scope& scope) {
  model::Quantity result{.name = name};
  if (auto v = fields.range("span", {})) result.span = *v;
  fields.require("span", "the values that it may have, such as \"0..1200 W\"");
  model::Channel computed;
  computed.span = result.span;
  read_keys(fields, model::quantity_keys(), &result, {.names = scope.names, .channel = &computed});
  fields.finish();
  return result;
}

namespace {

// Reads a key that only links of one kind have.
void read_own(Fields& fields, const char* key, model::Link& link, const Scope& scope) {
  read_key(fields, model::link_keys()[key], &link, scope);
}

// "host:port".
model::TcpPort read_tcp(Fields& fields) {
  const auto text = fields.text("tcp").value_or("");
  const auto colon = text.rfind(':');
  model::TcpPort result;
  const char* end = text.data() + text.size();
  const char* digits = colon == std::string::npos ? end : text.data() + colon + 1;
  const auto [stop, error] = std::from_chars(digits, end, result.port);
  if (colon == std::string::npos || colon == 0 || error != std::errc{} || stop != end ||
      result.port < 1 || result.port > 65535) {
    fields.report("tcp", fmt::format("\"{}\"", text), "\"host:port\", such as \"127.0.0.1:5025\"");
    return result;
  }
  result.host = text.substr(0, colon);
  return result;
}

// "A5 5A" as the bytes that it names.
std::string read_bytes(Fields& fields, const std::string& key) {
  std::string bytes;
  const auto text = fields.text(key).value_or("");
  std::string_view rest = text;
  while (!rest.empty()) {
    const auto word = rest.substr(0, rest.find(' '));
    unsigned value = 0;
    const auto* end = word.data() + word.size();
    const auto [stop, error] = std::from_chars(word.data(), end, value, 16);
    if (error != std::errc{} || stop != end || word.size() != 2) {
      fields.report(key, fmt::format("\"{}\"", text), "bytes in hexadecimal, such as \"A5 5A\"");
      return {};
    }
    bytes.push_back(static_cast<char>(value));
    rest.remove_prefix(std::min(rest.size(), word.size() + 1));
  }
  return bytes;
}

// Numbers at places of their own; a register holds two bytes of them.
void read_placed(Fields& fields, model::Link& link, const Scope& scope) {
  fields.require("values", R"([ { holds = "pack_voltage.code", at = 0, type = "uint16" } ])");
  for (auto& table : fields.tables("values")) {
    auto& value = link.values.emplace_back();
    read_keys(table, model::placed_number_keys(), &value, scope);
    const bool registers = link.speaks != model::Speaks::frames;
    if (registers && model::size_of(value.type) == 3) {
      table.report("type", "three bytes in registers", "one of 2 or 4 bytes");
    }
    table.finish();
  }
}

// Lines of text, and what stands in them.
void read_lines(Fields& fields, model::Link& link) {
  const auto form = fields.choice("form", names_of<model::LineForm>());
  const auto pattern = fields.text("pattern");
  const auto holds = fields.text("holds");
  link.form = form      ? static_cast<model::LineForm>(*form)
              : pattern ? model::LineForm::pattern
                        : model::LineForm::number;
  if (link.form == model::LineForm::pattern) {
    fields.require("pattern", "\"raw {pack_voltage.code}\"");
    link.pattern = pattern.value_or("");
  } else if (pattern) {
    fields.report("pattern", "a pattern beside another form", "form = \"pattern\", or none");
  }
  if (link.form == model::LineForm::number) {
    link.pattern = holds.value_or("");
  } else if (holds) {
    fields.report("holds", "what a number is, beside another form", "form = \"number\"");
  }
}

void read_frames(Fields& fields, model::Link& link, const Scope& scope) {
  fields.require("length", "the bytes of a frame, such as 8");
  read_own(fields, "length", link, scope);
  link.begins = read_bytes(fields, "begins");
  read_placed(fields, link, scope);
}

void read_modbus(Fields& fields, model::Link& link, const Scope& scope) {
  read_own(fields, "station", link, scope);
  read_own(fields, "bank", link, scope);
  if (fields.has("file")) fields.report("file", "Modbus in a file", "tcp or serial");
  read_placed(fields, link, scope);
}

}  // namespace

model::Link read_link(const std::string& name, Fields& fields, const Scope& scope) {
  model::Link link{.name = name};
  const int ways = static_cast<int>(fields.has("serial")) + static_cast<int>(fields.has("tcp")) +
                   static_cast<int>(fields.has("file"));
  if (ways != 1) {
    fields.report("", fmt::format("{} ways to reach it", ways),
                  "one of serial = { device = ... }, tcp = \"host:port\" and file = \"...\"");
  }
  if (auto serial = fields.table("serial")) {
    model::SerialPort port;
    read_keys(*serial, model::serial_keys(), &port, scope);
    serial->finish();
    link.at = port;
  }
  if (fields.has("tcp")) link.at = read_tcp(fields);
  if (auto path = fields.text("file")) {
    // Beside the file that names it, as a curve is.
    const auto meter = name_beside(fields.file_of("file"), *path);
    link.at = model::StreamFile{.path = *path == "-" ? *path : meter,
                                .follow = fields.flag("follow").value_or(false)};
  }
  read_keys(fields, model::link_keys(), &link, scope);
  switch (link.speaks) {
    case model::Speaks::modbus:
      read_modbus(fields, link, scope);
      return link;
    case model::Speaks::frames:
      read_frames(fields, link, scope);
      break;
    case model::Speaks::lines:
      read_lines(fields, link);
      break;
    default:  // one value
      link.pattern = fields.text("holds").value_or("");
  }
  read_own(fields, "ask", link, scope);
  return link;
}

void bind_links(model::Board& board, std::vector<std::pair<std::string, Fields>>& sections) {
  for (auto& [name, fields] : sections) {
    const auto link = std::ranges::find(board.links, name, &model::Link::name);
    const bool one_value =
        link->speaks == model::Speaks::scpi ||
        (link->speaks == model::Speaks::lines && link->form == model::LineForm::number);
    if (one_value && link->pattern.empty()) {
      const auto meter = std::ranges::find(board.meters, name, &model::Meter::link);
      if (meter != board.meters.end()) link->pattern = meter->name + ".shown";
      const bool sets = std::ranges::find(board.sources, name, &model::SourceInstrument::link) !=
                        board.sources.end();
      if (link->pattern.empty() && !sets) {
        fields.require("holds", "what the number is, such as \"pack_voltage.code\"");
      }
    }
    if (link->speaks == model::Speaks::scpi && link->ask.empty() && !link->pattern.empty()) {
      link->ask = "READ?";
    }
    fields.finish();
  }
}

}  // namespace tamlo::io
