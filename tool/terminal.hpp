// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <memory>
#include <optional>
#include <vector>

#include "tamlo/report/detail/screen.hpp"

namespace tamlo::tool {

/// A terminal that is drawn on as a whole, by ncurses, which is loaded with it. It is given back as
/// it was when this goes.
class Terminal {
 public:
  /// Tells whether standard input and output are a terminal that can be drawn on.
  static bool possible();
  /// Throws io::EnvironmentError without ncurses.
  Terminal();
  ~Terminal();
  Terminal(const Terminal&) = delete;
  Terminal& operator=(const Terminal&) = delete;

  std::size_t width() const;
  std::size_t height() const;
  /// Tells whether it shows other characters than ASCII.
  bool wide() const;
  /// Left out where the terminal takes nothing at the moment: a slow one drops pictures.
  void draw(const std::vector<report::ScreenLine>& lines);
  /// A key that was pressed since.
  std::optional<char> key();

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

}  // namespace tamlo::tool
