// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <filesystem>
#include <utility>

#include "board_parts.hpp"
#include "tamlo/names.hpp"

namespace tamlo::io {
namespace {

model::SerialPort read_serial(Fields fields) {
  model::SerialPort port;
  fields.require("device", "a device such as \"/dev/ttyUSB0\"");
  if (auto v = fields.text("device")) port.device = *v;
  if (auto v = fields.integer("baud", 50, 4'000'000)) port.baud = static_cast<int>(*v);
  if (auto v = fields.integer("data_bits", 5, 8)) port.data_bits = static_cast<int>(*v);
  if (auto v = fields.choice("parity", names_of<model::Parity>())) {
    port.parity = static_cast<model::Parity>(*v);
  }
  if (auto v = fields.integer("stop_bits", 1, 2)) port.stop_bits = static_cast<int>(*v);
  fields.finish();
  return port;
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
std::vector<model::PlacedNumber> read_placed(Fields& fields, const model::Link& link) {
  std::vector<model::PlacedNumber> values;
  const bool frames = link.speaks == model::Speaks::frames;
  fields.require("values", R"([ { holds = "pack_voltage.code", at = 0, type = "uint16" } ])");
  for (auto& of : fields.tables("values")) {
    model::PlacedNumber value;
    of.require("holds", "what the number is, such as \"pack_voltage.code\"");
    of.require("at", frames ? "its first byte in the frame, from 0" : "its register, from 0");
    if (auto v = of.text("holds")) value.holds = *v;
    if (auto v = of.integer("at", 0, 65535)) value.at = *v;
    if (auto v = of.choice("type", names_of<model::NumberType>())) {
      value.type = static_cast<model::NumberType>(*v);
    }
    if (auto v = of.choice("order", names_of<model::Order>())) {
      value.order = static_cast<model::Order>(*v);
    }
    if (auto v = of.number("scale", {.text = "not 0"})) value.scale = *v;
    if (value.scale == 0.0) of.report("scale", "0", "a factor that is not 0");
    const auto size = model::size_of(value.type);
    if (!frames && size == 3) of.report("type", "three bytes in registers", "one of 2 or 4 bytes");
    if (frames && static_cast<std::size_t>(value.at) + size > link.length) {
      of.report("at",
                fmt::format("bytes {} to {}", value.at, value.at + static_cast<int>(size) - 1),
                fmt::format("inside the frame of {} bytes", link.length));
    }
    of.finish();
    values.push_back(std::move(value));
  }
  return values;
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

void read_frames(Fields& fields, model::Link& link) {
  fields.require("length", "the bytes of a frame, such as 8");
  if (auto v = fields.integer("length", 1, 4096)) link.length = static_cast<std::size_t>(*v);
  link.begins = read_bytes(fields, "begins");
  if (link.begins.size() >= std::max<std::size_t>(link.length, 1)) {
    fields.report("begins", fmt::format("{} bytes", link.begins.size()),
                  fmt::format("fewer than the {} of the frame", link.length));
  }
  link.values = read_placed(fields, link);
}

void read_modbus(Fields& fields, model::Link& link) {
  if (auto v = fields.integer("station", 1, 247)) link.station = static_cast<int>(*v);
  if (auto v = fields.choice("bank", names_of<model::Bank>())) {
    link.bank = static_cast<model::Bank>(*v);
  }
  if (fields.has("file")) fields.report("file", "Modbus in a file", "tcp or serial");
  link.values = read_placed(fields, link);
}

}  // namespace

model::Link read_link(const std::string& name, Fields& fields) {
  model::Link link{.name = name};
  const int ways = static_cast<int>(fields.has("serial")) + static_cast<int>(fields.has("tcp")) +
                   static_cast<int>(fields.has("file"));
  if (ways != 1) {
    fields.report("", fmt::format("{} ways to reach it", ways),
                  "one of serial = { device = ... }, tcp = \"host:port\" and file = \"...\"");
  }
  if (auto serial = fields.table("serial")) link.at = read_serial(*std::move(serial));
  if (fields.has("tcp")) link.at = read_tcp(fields);
  if (auto path = fields.text("file")) {
    // Beside the file that names it, as a curve is.
    const auto beside = std::filesystem::path(fields.file_of("file")).parent_path() / *path;
    link.at = model::StreamFile{.path = *path == "-" ? *path : beside.string(),
                                .follow = fields.flag("follow").value_or(false)};
  }
  if (auto v = fields.choice("speaks", names_of<model::Speaks>())) {
    link.speaks = static_cast<model::Speaks>(*v);
  }
  if (auto v = fields.plain("every", quantity::unit("s"), above_zero())) link.every = *v;
  switch (link.speaks) {
    case model::Speaks::modbus:
      read_modbus(fields, link);
      return link;
    case model::Speaks::frames:
      read_frames(fields, link);
      break;
    case model::Speaks::scpi:
      link.pattern = fields.text("holds").value_or("");
      break;
    case model::Speaks::lines:
      read_lines(fields, link);
      break;
  }
  if (auto v = fields.text("ask")) link.ask = *v;
  return link;
}

model::Source read_source(const std::string& name, Fields fields,
                          const std::vector<std::string>& links) {
  model::Source source{.name = name};
  fields.require("link", "the name of a [link.NAME] section");
  fields.require("sets", "what it is told, such as \"VOLT {value}\"");
  fields.require("range", "what it may be set to, such as \"0..60 V\": nothing else is sent");
  if (auto v = fields.name_of("link", "link", links)) source.link = *v;
  if (auto v = fields.text("sets")) source.sets = *v;
  if (source.sets.find("{value}") == std::string::npos && fields.has("sets")) {
    fields.report("sets", fmt::format("\"{}\"", source.sets), "a text with {value} in it");
  }
  if (auto v = fields.range("range", {})) source.range = *v;
  fields.finish();
  return source;
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
      const bool sets =
          std::ranges::find(board.sources, name, &model::Source::link) != board.sources.end();
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
