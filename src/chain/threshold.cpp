// SPDX-License-Identifier: Apache-2.0
#include <cmath>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/math/coverage.hpp"

namespace tamlo::chain {
namespace {

// Where the reported value changes to or from `reported`, seen from above.
double edge_of(const Chain& chain, double x, double& reported) {
  const auto& report = chain.report;
  const auto converted = convert(chain, code(chain, x, chain.nominal));
  const auto value = chain::reported(report, converted.code);
  reported = static_cast<double>(value);
  const auto codes = codes_reported_as(report, value);
  return quantity_at(chain, static_cast<double>(codes.first) - 0.5);
}

}  // namespace

double false_trips(double rate, double sigma, double hysteresis) {
  if (!(sigma > 0.0)) return 0.0;
  // A chain of two states, on and off, each left with the same probability at a reading.
  return rate / 2.0 * math::normal_below(-hysteresis / (2.0 * sigma));
}

double hysteresis_for(double rate, double sigma, double trips) {
  const double probability = 2.0 * trips / rate;
  if (!(probability < 0.5)) return 0.0;
  return -2.0 * sigma * math::normal_quantile(probability);
}

std::optional<ThresholdFigures> threshold(const Chain& chain) {
  const auto& of = chain.channel.threshold;
  if (!of) return {};
  ThresholdFigures result{.noise = reading_noise(chain, of->at),
                          .reading_rate = output_rate(chain.digital)};
  result.on = edge_of(chain, of->at, result.on_code);
  result.off = edge_of(chain, of->at - of->hysteresis, result.off_code);
  if (result.reading_rate > 0.0) {
    result.false_trips = false_trips(result.reading_rate, result.noise, of->hysteresis);
    if (of->false_trips) {
      result.needed = hysteresis_for(result.reading_rate, result.noise, *of->false_trips);
    }
  }
  return result;
}

}  // namespace tamlo::chain
