// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <optional>
#include <string>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/chain/source.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/frontend.hpp"

// Two resistors.
namespace tamlo {
namespace chain TAMLO_API {

/// A voltage over two resistors; the resistance it comes from loads the top one. Of one network
/// both are p[network] times as large.
struct DividerLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t top, bottom;
  std::optional<std::size_t> network{};
};

template <class P>
inline Signal forward_of(const DividerLaw& law, const Signal& in, const P& p) {
  const double size = law.network ? p[*law.network] : 1.0;
  const double above = in.resistance + size * p[law.top];
  const double below = size * p[law.bottom];
  return {.value = in.value * (below / (above + below)), .resistance = parallel(above, below)};
}

template <class P>
inline double inverse_of(const DividerLaw& law, double out, const P& p) {
  return out * (p[law.top] + p[law.bottom]) / p[law.bottom];
}

template <class Builder>
void build_part(Builder& b, const model::Divider& divider) {
  const auto name = b.unique("divider");
  DividerLaw law{.top = b.part(name + " top", name, divider.top, "ohm"),
                 .bottom = b.part(name + " bottom", name, divider.bottom, "ohm")};
  if (!divider.network.limits.empty()) {
    law.network =
        b.part(name + " network", name, {.nominal = 1.0, .limits = divider.network.limits}, "");
  }
  for (const auto& limit : divider.tracking.limits) {
    const auto nature = nature_of(limit);
    b.source(name + " tracking " + std::string(chain::name(kind_of(nature))), law.top, name, limit,
             {.relative = divider.top.or_zero()}, nature);
  }
  b.stage(name, law, "V");
}

}  // namespace chain
}  // namespace tamlo
