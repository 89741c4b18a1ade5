// SPDX-License-Identifier: Apache-2.0
#include "tamlo/check/check.hpp"

#include <algorithm>

#include "examination.hpp"

namespace tamlo::check {

std::string_view name(Severity severity) {
  switch (severity) {
    case Severity::error:
      return "error";
    case Severity::warning:
      return "warning";
    case Severity::advice:
      return "advice";
  }
  return "";
}

std::vector<Finding> check(const chain::Chain& chain) {
  std::vector<Finding> findings;
  const auto dynamics = chain::dynamics(chain);
  const Examination e{
      .chain = chain, .dynamics = dynamics, .span = chain.channel.span, .findings = findings};
  examine_range(e);
  examine_choices(e);
  examine_sensor(e);
  examine_time(e);
  examine_noise(e);
  examine_firmware(e);
  std::ranges::stable_sort(findings, {}, &Finding::severity);
  return findings;
}

}  // namespace tamlo::check
