// SPDX-License-Identifier: Apache-2.0
// What the page of a watch draws its chart from.
#include <fmt/format.h>

#include <cmath>

#include "tamlo/report/detail/screen.hpp"

namespace tamlo::report {

std::string strips_json(const Screen& screen, double from) {
  const auto list = [](const auto& all, const auto& text) {
    std::string result = "[";
    for (const auto& one : all) result += (result.size() > 1 ? "," : "") + text(one);
    return result + "]";
  };
  auto json = fmt::format("{{\"title\":{},\"now\":{:.3f},\"first\":{},\"channels\":[",
                          result::json_text(screen.title), screen.seconds,
                          static_cast<long>(std::floor(from / 0.1 + 0.5)));
  for (std::size_t i = 0; i < screen.channels.size(); ++i) {
    const auto& view = screen.channels[i];
    const auto& unit = view.span.unit;
    const auto in = [&](double x) { return fmt::format("{:.9g}", quantity::in_unit(x, unit)); };
    json += fmt::format(
        "{}{{\"low\":{},\"high\":{},\"allowed\":{},\"age\":{:.3f},\"edges\":{},\"steps\":{}}}",
        i > 0 ? "," : "", in(view.span.low), in(view.span.high),
        view.allowed ? fmt::format("{:.9g}", *view.allowed / unit.scale()) : "null", view.age,
        list(view.edges, in), list(screen.strips[i], [&](const signal::StripColumn& column) {
          if (column.count == 0) return std::string("null");
          return fmt::format("[{},{},{}]", in(column.low), in(column.high), in(column.mean()));
        }));
  }
  return json + "]}";
}

}  // namespace tamlo::report
