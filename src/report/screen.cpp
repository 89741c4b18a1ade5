// SPDX-License-Identifier: Apache-2.0
#include "tamlo/report/detail/screen.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "screen_figures.hpp"
#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

constexpr std::size_t axis = 11;  // columns left of the chart

Look look_of_channel(std::size_t i) {
  constexpr std::array looks{Look::first, Look::second, Look::third};
  return looks.at(i % looks.size());
}

std::string repeated(std::string_view text, std::size_t times) {
  std::string result;
  for (std::size_t i = 0; i < times; ++i) result += text;
  return result;
}

std::string value_text(const meter::LiveState& state, double value) {
  const double size = std::max({state.noise, state.predicted_noise, 1e-9});
  return aligned(value, state.unit, size, 1);
}

// The lines grow from the top; none goes beyond the width.
class Layout {
 public:
  Layout(const Screen& screen, std::size_t width, std::size_t height)
      : s_(screen), width_(width), height_(height), one_(screen.channels.at(screen.selected)) {}

  std::vector<ScreenLine> lines() {
    if (width_ < 40 || height_ < 10) {
      value_line();
      return std::move(lines_);
    }
    heading();
    if (one_.state.readings == 0) {
      add({{"no reading yet", Look::doubtful}});
    } else {
      // A figure takes eight columns.
      if (height_ >= 24 && 8 * value_text(one_.state, one_.state.last).size() < width_ / 2) {
        large_value();
      } else {
        value_line();
      }
      bar();
      beside();
      noise();
      others();
    }
    link_line();
    chart();
    add({});
    keys();
    return std::move(lines_);
  }

 private:
  const Screen& s_;
  std::size_t width_, height_;
  const meter::LiveView& one_;
  std::vector<ScreenLine> lines_{};

  // A line that is too long is cut, between two characters.
  void add(ScreenLine line) {
    std::size_t room = width_;
    for (auto& [text, look] : line) {
      constexpr std::string_view plus_minus = "±";
      for (auto at = text.find(plus_minus); s_.ascii && at != std::string::npos;
           at = text.find(plus_minus)) {
        text.replace(at, plus_minus.size(), "+-");
      }
      std::size_t end = 0;
      while (end < text.size() && (room > 0 || continues(text[end]))) {
        room -= continues(text[end++]) ? 0 : 1;
      }
      text.resize(end);
    }
    if (lines_.size() < height_) lines_.push_back(std::move(line));
  }
  static bool continues(char c) { return (static_cast<unsigned char>(c) & 0xC0U) == 0x80U; }
  std::string of_unit(double value) const {
    return with_unit(value_text(one_.state, value), one_.state.unit);
  }

  void heading() {
    const auto seconds = static_cast<long>(s_.seconds);
    const auto clock =
        fmt::format("{}:{:02}:{:02}", seconds / 3600, seconds / 60 % 60, seconds % 60);
    const auto left = one_.state.channel + "   ";
    const auto room = width_ - std::min(width_, left.size() + clock.size() + 2);
    auto title = s_.title.substr(0, room);
    title += std::string(room - title.size(), ' ');
    add({{left, Look::strong}, {title, Look::faint}, {"  " + clock, Look::faint}});
    add({});
  }

  ScreenLine state_words() const {
    const auto& state = one_.state;
    ScreenLine words;
    if (state.code) {
      const auto whole = static_cast<long long>(*state.code);
      words.push_back({whole < 0 ? fmt::format("code {}   ", whole)
                                 : fmt::format("code {}  0x{:X}   ", whole, whole)});
    }
    words.push_back(one_.old ? Stretch{"OLD", Look::bad}
                    : state.at_end
                        ? Stretch{"at an end of the codes: the value may lie beyond", Look::bad}
                    : state.settled ? Stretch{"at rest", Look::good}
                                    : Stretch{"moving", Look::doubtful});
    if (!one_.zone.empty()) words.push_back({"   zone " + one_.zone, Look::strong});
    return words;
  }

  void value_line() {
    ScreenLine line{{of_unit(one_.state.last) + "   ", Look::strong}};
    for (auto& words : state_words()) line.push_back(std::move(words));
    add(std::move(line));
  }

