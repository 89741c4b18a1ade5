// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/meter/detail/live.hpp"
#include "tamlo/result/results.hpp"
#include "tamlo/signal/detail/chart.hpp"

/// Watched values as the lines of a terminal.
namespace tamlo {
namespace report TAMLO_API {

/// A live view as text, line by line.
struct Screen {
  std::string title{};
  double seconds = 0.0;  ///< since the start
  std::vector<meter::LiveView> channels{};
  std::vector<std::vector<signal::StripColumn>> strips{};  ///< of each channel; of any width
  std::size_t selected = 0;
  std::vector<result::WatchedLink> links{};
  double window = 60.0;      ///< s, of the chart
  bool fits_values = false;  ///< the chart is scaled to the values that it shows; else to the span
  bool paused = false;
  std::optional<double> aim{};  ///< SI, of the selected channel
  std::string message{};        ///< of the last key
  bool ascii = false;           ///< no other characters
};

/// Look of a stretch of a line; the colours are the terminal's own.
enum class Look : std::uint8_t { plain, strong, faint, good, bad, doubtful, first, second, third };
/// Text of one look.
struct Stretch {
  std::string text{};
  Look look = Look::plain;
};
using ScreenLine = std::vector<Stretch>;

/// At most so many lines of at most so many columns. A terminal of less than 40 x 10 has the value
/// and nothing else.
std::vector<ScreenLine> lines_of(const Screen& screen, std::size_t width, std::size_t height);

/// The strips of a page in a browser, as JSON: from the step of a tenth of a second that holds
/// `from` on, and what each channel is held against. `strips` has a column for each step.
std::string strips_json(const Screen& screen, double from);

/// Returns the number of chart columns that fit into a screen of that width.
std::size_t chart_columns(std::size_t width);

}  // namespace report
}  // namespace tamlo
