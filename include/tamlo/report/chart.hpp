// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo {
namespace report TAMLO_API {

/// Numbers of a point: x and y; and half an error, the width of a bar, or the other end of a band.
using ChartPoint = std::array<double, 3>;

/// Form in which points are drawn.
enum class ChartShape : std::uint8_t { line, steps, dots, errors, bars, band };

/// Meaning of a series, which has a colour, dashes and a mark of its own.
enum class ChartLook : std::uint8_t {
  now,
  limit,
  faint,
  second,
  third,
  plain,
  good,
  doubtful,
  bad,
  area
};

/// Points that belong together. A y that is not a number is a gap.
struct ChartSeries {
  std::string name{};  ///< in the key; empty: not there
  ChartLook look = ChartLook::now;
  ChartShape shape = ChartShape::line;
  std::vector<ChartPoint> points{};
  std::vector<std::string> texts{};  ///< of each point, under the pointer; none, or as many
  bool labelled = false;             ///< the texts stand beside their points
};

/// Axis with its label; an end that is not given is that of the points.
struct ChartAxis {
  std::string label{};
  std::optional<double> low{}, high{};
  bool logarithmic = false;
};

/// Place of x with a name.
struct ChartMark {
  double at = 0.0;
  std::string name{};
};

/// One pair of axes, and what is drawn in it, the first series at the back.
struct ChartPanel {
  ChartAxis x{}, y{};
  std::vector<ChartSeries> series{};
  std::vector<ChartMark> marks{};
};

/// Picture as data: a page draws it by itself, a file is drawn by gnuplot.
struct Chart {
  std::string title{};
  std::vector<ChartPanel> panels{};
};

/// Returns a chart as JSON, as share/page/charts.js takes it; it may stand in an element of HTML.
std::string json(const Chart& chart);

}  // namespace report
}  // namespace tamlo
