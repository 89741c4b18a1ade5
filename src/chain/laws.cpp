// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/laws.hpp"

namespace tamlo::chain {
Signal forward(const Law& law, const Signal& in, Parameters p) {
  return std::visit(
      [&](const auto& of) -> Signal {
        // A sensor takes the quantity, and most have no resistance to speak of.
        if constexpr (requires { forward_of(of, in, p); }) {
          return forward_of(of, in, p);
        } else {
          return {.value = forward_of(of, in.value, p)};
        }
      },
      law);
}

double inverse(const Law& law, double out, Parameters p) {
  return std::visit([&](const auto& of) { return inverse_of(of, out, p); }, law);
}

}  // namespace tamlo::chain
