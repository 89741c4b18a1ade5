// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/advice.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/reading_sampler.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/search.hpp"

namespace tamlo::budget {
namespace {

// Advice runs many budgets: a tenth of the units of one do.
constexpr std::uint64_t rough_units = 2000;

using chain::Chain;

// How small (or large) a source may be, by running the chain with it so: a bisection up to ten
// times its limit.
Shrink shrink(const Chain& chain, const Point& point, std::size_t source, double coverage) {
  Shrink result{.source = chain.sources[source].name, .share = point.contributions[source].share};
  const auto meets = [&](double part) {
    auto changed = chain;
    changed.sources[source].limit *= part;
    changed.sources[source].standard_uncertainty *= part;
    try {
      const auto run = evaluate(changed, {.at = {point.at},
                                          .coverage = coverage,
                                          .search = false,
                                          .rough_units = rough_units,
                                          .check_units = 0,
                                          .details = model::takes_worst_case(point.by)});
      return run.points.front().error() <= point.limit.value_or(0.0);
    } catch (const DataError&) {
      return false;  // readings that do not follow the quantity at all
    }
  };
  if (!meets(0.0)) return result;
  constexpr double most = 10.0;
  result.part = meets(most) ? most : math::bisect(0.0, most, 30, meets).low;
  return result;
}

class Levers {
 public:
  Levers(const model::Board& board, Chain chain, double coverage)
      : board_(board),
        name_(chain.channel.name),
        coverage_(coverage),
        before_(std::move(chain)),
        latency_(chain::dynamics(before_).latency),
        worst_(worst_place(before_, {.coverage = coverage})) {}

  Advice advice() {
    Advice result;
    if (worst_.limit) {
      for (const auto source : by_share(worst_)) {
        if (result.shrinks.size() == 3) break;
        if (source == before_.named.quantisation) continue;
        result.shrinks.push_back(shrink(before_, worst_, source, coverage_));
      }
    }
    adjustments();
    attenuations();
    gains();
    averaging();
    supply();
    std::ranges::stable_sort(levers_, {}, [](const Lever& lever) {
      return lever.limit ? lever.error / *lever.limit : lever.error;
    });
    result.levers = std::move(levers_);
    return result;
  }

 private:
  const model::Board& board_;
  std::string name_;
  double coverage_;
  Chain before_;
  double latency_;
  Point worst_;
  std::vector<Lever> levers_;

  void keep(Lever lever) {
    const double before = worst_.limit ? worst_.error() / *worst_.limit : worst_.error();
    const double after = lever.limit ? lever.error / *lever.limit : lever.error;
    if (after < 0.99 * before) levers_.push_back(std::move(lever));
  }

  void adjustments() {
    const auto& channel = before_.channel;
    if (channel.adjustment || model::takes_worst_case(channel.target.by)) return;
    // The place that is worst after the adjustment, of a grid over the span.
    Request request{
        .coverage = coverage_, .search = false, .rough_units = rough_units, .check_units = 0};
    const auto& span = before_.channel.span;
    for (int i = 0; i <= 32; ++i)
      request.at.push_back(std::min(span.high, span.low + span.width() * i / 32.0));
    const auto budget = evaluate(before_, request);
    for (const auto& [change, figure] :
         {std::pair{"a zero adjustment", &Adjusted::zero},
          std::pair{"a two-point adjustment", &Adjusted::two_point}}) {
      Lever lever{.change = change, .latency = latency_, .latency_before = latency_};
      double most = -1.0;
      lever.suffices = true;
      for (const auto& point : budget.points) {
        const double left = std::abs(point.adjusted_bias.*figure) + point.adjusted.*figure;
        const double part = point.limit ? left / *point.limit : left;
        lever.suffices = lever.suffices && (!point.limit || left <= *point.limit);
        if (part <= most) continue;
        most = part;
        lever.at = point.at;
        lever.error = left;
        lever.limit = point.limit;
      }
      keep(std::move(lever));
    }
  }

