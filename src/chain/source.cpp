// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/source.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>

#include "tamlo/model/board.hpp"
#include "tamlo/names.hpp"

namespace tamlo::chain {

std::string_view name(Kind kind) {
  return name_in({"tolerance", "temperature", "ageing", "nonlinearity", "noise", "interference",
                  "quantisation"},
                 kind);
}

bool random(Kind kind) {
  return kind == Kind::noise || kind == Kind::interference || kind == Kind::quantisation;
}

bool own_of_place(Kind kind) { return random(kind) || kind == Kind::nonlinearity; }

double half_width(const quantity::Limit& limit, const Scale& scale,
                  const model::Conditions& conditions) {
  double size = limit.size;
  switch (limit.basis) {
    case quantity::Basis::absolute:
      size *= scale.absolute;
      break;
    case quantity::Basis::relative:
      size *= scale.relative;
      break;
    case quantity::Basis::code:
      size *= scale.code;
      break;
    case quantity::Basis::span:
      size *= scale.span;
      break;
    default:
      assert(false && "the reader lets no other basis through to a parameter");
  }
  // The steps of the codes, which an SNR holds, are a source of their own.
  if (limit.with_steps)
    size = std::sqrt(std::max(size * size - scale.code * scale.code / 12.0, 0.0));
  return quantity::drifted(limit, size, conditions.temperature.farthest(conditions.specified_at),
                           conditions.age);
}

double limit_of(const quantity::Value& value, const model::Conditions& conditions) {
  double result = 0.0;
  for (const auto& limit : value.limits)
    result += half_width(limit, {.relative = std::abs(value.or_zero())}, conditions);
  return result;
}

Nature nature_of(const quantity::Limit& limit) {
  if (limit.noise) return Noise{};
  switch (limit.drift) {
    case quantity::Drift::none:
      return Tolerance{};
    case quantity::Drift::temperature:
      return Temperature{};
    case quantity::Drift::time:
      return Ageing{};
  }
  return Tolerance{};
}

}  // namespace tamlo::chain
