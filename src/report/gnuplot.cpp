// SPDX-License-Identifier: Apache-2.0
#include "gnuplot.hpp"

#include <fmt/format.h>

#include <string_view>

#include "tamlo/quantity/detail/number.hpp"

namespace tamlo::report {
const char* const common_look =
    "set key below spacing 1.3 samplen 2\nset bmargin 6\nset border linecolor '#444444'\n"
    "set grid back linetype 1 linecolor '#e4e4e4'\n";

std::string literal(std::string_view text) {
  std::string result = "'";
  for (const char c : quantity::printable(text)) {
    if (c == '\'') result += '\'';
    result += c;
  }
  return result + "'";
}

namespace {

// Only in the end of a CDATA section "]]>" may stand as it is.
std::string as_xml(std::string svg) {
  constexpr std::string_view open = "<![CDATA[", close = "]]>";
  std::size_t from = 0;
  for (auto at = svg.find(close); at != std::string::npos; at = svg.find(close, from)) {
    const auto section = svg.find(open, from);
    if (section > at) svg.replace(at + 2, 1, "&gt;");
    from = at + close.size();
  }
  return svg;
}

// Texts that points show under the pointer: as a title, which needs no script.
std::string with_titles(std::string svg) {
  constexpr std::string_view begin = " onmousemove=\"gnuplot_svg.showHypertext(evt,'";
  constexpr std::string_view end =
      "')\" onmouseout=\"gnuplot_svg.hideHypertext()\"><title> </title>";
  for (auto at = svg.find(begin); at != std::string::npos; at = svg.find(begin, at)) {
    const auto text = at + begin.size(), close = svg.find(end, text);
    if (close == std::string::npos) break;
    svg.replace(at, close + end.size() - at,
                fmt::format("><title>{}</title>", svg.substr(text, close - text)));
  }
  return svg;
}

}  // namespace

std::string pointed_at(std::string_view columns) {
  return fmt::format(
      ", {} with labels hypertext point pointtype 7 pointsize 1.6 linecolor rgb '#ff000000' "
      "notitle",
      columns);
}

std::string draw(Image image, const std::string& script) {
  const bool svg = image == Image::svg;
  const auto terminal = svg ? "svg size 1280,800 dynamic background 'white' font 'DejaVu Sans,16'"
                            : "pngcairo size 1280,800 background 'white' font 'DejaVu Sans,13'";
  auto picture =
      run_gnuplot(fmt::format("set terminal {} noenhanced\n{}\nset output\n", terminal, script));
  const auto tail =
      std::string_view(picture).substr(picture.size() - std::min<std::size_t>(picture.size(), 16));
  if (tail.find(svg ? "</svg>" : "IEND") == std::string_view::npos) {
    throw PlotError("gnuplot did not draw the picture to its end");
  }
  return svg ? as_xml(with_titles(std::move(picture))) : picture;
}

std::optional<Image> image_of(std::string_view path) {
  if (path.size() > 4 && path.ends_with(".svg")) return Image::svg;
  if (path.size() > 4 && path.ends_with(".png")) return Image::png;
  return {};
}

}  // namespace tamlo::report
