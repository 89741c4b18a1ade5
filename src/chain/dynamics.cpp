// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/dynamics.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/step_response.hpp"
#include "tamlo/math/detail/search.hpp"

namespace tamlo::chain {
namespace {

// Below 1e-12 nothing passes: the rest is rounding. A ripple above 1 rejects nothing either.
double decibels(double part) {
  return part > 1e-12 ? -20.0 * std::log10(std::min(part, 1.0)) + 0.0
                      : std::numeric_limits<double>::infinity();
}

FilterFigures figures(const Chain& chain, const Digital& digital, std::string name) {
  const double target = target_band(chain);
  const double rate = digital.rate > 0.0 ? digital.rate : 1.0;
  FilterFigures result{.name = std::move(name),
                       .rate = digital.rate,
                       .output_rate = output_rate(digital),
                       .cutoff = cutoff(digital) * rate,
                       .noise_left = std::sqrt(noise_gain(digital)),
                       .delay = group_delay(digital) / rate,
                       .to_code = readings_to_settle(digital, 1.0 / chain.conversion.codes),
                       .to_permille = readings_to_settle(digital, 1e-3),
                       .to_target = readings_to_settle(digital, target)};
  if (digital.rate > 0.0) {
    // With the filter inside of a delta sigma converter; low-passes of the front end apart.
    const auto rejected = [&](double frequency) {
      return decibels(magnitude(digital, frequency) * converter_magnitude(chain, frequency));
    };
    result.rejection_50_hz = rejected(50.0);
    result.rejection_60_hz = rejected(60.0);
  }
  return result;
}

Alias alias(const Chain& chain, const Source& source) {
  const double frequency = source.interference()->frequency;
  Alias result{.frequency = frequency,
               .at_pin = source.limit,
               .analog = analog_magnitude(chain, frequency),
               .digital = source.filter_gain()};
  const double out = output_rate(chain.firmware.digital);
  if (out > 0.0) result.appears_at = folded(frequency, out);
  auto p = chain.nominal;
  result.amplitude = std::abs(
      effect(chain, chain.channel.span.middle(), source, source.limit * source.filter_gain(), p));
  if (result.analog > 0.0) result.at_pin = source.limit / result.analog;
  return result;
}

std::optional<Settling> settling(const Chain& chain) {
  if (!chain.path.sampling) return {};
  const double resistance = signal(chain, chain.channel.span.middle(), chain.nominal).resistance;
  return Settling{
      .time = chain.path.sampling->time,
      .needed = time_to_settle(*chain.path.sampling, resistance, 0.5 / chain.conversion.codes),
      .left_in_codes =
          std::abs(unsettled(*chain.path.sampling, resistance)) * chain.conversion.codes,
      .time_constant =
          (resistance + chain.path.sampling->switch_resistance) * chain.path.sampling->capacitor};
}

// What averages, filters and low-passes still owe of a step, reading by reading.
class Settles {
 public:
  Settles(const Chain& chain, const Dynamics& dynamics)
      : digital_(chain.firmware.digital),
        // Where no rate is known the low-passes do not count.
        lowpasses_(digital_.rate > 0.0 ? chain.path.time_constants : std::vector<double>{}),
        rate_(digital_.rate > 0.0 ? digital_.rate : 1.0),
        band_(target_band(chain)),
        analog_(digital_.rate > 0.0 ? dynamics.analog_settling * rate_ : 0.0),
        to_target_(dynamics.series.to_target) {
    // 1e-13 of a low-pass is left after 30 time constants, of several in series a little later.
    const double late = 30.0 * lowpasses_.delay() * rate_;
    const bool linear = std::ranges::none_of(digital_.stages, &model::PreparedFilter::median);
    if (!linear || late > 8.0 * decimation(digital_)) return;
    late_ = static_cast<std::size_t>(std::ceil(late));
    answer_ = impulse_response(digital_);
    left_ = answer_;
    left_.push_back(0.0);
    for (auto k = answer_.size(); k-- > 0;) left_[k] = left_[k + 1] + answer_[k];
  }