  void large_value() {
    const auto text = value_text(one_.state, one_.state.last);
    const std::string_view block = s_.ascii ? "#" : "█";
    for (std::size_t row = 0; row < 5; ++row) {
      std::string large = "  ";
      for (const char c : text) {
        const std::string dots = rows_of_figure(c).at(row);
        for (const char dot : dots) {
          large += dot == '#' ? repeated(block, 2) : "  ";
        }
        large += "  ";
      }
      ScreenLine line{{large, Look::strong}};
      if (row == 4) line.push_back({one_.state.unit.symbol, Look::strong});
      if (row == 0) {
        line.push_back({"    "});
        for (auto& words : state_words()) line.push_back(std::move(words));
      }
      add(std::move(line));
    }
    add({});
  }

  // Where the value lies in the span; edges of zones in it.
  void bar() {
    const auto& span = one_.span;
    const auto low = value_with_unit(span.low, span.unit, 3);
    const auto high = value_with_unit(span.high, span.unit, 3);
    const std::size_t room = width_ - std::min(width_, low.size() + high.size() + 4);
    if (room < 10) return;
    const auto place = [&](double x) {
      const double part = std::clamp((x - span.low) / span.width(), 0.0, 1.0);
      return static_cast<std::size_t>(std::lround(part * static_cast<double>(room - 1)));
    };
    std::vector<std::string> cells(room, s_.ascii ? "-" : "─");
    for (const double edge : one_.edges) cells[place(edge)] = s_.ascii ? ":" : "┊";
    const auto at = place(one_.state.last);
    if (one_.allowed) {
      const auto from = place(one_.state.last - *one_.allowed),
                 to = place(one_.state.last + *one_.allowed);
      for (auto i = from; i <= to; ++i) cells[i] = s_.ascii ? "=" : "━";
    }
    cells[at] = s_.ascii ? "#" : "█";
    std::string before, behind;
    for (std::size_t i = 0; i < room; ++i) (i < at ? before : behind) += i == at ? "" : cells[i];
    const bool outside = !span.holds(one_.state.last);
    add({{low + " ", Look::faint},
         {before, Look::faint},
         {cells[at], outside ? Look::bad : Look::strong},
         {behind, Look::faint},
         {" " + high, Look::faint}});
    if (outside) add({{"outside of the span", Look::bad}});
  }

  void beside() {
    if (one_.shown) {
      if (one_.row) {
        const auto& row = *one_.row;
        const auto look = row.verdict == meter::Verdict::pass   ? Look::good
                          : row.verdict == meter::Verdict::fail ? Look::bad
                                                                : Look::doubtful;
        add({{report::line_of(row, one_.state.unit), look}});
      } else {
        add({{fmt::format("meter {}, and both are not at rest", of_unit(*one_.shown))}});
      }
    }
    if (!s_.aim) return;
    const double off = *s_.aim - one_.state.last;
    const auto words = to_aim(one_.state, one_.span, *s_.aim);
    const auto arrows = std::min<std::size_t>(
        10, 1 + static_cast<std::size_t>(10.0 * std::abs(off) / one_.span.width()));
    if (words.starts_with("at ")) return add({{"aim: ", Look::strong}, {words, Look::good}});
    add({{"aim: ", Look::strong},
         {words + " " + repeated(off > 0.0 ? ">" : "<", arrows), Look::doubtful}});
  }

  void noise() {
    const auto& state = one_.state;
    // What moves is not noise.
    const bool more = state.settled && state.noise > 2.0 * state.predicted_noise;
    add({{fmt::format("noise {}", amount(state.noise, state.unit, 2)),
          more ? Look::bad : Look::plain},
         {fmt::format(", predicted {}     lowest {}   highest {}",
                      amount(state.predicted_noise, state.unit, 2), of_unit(state.min),
                      of_unit(state.max))}});
  }

  void others() {
    for (std::size_t i = 0; i < s_.channels.size(); ++i) {
      if (i == s_.selected) continue;
      const auto& state = s_.channels[i].state;
      add({{state.channel + "  ", look_of_channel(i)},
           {state.readings == 0 ? "no reading yet"
                                : with_unit(value_text(state, state.last), state.unit) +
                                      (s_.channels[i].old ? "  OLD"
                                       : state.at_end     ? "  at an end of the codes"
                                       : state.settled    ? "  at rest"
                                                          : "  moving")}});
    }
  }

  void link_line() {
    std::uint64_t malformed = 0, lost = 0;
    for (const auto& link : s_.links) {
      malformed += link.malformed;
      lost += link.lost;
    }
    ScreenLine line;
    if (one_.state.readings > 0) {
      line.push_back({fmt::format("{:.3g} readings a second, the last {:.1f} s ago",
                                  one_.state.rate(), one_.age),
                      one_.old ? Look::bad : Look::plain});
    }
    line.push_back({fmt::format("     {} malformed lines, {} times lost", malformed, lost),
                    malformed + lost > 0 ? Look::doubtful : Look::faint});
    add(std::move(line));
  }

