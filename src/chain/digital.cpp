// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/digital.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <stdexcept>

#include "tamlo/error.hpp"
#include "tamlo/math/detail/search.hpp"

namespace tamlo::chain {
namespace {

using std::numbers::pi;

constexpr int longest_memory = 1 << 22;  // conversions; what is computed grows with them

// Each stage on a sequence whose samples are `stride` apart; the sequence grows by the stage's
// memory.
void apply_taps(const std::vector<double>& taps, std::vector<double>& h, std::size_t stride) {
  if (taps.size() == 1) return;
  std::vector<double> out(h.size() + (taps.size() - 1) * stride);
  for (std::size_t k = 0; k < taps.size(); ++k) {
    if (taps[k] == 0.0) continue;
    for (std::size_t i = 0; i < h.size(); ++i) out[i + k * stride] += taps[k] * h[i];
  }
  h = std::move(out);
}

void apply_average(int length, std::vector<double>& h, std::size_t stride) {
  const auto reach = static_cast<std::size_t>(length) * stride;
  std::vector<double> out(h.size() + reach - stride);
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double before = i >= stride ? out[i - stride] : 0.0;
    const double enters = i < h.size() ? h[i] : 0.0;
    const double leaves = i >= reach && i - reach < h.size() ? h[i - reach] : 0.0;
    out[i] = before + (enters - leaves) / length;
  }
  h = std::move(out);
}

void apply_section(const model::Section& s, std::vector<double>& h, std::size_t stride) {
  constexpr std::size_t longest = 2 * std::size_t{longest_memory};
  std::vector<double> out;
  out.reserve(h.size() * 2);
  const auto past = [&](const std::vector<double>& values, std::size_t i, std::size_t back) {
    return i >= back && i - back < values.size() ? values[i - back] : 0.0;
  };
  double peak = 0.0;
  std::size_t quiet = 0;
  for (std::size_t i = 0; i < longest; ++i) {
    // Behind what came in, and two strides, the section answers to itself alone.
    const bool alone = i >= h.size() + 2 * stride;
    const double y = alone ? -s.a1 * out[i - stride] - s.a2 * out[i - 2 * stride]
                           : s.b0 * past(h, i, 0) + s.b1 * past(h, i, stride) +
                                 s.b2 * past(h, i, 2 * stride) - s.a1 * past(out, i, stride) -
                                 s.a2 * past(out, i, 2 * stride);
    out.push_back(y);
    peak = std::max(peak, std::abs(y));
    // Quiet for two strides, all of the past included: nothing is left in the section.
    quiet = i >= h.size() && std::abs(y) <= 1e-13 * peak ? quiet + 1 : 0;
    if (alone && quiet >= 2 * stride) break;
  }
  h = std::move(out);
}

void apply(const model::PreparedFilter& stage, std::vector<double>& h, std::size_t stride) {
  apply_taps(stage.taps, h, stride);
  for (const int length : stage.averages) apply_average(length, h, stride);
  for (const auto& section : stage.sections) apply_section(section, h, stride);
}

// Answer of the stages from `first` on to a single 1, in samples of what comes into the first of
// them, of which `stride` make one reading.
struct Answer {
  std::vector<double> h{1.0};
  std::size_t stride = 1;
};
Answer from_stage(const Digital& digital, std::size_t first) {
  Answer result;
  for (std::size_t i = first; i < digital.stages.size(); ++i) {
    apply(digital.stages[i], result.h, result.stride);
    result.stride *= static_cast<std::size_t>(digital.stages[i].decimation);
  }
  return result;
}

std::complex<double> of_section(const model::Section& s, std::complex<double> z1) {
  return (s.b0 + z1 * (s.b1 + z1 * s.b2)) / (1.0 + z1 * (s.a1 + z1 * s.a2));
}

// At `cycles` per incoming sample: frequency / rate.
std::complex<double> response(const model::PreparedFilter& stage, double cycles) {
  const auto z1 = std::polar(1.0, -2.0 * pi * cycles);  // 1/z
  std::complex<double> result = 1.0;
  for (const int length : stage.averages) {
    const double below = std::sin(pi * cycles);
    const double size =
        std::abs(below) < 1e-12 ? 1.0 : std::sin(pi * cycles * length) / (length * below);
    result *= std::polar(1.0, -pi * cycles * (length - 1)) * size;
  }
  for (const auto& section : stage.sections) result *= of_section(section, z1);
  if (stage.taps.size() > 1) {
    std::complex<double> sum = 0.0;
    for (auto tap = stage.taps.rbegin(); tap != stage.taps.rend(); ++tap) sum = sum * z1 + *tap;
    result *= sum;
  }
  return result;
}

// Samples until 1e-13 is left of what came in.
double memory_of(const model::PreparedFilter& stage) {
  double result = static_cast<double>(stage.taps.size());
  for (const int length : stage.averages) result += length;
  for (const auto& s : stage.sections) {
    // The pole that is nearest to the unit circle: a pair, or the larger of two real ones.
    const double half = -s.a1 / 2.0, square = half * half - s.a2;
    const double pole = square < 0.0 ? std::sqrt(s.a2) : std::abs(half) + std::sqrt(square);
    result += 30.0 / std::max(1e-300, -std::log(pole));
  }
  return result;
}

double delay_of(const model::Section& s) {
  return (s.b1 + 2.0 * s.b2) / (s.b0 + s.b1 + s.b2) - (s.a1 + 2.0 * s.a2) / (1.0 + s.a1 + s.a2);
}

}  // namespace