  // The number of the first reading from which on all are within the target of a step that falls
  // `lost` conversions after a reading, all before it at rest.
  int at(double lost) const {
    const int every = decimation(digital_);
    const double most = to_target_ + 2.0 + std::ceil((1.5 * analog_ + lost) / every);
    // Of what is very long the sum stands, which is not less.
    if (most * every > 4e5) return static_cast<int>(std::min(most, 1e9));
    return answer_.empty() ? by_conversions(lost, static_cast<int>(most))
                           : by_readings(lost, static_cast<int>(most));
  }

 private:
  const Digital& digital_;
  Lowpasses lowpasses_;
  double rate_, band_, analog_;
  int to_target_;
  std::size_t late_ = 0;        // conversions until the low-passes owe nothing
  std::vector<double> answer_;  // to one conversion; empty: medians, or slow low-passes
  std::vector<double> left_;    // the sum of the answer from each place on

  int by_conversions(double lost, int most) const {
    DigitalState state(digital_);
    int readings = 0, settled = 1;
    for (int i = 1; readings < most; ++i) {
      const double since = i > lost ? (i - lost) / rate_ : -1.0;
      if (!state.push(lowpasses_.after_step(since))) continue;
      ++readings;
      if (!has_settled(1.0 - state.value(), band_)) settled = readings + 1;
    }
    return settled;
  }

