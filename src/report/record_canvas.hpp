// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>

#include "gnuplot.hpp"
#include "record_words.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

// What the pictures of records share.
namespace tamlo::report {

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
