// SPDX-License-Identifier: Apache-2.0
// Reports for programs: JSON for a page that shows what a terminal shows and for the chart of a
// watch, and headlines as the test cases of a suite.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/names.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "tamlo/report/detail/screen.hpp"
#include "tamlo/report/reports.hpp"
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

std::string strips_json(const Screen& screen, double from) {
  auto json = fmt::format("{{\"title\":{},\"now\":{:.3f},\"first\":{},\"channels\":[",
                          result::json_text(screen.title), screen.seconds,
                          static_cast<long>(std::floor(from / 0.1 + 0.5)));
  for (std::size_t i = 0; i < screen.channels.size(); ++i) {
    const auto& view = screen.channels[i];
    const auto& unit = view.span.unit;
    const auto in = [&](double x) { return fmt::format("{:.9g}", quantity::in_unit(x, unit)); };
    json += fmt::format(
        "{}{{\"low\":{},\"high\":{},\"allowed\":{},\"age\":{:.3f},\"edges\":{},\"steps\":{}}}",
        i > 0 ? "," : "", in(view.span.low), in(view.span.high),
        view.allowed ? fmt::format("{:.9g}", *view.allowed / unit.scale()) : "null", view.age,
        json_list(view.edges, in),
        json_list(screen.strips[i], [&](const signal::StripColumn& column) {
          if (column.count == 0) return std::string("null");
          return fmt::format("[{},{},{}]", in(column.low), in(column.high), in(column.mean()));
        }));
  }
  return json + "]}";
}

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
