// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <filesystem>

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

}  // namespace

model::Link read_link(const std::string& name, Fields fields) {
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
  const auto forms = names_of<model::LineForm>();
  const auto form = fields.choice("form", forms);
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
    fields.require("holds", "what the number is, such as \"pack_voltage.code\"");
    link.pattern = holds.value_or("");
  } else if (holds) {
    fields.report("holds", "what a number is, beside another form", "form = \"number\"");
  }
  if (auto v = fields.text("ask")) link.ask = *v;
  if (auto v = fields.plain("every", quantity::unit("s"), above_zero())) link.every = *v;
  fields.finish();
  return link;
}

}  // namespace tamlo::io
