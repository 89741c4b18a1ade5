// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/laws.hpp"

#include <algorithm>

namespace tamlo::chain {
Signal forward(const Law& law, const Signal& in, Parameters p) {
  return std::visit(
      [&](const auto& part) -> Signal {
        // A sensor takes the quantity, and most have no resistance to speak of.
        if constexpr (requires { forward_of(part, in, p); }) {
          return forward_of(part, in, p);
        } else {
          return {.value = forward_of(part, in.value, p)};
        }
      },
      law);
}

double inverse(const Law& law, double out, Parameters p) {
  return std::visit([&](const auto& part) { return inverse_of(part, out, p); }, law);
}

double measured_inl(const ConverterLaw& law, double code) {
  const auto& table = law.inl_table;
  if (table.empty()) return 0.0;
  const auto beyond = std::ranges::lower_bound(table, code, {}, &model::InlPoint::code);
  if (beyond == table.begin()) return table.front().inl;
  if (beyond == table.end()) return table.back().inl;
  const auto before = beyond - 1;
  const double part = (code - before->code) / (beyond->code - before->code);
  return before->inl + part * (beyond->inl - before->inl);
}

}  // namespace tamlo::chain
