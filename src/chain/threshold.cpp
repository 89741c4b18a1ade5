// SPDX-License-Identifier: Apache-2.0
#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/reading_distribution.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/detail/search.hpp"

namespace tamlo::chain {
namespace {

// What the firmware asks of a register value.
using Asked = std::function<bool(double)>;

// Readings until so many in a row say yes, on average, where each does so by itself with a
// probability above 0 (Feller 1968, XIII.7).
double until(double probability, int in_a_row) {
  double readings = 0.0;
  for (int i = 0; i < in_a_row; ++i) readings = (readings + 1.0) / probability;
  return readings;
}

// How many in a row false trips count: one where readings share conversions, whose run of a few is
// hardly rarer than one.
int counted_in_a_row(const Chain& chain, int debounce) {
  const auto& digital = chain.firmware.digital;
  if (debounce == 1) return 1;
  const bool apart =
      impulse_response(digital).size() <= static_cast<std::size_t>(decimation(digital));
  return apart ? debounce : 1;
}

void add_debounce(ThresholdFigures& figures, int debounce, int counted) {
  figures.debounce = debounce;
  figures.debounce_counted = counted == debounce;
  if (figures.reading_rate > 0.0) figures.debounce_delay = (debounce - 1) / figures.reading_rate;
}

// A place at which the firmware switches, and what noise does there.
class Switch {
 public:
  Switch(const Chain& chain, double at)
      : chain_(chain),
        reading_(chain, at),
        here_(code(chain, at, chain.nominal)),
        rising_(code(chain, chain.channel.span.high, chain.nominal) >=
                code(chain, chain.channel.span.low, chain.nominal)) {}

  bool rising() const { return rising_; }
  double reported_at(double x) const {
    return static_cast<double>(register_value(chain_, code(chain_, x, chain_.nominal)));
  }
  /// A firmware that compares register values: on from there on, in the direction in which they
  /// move with the quantity.
  Asked reaches(double value) const {
    return [=, this](double number) { return rising_ ? number >= value : number <= value; };
  }

  /// The unquantised code at which one reading in two answers yes to what only high values do.
  double edge(const Asked& reached) const {
    const auto below = [&](double at) { return (probability(at, reached) < 0.5) == rising_; };
    double reach = 2.0 + 2.0 * chain_.report.step, low = here_ - reach, high = here_ + reach;
    for (; !below(low) && reach < chain_.conversion.codes; reach *= 2.0) low -= reach;
    for (; below(high) && reach < chain_.conversion.codes; reach *= 2.0) high += reach;
    return math::bisect(low, high, 50, below).middle();
  }

  /// Pairs of false trips a reading, at the worst place between the edges: the inverse of the
  /// readings that it takes on average to go on and off again, each by so many in a row.
  double trips(const Asked& on, const Asked& stays, int in_a_row) const {
    const double middle = (edge(on) + edge(stays)) / 2.0;
    constexpr int places = 16;
    double worst = 0.0;
    for (int i = -places; i <= places; ++i) {
      const double at = middle + chain_.report.width * i / places;
      const double goes_on = probability(at, on), goes_off = 1.0 - probability(at, stays);
      if (goes_on > 0.0 && goes_off > 0.0) {
        worst = std::max(worst, 1.0 / (until(goes_on, in_a_row) + until(goes_off, in_a_row)));
      }
    }
    return worst;
  }

 private:
  const Chain& chain_;
  ReadingDistribution reading_;
  double here_;
  bool rising_;