Digital prepare(const std::vector<model::DigitalStage>& stages, double rate) {
  Digital result{.rate = rate};
  double conversions = 0.0, stride = 1.0, medians = 0.0;
  for (const auto& each : stages) {
    auto stage = model::prepared(each, rate);
    rate /= stage.decimation;
    conversions += memory_of(stage) * stride;
    stride *= stage.decimation;
    medians += stage.median;
    if (conversions > longest_memory) {
      throw ArgumentError(
          fmt::format("filters that remember {:.3g} conversions, and at most {} are computed",
                      conversions, longest_memory));
    }
    if (stages.size() > 1 && medians * conversions > median_work) {
      throw ArgumentError(
          fmt::format("filters that remember {:.0f} conversions beside medians of {:.0f}, and at "
                      "most {:.0f} are computed",
                      conversions, medians, std::floor(median_work / medians)));
    }
    if (stage.averages != std::vector{1}) result.stages.push_back(std::move(stage));
  }
  result.answer = std::make_shared<const std::vector<double>>(from_stage(result, 0).h);
  return result;
}

int decimation(const Digital& digital) {
  int result = 1;
  for (const auto& stage : digital.stages) result *= stage.decimation;
  return result;
}

double output_rate(const Digital& digital) { return digital.rate / decimation(digital); }

double magnitude(const model::PreparedFilter& stage, double frequency) {
  return std::abs(response(stage, frequency / stage.rate));
}

double magnitude(const Digital& digital, double frequency) {
  double result = 1.0, rate = digital.rate;
  for (const auto& stage : digital.stages) {
    result *= std::abs(response(stage, frequency / rate));
    rate /= stage.decimation;
  }
  return result;
}

std::vector<double> impulse_response(const model::PreparedFilter& stage) {
  std::vector<double> h{1.0};
  apply(stage, h, 1);
  return h;
}

std::vector<double> impulse_response(const Digital& digital) {
  return digital.answer ? *digital.answer : from_stage(digital, 0).h;
}

bool leads_with_block(const Digital& digital) {
  if (digital.stages.empty()) return false;
  const auto& first = digital.stages.front();
  return first.averages.size() == 1 && first.averages.front() == first.decimation &&
         first.sections.empty() && first.taps.size() == 1 && first.median == 0;
}

int readings_to_settle(const Digital& digital, double band) {
  const bool blocks = leads_with_block(digital);
  const auto h = blocks ? from_stage(digital, 1).h : impulse_response(digital);
  const auto stride = static_cast<std::size_t>(decimation(digital)) /
                      (blocks ? static_cast<std::size_t>(digital.stages.front().decimation) : 1);
  double step = 0.0;
  std::size_t settled = 1;
  for (std::size_t i = 0; i < h.size(); ++i) {
    step += h[i];
    if (!has_settled(1.0 - step, band)) settled = i + 2;
  }
  return static_cast<int>((settled + stride - 1) / stride);
}

double group_delay(const Digital& digital) {
  double delay = 0.0, stride = 1.0;
  for (const auto& stage : digital.stages) {
    double value = 0.0;
    for (const int length : stage.averages) value += (length - 1) / 2.0;
    for (const auto& section : stage.sections) value += delay_of(section);
    for (std::size_t k = 0; k < stage.taps.size(); ++k) {
      value += static_cast<double>(k) * stage.taps[k];
    }
    delay += value * stride;
    stride *= stage.decimation;
  }
  return delay;
}

double cutoff(const Digital& digital) {
  Digital relative = digital;
  relative.rate = 1.0;
  const double edge = std::numbers::sqrt2 / 2.0;
  // Fine enough to see every lobe: a part of the inverse of the memory, and of a narrow notch.
  double step = 1.0 / (200.0 * (1.0 + std::abs(group_delay(digital))));
  double stride = 1.0;
  for (const auto& stage : digital.stages) {
    for (const auto& s : stage.sections) {
      if (s.a2 > 0.0) step = std::min(step, (1.0 - std::sqrt(s.a2)) / (8.0 * stride));
    }
    stride *= stage.decimation;
  }
  step = std::max(step, 1e-7);
  for (double f = step; f <= 0.5; f += step) {
    if (magnitude(relative, f) >= edge) continue;
    const auto passes = [&](double at) { return !(magnitude(relative, at) < edge); };
    return math::bisect(f - step, f, 60, passes).high;
  }
  return 0.5;
}

}  // namespace tamlo::chain