  // A reading owes the answers to all conversions before the step, and to those right behind it
  // what the low-passes owe there.
  int by_readings(double lost, int most) const {
    const auto every = static_cast<std::size_t>(decimation(digital_));
    const auto before = static_cast<std::size_t>(lost);
    std::vector<double> owed;
    for (std::size_t i = 1; i <= late_; ++i) {
      const double since = static_cast<double>(before + i) - lost;
      owed.push_back(1.0 - lowpasses_.after_step(since / rate_));
    }
    for (auto reading = static_cast<std::size_t>(most); reading > 0; --reading) {
      const auto since = reading * every - std::min(before, reading * every);
      double left = since < left_.size() ? left_[since] : 0.0;
      for (std::size_t i = 1; i <= std::min(late_, since); ++i) {
        if (since - i < answer_.size()) left += answer_[since - i] * owed[i - 1];
      }
      if (!has_settled(left, band_)) return static_cast<int>(reading) + 1;
    }
    return 1;
  }
};

// In conversions, for the worst moment of the step: right behind one that makes one reading more
// necessary than those before.
double longest_until_settled(const Settles& settles, int every) {
  const auto waits = [&](double lost) { return settles.at(lost) * every - lost; };
  constexpr int moments = 16;
  double longest = 0.0;
  for (int i = 0; i < moments; ++i) {
    const double low = static_cast<double>(every) * i / moments;
    const double high = static_cast<double>(every) * (i + 1) / moments;
    const int before = settles.at(low);
    longest = std::max(longest, waits(low));
    if (settles.at(high) == before) continue;
    const auto same = [&](double lost) { return settles.at(lost) == before; };
    longest = std::max(longest, waits(math::bisect(low, high, 24, same).high));
  }
  return longest;
}

// The window of the longest mean, in mains periods.
double mains_periods(const Chain& chain) {
  double longest = 0.0;
  for (const auto& stage : chain.firmware.digital.stages) {
    for (const int length : stage.averages) {
      if (stage.rate > 0.0 && length > 1) longest = std::max(longest, length / stage.rate);
    }
  }
  return longest * chain.conditions.mains.value_or(model::Value{}).or_zero();
}

}  // namespace

double folded(double frequency, double rate) {
  require_number(frequency, "a frequency within ±1e150");
  require(rate >= 1e-150 && rate <= 1e150, "a rate above 0");
  return std::abs(frequency - rate * std::round(frequency / rate));
}

double least_rejected(const Chain& chain, double frequency, double limit) {
  require_number(frequency, "a frequency within ±1e150");
  const auto& digital = chain.firmware.digital;
  const auto passed = [&](double f) {
    return analog_magnitude(chain, f) * (digital.rate > 0.0 ? magnitude(digital, f) : 1.0);
  };
  if (!(limit > 0.0)) return frequency;
  const double low = std::max(frequency - limit, 0.0), high = frequency + limit;
  // Between two frequencies that a filter takes out lies at least the inverse of its memory.
  const double out = output_rate(digital);
  const double memory = out > 0.0 ? chain.firmware.settling_readings / out : 0.0;
  const int cells = static_cast<int>(std::clamp(8.0 * (high - low) * memory, 32.0, 512.0));
  return math::highest(passed, low, high, cells, 16);
}

double swing_of_stage(const Chain& chain, std::size_t stage) {
  auto cut = chain;
  cut.path.stages.resize(stage + 1);
  const auto& span = chain.channel.span;
  return std::abs(voltage(cut, span.high, cut.nominal) - voltage(cut, span.low, cut.nominal));
}

double target_band(const Chain& chain) {
  const auto& span = chain.channel.span;
  const auto& accuracy = chain.channel.target.accuracy;
  if (!accuracy) return 1e-3;
  return std::clamp(allowed_at(chain, *accuracy, span.high) / span.width(), 1e-9, 0.5);
}

std::vector<double> step_response(const Digital& digital, int readings) {
  DigitalState state(digital);
  std::vector<double> result;
  while (static_cast<int>(result.size()) < readings) {
    if (state.push(1.0)) result.push_back(state.value());
  }
  return result;
}

double time_between_steps(const Chain& chain, double x, double slope) {
  return plateau_width_at(chain, x) / std::abs(slope);
}

Dynamics dynamics(const Chain& chain) {
  Dynamics result{.timing = chain.timing,
                  .series = figures(chain, chain.firmware.digital, "all in series"),
                  .settling = settling(chain),
                  .mains_periods = mains_periods(chain)};
  if (const auto& mains = chain.conditions.mains; mains && chain.firmware.digital.rate > 0.0) {
    const double worst =
        least_rejected(chain, mains->or_zero(), limit_of(*mains, chain.conditions));
    result.mains_rejection =
        decibels(magnitude(chain.firmware.digital, worst) * converter_magnitude(chain, worst));
  }
  for (const auto& stage : chain.firmware.digital.stages) {
    result.stages.push_back(figures(chain, {.rate = stage.rate, .stages = {stage}}, stage.name));
  }
  for (const auto& source : chain.sources) {
    if (source.kind() == Kind::interference) result.aliases.push_back(alias(chain, source));
  }
  for (const double tau : chain.path.time_constants) {
    result.analog_settling -= tau * std::log(target_band(chain));
  }
  const auto& stages = chain.path.stages;
  for (std::size_t i = 0; i < stages.size(); ++i) {
    const auto* amplifier = std::get_if<AmplifierLaw>(&stages[i].law);
    if (amplifier == nullptr) continue;
    if (std::isfinite(amplifier->slew))
      result.analog_settling += swing_of_stage(chain, i) / amplifier->slew;
    result.analog_settling -= amplifier->time_constant * std::log(target_band(chain));
  }
  const Settles settles(chain, result);
  result.first_valid = settles.at(0.0);
  if (!(chain.firmware.digital.rate > 0.0)) return result;
  result.latency = longest_until_settled(settles, decimation(chain.firmware.digital)) /
                   chain.firmware.digital.rate;
  result.latency += chain.converter.data_rate
                        ? chain.converter.sinc_order / *chain.converter.data_rate
                        : result.timing.conversion_time;
  return result;
}

}  // namespace tamlo::chain
