// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/quantity/format.hpp"

// One channel under examination. Each function below is a chapter of the catalogue.
namespace tamlo::check {

struct Examination {
  const chain::Chain& chain;
  const chain::Dynamics& dynamics;
  const quantity::Range& span;
  std::vector<Finding>& findings;

  void report(std::string identifier, Severity severity, std::string found, std::string why,
              std::string remedy) const {
    findings.push_back({std::move(identifier), severity, chain.channel.name, std::move(found),
                        std::move(why), std::move(remedy)});
  }

  /// A value of the quantity, and a difference of two.
  std::string shown(double x) const { return quantity::engineering(x, span.unit, 4); }
  std::string amount(double x, int digits = 3) const {
    return quantity::engineering(x, quantity::difference_unit(span.unit), digits);
  }
};

inline std::string in_unit(double si, const char* unit, int digits = 4) {
  return quantity::engineering(si, quantity::unit(unit), digits);
}

void examine_range(const Examination& e);
void examine_choices(const Examination& e);
void examine_sensor(const Examination& e);
void examine_time(const Examination& e);
void examine_noise(const Examination& e);
void examine_firmware(const Examination& e);

}  // namespace tamlo::check
