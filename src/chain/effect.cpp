// SPDX-License-Identifier: Apache-2.0
// What one source does to a reading or to a code, when it is moved either way.
#include <cmath>
#include <optional>

#include "tamlo/chain/chain.hpp"

namespace tamlo::chain {
namespace {

// [figure(+size) - figure(-size)] / 2; `p` is left as it was.
template <class Figure>
double half_difference(const Source& source, double size, std::vector<double>& p,
                       const Figure& figure) {
  const double nominal = p[source.parameter];
  p[source.parameter] = nominal + size;
  const double above = figure(p);
  p[source.parameter] = nominal - size;
  const double below = figure(p);
  p[source.parameter] = nominal;
  return (above - below) / 2.0;
}

double effect_between(const Chain& chain, const Place& at, const std::optional<Place>& tare,
                      const Source& source, double size, std::vector<double>& p) {
  const auto of_reading = [&](const Place& there) {
    return half_difference(source, size, p, [&](Parameters moved) {
      return read_moved(chain, there, moved, source.parameter);
    });
  };
  if (!tare) return of_reading(at);
  // Readings at one place share its shape.
  const bool shared = source.kind() == Kind::nonlinearity && at.x == tare->x;
  if (own_of_place(source.kind()) && !shared) {
    // The reading and the tare each have their own.
    const double own = of_reading(at);
    return std::copysign(std::hypot(own, of_reading(*tare)), own);
  }
  return half_difference(source, size, p, [&](Parameters moved) {
    const double own = read_moved(chain, at, moved, source.parameter);
    return own - (read_moved(chain, *tare, moved, source.parameter) - tare->x);
  });
}

std::optional<Place> place_of_tare(const Chain& chain) {
  const auto& tare = chain.channel.scaling.tare;
  return tare ? std::optional(place(chain, *tare)) : std::nullopt;
}

}  // namespace

double effect(const Chain& chain, double x, const Source& source, double size,
              std::vector<double>& p) {
  return effect_between(chain, place(chain, x), place_of_tare(chain), source, size, p);
}

std::vector<double> effects(const Chain& chain, double x, const std::vector<double>& sizes) {
  const auto at = place(chain, x);
  const auto tare = place_of_tare(chain);
  auto p = chain.nominal;
  std::vector<double> result;
  result.reserve(sizes.size());
  for (std::size_t i = 0; i < sizes.size(); ++i) {
    result.push_back(effect_between(chain, at, tare, chain.sources[i], sizes[i], p));
  }
  if (chain.followed.empty()) return result;
  auto followed = followed_at(chain, x);
  if (tare) {
    const auto there = followed_at(chain, tare->x);
    for (std::size_t i = 0; i < sizes.size(); ++i) followed[i] -= there[i];
  }
  for (std::size_t i = 0; i < sizes.size(); ++i) result[i] -= followed[i] * sizes[i];
  return result;
}

std::vector<double> tare_effects(const Chain& chain, const std::vector<double>& sizes) {
  const auto tare = place_of_tare(chain);
  std::vector<double> result;
  if (!tare) return result;
  auto p = chain.nominal;
  for (std::size_t i = 0; i < sizes.size(); ++i) {
    const bool own = own_of_place(chain.sources[i].kind());
    result.push_back(own ? effect_between(chain, *tare, {}, chain.sources[i], sizes[i], p) : 0.0);
  }
  return result;
}

ConversionSpread conversion_spread(const Chain& chain, double x) {
  ConversionSpread result{.noise = noise_in_codes(chain, x)};
  auto p = chain.nominal;
  for (const auto& source : chain.sources) {
    if (source.kind() != Kind::interference) continue;
    result.amplitudes +=
        std::abs(code_effect(chain, x, source, interference_limit_at(chain, source, x), p));
  }
  return result;
}

double code_effect(const Chain& chain, double x, const Source& source, double size,
                   std::vector<double>& p) {
  return half_difference(source, size, p, [&](Parameters moved) { return code(chain, x, moved); });
}

}  // namespace tamlo::chain