  // Rows of the chart, the highest first; a column reaches from its lowest to its highest value.
  void chart() {
    const std::size_t taken = lines_.size() + 4;
    if (height_ < taken + 4 || s_.strips.empty()) return;
    const std::size_t rows = height_ - taken, columns = chart_columns(width_);
    add({});
    std::vector<std::vector<Stretch>> cells(rows, std::vector<Stretch>(columns, Stretch{" "}));
    double low = 0.0, high = 0.0;
    for (std::size_t i = s_.strips.size(); i-- > 0;) {
      const auto [from, to] = scale_of(i);
      if (i == s_.selected) low = from, high = to;
      plot(cells, i, from, to);
    }
    for (std::size_t row = 0; row < rows; ++row) {
      std::string label;
      if (row == 0) label = of_unit(high);
      if (row + 1 == rows) label = of_unit(low);
      label.resize(std::max<std::size_t>(label.size(), axis - 2), ' ');
      ScreenLine line{{fmt::format("{} {}", label, s_.ascii ? "|" : "│"), Look::faint}};
      for (auto& cell : cells[row]) {
        if (line.size() > 1 && line.back().look == cell.look) {
          line.back().text += cell.text;
        } else {
          line.push_back(std::move(cell));
        }
      }
      add(std::move(line));
    }
    const auto ago = s_.window < 120.0    ? fmt::format("-{:.0f} s", s_.window)
                     : s_.window < 7200.0 ? fmt::format("-{:.0f} min", s_.window / 60.0)
                                          : fmt::format("-{:.0f} h", s_.window / 3600.0);
    auto foot = std::string(axis, ' ') + ago +
                (s_.fits_values ? "  scaled to the values" : "  scaled to the span");
    const std::string_view end = s_.paused ? "PAUSED" : "now";
    foot.resize(std::max(foot.size() + 1, width_ - 1 - end.size()), ' ');
    add({{foot + std::string(end), Look::faint}});
  }

  std::pair<double, double> scale_of(std::size_t i) const {
    const auto& span = s_.channels[i].span;
    if (!s_.fits_values) return {span.low, span.high};
    signal::StripColumn all;
    for (const auto& column : s_.strips[i]) all.merge(column);
    if (all.count == 0) return {span.low, span.high};
    const double least = std::max(s_.channels[i].state.predicted_noise * 4.0, 1e-12);
    const double middle = (all.low + all.high) / 2.0;
    const double half = std::max(all.high - all.low, least) * 0.55;
    return {middle - half, middle + half};
  }

  void plot(std::vector<std::vector<Stretch>>& cells, std::size_t channel, double low,
            double high) {
    const auto rows = cells.size(), columns = cells.front().size();
    const auto& strip = s_.strips[channel];
    const double halves = 2.0 * static_cast<double>(rows);
    const auto half_row = [&](double x) {
      const double part = std::clamp((x - low) / (high - low), 0.0, 1.0);
      return std::min(static_cast<std::size_t>(part * halves), 2 * rows - 1);
    };
    for (std::size_t c = 0; c < columns && c < strip.size(); ++c) {
      if (strip[c].count == 0) continue;
      const auto from = half_row(strip[c].low), to = half_row(strip[c].high);
      for (auto row = from / 2; row <= to / 2; ++row) {
        const bool lower = from <= 2 * row, upper = to >= 2 * row + 1;
        auto& cell = cells[rows - 1 - row][c];
        cell = {s_.ascii         ? "#"
                : lower && upper ? "█"
                : upper          ? "▀"
                                 : "▄",
                look_of_channel(channel)};
      }
    }
  }

  void keys() {
    add({{s_.message.empty()
              ? std::string(
                    "m mark   p pause   s scale   + - time   n next channel   w picture   q quit")
              : s_.message,
          s_.message.empty() ? Look::faint : Look::strong}});
  }
};

}  // namespace

std::size_t chart_columns(std::size_t width) { return width > axis + 10 ? width - axis - 1 : 10; }

std::vector<ScreenLine> lines_of(const Screen& screen, std::size_t width, std::size_t height) {
  if (screen.selected >= screen.channels.size() || width == 0 || height == 0) return {};
  return Layout(screen, width, height).lines();
}

}  // namespace tamlo::report
