// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "record_words.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::report {
namespace {

using record::LinearityAssessment;
using record::Steady;
using record::Wave;

Line plain(std::string text) { return {std::move(text)}; }
Line judged(std::string text, bool good) {
  return {std::move(text), good ? Tone::good : Tone::bad};
}

std::string first_codes(const std::vector<std::int64_t>& codes) {
  const auto shown = std::min<std::size_t>(codes.size(), 8);
  return fmt::format("{}{}",
                     fmt::join(codes.begin(), codes.begin() + static_cast<long>(shown), ", "),
                     codes.size() > shown ? ", ..." : "");
}

// What bits are of: samples alone have those of their file.
std::string range_of(const record::Verdict& v, const char* of_board) {
  return v.alone && v.predicted.resolution
             ? fmt::format("the {} bits of the file", *v.predicted.resolution)
             : of_board;
}

// Tones that stand where the mains or their harmonics come out.
std::string tone_name(double frequency) {
  for (const double mains : {50.0, 60.0}) {
    const double order = std::round(frequency / mains);
    if (order < 1.0 || order > 10.0) continue;
    if (std::abs(frequency - order * mains) > 0.01 * mains) continue;
    return order == 1.0 ? fmt::format(", the mains of {:.0f} Hz", mains)
                        : fmt::format(", {:.0f} times the mains of {:.0f} Hz", order, mains);
  }
  return "";
}

// What a slope stands for. A large tone makes slopes of its own, in averages over less than a few
// of its periods.
std::string kind_of(const Steady& s, const signal::Deviation& d) {
  if (!s.tones.empty()) {
    const auto& tone = s.tones.front();
    const bool large = tone.power > 0.05 * s.deviation * s.deviation;
    if (large && static_cast<double>(d.averaged) * tone.frequency < 4.0) return "the tone";
  }
  return std::string(name(d.kind));
}

void say_steady(const record::Verdict& v, const Steady& s, const RecordWords& words,
                Report& report) {
  auto observed = fmt::format("noise {} ({} to {})", words.difference(s.noise), words.number(s.low),
                              words.number(s.high));
  if (!v.alone) observed += fmt::format(", {} predicted", words.difference(s.predicted));
  const auto& [verdict, tone] = s.differs > 0 ? std::pair{"MORE NOISE THAN PREDICTED", Tone::bad}
                                : s.differs < 0
                                    ? std::pair{"LESS NOISE THAN PREDICTED", Tone::doubtful}
                                    : std::pair{"NOISE AS PREDICTED", Tone::good};
  auto& lines = report.verdict;
  lines.push_back(v.alone ? Line{fmt::format("{}: {}", v.channel, observed), Tone::heading}
                          : Line{fmt::format("{}: {}: {}", v.channel, verdict, observed), tone});
  if (!s.tones.empty()) {
    say(lines, "this noise is without the tones below; with them {} rms",
        words.difference(s.deviation));
  }
  say(lines, "mean {}{}, from {} to {}", words.value(s.mean),
      words.codes && !v.alone ? ", which is " + words.of_quantity(v.at) : "", words.value(s.min),
      words.value(s.max));
  if (s.effective_bits) {
    say(lines, "bits: {:.1f} effective, {:.1f} noise-free, of {}", *s.effective_bits,
        *s.noise_free_bits, range_of(v, "single conversions"));
  }
  if (!s.missing.empty()) {
    say(lines, Tone::doubtful, "{} code{} in between never occur{}: {}", s.missing.size(),
        quantity::plural(s.missing.size()), s.missing.size() == 1 ? "s" : "",
        first_codes(s.missing));
  }
  lines.push_back(
      s.normal ? plain("no deviation from a normal distribution found in this number of samples")
               : Line{fmt::format("the noise is NOT NORMAL: skewness {:.2f}, kurtosis {:.2f}",
                                  s.skewness, s.kurtosis),
                      Tone::doubtful});
  for (std::size_t i = 0; i < std::min<std::size_t>(s.tones.size(), 5); ++i) {
    const auto& t = s.tones[i];
    const double predicted_value = s.tones_predicted[i], size = std::sqrt(2.0 * t.power);
    say(lines, predicted_value > 0.9 * size ? Tone::plain : Tone::doubtful,
        "a tone at {}, amplitude {}{}{}", words.frequency(t.frequency), words.difference(size),
        words.rate > 0.0 ? tone_name(t.frequency * words.rate) : "",
        v.alone                 ? ""
        : predicted_value > 0.0 ? ", " + words.difference(predicted_value) + " predicted"
                                : ", not predicted");
  }
  if (s.floor.corner > 3.0 * s.floor.corner_standard && s.floor.corner > 0.0) {
    say(lines, "1/f noise below {} (u {})", words.frequency(s.floor.corner),
        words.frequency(s.floor.corner_standard));
  }
  if (s.trend.moves) {
    say(lines, Tone::doubtful, "drift {} (u {})", words.slope(s.trend.slope),
        words.slope(s.trend.standard_uncertainty));
  }
  if (s.stability.deviations.empty()) return;
  const bool longest = s.stability.best == s.stability.deviations.back().averaged;
  say(lines, "averaging helps up to {} samples{}; then {} remains{}", s.stability.best,
      words.rate > 0.0 ? ", " + words.time(static_cast<double>(s.stability.best)) : "",
      words.difference(s.stability.lowest), longest ? ", and longer ones may be better" : "");
  Table table{
      .title = v.channel + ": how far successive averages differ (overlapping Allan deviation)",
      .columns = {{"samples"},
                  {"time", false},
                  words.column("deviation"),
                  words.column("low"),
                  words.column("high"),
                  {"noise", false}}};
  for (const auto& d : s.stability.deviations) {
    table.rows.push_back({fmt::format("{}", d.averaged),
                          words.rate > 0.0 ? words.time(static_cast<double>(d.averaged)) : "-",
                          words.cell(d.deviation), words.cell(d.low), words.cell(d.high),
                          kind_of(s, d)});
  }
  report.tables.push_back(std::move(table));
  const auto partly =
      std::ranges::find_if(s.stability.deviations, [](const auto& d) { return d.stride > 1; });
  if (partly == s.stability.deviations.end()) return;
  say(lines,
      "the record is too long for full overlap: from {} samples on, averages begin every sixteenth "
      "of their length, and their deviation may be off by some per cent",
      partly->averaged);
}

std::string against(std::optional<double> limit) {
  return limit ? fmt::format(", ±{:.2g} LSB by the board", *limit) : "";
}

void say_straightness(const record::Verdict& v, const LinearityAssessment& s, Report& report) {
  const auto& l = s.linearity;
  const auto largest_of = [](const std::vector<double>& all) {
    return *std::ranges::max_element(all);
  };
  auto& lines = report.verdict;
  const bool sound =
      !s.dnl_beyond && !s.inl_beyond && (!s.non_monotonic_codes || s.non_monotonic_codes->empty());
  const auto& [verdict, tone] = !sound ? std::pair{"IS NOT AS THE BOARD HAS IT", Tone::bad}
                                : s.undecided
                                    ? std::pair{"NOT DECIDED, too few samples", Tone::doubtful}
                                    : std::pair{"AS THE BOARD HAS IT", Tone::good};
  say(lines, tone, "{}: LINEARITY {}: INL {:+.2f} LSB, DNL {:+.2f} LSB", v.channel, verdict,
      l.largest_inl_end_point(), l.largest_dnl());
  lines.push_back(judged(
      fmt::format("INL {:+.2f} LSB by the ends, {:+.2f} LSB by the best line, u {:.2f} LSB{}",
                  l.largest_inl_end_point(), l.largest_inl_best_fit(), largest_of(l.inl_standard),
                  against(s.inl_limit)),
      !s.inl_beyond));
  lines.push_back(judged(fmt::format("DNL {:+.2f} LSB, u {:.2f} LSB{}", l.largest_dnl(),
                                     largest_of(l.dnl_standard), against(s.dnl_limit)),
                         !s.dnl_beyond));
  if (!l.missing.empty()) {
    say(lines, Tone::bad, "{} missing code{}: {}", l.missing.size(),
        quantity::plural(l.missing.size()), first_codes(l.missing));
  }
  if (l.unseen > 0) {
    say(lines, Tone::doubtful, "{} code{} did not occur: with this few samples that may be chance",
        l.unseen, quantity::plural(l.unseen));
  }
  if (l.missing.empty() && l.unseen == 0) lines.push_back(plain("no code is missing"));
  if (s.non_monotonic_codes) {
    lines.push_back(
        s.non_monotonic_codes->empty()
            ? plain("it never falls while the input rises")
            : Line{"it FALLS while the input rises, at code " + first_codes(*s.non_monotonic_codes),
                   Tone::bad});
  }
  if (s.offset) {
    const bool off = std::abs(*s.offset) > *s.offset_expected,
               far = std::abs(*s.gain) > *s.gain_expected;
    say(lines, off || far ? Tone::doubtful : Tone::plain,
        "offset {:+.2f} LSB, ±{:.2g} LSB expected of the channel; gain {:+.2f} LSB at the "
        "end, ±{:.2g} LSB expected",
        *s.offset, *s.offset_expected, *s.gain, *s.gain_expected);
  }
  if (largest_of(l.inl_standard) > v.feed.wanted) {
    say(lines, "for an INL with u {:g} LSB it takes {} samples, {} are here", v.feed.wanted,
        s.needed, v.samples);
  }
}

void say_wave(const record::Verdict& v, const Wave& w, const RecordWords& words, Report& report) {
  const auto& f = w.figures;
  auto& lines = report.verdict;
  const auto residual =
      fmt::format("{} residual after the sine fit ({} to {})", words.difference(w.fit.residual),
                  words.number(w.low), words.number(w.high));
  lines.push_back(
      v.alone ? Line{fmt::format("{}: {}", v.channel, residual), Tone::heading}
              : judged(fmt::format("{}: {}: {}, {} predicted", v.channel,
                                   w.worse ? "WORSE THAN PREDICTED" : "AS GOOD AS PREDICTED",
                                   residual, words.difference(w.predicted)),
                       !w.worse));
  say(lines, "sine of {} (u {}), amplitude {} (u {}), about {}{}", words.frequency(w.fit.frequency),
      words.frequency(w.fit.frequency_standard), words.difference(w.fit.amplitude),
      words.difference(w.fit.amplitude_standard), words.value(w.fit.offset),
      w.full_scale > 0.0 ? fmt::format("; {:.0f} % of full scale", 100.0 * w.full_scale) : "");
  say(lines, "SINAD {:.2f} dB{}, SNR {:.2f} dB, THD {:.2f} dB, SFDR {:.2f} dB", w.fit.sinad(),
      w.enob > 0.0 ? fmt::format(", ENOB {:.2f} of {}", w.enob, range_of(v, "a full range")) : "",
      f.snr, f.thd, f.sfdr);
  lines.push_back(
      w.coherent
          ? plain("the record holds a whole number of periods")
          : plain(fmt::format("not coherent: the nearest coherent frequency is {} for {} samples",
                              words.frequency(w.nearest),
                              std::min<std::uint64_t>(v.samples, std::uint64_t{1} << 20))));
  Table table{.title = fmt::format("{}: harmonics, by {} window, {} segment{} of {}", v.channel,
                                   name(w.spectrum.window), w.spectrum.segments,
                                   quantity::plural(w.spectrum.segments), w.spectrum.segment),
              .columns = {{"order"}, {"frequency"}, words.column("amplitude"), {"dB of the sine"}}};
  for (const auto& t : f.harmonics) {
    table.rows.push_back({fmt::format("{}", t.order), words.frequency(t.frequency),
                          words.cell(std::sqrt(2.0 * t.power)),
                          fmt::format("{:.1f}", 10.0 * std::log10(t.power / f.fundamental.power))});
  }
  report.tables.push_back(std::move(table));
}

void say_step(const record::Verdict& v, const RecordWords& words, Report& report) {
  const auto& s = *v.step;
  const auto& predicted = v.step_predicted;
  say(report.verdict, "{}: a step from {} to {}, noise {}", v.channel, words.value(s.before),
      words.value(s.after), words.difference(s.noise));
  if (!v.feed.step_at) {
    report.verdict.push_back(
        plain("times count from where it leaves the level before: --step-at says "
              "when the step came"));
  }
  Table table{.title = v.channel + ": answer to the step",
              .columns = {{"figure", false}, {"observed"}}};
  if (!v.alone) table.columns.push_back({"by the board"});
  const auto row = [&](std::string what, std::string observed, std::string predicted_value) {
    table.rows.push_back({std::move(what), std::move(observed)});
    if (!v.alone) table.rows.back().push_back(std::move(predicted_value));
  };
  const auto predicted_value = [&](auto figure) {
    return predicted ? figure(*predicted) : std::string("-");
  };
  row("delay to half", words.time(s.delay),
      predicted_value([&](const auto& f) { return words.time(f.delay); }));
  row("rise from 10 to 90 %", words.time(s.rise),
      predicted_value([&](const auto& f) { return words.time(f.rise); }));
  row("overshoot", fmt::format("{:.2f} %", 100.0 * s.overshoot),
      predicted_value([](const auto& f) { return fmt::format("{:.2f} %", 100.0 * f.overshoot); }));
  for (std::size_t i = 0; i < s.settling.size(); ++i) {
    const auto time = [&](const signal::StepFigures& f) {
      return f.settling[i].time ? words.time(*f.settling[i].time)
                                : std::string("cannot be estimated");
    };
    row(fmt::format("settled to {:g} %", 100.0 * s.settling[i].band), time(s),
        predicted_value(time));
  }
  report.tables.push_back(std::move(table));
}

void add_times(Report& report, const std::optional<record::SampleTimes>& times) {
  if (!times) return;
  const auto time = [](double s) { return quantity::engineering(s, quantity::unit("s"), 4); };
  // Less than that is what the digits of the file leave.
  const bool jitters = times->jitter > 1e-6 * times->period;
  say(report.remarks, "one sample every {}{}", time(times->period),
      jitters ? ", jitter " + time(times->jitter) + " rms" : ", without jitter");
  if (times->first_odd == 0) return;
  const auto counted = [](std::uint64_t n, std::string_view what) {
    return fmt::format("{} {}{}", n, what, quantity::plural(n));
  };
  auto odd = counted(times->gaps, "gap");
  if (times->gaps > 0) odd += ", the longest of " + time(times->longest);
  odd += " and " + counted(times->backwards, "backward step");
  if (times->held_back > 0)
    odd += fmt::format("; {} of a backlog came one upon another, at most {} in a row",
                       counted(times->held_back, "sample"), times->backlog);
  say(report.remarks, Tone::bad, "the times have {}; the first before sample {}", odd,
      times->first_odd);
}

}  // namespace

Report of(const result::ChannelRecord& record) {
  const auto& v = record.verdict;
  const auto& unit = record.unit;
  Report report;
  const RecordWords words{unit, v.shows == record::Shows::codes, v.rate};
  if (v.steady) say_steady(v, *v.steady, words, report);
  if (v.wave) say_wave(v, *v.wave, words, report);
  if (v.linearity_assessment) say_straightness(v, *v.linearity_assessment, report);
  if (v.step) say_step(v, words, report);
  say(report.remarks, "{} {}{}", v.samples, name(v.shows),
      v.rate > 0.0
          ? fmt::format(" at {}, {}", quantity::engineering(v.rate, quantity::unit("Sa/s"), 5),
                        words.time(static_cast<double>(v.samples)))
          : ", at an unknown rate: give --rate");
  add_times(report, record.times);
  return report;
}

}  // namespace tamlo::report
