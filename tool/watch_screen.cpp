// SPDX-License-Identifier: Apache-2.0
#include "watch_screen.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include "job.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/page_texts.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

// What is there now, with strips of so many columns since a moment.
void refresh(report::Screen& screen, const link::Watching& watching, double from, double to,
             std::size_t columns) {
  auto watched = watched_of(watching);
  screen.channels = std::move(watched.channels);
  screen.links = std::move(watched.links);
  screen.seconds = watching.seconds();
  screen.strips.clear();
  for (std::size_t i = 0; i < screen.channels.size(); ++i) {
    screen.strips.push_back(watching.strip(i).columns(from, to, columns));
  }
}

}  // namespace

result::Watched watched_of(const link::Watching& watching) {
  result::Watched watched{.channels = watching.channels()};
  for (const auto& link : watching.links()) {
    watched.links.push_back({link.name, link.lines, link.malformed, link.lost, link.problem});
  }
  return watched;
}

WatchedPage::WatchedPage(const model::Board& board, const link::Watching& watching,
                         const std::string& port)
    : watching_(watching),
      page_(static_cast<int>(whole_of("--page", port, 0, 65535)), watch_page_text) {
  screen_.title = board.title;
}

void WatchedPage::show() {
  if (page_.wants_whole()) page_.publish_whole(strips(8000));
  const auto last = strips(10);
  // The screen has what was asked for with the strips.
  const result::Watched watched{.links = screen_.links, .channels = screen_.channels};
  page_.publish(result::write(watched, result::Format::json), last);
}

std::string WatchedPage::strips(std::size_t steps) {
  const auto [from, to] = signal::Strip::last_steps(watching_.seconds(), steps);
  refresh(screen_, watching_, from, to, steps);
  return report::strips_json(screen_, from);
}

WatchScreen::WatchScreen(const model::Board& board, const link::Watching& watching,
                         std::optional<double> aim)
    : watching_(watching) {
  screen_.title = board.title;
  screen_.aim = aim;
  screen_.ascii = !terminal_.wide();
}

bool WatchScreen::show() {
  while (const auto key = terminal_.key()) {
    if (*key == 'q' || *key == 3) return false;
    press(*key);
  }
  if (!screen_.paused) {
    const double now = watching_.seconds();
    refresh(screen_, watching_, now - screen_.window, now,
            report::chart_columns(terminal_.width()));
  }
  terminal_.draw(report::lines_of(screen_, terminal_.width(), terminal_.height()));
  return true;
}

void WatchScreen::press(char key) {
  screen_.message.clear();
  const auto& channels = screen_.channels;
  if (key == 'p') screen_.paused = !screen_.paused;
  if (key == 's') screen_.fits_values = !screen_.fits_values;
  if (key == '+') screen_.window = std::max(10.0, screen_.window / 2.0);
  if (key == '-') screen_.window = std::min(signal::Strip::longest, screen_.window * 2.0);
  if (key == 'n' && !channels.empty()) screen_.selected = (screen_.selected + 1) % channels.size();
  if (screen_.selected >= channels.size()) return;
  const auto& view = channels[screen_.selected];
  if (key == 'm') {
    screen_.message = fmt::format("mark {} at {:.1f} s: {}", ++marked_, screen_.seconds,
                                  report::line_of(view.state));
    marks_ += screen_.message + "\n";
  }
  if (key == 'w') picture(view);
}

void WatchScreen::picture(const meter::LiveView& view) {
  std::string path;
  do {
    path = fmt::format("{}_{}.svg", view.state.channel, ++pictures_);
  } while (std::filesystem::exists(io::path_of(path)));  // one that was there before stays
  try {
    io::write_file(path, report::plot_strip(screen_, report::Image::svg));
    screen_.message = "written: " + path;
  } catch (const Error& error) {
    screen_.message = error.what();
  }
}

}  // namespace tamlo::tool
