// SPDX-License-Identifier: Apache-2.0
// Pictures of records.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "record_canvas.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::report {
namespace {

using signal::Capture;

// The script of each picture; empty where the record does not have it.

std::string histogram(const Canvas& c, const Capture& capture) {
  const auto& h = capture.histogram();
  if (!c.v.steady) return {};
  const auto& s = *c.v.steady;
  const double bin_width = capture.options().bin_width;
  // Some hundred bars at most, of whole cells.
  const auto min = h.min(), max = h.max();
  const auto cells = max - min + 1;
  const auto joined = std::max<std::int64_t>(1, (cells + 119) / 120);
  std::string script = "$bars << EOD\n";
  for (auto cell = min; cell <= max; cell += joined) {
    std::uint64_t count = 0;
    for (auto k = cell; k < cell + joined; ++k) count += h.at(k);
    const double middle =
        (static_cast<double>(cell) + static_cast<double>(joined - 1) / 2.0) * bin_width;
    script += fmt::format("{:.17g} {}\n", c.value(middle), count);
  }
  const double width = std::abs(c.difference(static_cast<double>(joined) * bin_width));
  script += "EOD\n" + c.frame(c.value_label(), "samples");
  script += fmt::format(
      "set boxwidth {:.17g}\nset style fill solid 0.55 border lc '{}'\nset samples 1000\n", width,
      blue);
  // The largest tone swings the bell to and fro; the others widen it.
  const auto density = [&](double noise, double swing) {
    std::string data;
    const double low = c.value(static_cast<double>(min) * bin_width) - 2.0 * width;
    const double high = c.value(static_cast<double>(max) * bin_width) + 2.0 * width;
    for (int i = 0; i <= 600; ++i) {
      const double x = std::lerp(low, high, i / 600.0);
      double sum = 0.0;
      for (int phase = 0; phase < 48; ++phase) {
        const double z =
            (x - c.value(s.mean) - swing * std::sin((phase + 0.5) * M_PI / 24.0)) / noise;
        sum += std::exp(-z * z / 2.0) / 48.0;
      }
      data +=
          fmt::format("{:.17g} {:.8g}\n", x,
                      static_cast<double>(s.count) * width * sum / (noise * std::sqrt(2.0 * M_PI)));
    }
    return data + "EOD\n";
  };
  const double observed = c.difference(s.noise), told = c.difference(s.predicted);
  const double swing = s.tones.empty() ? 0.0 : c.difference(std::sqrt(2.0 * s.tones.front().power));
  const double swing_told = s.tones.empty() ? 0.0 : c.difference(s.tones_predicted.front());
  if (observed > 0.0) script = "$observed << EOD\n" + density(observed, swing) + script;
  if (told > 0.0) script = "$told << EOD\n" + density(told, swing_told) + script;
  const char* const what = s.tones.empty() ? "normal, of the noise that was seen"
                                           : "normal noise and tone, as they were observed";
  script += fmt::format("set yrange [0:*]\nplot $bars with boxes lc '{}' title 'samples'", blue);
  if (observed > 0.0) {
    script += fmt::format(", $observed with lines lw 2.5 lc '#000000' title {}", literal(what));
  }
  if (told > 0.0) {
    script += ", $told with lines lw 2.5 dt 2 lc '#b3261e' title 'as the board predicted'";
  }
  return script + "\n";
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

std::string spectrum(const Canvas& c, const Capture& capture) {
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
  std::string script = "$bins << EOD\n";
  for (std::size_t k = 1; k < bins; k += joined) {
    const auto last = std::min(bins, k + joined);
    double max = 0.0, sum = 0.0;
    for (auto bin = k; bin < last; ++bin) {
      max = std::max(max, spectrum.power[bin]);
      sum += spectrum.power[bin];
    }
    const double mean = sum / static_cast<double>(last - k);
    const bool line = has_line(static_cast<double>(k) / length, static_cast<double>(last) / length);
    script += fmt::format("{:.17g} {:.17g}\n", c.frequency(static_cast<double>(k) / length),
                          level(line ? max : mean));
  }
  script += "EOD\n";
  script += "$lines << EOD\n";
  for (const auto& t : lines) {
    if (t.order == 1) continue;
    script += fmt::format(
        "{:.17g} {:.17g} \"{}\"\n", c.frequency(t.frequency), level(t.power),
        t.order > 1 ? fmt::format("{}", t.order) : fmt::format("{:.4g}", c.frequency(t.frequency)));
  }
  script += "EOD\n";
  const bool marks = lines.size() > (c.v.wave ? 1U : 0U);
  script +=
      c.frame(c.frequency_label(), top > 0.0 ? "dB of the sine" : c.difference_label("amplitude"));
  script += fmt::format("set xrange [0:{:.17g}]\n", c.frequency(0.5));
  script += top > 0.0 ? "set yrange [*:5]\n" : "set logscale y\n";
  script +=
      fmt::format("plot $bins with lines lw 1.2 lc '{}' title {}", blue,
                  literal(fmt::format("{} window, mean of {} segment{} of {}",
                                      name(spectrum.window), spectrum.segments,
                                      quantity::plural(spectrum.segments), spectrum.segment)));
  if (marks) {
    script += fmt::format(
        ", $lines using 1:2 with points pt 7 ps 1.3 lc '#b3261e' title {}, $lines using "
        "1:2:3 with labels offset 0,1 font ',11' notitle",
        literal(c.v.wave ? "harmonics above the noise, by their order" : "tones"));
  }
  if (c.v.wave) {
    script += fmt::format(
        ", {:.17g} with lines dt 2 lw 2 lc '#000000' title 'noise in a bin, the median'",
        level(c.v.wave->figures.noise_floor));
  }
  return script + "\n";
}

std::string stability(const Canvas& c) {
  if (!c.v.steady || c.v.steady->stability.deviations.empty()) return {};
  const auto& s = c.v.steady->stability;
  std::string script = "$d << EOD\n";
  for (const auto& d : s.deviations) {
    script +=
        fmt::format("{:.17g} {:.17g} {:.17g} {:.17g}\n", c.time(static_cast<double>(d.averaged)),
                    c.difference(d.deviation), c.difference(d.low), c.difference(d.high));
  }
  script += "EOD\n";
  script += c.frame(c.v.rate > 0.0 ? "averaged over [s]" : "averaged samples",
                    c.difference_label("difference of successive averages"));
  const double first = c.difference(s.deviations.front().deviation);
  const double from = c.time(1.0);
  script += fmt::format(
      "set logscale xy\nset style fill transparent solid 0.2 noborder\nplot $d using 1:3:4 with "
      "filledcurves lc "
      "'{0}' title 'its interval', $d using 1:2 with linespoints pt 7 lw 2 lc '{0}' title "
      "'deviation', "
      "{1:.17g}/sqrt(x/{2:.17g}) with lines dt 2 lw 1.5 lc '#000000' title 'white noise alone', "
      "'+' using ({3:.17g}):({4:.17g}) every ::0::0 with points pt 6 ps 3 lw 2.5 lc '#b3261e' "
      "title {5}\n",
      blue, first, from, c.time(static_cast<double>(s.best)), c.difference(s.lowest),
      literal(fmt::format("lowest, at {} samples", s.best)));
  return script;
}

std::string linearity(const Canvas& c) {
  if (!c.v.linearity_assessment) return {};
  const auto& s = *c.v.linearity_assessment;
  const auto& l = s.linearity;
  std::string script = "$codes << EOD\n";
  for (std::size_t i = 0; i < l.dnl.size(); ++i) {
    script +=
        fmt::format("{} {:.6g} {:.6g} {:.6g} {:.6g}\n", l.first + static_cast<std::int64_t>(i),
                    l.dnl[i], l.inl_end_point[i], l.inl_best_fit[i], l.inl_standard[i]);
  }
  script += "EOD\n";
  const auto limits = [](std::optional<double> limit) {
    return limit ? fmt::format(
                       ", {0:.6g} with lines dt 2 lw 1.5 lc '#b3261e' title 'limit of the board', "
                       "{1:.6g} with lines dt 2 lw 1.5 lc '#b3261e' notitle",
                       *limit, -*limit)
                 : std::string();
  };
  script += fmt::format(
      "set multiplot layout 2,1 title {}\n{}set bmargin 5\nset xrange [{}:{}]\nset lmargin 9\nset "
      "ylabel 'INL [LSB]'\nset offsets graph 0, 0, 0.08, 0.08\nset xlabel "
      "'code'\nset style fill transparent solid 0.2 noborder\n",
      literal(of(result::ChannelRecord{c.v, c.unit}).verdict.front().text), common_look, l.first,
      l.first + static_cast<std::int64_t>(l.dnl.size()) - 1);
  script += fmt::format(
      "plot $codes using 1:($3-2*$5):($3+2*$5) with filledcurves lc '{0}' title 'its interval, 95 "
      "%', $codes using "
      "1:3 with lines lw 1.5 lc '{0}' title 'by the ends', $codes using 1:4 with lines lw 1.2 lc "
      "'#7a5c00' title 'by "
      "the best line'{1}\nset ylabel 'DNL [LSB]'\nplot $codes using 1:2 with lines lw 1 lc '{0}' "
      "title 'width of "
      "each code less one'{2}\nunset multiplot\n",
      blue, limits(s.inl_limit), limits(s.dnl_limit));
  return script;
}

std::string step(const Canvas& c, const Capture& capture) {
  if (!c.v.step) return {};
  const auto& s = *c.v.step;
  const auto head = capture.head();
  // From a little before to well behind what settles last.
  double until = 4.0 * std::max(s.rise, s.delay);
  for (const auto& each : s.settling) until = std::max(until, each.time.value_or(0.0) * 1.4);
  const auto from = static_cast<std::size_t>(std::max(0.0, s.step_at - 0.3 * until - 2.0));
  const auto to = std::min(head.size(), static_cast<std::size_t>(s.step_at + until + 4.0));
  const auto every = std::max<std::size_t>(1, (to - from) / 4000);
  std::string script = "$told << EOD\n";
  for (auto i = from; i < std::min(to, c.v.step_answer.size()); i += every) {
    script += fmt::format("{:.17g} {:.17g}\n", c.time(static_cast<double>(i) - s.step_at),
                          c.value(c.v.step_answer[i]));
  }
  script += "EOD\n$observed << EOD\n";
  for (auto i = from; i < to; i += every) {
    script += fmt::format("{:.17g} {:.17g}\n", c.time(static_cast<double>(i) - s.step_at),
                          c.value(head[i]));
  }
  script += "EOD\n" + c.frame(c.v.rate > 0.0 ? "time after the step [s]" : "samples after the step",
                              c.value_label());
  const auto band = c.difference(s.settling.front().band * std::abs(s.after - s.before));
  script +=
      fmt::format("set xrange [{:.17g}:{:.17g}]\n", c.time(static_cast<double>(from) - s.step_at),
                  c.time(static_cast<double>(to) - s.step_at));
  script += fmt::format(
      "set style fill solid 1 noborder\nplot '+' using 1:({0:.17g}):({1:.17g}) with filledcurves "
      "lc '#e3edf5' title "
      "'within {2:g} %', $observed with {3} lw 1.5 pt 7 ps 0.7 lc '{4}' title 'observed'",
      c.value(s.after) - band, c.value(s.after) + band, 100.0 * s.settling.front().band,
      to - from > 400 ? "lines" : "linespoints", blue);
  if (!c.v.step_answer.empty()) {
    script += ", $told with lines lw 2 dt 2 lc '#b3261e' title 'as the board predicted'";
  }
  for (const auto& each : s.settling) {
    if (!each.time) continue;
    script += fmt::format(
        ", '+' using ({:.17g}):({:.17g}) every ::0::0 with points pt 6 ps 2.5 lw 2 lc '#b3261e' "
        "title {}",
        c.time(*each.time), c.value(s.after),
        literal(fmt::format("settled to {:g} %", 100.0 * each.band)));
  }
  return script + "\n";
}

}  // namespace

std::string usual_picture(const record::Verdict& v) {
  if (v.step) return "step";
  if (v.wave) return "spectrum";
  return v.linearity_assessment ? "linearity" : "histogram";
}

std::optional<std::string> plot(const record::Verdict& verdict, const Capture& capture,
                                const quantity::Unit& unit, const std::string& picture,
                                Image image) {
  const Canvas canvas{verdict, unit};
  const auto script = picture == "histogram"   ? histogram(canvas, capture)
                      : picture == "spectrum"  ? spectrum(canvas, capture)
                      : picture == "stability" ? stability(canvas)
                      : picture == "linearity" ? linearity(canvas)
                      : picture == "step"      ? step(canvas, capture)
                                               : std::string();
  if (script.empty()) return {};
  return draw(image, script);
}

}  // namespace tamlo::report
