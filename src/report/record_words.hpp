// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>

#include "gnuplot.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"
#include "words.hpp"

// Figures of a record in words: of codes in LSB, of readings in the unit of the quantity; in time
// where the rate is known, else in samples.
namespace tamlo::report {

struct RecordWords {
  quantity::Unit unit;
  bool codes;
  double rate;

  std::string value(double x) const {
    return codes ? fmt::format("{:.2f}", x) : value_with_unit(x, unit, 6);
  }
  std::string difference(double x) const { return codes ? number(x) + " LSB" : amount(x, unit, 3); }
  /// A difference beside another one, without its unit.
  std::string number(double x) const {
    return codes ? quantity::significant(x, quantity::Unit{}, 3)
                 : quantity::significant(x, quantity::difference_unit(unit), 3);
  }
  std::string of_quantity(double x) const { return value_with_unit(x, unit, 4); }
  std::string frequency(double cycles) const {
    return rate > 0.0 ? quantity::engineering(cycles * rate, quantity::unit("Hz"), 5)
                      : fmt::format("{:.5g} cycles a sample", cycles);
  }
  std::string time(double samples) const {
    return rate > 0.0 ? quantity::engineering(samples / rate, quantity::unit("s"), 4)
                      : fmt::format("{:.4g} samples", samples);
  }
  std::string slope(double a_sample) const {
    return rate > 0.0 ? difference(a_sample * rate) + " a second"
                      : difference(a_sample) + " a sample";
  }
  Column column(const std::string& name) const { return {name + (codes ? " [LSB]" : "")}; }
  Cell cell(double x) const {
    if (codes) return fmt::format("{:.4f}", x);
    const auto difference = quantity::difference_unit(unit);
    return quantity::significant(x, difference, 3);
  }
};

// What the pictures of records share.

inline constexpr const char* blue = "#2266aa";

/// One record, its values and times as they are drawn.
struct Canvas {
  const record::Verdict& v;
  quantity::Unit unit;

  bool codes() const { return v.shows == record::Shows::codes; }
  double value(double x) const { return codes() ? x : quantity::in_unit(x, unit); }
  double difference(double x) const {
    return codes() ? x : quantity::in_unit(x, quantity::difference_unit(unit));
  }
  std::string value_label() const { return codes() ? "code" : heading(v.channel, unit); }
  std::string difference_label(const std::string& text) const {
    return codes() ? text + " [LSB]" : heading(text, quantity::difference_unit(unit));
  }
  double time(double samples) const { return v.rate > 0.0 ? samples / v.rate : samples; }
  double frequency(double cycles) const { return v.rate > 0.0 ? cycles * v.rate : cycles; }
  const char* time_label() const { return v.rate > 0.0 ? "time [s]" : "sample"; }
  const char* frequency_label() const {
    return v.rate > 0.0 ? "frequency [Hz]" : "cycles a sample";
  }
  std::string title() const { return of(result::ChannelRecord{v, unit}).verdict.front().text; }
};

}  // namespace tamlo::report
