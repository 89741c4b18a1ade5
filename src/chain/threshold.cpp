// SPDX-License-Identifier: Apache-2.0
#include <algorithm>
#include <cmath>
#include <functional>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/discrete.hpp"
#include "tamlo/chain/dynamics.hpp"

namespace tamlo::chain {
namespace {

// A firmware that compares register values: on from `on` on in the direction in which the codes
// move with the quantity, off again before `off`.
class Switch {
 public:
  Switch(const Chain& chain, double at)
      : chain_(chain),
        reading_(chain, at),
        rising_(code(chain, chain.channel.span.high, chain.nominal) >=
                code(chain, chain.channel.span.low, chain.nominal)),
        on_(reported_at(at)),
        on_edge_(edge(on_)) {}

  double reported_at(double x) const {
    return static_cast<double>(register_value(chain_, code(chain_, x, chain_.nominal)));
  }
  double on() const { return on_; }
  double on_edge() const { return on_edge_; }

  /// The unquantised code at which one reading in two has reached `value`.
  double edge(double value) const {
    const auto codes =
        codes_reported_as(chain_.report, static_cast<std::int64_t>(std::floor(value)));
    double low = static_cast<double>(codes.first) - 1.0 - chain_.report.step;
    double high = static_cast<double>(codes.last) + 1.0 + chain_.report.step;
    for (int i = 0; i < 50; ++i) {
      const double middle = (low + high) / 2.0;
      ((reaches(middle, value) < 0.5) == rising_ ? low : high) = middle;
    }
    return (low + high) / 2.0;
  }

  /// Pairs of false trips a reading, at the worst place between the edges: the inverse of the
  /// readings that it takes on average to go on and off again.
  double trips(double off) const {
    const double middle = (on_edge_ + edge(off)) / 2.0;
    constexpr int places = 16;
    double worst = 0.0;
    for (int i = -places; i <= places; ++i) {
      const double at = middle + chain_.report.width * i / places;
      const double goes_on = reaches(at, on_), goes_off = leaves(at, off);
      if (goes_on > 0.0 && goes_off > 0.0) {
        worst = std::max(worst, goes_on * goes_off / (goes_on + goes_off));
      }
    }
    return worst;
  }

 private:
  const Chain& chain_;
  DiscreteReading reading_;
  bool rising_;
  double on_, on_edge_;

  double probability(double unquantised, const std::function<bool(double)>& holds) const {
    double sum = 0.0;
    for (const auto& [value, p] : reading_.outcomes(unquantised)) {
      if (holds(value)) sum += p;
    }
    return sum;
  }
  double reaches(double unquantised, double value) const {
    return probability(unquantised, [&](double of) { return rising_ ? of >= value : of <= value; });
  }
  double leaves(double unquantised, double value) const {
    return probability(unquantised, [&](double of) { return rising_ ? of < value : of > value; });
  }
};

// The least hysteresis with which the trips stay at `allowed` a reading.
double needed(const Chain& chain, const Switch& of, double noise, double allowed) {
  const double at = chain.channel.threshold->at;
  const auto trips = [&](double hysteresis) { return of.trips(of.reported_at(at - hysteresis)); };
  if (trips(0.0) <= allowed) return 0.0;
  double low = 0.0, high = std::max(noise, step_at(chain, at));
  while (trips(high) > allowed && high < chain.channel.span.width())
    low = std::exchange(high, 2.0 * high);
  while (high - low > 1e-3 * high) {
    const double middle = (low + high) / 2.0;
    (trips(middle) > allowed ? low : high) = middle;
  }
  return high;
}

}  // namespace

std::optional<ThresholdFigures> threshold(const Chain& chain) {
  const auto& of = chain.channel.threshold;
  if (!of) return {};
  const Switch compares(chain, of->at);
  ThresholdFigures result{.on_code = compares.on(),
                          .off_code = compares.reported_at(of->at - of->hysteresis),
                          .noise = reading_noise(chain, of->at),
                          .reading_rate = output_rate(chain.firmware.digital)};
  result.on = quantity_at(chain, compares.on_edge());
  result.off = quantity_at(chain, compares.edge(result.off_code));
  if (result.reading_rate > 0.0) {
    result.false_trips = result.reading_rate * compares.trips(result.off_code);
    if (of->false_trips) {
      result.needed = needed(chain, compares, result.noise, *of->false_trips / result.reading_rate);
    }
  }
  return result;
}

}  // namespace tamlo::chain
