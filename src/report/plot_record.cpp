// SPDX-License-Identifier: Apache-2.0
// Pictures of records.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "record_words.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::report {
namespace {

using signal::Capture;

// The panels of each picture; none where the record does not have it.

std::vector<ChartPanel> histogram(const Canvas& c, const Capture& capture) {
  const auto& h = capture.histogram();
  if (!c.v.steady) return {};
  const auto& s = *c.v.steady;
  const double bin_width = capture.options().bin_width;
  // Some hundred bars at most, of whole cells.
  const auto min = h.min(), max = h.max();
  const auto cells = max - min + 1;
  const auto joined = std::max<std::int64_t>(1, (cells + 119) / 120);
  const double width = std::abs(c.difference(static_cast<double>(joined) * bin_width));
  ChartSeries bars{.name = "samples", .shape = ChartShape::bars};
  for (auto cell = min; cell <= max; cell += joined) {
    std::uint64_t count = 0;
    for (auto k = cell; k < cell + joined; ++k) count += h.at(k);
    const double middle =
        (static_cast<double>(cell) + static_cast<double>(joined - 1) / 2.0) * bin_width;
    bars.points.push_back({c.value(middle), static_cast<double>(count), width});
  }
  // The largest tone swings the bell to and fro; the others widen it.
  const auto density = [&](std::string name, ChartLook look, double noise, double swing) {
    ChartSeries bell{.name = std::move(name), .look = look};
    const double low = c.value(static_cast<double>(min) * bin_width) - 2.0 * width;
    const double high = c.value(static_cast<double>(max) * bin_width) + 2.0 * width;
    for (int i = 0; i <= 300; ++i) {
      const double x = std::lerp(low, high, i / 300.0);
      double sum = 0.0;
      for (int phase = 0; phase < 48; ++phase) {
        const double z =
            (x - c.value(s.mean) - swing * std::sin((phase + 0.5) * M_PI / 24.0)) / noise;
        sum += std::exp(-z * z / 2.0) / 48.0;
      }
      const double scale = static_cast<double>(s.count) * width / (noise * std::sqrt(2.0 * M_PI));
      bell.points.push_back({x, scale * sum, 0.0});
    }
    return bell;
  };
  ChartPanel panel{.x = {c.value_label()}, .y = {"samples", 0.0}, .series = {std::move(bars)}};
  const double observed = c.difference(s.noise), told = c.difference(s.predicted);
  if (observed > 0.0) {
    const double swing =
        s.tones.empty() ? 0.0 : c.difference(std::sqrt(2.0 * s.tones.front().power));
    panel.series.push_back(density(s.tones.empty() ? "normal, of the noise that was seen"
                                                   : "normal noise and tone, as they were observed",
                                   ChartLook::plain, observed, swing));
  }
  if (told > 0.0) {
    const double swing = s.tones.empty() ? 0.0 : c.difference(s.tones_predicted.front());
    panel.series.push_back(density("as the board predicted", ChartLook::second, told, swing));
  }
  return {std::move(panel)};
}

// The sine and those of its harmonics that stand out, or the tones.
std::vector<signal::Tone> lines_of(const record::Verdict& v) {
  if (!v.wave) return v.steady ? v.steady->tones : std::vector<signal::Tone>{};
  std::vector<signal::Tone> result{v.wave->figures.fundamental};
  for (const auto& t : v.wave->figures.harmonics) {
    if (t.power > 15.0 * v.wave->figures.noise_floor) result.push_back(t);
  }
  return result;
}

std::vector<ChartPanel> spectrum(const Canvas& c, const Capture& capture) {
  if (capture.count() < 16) return {};
  const auto spectrum = capture.spectrum();
  const double top = c.v.wave ? c.v.wave->figures.fundamental.power : 0.0;
  const auto level = [&](double power) {
    return top > 0.0 ? 10.0 * std::log10(std::max(power / top, 1e-20))
                     : c.difference(std::sqrt(2.0 * power));
  };
  // In a column of the picture the mean power of its bins, or the largest where a line is among
  // them.
  const auto bins = spectrum.power.size();
  const auto joined = std::max<std::size_t>(1, bins / 1200);
  const auto length = static_cast<double>(spectrum.segment);
  const auto lines = lines_of(c.v);
  const auto has_line = [&](double from, double to) {
    return std::ranges::any_of(lines, [&](const auto& t) {
      return t.frequency > from - 2.0 / length && t.frequency < to + 2.0 / length;
    });
  };
  ChartSeries powers{.name = fmt::format("{} window, mean of {} segment{} of {}",
                                         name(spectrum.window), spectrum.segments,
                                         quantity::plural(spectrum.segments), spectrum.segment)};
  for (std::size_t k = 1; k < bins; k += joined) {
    const auto last = std::min(bins, k + joined);
    double max = 0.0, sum = 0.0;
    for (auto bin = k; bin < last; ++bin) {
      max = std::max(max, spectrum.power[bin]);
      sum += spectrum.power[bin];
    }
    const double mean = sum / static_cast<double>(last - k);
    const bool line = has_line(static_cast<double>(k) / length, static_cast<double>(last) / length);
    powers.points.push_back(
        {c.frequency(static_cast<double>(k) / length), level(line ? max : mean), 0.0});
  }
  ChartPanel panel{.x = {c.frequency_label(), 0.0, c.frequency(0.5)},
                   .y = {.label = top > 0.0 ? "dB of the sine" : c.difference_label("amplitude"),
                         .high = top > 0.0 ? std::optional(5.0) : std::nullopt,
                         .logarithmic = !(top > 0.0)},
                   .series = {std::move(powers)}};
  if (c.v.wave) {
    const double floor = level(c.v.wave->figures.noise_floor);
    panel.series.push_back({.name = "noise in a bin, the median",
                            .look = ChartLook::plain,
                            .points = {{0.0, floor, 0.0}, {c.frequency(0.5), floor, 0.0}}});
  }
  ChartSeries tones{.name = c.v.wave ? "harmonics above the noise, by their order" : "tones",
                    .look = ChartLook::bad,
                    .shape = ChartShape::dots,
                    .labelled = true};
  for (const auto& t : lines) {
    if (t.order == 1) continue;
    tones.points.push_back({c.frequency(t.frequency), level(t.power), 0.0});
    tones.texts.push_back(t.order > 1 ? fmt::format("{}", t.order)
                                      : fmt::format("{:.4g}", c.frequency(t.frequency)));
  }
  panel.series.push_back(std::move(tones));
  return {std::move(panel)};
}

std::vector<ChartPanel> stability(const Canvas& c) {
  if (!c.v.steady || c.v.steady->stability.deviations.empty()) return {};
  const auto& s = c.v.steady->stability;
  ChartSeries interval{.name = "its interval", .look = ChartLook::area, .shape = ChartShape::band};
  ChartSeries deviation{.name = "deviation"}, marks{.shape = ChartShape::dots};
  ChartSeries white{.name = "white noise alone", .look = ChartLook::faint};
  const double first = c.difference(s.deviations.front().deviation);
  for (const auto& d : s.deviations) {
    const double x = c.time(static_cast<double>(d.averaged));
    interval.points.push_back({x, c.difference(d.low), c.difference(d.high)});
    deviation.points.push_back({x, c.difference(d.deviation), 0.0});
    white.points.push_back({x, first / std::sqrt(static_cast<double>(d.averaged)), 0.0});
  }
  marks.points = deviation.points;
  ChartSeries lowest{
      .name = fmt::format("lowest, at {} samples", s.best),
      .look = ChartLook::bad,
      .shape = ChartShape::dots,
      .points = {{c.time(static_cast<double>(s.best)), c.difference(s.lowest), 0.0}}};
  return {
      {.x = {.label = c.v.rate > 0.0 ? "averaged over [s]" : "averaged samples",
             .logarithmic = true},
       .y = {.label = c.difference_label("difference of successive averages"), .logarithmic = true},
       .series = {std::move(interval), std::move(white), std::move(deviation), std::move(marks),
                  std::move(lowest)}}};
}

std::vector<ChartPanel> linearity(const Canvas& c) {
  if (!c.v.linearity_assessment) return {};
  const auto& s = *c.v.linearity_assessment;
  const auto& l = s.linearity;
  ChartSeries interval{
      .name = "its interval, 95 %", .look = ChartLook::area, .shape = ChartShape::band};
  ChartSeries ends{.name = "by the ends"},
      best{.name = "by the best line", .look = ChartLook::second};
  ChartSeries widths{.name = "width of each code less one"};
  const auto last = static_cast<double>(l.first) + static_cast<double>(l.dnl.size()) - 1.0;
  // Of many codes some hundreds: in each stretch the one that is farthest off.
  const auto stretch = std::max<std::size_t>(1, l.dnl.size() / 1500);
  const auto farthest = [&](const std::vector<double>& each, std::size_t from) {
    const auto begin = each.begin() + static_cast<std::ptrdiff_t>(from);
    const auto end =
        each.begin() + static_cast<std::ptrdiff_t>(std::min(from + stretch, each.size()));
    return static_cast<std::size_t>(
        std::max_element(begin, end, [](double a, double b) { return std::abs(a) < std::abs(b); }) -
        each.begin());
  };
  for (std::size_t i = 0; i < l.dnl.size(); i += stretch) {
    const auto at = [&](std::size_t k) {
      return static_cast<double>(l.first) + static_cast<double>(k);
    };
    const auto inl = farthest(l.inl_end_point, i), dnl = farthest(l.dnl, i);
    const double half = 2.0 * l.inl_standard[inl];
    interval.points.push_back({at(inl), l.inl_end_point[inl] - half, l.inl_end_point[inl] + half});
    ends.points.push_back({at(inl), l.inl_end_point[inl], 0.0});
    best.points.push_back({at(inl), l.inl_best_fit[inl], 0.0});
    widths.points.push_back({at(dnl), l.dnl[dnl], 0.0});
  }
  const ChartAxis codes{"code", static_cast<double>(l.first), last};
  const auto add_limits = [&](ChartPanel& to, std::optional<double> limit) {
    if (!limit) return;
    for (const double end : {*limit, -*limit}) {
      to.series.push_back({.name = end == *limit ? "limit of the board" : "",
                           .look = ChartLook::limit,
                           .points = {{*codes.low, end, 0.0}, {*codes.high, end, 0.0}}});
    }
  };
  ChartPanel inl{.x = codes,
                 .y = {"INL [LSB]"},
                 .series = {std::move(interval), std::move(best), std::move(ends)}};
  ChartPanel dnl{.x = codes, .y = {"DNL [LSB]"}, .series = {std::move(widths)}};
  add_limits(inl, s.inl_limit);
  add_limits(dnl, s.dnl_limit);
  return {std::move(inl), std::move(dnl)};
}

std::vector<ChartPanel> step(const Canvas& c, const Capture& capture) {
  if (!c.v.step) return {};
  const auto& s = *c.v.step;
  const auto head = capture.head();
  // From a little before to well behind what settles last.
  double until = 4.0 * std::max(s.rise, s.delay);
  for (const auto& each : s.settling) until = std::max(until, each.time.value_or(0.0) * 1.4);
  const auto from = static_cast<std::size_t>(std::max(0.0, s.step_at - 0.3 * until - 2.0));
  const auto to = std::min(head.size(), static_cast<std::size_t>(s.step_at + until + 4.0));
  const auto every = std::max<std::size_t>(1, (to - from) / 2000);
  const auto time = [&](std::size_t i) { return c.time(static_cast<double>(i) - s.step_at); };
  const auto band = c.difference(s.settling.front().band * std::abs(s.after - s.before));
  const double low = c.value(s.after) - band, high = c.value(s.after) + band;
  ChartSeries within{.name = fmt::format("within {:g} %", 100.0 * s.settling.front().band),
                     .look = ChartLook::area,
                     .shape = ChartShape::band,
                     .points = {{time(from), low, high}, {time(to), low, high}}};
  ChartSeries observed{.name = "observed"}, marks{.shape = ChartShape::dots};
  ChartSeries predicted{.name = "as the board predicted", .look = ChartLook::second};
  for (auto i = from; i < to; i += every) {
    observed.points.push_back({time(i), c.value(head[i]), 0.0});
    if (i < c.v.step_answer.size())
      predicted.points.push_back({time(i), c.value(c.v.step_answer[i]), 0.0});
  }
  if (to - from <= 400) marks.points = observed.points;
  ChartSeries settled{
      .name = "settled", .look = ChartLook::bad, .shape = ChartShape::dots, .labelled = true};
  for (const auto& each : s.settling) {
    if (!each.time) continue;
    settled.points.push_back({c.time(*each.time), c.value(s.after), 0.0});
    settled.texts.push_back(fmt::format("settled to {:g} %", 100.0 * each.band));
  }
  return {{.x = {c.v.rate > 0.0 ? "time after the step [s]" : "samples after the step", time(from),
                 time(to)},
           .y = {c.value_label()},
           .series = {std::move(within), std::move(observed), std::move(marks),
                      std::move(predicted), std::move(settled)}}};
}

}  // namespace

std::string usual_picture(const record::Verdict& v) {
  if (v.step) return "step";
  if (v.wave) return "spectrum";
  return v.linearity_assessment ? "linearity" : "histogram";
}

std::optional<Chart> chart_of(const record::Verdict& verdict, const Capture& capture,
                              const quantity::Unit& unit, const std::string& picture) {
  const Canvas canvas{verdict, unit};
  auto panels = picture == "histogram"   ? histogram(canvas, capture)
                : picture == "spectrum"  ? spectrum(canvas, capture)
                : picture == "stability" ? stability(canvas)
                : picture == "linearity" ? linearity(canvas)
                : picture == "step"      ? step(canvas, capture)
                                         : std::vector<ChartPanel>();
  if (panels.empty()) return {};
  return Chart{.title = canvas.title(), .panels = std::move(panels)};
}

}  // namespace tamlo::report
