// SPDX-License-Identifier: Apache-2.0
#include "terminal.hpp"

#include <langinfo.h>
#include <poll.h>
#include <unistd.h>

#include <clocale>
#include <cstdlib>
#include <cstring>

#define NCURSES_NOMACROS 1
#include <ncursesw/curses.h>

#include "console.hpp"
#include "tamlo/detail/shared_library.hpp"

namespace tamlo::tool {
namespace {

using report::Look;

}  // namespace

struct Terminal::Inside {
  tamlo::detail::SharedLibrary file{"libncursesw.so.6", "draws the screen", "libncursesw6"};
  TAMLO_LOADED(initscr, initscr);
  TAMLO_LOADED(endwin, endwin);
  TAMLO_LOADED(cbreak, cbreak);
  TAMLO_LOADED(noecho, noecho);
  TAMLO_LOADED(nodelay, nodelay);
  TAMLO_LOADED(curs_set, curs_set);
  TAMLO_LOADED(werase, werase);
  TAMLO_LOADED(wmove, wmove);
  TAMLO_LOADED(waddnstr, waddnstr);
  TAMLO_LOADED(wrefresh, wrefresh);
  TAMLO_LOADED(wgetch, wgetch);
  TAMLO_LOADED(wattrset, wattrset);
  TAMLO_LOADED(start_color, start_color);
  TAMLO_LOADED(has_colors, has_colors);
  TAMLO_LOADED(use_default_colors, use_default_colors);
  TAMLO_LOADED(init_pair, init_pair);
  TAMLO_LOADED(getmaxx, getmaxx);
  TAMLO_LOADED(getmaxy, getmaxy);
  WINDOW* window = nullptr;
  bool colours = false;

  int attributes(Look look) const {
    const auto pair = [&](int number) { return colours ? number << 8 : 0; };  // COLOR_PAIR
    switch (look) {
      case Look::plain:
        return 0;
      case Look::strong:
        return static_cast<int>(A_BOLD);
      case Look::faint:
        return static_cast<int>(A_DIM);
      case Look::good:
        return pair(1);
      case Look::bad:
        return pair(2) | static_cast<int>(A_BOLD);
      case Look::doubtful:
        return pair(3);
      case Look::first:
        return pair(4);
      case Look::second:
        return pair(5);
      case Look::third:
        return pair(6);
    }
    return 0;
  }
};

bool Terminal::possible() {
  const char* const kind = std::getenv("TERM");
  return is_terminal(stdin) && is_terminal(stdout) && kind != nullptr && *kind != '\0' &&
         std::strcmp(kind, "dumb") != 0;
}

Terminal::Terminal() : inside_(std::make_unique<Inside>()) {
  auto& in = *inside_;
  std::setlocale(LC_CTYPE, "");
  in.window = in.initscr();
  in.cbreak();
  in.noecho();
  in.nodelay(in.window, true);
  in.curs_set(0);
  in.colours = std::getenv("NO_COLOR") == nullptr && in.has_colors();
  if (!in.colours) return;
  in.start_color();
  in.use_default_colors();
  const short colours[] = {COLOR_GREEN, COLOR_RED,     COLOR_YELLOW,
                           COLOR_CYAN,  COLOR_MAGENTA, COLOR_BLUE};
  for (short i = 0; i < 6; ++i) in.init_pair(static_cast<short>(i + 1), colours[i], -1);
}

Terminal::~Terminal() { inside_->endwin(); }

std::size_t Terminal::width() const {
  return static_cast<std::size_t>(inside_->getmaxx(inside_->window));
}
std::size_t Terminal::height() const {
  return static_cast<std::size_t>(inside_->getmaxy(inside_->window));
}
bool Terminal::wide() const { return std::strcmp(nl_langinfo(CODESET), "UTF-8") == 0; }

void Terminal::draw(const std::vector<report::ScreenLine>& lines) {
  auto& in = *inside_;
  pollfd wanted{.fd = STDOUT_FILENO, .events = POLLOUT, .revents = 0};
  if (::poll(&wanted, 1, 0) <= 0) return;
  in.werase(in.window);
  for (std::size_t row = 0; row < lines.size(); ++row) {
    in.wmove(in.window, static_cast<int>(row), 0);
    for (const auto& stretch : lines[row]) {
      in.wattrset(in.window, in.attributes(stretch.look));
      in.waddnstr(in.window, stretch.text.c_str(), static_cast<int>(stretch.text.size()));
    }
  }
  in.wattrset(in.window, 0);
  in.wrefresh(in.window);
}

std::optional<char> Terminal::key() {
  const int key = inside_->wgetch(inside_->window);
  if (key < 0 || key > 127) return {};
  return static_cast<char>(key);
}

}  // namespace tamlo::tool
