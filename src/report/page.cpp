// SPDX-License-Identifier: Apache-2.0
#include "tamlo/report/page.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <kainjow/mustache.hpp>

#include "tamlo/board_page_text.hpp"
#include "tamlo/quantity/detail/number.hpp"

namespace tamlo::report {
namespace {

using kainjow::mustache::data;

data of_line(const Line& line) {
  data result;
  result.set("text", quantity::printable(line.text));
  result.set("tone", std::string(name(line.tone)));
  return result;
}

data of_lines(const std::vector<Line>& lines) {
  data result(data::type::list);
  for (const auto& line : lines) {
    if (!line.text.empty()) result.push_back(of_line(line));
  }
  return result;
}

data cell_of(const std::string& text, bool right) {
  data result;
  // A bar of a text is a bar on the page.
  const bool bar = !text.empty() && text.find_first_not_of('#') == std::string::npos;
  result.set("has_bar", data(bar));
  result.set("bar", bar ? std::to_string(text.size()) : std::string());
  result.set("text", bar ? std::string() : quantity::printable(text));
  result.set("side", right ? "r" : "l");
  return result;
}

data of_table(const Table& table) {
  data result, columns(data::type::list), rows(data::type::list);
  for (const auto& column : table.columns) columns.push_back(cell_of(column.heading, column.right));
  for (const auto& row : table.rows) {
    data cells(data::type::list), one;
    for (std::size_t i = 0; i < row.size(); ++i)
      cells.push_back(cell_of(row[i].shown, i < table.columns.size() && table.columns[i].right));
    one.set("cells", cells);
    rows.push_back(one);
  }
  result.set("has_caption", data(!table.title.empty()));
  result.set("caption", quantity::printable(table.title));
  result.set("columns", columns);
  result.set("rows", rows);
  return result;
}

data of_report(const Report& report) {
  data result, tables(data::type::list);
  for (const auto& table : report.tables) tables.push_back(of_table(table));
  result.set("lines", of_lines(report.verdict));
  result.set("tables", tables);
  auto remarks = report.remarks;
  remarks.insert(remarks.end(), report.legend.begin(), report.legend.end());
  result.set("remarks", of_lines(remarks));
  return result;
}

// What a link may lead to.
std::string anchor_of(const std::string& name) {
  std::string result = "channel-";
  for (const char c : name) {
    const bool plain = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9');
    result += plain || c == '_' ? std::string(1, c) : fmt::format("-{:02x}", c & 0xFF);
  }
  return result;
}

data of_part(const PagePart& part) {
  data result, reports(data::type::list), figures(data::type::list);
  for (const auto& report : part.reports) reports.push_back(of_report(report));
  for (const auto& each : part.figures) {
    data one;
    one.set("chart", json(each.chart));
    one.set("alternative", each.alternative);
    figures.push_back(one);
  }
  result.set("part_title", part.title);
  result.set("folded", data(part.folded));
  result.set("reports", reports);
  result.set("has_figures", data(!part.figures.empty()));
  result.set("figures", figures);
  return result;
}

data of_channel(const PageChannel& channel) {
  data result, path(data::type::list), parts(data::type::list);
  for (const auto& step : channel.path) {
    data one;
    one.set("stage", quantity::printable(step.stage));
    one.set("low", step.low);
    one.set("high", step.high);
    path.push_back(one);
  }
  for (const auto& part : channel.parts) parts.push_back(of_part(part));
  result.set("name", quantity::printable(channel.name));
  result.set("anchor", anchor_of(channel.name));
  result.set("measures", quantity::printable(channel.measures));
  result.set("verdict", quantity::printable(channel.verdict.text));
  result.set("tone", std::string(name(channel.verdict.tone)));
  result.set("checked", channel.checked);
  result.set("compared", quantity::printable(channel.compared.text));
  result.set("compared_tone", std::string(name(channel.compared.tone)));
  result.set("fails_at_meter", data(channel.compared.tone == Tone::bad));
  result.set("recorded", quantity::printable(channel.recorded.text));
  result.set("recorded_tone", std::string(name(channel.recorded.tone)));
  result.set("has_path", data(!channel.path.empty()));
  result.set("path", path);
  result.set("parts", parts);
  return result;
}

}  // namespace

std::string html_of(const Page& page) {
  data root, channels(data::type::list), inputs(data::type::list);
  for (const auto& channel : page.channels) channels.push_back(of_channel(channel));
  for (const auto& input : page.inputs) {
    data one;
    one.set("file", quantity::printable(input.file));
    one.set("identity", input.identity);
    inputs.push_back(one);
  }
  root.set("title", quantity::printable(page.title));
  root.set("version", page.version);
  root.set("made", page.made);
  root.set("command", quantity::printable(page.command));
  root.set("has_readings", data(std::ranges::any_of(page.channels, [](const auto& channel) {
             return !channel.compared.text.empty();
           })));
  root.set("has_records", data(std::ranges::any_of(page.channels, [](const auto& channel) {
             return !channel.recorded.text.empty();
           })));
  root.set("inputs", inputs);
  root.set("channels", channels);
  return kainjow::mustache::mustache(board_page_text).render(root);
}

}  // namespace tamlo::report
