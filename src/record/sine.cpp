// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/sine.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Core>
#include <algorithm>
#include <cassert>
#include <cmath>
#include <complex>
#include <limits>
#include <numbers>
#include <numeric>
#include <vector>

#include "tamlo/record/spectrum.hpp"

namespace tamlo::record {
namespace {

using std::numbers::pi;

constexpr std::size_t block = 512;

// Normal equations of a cos + b sin + c + d time (-a sin + b cos), time counted from the middle of
// the record and in halves of it. The phasor of a block is a table of 512, turned by an exact
// rotation, so that no angle is computed sample by sample.
struct Equations {
  Eigen::Matrix4d normal = Eigen::Matrix4d::Zero();
  Eigen::Vector4d right = Eigen::Vector4d::Zero();
  double squares = 0.0;
};

Equations equations(std::span<const double> samples, double frequency, double a, double b) {
  const auto n = samples.size();
  std::vector<std::complex<double>> table(std::min(n, block));
  for (std::size_t i = 0; i < table.size(); ++i) {
    table[i] = std::polar(1.0, 2.0 * pi * frequency * static_cast<double>(i));
  }
  Equations result;
  const double middle = (static_cast<double>(n) - 1.0) / 2.0, half = std::max(1.0, middle);
  for (std::size_t from = 0; from < n; from += block) {
    // The whole turns go before the angle is formed: it keeps its digits in long records.
    const double turns = frequency * static_cast<double>(from);
    const auto turned = std::polar(1.0, 2.0 * pi * (turns - std::floor(turns)));
    const auto count = std::min(block, n - from);
    double sums[14] = {};
    for (std::size_t i = 0; i < count; ++i) {
      const double c = turned.real() * table[i].real() - turned.imag() * table[i].imag();
      const double s = turned.real() * table[i].imag() + turned.imag() * table[i].real();
      const double t = (static_cast<double>(from + i) - middle) / half;
      const double d = t * (b * c - a * s);
      const double y = samples[from + i];
      sums[0] += c * c;
      sums[1] += c * s;
      sums[2] += c;
      sums[3] += c * d;
      sums[4] += s * s;
      sums[5] += s;
      sums[6] += s * d;
      sums[7] += d;
      sums[8] += d * d;
      sums[9] += c * y;
      sums[10] += s * y;
      sums[11] += y;
      sums[12] += d * y;
      sums[13] += y * y;
    }
    Eigen::Matrix4d part;
    part << sums[0], sums[1], sums[2], sums[3], sums[1], sums[4], sums[5], sums[6], sums[2],
        sums[5], static_cast<double>(count), sums[7], sums[3], sums[6], sums[7], sums[8];
    result.normal += part;
    result.right += Eigen::Vector4d(sums[9], sums[10], sums[11], sums[12]);
    result.squares += sums[13];
  }
  return result;
}

// What is left of the samples, in a pass of its own: a difference of sums would lose it.
double residual(std::span<const double> samples, const SineFit& fit) {
  double sum = 0.0;
  for (std::size_t from = 0; from < samples.size(); from += block) {
    const double turns = fit.frequency * static_cast<double>(from);
    const double phase = fit.phase + 2.0 * pi * (turns - std::floor(turns));
    double part = 0.0;
    for (std::size_t i = 0; i < std::min(block, samples.size() - from); ++i) {
      const double angle = phase + 2.0 * pi * fit.frequency * static_cast<double>(i);
      const double off = samples[from + i] - fit.offset - fit.amplitude * std::cos(angle);
      part += off * off;
    }
    sum += part;
  }
  return std::sqrt(sum / static_cast<double>(samples.size()));
}

void set_uncertainties(SineFit& fit, std::size_t samples, int parameters) {
  const auto n = static_cast<double>(samples);
  const double sigma = fit.residual * std::sqrt(n / std::max(1.0, n - parameters));
  const double relative = fit.amplitude > 0.0 ? sigma / fit.amplitude : 0.0;
  fit.offset_standard = sigma / std::sqrt(n);
  fit.amplitude_standard = sigma * std::sqrt(2.0 / n);
  // Rife and Boorstyn, 1974; the phase is that of the first sample.
  fit.phase_standard = relative * std::sqrt((parameters == 4 ? 8.0 : 2.0) / n);
  if (parameters == 4)
    fit.frequency_standard = relative * std::sqrt(24.0 / (n * n * n)) / (2.0 * pi);
}

void set_wave(SineFit& fit, double a, double b) {
  fit.amplitude = std::hypot(a, b);
  fit.phase = std::atan2(-b, a);
}

}  // namespace

double SineFit::sinad() const { return 20.0 * std::log10(amplitude / std::sqrt(2.0) / residual); }

double SineFit::enob() const {
  return (sinad() - 10.0 * std::log10(1.5)) / (20.0 * std::log10(2.0));
}

SineFit fit_three(std::span<const double> samples, double frequency) {
  assert(samples.size() >= 4 && frequency > 0.0 && frequency < 0.5);
  const auto of = equations(samples, frequency, 0.0, 0.0);
  const Eigen::Vector3d found = of.normal.topLeftCorner<3, 3>().ldlt().solve(of.right.head<3>());
  SineFit fit{.offset = found(2), .frequency = frequency};
  set_wave(fit, found(0), found(1));
  fit.residual = residual(samples, fit);
  set_uncertainties(fit, samples.size(), 3);
  return fit;
}

SineFit fit_four(std::span<const double> samples, double guess) {
  assert(samples.size() >= 5);
  const auto n = static_cast<double>(samples.size());
  SineFit fit = fit_three(samples, guess > 0.0 ? guess : largest_line(samples));
  fit.converged = false;
  const double half = std::max(1.0, (n - 1.0) / 2.0);
  double a = fit.amplitude * std::cos(fit.phase), b = -fit.amplitude * std::sin(fit.phase);
  while (!fit.converged && fit.iterations < 30) {
    const auto of = equations(samples, fit.frequency, a, b);
    const Eigen::Vector4d found = of.normal.ldlt().solve(of.right);
    // The fourth unknown is the change of the angle at the ends of the record.
    const double change = found(3) / half / (2.0 * pi);
    a = found(0);
    b = found(1);
    fit.offset = found(2);
    // A step of the phase at the first sample goes with the change, which turns about the middle.
    const double turned = found(3);
    const auto wave = std::polar(std::hypot(a, b), std::atan2(-b, a) - turned);
    fit.frequency = std::clamp(fit.frequency + change, 1e-12, 0.5 - 1e-12);
    a = wave.real();
    b = -wave.imag();
    set_wave(fit, a, b);
    ++fit.iterations;
    // By the rule of thumb for white residuals, without a pass for them.
    const double left = std::max(0.0, of.squares - of.right.dot(found)) / n;
    const double standard =
        std::sqrt(24.0 * left / (n * n * n)) / (2.0 * pi * std::max(fit.amplitude, 1e-300));
    fit.converged = std::abs(change) <= std::max(1e-3 * standard, 4e-16 * fit.frequency);
  }
  const auto last = fit_three(samples, fit.frequency);
  fit.offset = last.offset;
  fit.amplitude = last.amplitude;
  fit.phase = last.phase;
  fit.residual = last.residual;
  set_uncertainties(fit, samples.size(), 4);
  return fit;
}

double nearest_coherent(double wanted, std::uint64_t samples) {
  assert(samples >= 3);
  const double exact = wanted * static_cast<double>(samples);
  const auto nearest = static_cast<std::int64_t>(std::llround(exact));
  const std::int64_t side = exact < static_cast<double>(nearest) ? -1 : 1;  // the nearer one first
  const auto most = static_cast<std::int64_t>((samples - 1) / 2);
  for (std::int64_t by = 0;; ++by) {
    for (const auto cycles : {nearest + side * by, nearest - side * by}) {
      if (cycles < 1 || cycles > most) continue;
      if (std::gcd(cycles, static_cast<std::int64_t>(samples)) == 1) {
        return static_cast<double>(cycles) / static_cast<double>(samples);
      }
    }
  }
}

bool is_coherent(const SineFit& fit, std::uint64_t samples) {
  const double coherent = nearest_coherent(fit.frequency, samples);
  // Within its uncertainty, and within a hundredth of a cycle over the whole record.
  return std::abs(fit.frequency - coherent) <=
         std::max(3.0 * fit.frequency_standard, 0.01 / static_cast<double>(samples));
}

}  // namespace tamlo::record
