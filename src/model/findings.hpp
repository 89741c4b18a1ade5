// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <string>
#include <utility>
#include <vector>

#include "tamlo/model/validate.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "tamlo/quantity/value.hpp"

namespace tamlo::model {

// What is wrong, collected. Comparisons are written so that what is not a number fails them.
class Findings {
 public:
  std::vector<Problem> problems{};

  void add(std::string code, std::string path, std::string problem, std::string hint) {
    problems.push_back({.path = std::move(path),
                        .problem = std::move(problem),
                        .hint = std::move(hint),
                        .code = std::move(code)});
  }

  // What is computed grows with these.
  void at_most(const std::string& path, std::size_t count, std::size_t most,
               const char* text = "of them") {
    if (count <= most) return;
    add("out-of-bounds", path, std::to_string(count) + " " + text,
        "at most " + std::to_string(most));
  }
  // Names come back in every output.
  void name(const std::string& path, const std::string& text) {
    constexpr std::size_t most = 1000;  // bytes
    if (text.size() > most) {
      return add("out-of-bounds", path, std::to_string(text.size()) + " bytes",
                 "at most " + std::to_string(most) + " bytes");
    }
    if (quantity::printable(text) == text) return;
    add("control-character", path, "\"" + quantity::printable(text) + "\"",
        "text without control characters");
  }
  bool finite(const std::string& path, double number) {
    const auto size = std::abs(number);
    // Beyond these sizes products leave the range of numbers, and no part has them.
    if (number == 0.0 || (size >= 1e-30 && size <= 1e30)) return true;
    if (std::isfinite(number)) {
      add("out-of-bounds", path, shown(number), "0, or a size from 1e-30 to 1e30 in SI units");
    } else {
      add("not-finite", path, shown(number), "a finite number");
    }
    return false;
  }
  void within(const std::string& path, double number, double low, double high) {
    if (number >= low && number <= high) return;
    add("out-of-bounds", path, shown(number), "from " + shown(low) + " to " + shown(high));
  }
  bool ordered(const std::string& path, const quantity::Range& range, bool one_value) {
    const bool rises = one_value ? range.low <= range.high : range.low < range.high;
    if (rises) return finite(path, range.low) && finite(path, range.high);
    add("out-of-bounds", path, shown(range.low) + " to " + shown(range.high),
        "a range whose low end is below its high one");
    return false;
  }
  void limit(const std::string& path, const quantity::Limit& limit) {
    const bool sound = limit.size >= 0.0 && limit.size <= 1e30 && limit.per > 0.0 &&
                       std::isfinite(limit.per) && limit.coverage_factor > 0.0 &&
                       std::isfinite(limit.coverage_factor);
    if (!sound) add("out-of-bounds", path, "a limit of " + shown(limit.size), "a finite limit");
  }
  void value(const std::string& path, const quantity::Value& value) {
    finite(path, value.or_zero());
    for (const auto& each : value.limits) limit(path, each);
  }
  // A value that something is divided by, wherever in its limits it lies.
  void not_zero(const std::string& path, const quantity::Value& value) {
    double part = 0.0;
    for (const auto& limit : value.limits) {
      if (limit.basis == quantity::Basis::relative && limit.drift == quantity::Drift::none) {
        part += limit.size;
      }
    }
    if (part >= 1.0) {
      add("out-of-bounds", path, "limits of ±100 % and more", "limits that do not reach 0");
    }
  }

 private:
  static std::string shown(double number);
};

/// Formulas of channels that cannot be read, or that give another unit than their span.
void validate_quantities(const Board& board, Findings& f);

}  // namespace tamlo::model