  double probability(double unquantised, const Asked& holds) const {
    double sum = 0.0;
    for (const auto& [value, p] : reading_.outcomes(unquantised)) {
      if (holds(value)) sum += p;
    }
    return sum;
  }
};

// The least hysteresis with which the trips stay at `allowed` a reading.
double needed(const Chain& chain, const Switch& threshold, double noise, int in_a_row,
              double allowed) {
  const double at = chain.channel.threshold->at;
  const auto on = threshold.reaches(threshold.reported_at(at));
  const auto trips = [&](double hysteresis) {
    return threshold.trips(on, threshold.reaches(threshold.reported_at(at - hysteresis)), in_a_row);
  };
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
  const auto& threshold = chain.channel.threshold;
  if (!threshold) return {};
  const Switch compares(chain, threshold->at);
  ThresholdFigures result{.on_code = compares.reported_at(threshold->at),
                          .off_code = compares.reported_at(threshold->at - threshold->hysteresis),
                          .noise = reading_noise(chain, threshold->at),
                          .reading_rate = output_rate(chain.firmware.digital)};
  const auto on = compares.reaches(result.on_code), stays = compares.reaches(result.off_code);
  result.on = quantity_at(chain, compares.edge(on));
  result.off = quantity_at(chain, compares.edge(stays));
  const int in_a_row = counted_in_a_row(chain, threshold->debounce);
  add_debounce(result, threshold->debounce, in_a_row);
  if (result.reading_rate > 0.0) {
    result.false_trips = result.reading_rate * compares.trips(on, stays, in_a_row);
    if (threshold->false_trip_every) {
      result.needed = needed(chain, compares, result.noise, in_a_row,
                             1.0 / *threshold->false_trip_every / result.reading_rate);
    }
  }
  return result;
}

namespace {

constexpr double never = std::numeric_limits<double>::infinity();

// The first register value, by a rising quantity, whose reading is at least so much; `never` where
// none is, as of an edge beyond the converter.
double first_reaching(const Chain& chain, bool rising, double at_least) {
  const std::int64_t first = chain.report.first_reported, last = chain.report.last_reported;
  const auto value = [&](std::int64_t step) {
    return static_cast<double>(rising ? first + step : last - step);
  };
  const auto reaches = [&](std::int64_t step) { return reading(chain, value(step)) >= at_least; };
  const auto step = math::first_that(0, last - first, reaches);  // in the direction of the quantity
  return reaches(step) ? value(step) : never;
}

// The last one before that; `never` where the first already is so much.
double last_below(const Chain& chain, bool rising, double at_least) {
  const double first = first_reaching(chain, rising, at_least);
  const auto ends = chain.report;
  if (first == static_cast<double>(rising ? ends.first_reported : ends.last_reported)) return never;
  if (first == never) return static_cast<double>(rising ? ends.last_reported : ends.first_reported);
  return rising ? first - 1.0 : first + 1.0;
}

}  // namespace

std::vector<ThresholdFigures> zone_edges(const Chain& chain) {
  std::vector<ThresholdFigures> result;
  if (!chain.channel.zones) return result;
  const auto& zones = *chain.channel.zones;
  const int in_a_row = counted_in_a_row(chain, zones.debounce);
  for (const double at : zones.edges) {
    const Switch compares(chain, at);
    // A value that is the edge, up to rounding, has reached it.
    const double slack = 1e-9 * chain.channel.span.width();
    const auto asks = [&](double edge) {
      return [&chain, edge, slack](double value) { return reading(chain, value) >= edge - slack; };
    };
    const double leaves = at - zones.hysteresis;
    const bool rising = compares.rising();
    auto& figures =
        result.emplace_back(ThresholdFigures{.on_code = first_reaching(chain, rising, at - slack),
                                             .off_code = last_below(chain, rising, leaves - slack),
                                             .on = never,
                                             .off = never,
                                             .noise = reading_noise(chain, at),
                                             .reading_rate = output_rate(chain.firmware.digital)});
    add_debounce(figures, zones.debounce, in_a_row);
    // It is never entered, or every register value lies in it: there is no place where it tips.
    if (figures.on_code == never || last_below(chain, rising, at - slack) == never) continue;
    figures.on = quantity_at(chain, compares.edge(asks(at)));
    if (figures.off_code == never) continue;  // it is never left
    figures.off = quantity_at(chain, compares.edge(asks(leaves)));
    if (figures.reading_rate > 0.0) {
      figures.false_trips = figures.reading_rate * compares.trips(asks(at), asks(leaves), in_a_row);
    }
  }
  return result;
}

std::vector<ZoneWidth> zone_widths(const Chain& chain, const std::vector<ThresholdFigures>& edges) {
  std::vector<ZoneWidth> result;
  if (!chain.channel.zones) return result;
  const auto& span = chain.channel.span;
  const auto& wanted = chain.channel.zones->edges;
  const auto reported_at = [&](double x) {
    return static_cast<double>(register_value(chain, code(chain, x, chain.nominal)));
  };
  const auto begin = [&](std::size_t edge) {
    const double on = edges[edge].on_code;
    return on == never ? reported_at(wanted[edge]) : on;
  };
  for (std::size_t i = 0; i <= wanted.size(); ++i) {
    const bool first = i == 0, last = i == wanted.size();
    ZoneWidth width{.from = first ? span.low : wanted[i - 1], .to = last ? span.high : wanted[i]};
    const double low = first ? reported_at(span.low) : begin(i - 1);
    const double high = last ? reported_at(span.high) : begin(i);
    width.codes = std::abs(high - low);
    const double noise = edges[last ? i - 1 : i].noise;
    // The outermost zones go on beyond the span.
    width.narrow = !first && !last &&
                   (width.codes < 4.0 || width.to - width.from < math::peak_to_peak * noise);
    result.push_back(width);
  }
  return result;
}

}  // namespace tamlo::chain
