// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/spectrum.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <numbers>
#include <numeric>

#include "tamlo/error.hpp"
#include "tamlo/names.hpp"
#include "transform.hpp"

namespace tamlo::signal {
namespace {

using std::numbers::pi;

// Of 1, -cos, +cos 2, ... (Harris, 1978, four-term minimum; ISO 18431-2 for the flat top).
std::span<const double> coefficients(Window window) {
  static constexpr double rectangular[] = {1.0};
  static constexpr double hann[] = {0.5, 0.5};
  static constexpr double blackman_harris[] = {0.35875, 0.48829, 0.14128, 0.01168};
  static constexpr double flat_top[] = {1.0, 1.933, 1.286, 0.388, 0.0322};
  switch (window) {
    case Window::rectangular:
      return rectangular;
    case Window::hann:
      return hann;
    case Window::blackman_harris:
      return blackman_harris;
    case Window::flat_top:
      return flat_top;
  }
  return rectangular;
}

}  // namespace

std::string_view name(Window window) {
  return name_in({"rectangular", "hann", "blackman-harris", "flat-top"}, window);
}

WindowFigures figures(Window window) {
  const auto c = coefficients(window);
  double squares = c[0] * c[0];
  for (std::size_t k = 1; k < c.size(); ++k) squares += c[k] * c[k] / 2.0;
  return {.coherent_gain = c[0],
          .noise_bandwidth = squares / (c[0] * c[0]),
          .reach = window == Window::rectangular ? 0 : static_cast<int>(c.size())};
}

double window_at(Window window, std::size_t i, std::size_t n) {
  const auto c = coefficients(window);
  const double angle = 2.0 * pi * static_cast<double>(i) / static_cast<double>(n);
  double sum = 0.0, sign = 1.0;
  for (std::size_t k = 0; k < c.size(); ++k, sign = -sign) {
    sum += sign * c[k] * std::cos(static_cast<double>(k) * angle);
  }
  return sum;
}

struct SpectrumParts::Work {
  Work(Window window, std::size_t segment) : transform(segment) {
    for (std::size_t i = 0; i < segment; ++i) weights.push_back(window_at(window, i, segment));
  }
  RealTransform transform;
  std::vector<double> weights{};
};

SpectrumParts::SpectrumParts(Window window, std::size_t segment)
    : window_(window), segment_(segment) {
  require(std::has_single_bit(segment) && segment >= 8,
          "a segment is of a power of two, 8 or more");
  power_.assign(segment / 2 + 1, 0.0);
  waiting_.reserve(segment);
}

SpectrumParts::SpectrumParts(SpectrumParts&&) noexcept = default;
SpectrumParts& SpectrumParts::operator=(SpectrumParts&&) noexcept = default;
SpectrumParts::~SpectrumParts() = default;

void SpectrumParts::add(std::span<const double> samples) {
  // A rectangular window does not overlap.
  const auto kept = window_ == Window::rectangular ? 0 : segment_ / 2;
  const auto add_segment = [&](std::span<const double> segment) {
    if (!work_) work_ = std::make_unique<Work>(window_, segment_);
    work_->transform.add_squares(segment, work_->weights, mean_of(segment), power_);
    ++segments_;
  };
  while (!samples.empty()) {
    if (waiting_.empty() && samples.size() >= segment_) {  // whole as it is, without a copy
      add_segment(samples.first(segment_));
      samples = samples.subspan(segment_ - kept);
      continue;
    }
    const auto taken = std::min(samples.size(), segment_ - waiting_.size());
    waiting_.insert(waiting_.end(), samples.begin(),
                    samples.begin() + static_cast<std::ptrdiff_t>(taken));
    samples = samples.subspan(taken);
    if (waiting_.size() < segment_) return;
    add_segment(waiting_);
    waiting_.erase(waiting_.begin(), waiting_.end() - static_cast<std::ptrdiff_t>(kept));
  }
}

void SpectrumParts::merge(const SpectrumParts& other) {
  require(other.window_ == window_ && other.segment_ == segment_,
          "spectra of other windows or segments do not merge");
  for (std::size_t k = 0; k < power_.size(); ++k) power_[k] += other.power_[k];
  segments_ += other.segments_;
}

Spectrum SpectrumParts::result() const {
  require(segments_ > 0, "a spectrum needs a whole segment");
  Spectrum result{.window = window_, .segment = segment_, .segments = segments_, .power = power_};
  // Two-sided to one-sided: all but zero and half the rate stand for two.
  const double gain = figures(window_).coherent_gain * static_cast<double>(segment_);
  for (std::size_t k = 0; k < result.power.size(); ++k) {
    const double sides = k == 0 || k == segment_ / 2 ? 1.0 : 2.0;
    result.power[k] *= sides / (gain * gain) / static_cast<double>(segments_);
  }
  return result;
}

Spectrum spectrum(std::span<const double> samples, Window window, std::size_t segment) {
  SpectrumParts parts(window, segment == 0 ? std::bit_floor(samples.size()) : segment);
  parts.add(samples);
  return parts.result();
}

double largest_line(std::span<const double> samples) {
  // The whole record, with zeros behind it, so that the bins are a quarter of a cycle apart or
  // less. Those of a long one are near enough as they are, a cycle apart.
  constexpr std::size_t long_record = std::size_t{1} << 18;
  const auto n = samples.size();
  const auto padded = std::max(std::bit_ceil(n), std::min(4 * std::bit_ceil(n), long_record));
  const double mean = std::accumulate(samples.begin(), samples.end(), 0.0) / static_cast<double>(n);
  std::vector<double> values(samples.begin(), samples.end()), weights, squares(padded / 2 + 1);
  for (std::size_t i = 0; i < n; ++i) weights.push_back(window_at(Window::hann, i, n));
  values.resize(padded);
  weights.resize(padded);
  RealTransform(padded).add_squares(values, weights, mean, squares);
  const auto best = static_cast<std::size_t>(
      std::max_element(squares.begin() + 1, squares.end() - 1) - squares.begin());
  // A parabola through the logarithms about it.
  const auto power = [&](std::size_t k) { return std::log(squares[k] + 1e-300); };
  const double left = power(best - 1), here = power(best), right = power(best + 1);
  const double bend = left - 2.0 * here + right;
  const double part = bend < 0.0 ? std::clamp((left - right) / (2.0 * bend), -0.5, 0.5) : 0.0;
  const auto length = static_cast<double>(padded);
  return std::clamp((static_cast<double>(best) + part) / length, 0.25 / length,
                    0.5 - 0.25 / length);
}

}  // namespace tamlo::signal
