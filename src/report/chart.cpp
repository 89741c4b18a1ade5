// SPDX-License-Identifier: Apache-2.0
// A chart as JSON for a page, and as a script of gnuplot for a file.
#include "tamlo/report/chart.hpp"

#include <fmt/format.h>

#include <cmath>

#include "gnuplot.hpp"
#include "tamlo/names.hpp"
#include "tamlo/result/detail/json_text.hpp"

namespace tamlo::report {
namespace {

using result::json_list, result::json_text;

std::string of_number(double x, int digits) {
  return std::isfinite(x) ? fmt::format("{:.{}g}", x, digits) : "null";
}

std::string of_axis(const ChartAxis& with) {
  auto text = "{\"label\":" + json_text(with.label);
  if (with.low) text += ",\"low\":" + of_number(*with.low, 12);
  if (with.high) text += ",\"high\":" + of_number(*with.high, 12);
  return text + (with.logarithmic ? ",\"logarithmic\":true}" : "}");
}

std::string of_series(const ChartSeries& series) {
  const bool third = series.shape >= ChartShape::errors;
  // Of a line the page has the figures itself.
  const bool pointed = series.shape == ChartShape::dots || series.shape == ChartShape::errors;
  const auto point = [&](const ChartPoint& p) {
    const auto both = "[" + of_number(p[0], 9) + "," + of_number(p[1], 6);
    return both + (third ? "," + of_number(p[2], 6) + "]" : "]");
  };
  return fmt::format(
      R"({{"name":{},"look":"{}","shape":"{}","labelled":{},"points":{},"texts":{}}})",
      json_text(series.name),
      name_in(
          {"now", "limit", "faint", "second", "third", "plain", "good", "doubtful", "bad", "area"},
          series.look),
      name_in({"line", "steps", "dots", "errors", "bars", "band"}, series.shape), series.labelled,
      json_list(series.points, point),
      json_list(pointed ? series.texts : std::vector<std::string>(), json_text));
}

// How gnuplot draws a look.
struct Drawn {
  const char* colour;
  int dashes, mark;
  double width;
};
Drawn drawn(ChartLook look) {
  switch (look) {
    case ChartLook::now:
      return {"#1f5fa8", 1, 7, 2.5};
    case ChartLook::limit:
      return {"#b3261e", 1, 13, 2.0};
    case ChartLook::faint:
      return {"#666666", 2, 6, 1.5};
    case ChartLook::second:
      return {"#b07a00", 4, 5, 2.0};
    case ChartLook::third:
      return {"#1b7a3d", 5, 9, 2.0};
    case ChartLook::plain:
      return {"#000000", 1, 2, 1.5};
    case ChartLook::good:
      return {"#1b7a3d", 1, 7, 2.0};
    case ChartLook::doubtful:
      return {"#b07a00", 1, 5, 2.0};
    case ChartLook::bad:
      return {"#b3261e", 1, 13, 2.0};
    case ChartLook::area:
      return {"#dbe8f3", 1, 1, 1.0};
  }
  return {"#000000", 1, 1, 1.0};
}

std::string with_look(const ChartSeries& series, const std::string& data) {
  const auto look = drawn(series.look);
  const auto line =
      fmt::format("linewidth {} dashtype {} linecolor '{}'", look.width, look.dashes, look.colour);
  const auto mark =
      fmt::format("pointtype {} pointsize 1.2 linecolor '{}'", look.mark, look.colour);
  const auto form = [&]() -> std::string {
    switch (series.shape) {
      case ChartShape::line:
        return "using 1:2 with lines " + line;
      case ChartShape::steps:
        return "using 1:2 with steps " + line;
      case ChartShape::dots:
        return "using 1:2 with points " + mark;
      case ChartShape::errors:
        return "using 1:2:3 with yerrorbars linewidth 2 " + mark;
      case ChartShape::bars:
        return fmt::format("using 1:2:3 with boxes fillstyle solid 0.55 linecolor '{}'",
                           look.colour);
      case ChartShape::band:
        return fmt::format(
            "using 1:2:3 with filledcurves fillstyle solid 1 noborder fillcolor '{}'", look.colour);
    }
    return {};
  }();
  auto text = fmt::format("{0} {1} {2}", data, form,
                          series.name.empty() ? "notitle" : "title " + literal(series.name));
  if (series.texts.empty()) return text;
  return series.labelled
             ? text +
                   fmt::format(", {} using 1:2:4 with labels offset 0,1 font ',11' notitle", data)
             : text + pointed_at(data + " using 1:2:4");
}

std::string of_range(const char* letter, const ChartAxis& ends) {
  const auto end = [](const std::optional<double>& x) {
    return x ? fmt::format("{:.12g}", *x) : std::string("*");
  };
  return fmt::format("set {0}label {1}\nset {0}range [{2}:{3}]\n{4} logscale {0}\n", letter,
                     literal(ends.label), end(ends.low), end(ends.high),
                     ends.logarithmic ? "set" : "unset");
}

}  // namespace

std::string json(const Chart& chart) {
  const auto mark = [](const ChartMark& each) {
    return fmt::format(R"({{"at":{},"name":{}}})", of_number(each.at, 9), json_text(each.name));
  };
  const auto panel = [&](const ChartPanel& each) {
    return fmt::format(R"({{"x":{},"y":{},"series":{},"marks":{}}})", of_axis(each.x),
                       of_axis(each.y), json_list(each.series, of_series),
                       json_list(each.marks, mark));
  };
  auto text = fmt::format(R"({{"title":{},"panels":{}}})", json_text(chart.title),
                          json_list(chart.panels, panel));
  // No text of it ends the element that it stands in.
  for (auto at = text.find('<'); at != std::string::npos; at = text.find('<', at))
    text.replace(at, 1, "\\u003c");
  return text;
}

std::string draw(const Chart& chart, Image image) {
  std::string script = common_look;
  const auto count = chart.panels.size();
  script += count > 1 ? fmt::format("set multiplot layout {},1 title {}\nset lmargin 11\n", count,
                                    literal(chart.title))
                      : fmt::format("set title {}\n", literal(chart.title));
  int number = 0;
  for (const auto& panel : chart.panels) {
    script += "unset arrow\nunset label\n" + of_range("x", panel.x) + of_range("y", panel.y);
    // Room about what is drawn, where no end is given.
    script += fmt::format("set offsets 0, 0, {}, {}\n",
                          panel.y.high || panel.y.logarithmic ? "0" : "graph 0.06",
                          panel.y.low || panel.y.logarithmic ? "0" : "graph 0.06");
    for (const auto& mark : panel.marks) {
      script += fmt::format(
          "set arrow from {0:.9g}, graph 0 to {0:.9g}, graph 1 nohead linewidth 1.5 linecolor rgb "
          "'#b3261e' dashtype 2\nset label {1} at {0:.9g}, graph 0.95 offset 0.5,0 textcolor rgb "
          "'#b3261e'\n",
          mark.at, literal(mark.name));
    }
    std::string plots;
    for (const auto& series : panel.series) {
      if (series.points.empty()) continue;
      const auto data = fmt::format("$d{}", number++);
      script += data + " << EOD\n";
      for (std::size_t i = 0; i < series.points.size(); ++i) {
        const auto& [x, y, z] = series.points[i];
        script += fmt::format("{:.12g} {:.12g} {:.12g}", x, y, z);
        if (!series.texts.empty()) {
          std::string text;
          for (const char c : series.texts[i]) text += c == '"' || c == '\\' ? '\'' : c;
          script += fmt::format(" \"{}\"", text);
        }
        script += "\n";
      }
      script += "EOD\n";
      plots += (plots.empty() ? "plot " : ", ") + with_look(series, data);
    }
    script += plots + "\n";
  }
  return draw(image, script + (count > 1 ? "unset multiplot\n" : ""));
}

}  // namespace tamlo::report