  // Runs the channel with something about the board changed.
  template <class Change>
  void lever(std::string change, Change apply) {
    auto board = board_;
    for (auto& channel : board.channels) {
      if (channel.name == name_) apply(board, channel);
    }
    try {
      try_out(std::move(change), chain::build(board, name_));
    } catch (const Error&) {
      // No such board can be, or its readings do not follow the quantity.
    }
  }

  void try_out(std::string change, const Chain& chain) {
    const auto& span = chain.channel.span;
    for (const double x : {span.low, span.high}) {
      if (chain::saturates(chain, x)) return;
      if (chain::convert(chain, chain::code(chain, x, chain.nominal)).clipped) return;
    }
    const auto worst =
        worst_place(chain, {.coverage = coverage_, .rough_units = rough_units, .check_units = 0});
    keep({.change = std::move(change),
          .at = worst.at,
          .error = worst.error(),
          .limit = worst.limit,
          .suffices = !worst.limit || worst.error() <= *worst.limit,
          .latency = chain::dynamics(chain).latency,
          .latency_before = latency_});
  }

  void attenuations() {
    const auto& span = before_.channel.span;
    const double a = chain::voltage(before_, span.low, before_.nominal);
    const double b = chain::voltage(before_, span.high, before_.nominal);
    for (const auto& attenuation : before_.converter.attenuations) {
      if (attenuation.name == before_.channel.attenuation) continue;
      if (!attenuation.usable.holds(std::min(a, b)) || !attenuation.usable.holds(std::max(a, b)))
        continue;
      lever(
          fmt::format("attenuation = \"{}\"", attenuation.name),
          [&](model::Board&, model::Channel& channel) { channel.attenuation = attenuation.name; });
    }
  }

  void gains() {
    for (std::size_t i = 0; i < before_.channel.frontend.size(); ++i) {
      const auto* amplifier = std::get_if<model::Amplifier>(&before_.channel.frontend[i]);
      if (amplifier == nullptr) continue;
      for (const auto& gain : amplifier->gains) {
        if (gain.name == amplifier->use) continue;
        lever(fmt::format("use = \"{}\"", gain.name), [&](model::Board&, model::Channel& channel) {
          std::get<model::Amplifier>(channel.frontend[i]).gain = gain.gain;
        });
      }
    }
  }

  void averaging() {
    const auto& average = before_.channel.average;
    const auto text =
        average.time ? fmt::format("average = {{ time = \"{:.4g} ms\" }}", 16e3 * *average.time)
                     : fmt::format("average = {}", 16 * average.count);
    lever(text, [](model::Board&, model::Channel& channel) {
      channel.average.count *= 16;
      if (channel.average.time) *channel.average.time *= 16.0;
    });
  }

  // A sensor fed from another reference than the converter's.
  void supply() {
    const auto reference = before_.converter.reference;
    const auto ratiometric = [&](std::string& name) {
      const bool other = !name.empty() && name != reference;
      name = reference;
      return other;
    };
    auto trial = before_.channel;
    bool other = false;
    if (trial.sensor) {
      if (auto* potentiometer = std::get_if<model::Potentiometer>(&*trial.sensor))
        other |= ratiometric(potentiometer->supply);
      if (auto* bridge = std::get_if<model::Bridge>(&*trial.sensor))
        other |= ratiometric(bridge->excitation);
    }
    for (auto& part : trial.frontend) {
      if (auto* sensor_divider = std::get_if<model::SensorDivider>(&part))
        other |= ratiometric(sensor_divider->supply);
    }
    if (!other) return;
    lever(fmt::format("the sensor fed from {}, the converter's reference", reference),
          [&](model::Board&, model::Channel& channel) {
            channel.sensor = trial.sensor;
            channel.frontend = trial.frontend;
          });
  }
};

}  // namespace

Advice advise(const model::Board& board, const std::string& channel, double coverage) {
  // Some dozen budgets are run: not of readings that take a second for a hundred.
  constexpr double most_effort = 2e3;
  auto chain = chain::build(board, channel);
  const auto& span = chain.channel.span;
  for (const double x : {span.low, span.middle(), span.high}) {
    if (chain::ReadingSampler(chain, x).effort() > most_effort) return {.tried = false};
  }
  return Levers(board, std::move(chain), coverage).advice();
}

}  // namespace tamlo::budget
