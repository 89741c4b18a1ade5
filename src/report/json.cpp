// SPDX-License-Identifier: Apache-2.0
// Reports as JSON, for a page that shows what a terminal shows.
#include "tamlo/names.hpp"
#include "tamlo/report/table.hpp"
#include "tamlo/result/results.hpp"

namespace tamlo::report {
namespace {

using result::json_text;

// "[a, b, ...]" of what `text` makes of each.
template <class List, class Text>
std::string array(const List& list, Text text) {
  std::string result = "[";
  for (const auto& each : list) result += (result.size() > 1 ? "," : "") + text(each);
  return result + "]";
}

std::string json_of(const Table& table) {
  const auto column = [](const Column& each) {
    return "{\"heading\":" + json_text(each.heading) +
           ",\"right\":" + (each.right ? "true" : "false") + "}";
  };
  const auto row = [](const std::vector<Cell>& cells) {
    return array(cells, [](const Cell& cell) { return json_text(cell.shown); });
  };
  return "{\"title\":" + json_text(table.title) + ",\"columns\":" + array(table.columns, column) +
         ",\"rows\":" + array(table.rows, row) + "}";
}

}  // namespace

std::string_view name(Tone tone) {
  return name_in({"plain", "good", "bad", "doubtful", "heading"}, tone);
}

std::string json(const Line& line) {
  return "{\"text\":" + json_text(line.text) + ",\"tone\":\"" + std::string(name(line.tone)) +
         "\"}";
}

std::string json(const std::vector<Report>& reports) {
  const auto lines = [](const std::vector<Line>& all) {
    return array(all, [](const Line& line) { return json(line); });
  };
  return array(reports, [&](const Report& report) {
    return "{\"verdict\":" + lines(report.verdict) + ",\"tables\":" +
           array(report.tables, [](const Table& table) { return json_of(table); }) +
           ",\"remarks\":" + lines(report.remarks) + ",\"legend\":" + lines(report.legend) + "}";
  });
}

}  // namespace tamlo::report
