// SPDX-License-Identifier: Apache-2.0
#include "tamlo/simulate/unit.hpp"

#include <cmath>
#include <numbers>

namespace tamlo::simulate {
namespace {

// A deviation from a distribution of half-width `limit` and standard deviation `standard`.
double deviation(const chain::Source& source, math::Stream& stream) {
  switch (source.distribution) {
    case quantity::Distribution::uniform:
      return source.limit * (2.0 * stream.uniform() - 1.0);
    case quantity::Distribution::normal:
      return source.standard * stream.normal();
    case quantity::Distribution::triangular:
      return source.limit * (stream.uniform() + stream.uniform() - 1.0);
    case quantity::Distribution::arcsine:
      return source.limit * std::sin(std::numbers::pi * (2.0 * stream.uniform() - 1.0));
  }
  return 0.0;
}

}  // namespace

Unit draw(const chain::Chain& chain, std::uint64_t seed, std::uint64_t number) {
  math::Stream stream(seed, number);
  Unit unit{.parameters = chain.nominal};
  for (const auto& source : chain.sources) {
    if (chain::random(source.kind)) continue;
    unit.parameters[source.parameter] += deviation(source, stream);
  }
  return unit;
}

Unit with_deviations(const chain::Chain& chain,
                     const std::vector<std::pair<std::size_t, double>>& deviations) {
  Unit unit{.parameters = chain.nominal};
  for (const auto& [source, size] : deviations) {
    unit.parameters[chain.sources[source].parameter] += size;
  }
  return unit;
}

chain::Conversion convert(const chain::Chain& chain, const Unit& unit, double x,
                          math::Stream& noise) {
  auto p = unit.parameters;
  for (const auto& source : chain.sources) {
    if (source.kind == chain::Kind::noise) p[source.parameter] += deviation(source, noise);
  }
  return chain::convert(chain, chain::code(chain, x, p));
}

double read(const chain::Chain& chain, const chain::Chain& firmware, const Unit& unit, double x,
            math::Stream& noise) {
  double sum = 0.0;
  for (int i = 0; i < chain.channel.average; ++i) {
    sum += static_cast<double>(convert(chain, unit, x, noise).code);
  }
  return chain::reading(firmware, sum / chain.channel.average);
}

}  // namespace tamlo::simulate
