// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/frontend.hpp"

// A resistor that a current flows through.
namespace tamlo {
namespace chain TAMLO_API {

/// A current through p[resistance].
struct ShuntLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t resistance;
};

template <class P>
inline Signal forward_of(const ShuntLaw& law, const Signal& in, const P& p) {
  return {.value = in.value * p[law.resistance], .resistance = p[law.resistance]};
}

template <class P>
inline double inverse_of(const ShuntLaw& law, double out, const P& p) {
  return out / p[law.resistance];
}

template <class Builder>
void build_part(Builder& b, const model::Shunt& shunt) {
  b.stage("shunt", ShuntLaw{b.part("shunt", "shunt", shunt.resistance, "ohm")}, "V");
}

}  // namespace chain
}  // namespace tamlo
