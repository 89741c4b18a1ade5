// SPDX-License-Identifier: Apache-2.0
// What a channel lets through, and how its readings follow a step: curves to draw.
#include <algorithm>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/error.hpp"

namespace tamlo::chain {

Response response(const Chain& chain, int count) {
  require(count > 0, "steps of the frequency, one at least");
  auto digital = chain.firmware.digital;
  Response result{.rate_known = digital.rate > 0.0};
  if (!result.rate_known) digital.rate = 1.0;
  for (int i = 0; i <= count; ++i) {
    const double frequency = digital.rate / 2.0 * i / count;
    const double part = magnitude(digital, frequency);
    const double before = result.rate_known ? analog_magnitude(chain, frequency) : 1.0;
    result.passed.push_back({.frequency = frequency, .digital = part, .whole = part * before});
  }
  const auto series = dynamics(chain).series;
  if (series.output_rate > 0.0) result.period = 1.0 / series.output_rate;
  result.answers = step_response(chain.firmware.digital, std::clamp(series.to_code + 3, 8, 4000));
  return result;
}

}  // namespace tamlo::chain
