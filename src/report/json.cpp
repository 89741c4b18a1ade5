// SPDX-License-Identifier: Apache-2.0
// Reports as JSON, for a page that shows what a terminal shows.
#include "tamlo/names.hpp"
#include "tamlo/report/table.hpp"
#include "tamlo/result/detail/json_text.hpp"

namespace tamlo::report {
namespace {

using result::json_list, result::json_text;

std::string json_of(const Table& table) {
  const auto column = [](const Column& each) {
    return "{\"heading\":" + json_text(each.heading) +
           ",\"right\":" + (each.right ? "true" : "false") + "}";
  };
  const auto row = [](const std::vector<Cell>& cells) {
    return json_list(cells, [](const Cell& cell) { return json_text(cell.shown); });
  };
  return "{\"title\":" + json_text(table.title) +
         ",\"columns\":" + json_list(table.columns, column) +
         ",\"rows\":" + json_list(table.rows, row) + "}";
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
    return json_list(all, [](const Line& line) { return json(line); });
  };
  return json_list(reports, [&](const Report& report) {
    return "{\"verdict\":" + lines(report.verdict) + ",\"tables\":" +
           json_list(report.tables, [](const Table& table) { return json_of(table); }) +
           ",\"remarks\":" + lines(report.remarks) + ",\"legend\":" + lines(report.legend) + "}";
  });
}

}  // namespace tamlo::report
