// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>

#include "served_page.hpp"
#include "tamlo/link/watching.hpp"
#include "tamlo/report/detail/screen.hpp"
#include "terminal.hpp"

// What is watched, as it is shown while it runs.
namespace tamlo::tool {

/// All of it at this moment.
result::Watched watched_of(const link::Watching& watching);

/// The page of a browser: the last second at each change, and all that is kept for one that comes.
class WatchedPage {
 public:
  WatchedPage(const model::Board& board, const link::Watching& watching, const std::string& port);
  const std::string& address() const { return page_.address(); }
  void show();

 private:
  const link::Watching& watching_;
  ServedPage page_;
  report::Screen screen_{};

  std::string strips(std::size_t steps);
};

/// The screen of a terminal, and what its keys do.
class WatchScreen {
 public:
  WatchScreen(const model::Board& board, const link::Watching& watching, std::optional<double> aim);
  /// False once the user leaves.
  bool show();
  void say(const std::string& message) { screen_.message = message; }
  /// Returns the marks, once the terminal is given back.
  const std::string& marks() const { return marks_; }

 private:
  const link::Watching& watching_;
  Terminal terminal_{};
  report::Screen screen_{};
  std::string marks_{};
  int pictures_ = 0, marked_ = 0;

  void press(char key);
  void picture(const meter::LiveView& view);
};

}  // namespace tamlo::tool
