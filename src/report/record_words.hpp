// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>

#include "words.hpp"

// Figures of a record in words: of codes in LSB, of readings in the unit of the quantity; in time
// where the rate is known, else in samples.
namespace tamlo::report {

struct RecordWords {
  quantity::Unit unit;
  bool codes;
  double rate;

  std::string value(double x) const {
    return codes ? fmt::format("{:.2f}", x) : with_unit(quantity::significant(x, unit, 6), unit);
  }
  std::string difference(double x) const { return codes ? number(x) + " LSB" : amount(x, unit, 3); }
  /// A difference beside another one, without its unit.
  std::string number(double x) const {
    return codes ? quantity::significant(x, quantity::Unit{}, 3)
                 : quantity::significant(x, quantity::difference_unit(unit), 3);
  }
  std::string of_quantity(double x) const {
    return with_unit(quantity::significant(x, unit, 4), unit);
  }
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

}  // namespace tamlo::report
