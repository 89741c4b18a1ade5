// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/moment.hpp"

#include <chrono>
#include <cstdio>

namespace tamlo::io {

std::optional<double> parse_moment(const std::string& text) {
  int y = 0, m = 0, d = 0, used = 0;
  // Day, month and year with points are in this order wherever they are written so.
  if (std::sscanf(text.c_str(), "%4d-%2d-%2d%n", &y, &m, &d, &used) != 3 &&
      std::sscanf(text.c_str(), "%2d.%2d.%4d%n", &d, &m, &y, &used) != 3) {
    return {};
  }
  const std::chrono::year_month_day day{std::chrono::year{y},
                                        std::chrono::month{static_cast<unsigned>(m)},
                                        std::chrono::day{static_cast<unsigned>(d)}};
  if (!day.ok()) return {};
  auto rest = text.substr(static_cast<std::size_t>(used));
  int hour = 0, minute = 0;
  double second = 0.0;
  if (!rest.empty()) {
    if (rest.back() == 'Z') rest.pop_back();
    int end = 0;
    if (std::sscanf(rest.c_str(), "%*1[T ]%2d:%2d%n", &hour, &minute, &end) != 2) return {};
    if (rest[static_cast<std::size_t>(end)] == ':') {
      const auto seconds = rest.substr(static_cast<std::size_t>(end));
      int of_seconds = 0;
      if (std::sscanf(seconds.c_str(), ":%lf%n", &second, &of_seconds) != 1) return {};
      end += of_seconds;
    }
    const bool sound = static_cast<std::size_t>(end) == rest.size() && hour >= 0 && hour < 24 &&
                       minute >= 0 && minute < 60 && second >= 0.0 && second < 61.0;
    if (!sound) return {};
  }
  const auto days = std::chrono::sys_days(day).time_since_epoch().count();
  return static_cast<double>(days) * 86400.0 + hour * 3600.0 + minute * 60.0 + second;
}

}  // namespace tamlo::io
