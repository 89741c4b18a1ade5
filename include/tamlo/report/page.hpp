// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/report/chart.hpp"
#include "tamlo/report/table.hpp"

namespace tamlo {
namespace report TAMLO_API {

/// A chart, and in words for who does not see it.
struct PageFigure {
  Chart chart{};
  std::string alternative{};
};

/// A step of the signal's way, with its values at both ends of the span.
struct PageStep {
  std::string stage{}, low{}, high{};
};

/// A part of a channel: a title, tables and pictures.
struct PagePart {
  std::string title{};
  std::vector<Report> reports{};
  std::vector<PageFigure> figures{};
  bool folded = false;
};

/// One channel of the page.
struct PageChannel {
  std::string name{}, measures{};
  Line verdict{};
  std::string checked{};  ///< how many errors and warnings check found
  Line compared{};        ///< beside the meter; empty without readings
  Line recorded{};        ///< in a record; empty without one
  std::vector<PageStep> path{};
  std::vector<PagePart> parts{};
};

/// A file that the page was made from.
struct PageInput {
  std::string file{}, identity{};
};

/// All about a board, for who reads it in five minutes.
struct Page {
  std::string title{}, version{}, made{}, command{};
  std::vector<PageInput> inputs{};
  std::vector<PageChannel> channels{};
};

/// The page as one HTML file that asks for nothing from anywhere: light and dark, wide and narrow,
/// and on paper. All texts are escaped.
std::string html_of(const Page& page);

}  // namespace report
}  // namespace tamlo
