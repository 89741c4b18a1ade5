// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <algorithm>
#include <cstddef>

#include "tamlo/chain/chain.hpp"

// What batches of one unit and of many share: a part on one signal, and the firmware's way back on
// a block of values.
namespace tamlo::chain {

template <class Law, class P>
Signal one(const Law& law, const Signal& in, const P& p) {
  if constexpr (requires { forward_of(law, in, p); }) {
    return forward_of(law, in, p);
  } else {
    return {.value = forward_of(law, in.value, p)};
  }
}

// The loop in which the compiler sees the part and that its parameters stay as they are.
template <class Law>
void back_through(const Law& law, double* __restrict value, std::size_t n, const double* parameters,
                  std::size_t count) {
  const Parameters p(parameters, count);
  for (std::size_t i = 0; i < n; ++i) value[i] = inverse_of(law, value[i], p);
}

/// What is reported to volts and back to the quantity, by the nominals; as exact_reading() of a
/// firmware without integers or taught points.
inline void exact_readings(const Chain& chain, double* value, std::size_t n) {
  const auto line = count_line(chain);
  for (std::size_t i = 0; i < n; ++i) {
    value[i] = line.low + (value[i] - line.first) * line.per_count;
  }
  for (auto stage = chain.stages.rbegin(); stage != chain.stages.rend(); ++stage) {
    std::visit(
        [&](const auto& of) {
          back_through(of, value, n, chain.nominal.data(), chain.nominal.size());
        },
        stage->law);
  }
}

}  // namespace tamlo::chain
