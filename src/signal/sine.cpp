// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/sine.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <limits>
#include <numbers>
#include <numeric>
#include <vector>

#include "phasor.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/linear.hpp"
#include "tamlo/signal/spectrum.hpp"

namespace tamlo::signal {
namespace {

using std::numbers::pi;

constexpr std::size_t block = phasor_block;

// Sums over a block of 1, i and i^2 times what a phasor c + j s of the block makes; they are the
// same for all blocks of a length.
struct Moments3 {
  double of[3] = {};  // times 1, i, i^2
  // Times (start + i step) to the power 1 or 2.
  double once(double start, double step) const { return start * of[0] + step * of[1]; }
  double twice(double start, double step) const {
    return start * start * of[0] + 2.0 * start * step * of[1] + step * step * of[2];
  }
};

// The phasor of a frequency over one block. That of any other block is the same, turned: so no
// angle is computed sample by sample.
class BlockOfPhasor {
 public:
  explicit BlockOfPhasor(double frequency) : frequency_(frequency) {
    for (std::size_t i = 0; i < block; ++i) {
      const auto phasor = std::polar(1.0, 2.0 * pi * frequency * static_cast<double>(i));
      cosine[i] = phasor.real();
      sine[i] = phasor.imag();
    }
    set_moments(block);
  }

  void set_moments(std::size_t count) {
    cc = cs = ss = c1 = s1 = {};
    for (std::size_t i = 0; i < count; ++i) {
      double power = 1.0;
      for (int k = 0; k < 3; ++k, power *= static_cast<double>(i)) {
        cc.of[k] += power * cosine[i] * cosine[i];
        cs.of[k] += power * cosine[i] * sine[i];
        ss.of[k] += power * sine[i] * sine[i];
        c1.of[k] += power * cosine[i];
        s1.of[k] += power * sine[i];
      }
    }
  }

  // By how much the block from a sample on is turned. The whole turns go before the angle is
  // formed: it keeps its digits in long records.
  std::complex<double> turned(std::size_t from, double phase = 0.0) const {
    const double turns = frequency_ * static_cast<double>(from);
    return std::polar(1.0, phase + 2.0 * pi * (turns - std::floor(turns)));
  }

  alignas(64) double cosine[block], sine[block];
  Moments3 cc{}, cs{}, ss{}, c1{}, s1{};

 private:
  double frequency_;
};

// Normal equations of a cos + b sin + c + d time (-a sin + b cos), time counted from the middle of
// the record and in halves of it.
struct Equations {
  std::array<double, 16> normal{};  // row by row
  std::array<double, 4> right{};
  double squares = 0.0;

  // a, b, c and the change of the angle; the first three alone where the frequency is known.
  std::vector<double> solution(std::size_t unknowns) const {
    std::vector<double> part;
    for (std::size_t i = 0; i < unknowns; ++i) {
      const auto row = std::span(normal).subspan(4 * i, unknowns);
      part.insert(part.end(), row.begin(), row.end());
    }
    return math::SymmetricFactors(part).solve(std::span(right).first(unknowns));
  }
};

template <std::size_t N>
void add(std::array<double, N>& sum, const std::array<double, N>& part) {
  for (std::size_t i = 0; i < N; ++i) sum[i] += part[i];
}

Equations equations(std::span<const double> samples, double frequency, double a, double b) {
  const auto n = samples.size();
  BlockOfPhasor p(frequency);
  const auto sums = math::chosen(base::with_samples, avx2::with_samples, avx512::with_samples);
  Equations result;
  const double middle = (static_cast<double>(n) - 1.0) / 2.0, half = std::max(1.0, middle);
  const double h = 1.0 / half;
  for (std::size_t from = 0; from < n; from += block) {
    const auto count = std::min(block, n - from);
    if (count < block) p.set_moments(count);
    const auto turn = p.turned(from);
    const double r = turn.real(), j = turn.imag();
    // Of the turned phasor: cos = r c - j s, sin = j c + r s, and d time (b cos - a sin) with
    const double u = b * r - a * j, v = -b * j - a * r;  // time (u c + v s)
    const double t = (static_cast<double>(from) - middle) * h;
    const double tcc = p.cc.once(t, h), tcs = p.cs.once(t, h), tss = p.ss.once(t, h);
    const double cc = r * r * p.cc.of[0] - 2.0 * r * j * p.cs.of[0] + j * j * p.ss.of[0];
    const double ss = j * j * p.cc.of[0] + 2.0 * r * j * p.cs.of[0] + r * r * p.ss.of[0];
    const double cs = r * j * (p.cc.of[0] - p.ss.of[0]) + (r * r - j * j) * p.cs.of[0];
    const double c = r * p.c1.of[0] - j * p.s1.of[0], s = j * p.c1.of[0] + r * p.s1.of[0];
    const double cd = r * u * tcc + (r * v - j * u) * tcs - j * v * tss;
    const double sd = j * u * tcc + (j * v + r * u) * tcs + r * v * tss;
    const double d = u * p.c1.once(t, h) + v * p.s1.once(t, h);
    const double dd =
        u * u * p.cc.twice(t, h) + 2.0 * u * v * p.cs.twice(t, h) + v * v * p.ss.twice(t, h);
    const auto rows = static_cast<double>(count);
    add(result.normal, {cc, cs, c, cd, cs, ss, s, sd, c, s, rows, d, cd, sd, d, dd});
    const auto y = sums(p.cosine, p.sine, samples.data() + from, count);
    add(result.right, {r * y.yc - j * y.ys, j * y.yc + r * y.ys, y.y,
                       u * (t * y.yc + h * y.yic) + v * (t * y.ys + h * y.yis)});
    result.squares += y.yy;
  }
  return result;
}

// What is left of the samples, in a pass of its own: a difference of sums would lose it.
double residual(std::span<const double> samples, const SineFit& fit) {
  const BlockOfPhasor p(fit.frequency);
  const auto squares = math::chosen(base::squares_off, avx2::squares_off, avx512::squares_off);
  double sum = 0.0;
  for (std::size_t from = 0; from < samples.size(); from += block) {
    const auto wave = fit.amplitude * p.turned(from, fit.phase);
    sum += squares(p.cosine, p.sine, wave.real(), wave.imag(), fit.offset, samples.data() + from,
                   std::min(block, samples.size() - from));
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

namespace {

// Offset, amplitude and phase at a known frequency; what is left is not looked at.
SineFit wave_at(std::span<const double> samples, double frequency) {
  const auto normal = equations(samples, frequency, 0.0, 0.0);
  const auto found = normal.solution(3);
  SineFit fit{.offset = found[2], .frequency = frequency};
  set_wave(fit, found[0], found[1]);
  return fit;
}

// Moves the frequency until it no longer changes.
void seek_frequency(std::span<const double> samples, SineFit& fit) {
  const auto n = static_cast<double>(samples.size());
  const double half = std::max(1.0, (n - 1.0) / 2.0);
  double a = fit.amplitude * std::cos(fit.phase), b = -fit.amplitude * std::sin(fit.phase);
  for (fit.converged = false; !fit.converged && fit.iterations < 30; ++fit.iterations) {
    const auto normal = equations(samples, fit.frequency, a, b);
    const auto found = normal.solution(4);
    // The fourth unknown is the change of the angle at the ends of the record.
    const double change = found[3] / half / (2.0 * pi);
    fit.offset = found[2];
    // A step of the phase at the first sample goes with the change, which turns about the middle.
    const auto wave =
        std::polar(std::hypot(found[0], found[1]), std::atan2(-found[1], found[0]) - found[3]);
    fit.frequency = std::clamp(fit.frequency + change, 1e-12, 0.5 - 1e-12);
    a = wave.real();
    b = -wave.imag();
    set_wave(fit, a, b);
    // By the rule of thumb for white residuals, without a pass for them.
    const double left = std::max(0.0, normal.squares - math::dot(normal.right, found)) / n;
    const double standard =
        std::sqrt(24.0 * left / (n * n * n)) / (2.0 * pi * std::max(fit.amplitude, 1e-300));
    // A step leaves about the square of the angle by which it moved the ends.
    const double leaves = found[3] * found[3] / half / (2.0 * pi);
    fit.converged =
        std::min(std::abs(change), leaves) <= std::max(1e-3 * standard, 4e-16 * fit.frequency);
  }
}

}  // namespace

SineFit fit_three(std::span<const double> samples, double frequency) {
  require(samples.size() >= 4 && frequency > 0.0 && frequency < 0.5,
          "a sine of a known frequency needs four samples, and 0 to 0.5 cycles a sample");
  auto fit = wave_at(samples, frequency);
  fit.residual = residual(samples, fit);
  set_uncertainties(fit, samples.size(), 3);
  return fit;
}

SineFit fit_four(std::span<const double> samples, double guess) {
  require(samples.size() >= 5, "a sine needs five samples");
  require_numbers(samples, "samples within ±1e150");
  const double frequency = guess > 0.0 ? guess : largest_line(samples);
  SineFit fit;
  // The head of a long record tells the frequency to much less than a cycle of the whole, and where
  // its wave begins.
  constexpr std::size_t long_record = std::size_t{1} << 16;
  if (samples.size() >= long_record) {
    const auto part = samples.first(samples.size() / 16);
    auto rough = wave_at(part, frequency);
    seek_frequency(part, rough);
    const double moved =
        std::abs(rough.frequency - frequency) * static_cast<double>(samples.size());
    if (rough.converged && moved < 1.0) fit = rough;
  }
  if (fit.amplitude == 0.0) fit = wave_at(samples, frequency);
  fit.iterations = 0;
  seek_frequency(samples, fit);
  fit.residual = residual(samples, fit);
  set_uncertainties(fit, samples.size(), 4);
  return fit;
}

double nearest_coherent(double wanted, std::uint64_t samples) {
  require(samples >= 3 && samples <= std::uint64_t{1} << 53, "three samples to 2^53");
  require(wanted >= 0.0 && wanted <= 0.5, "a frequency from 0 to half a cycle a sample");
  const double exact = wanted * static_cast<double>(samples);
  const auto nearest = static_cast<std::int64_t>(std::llround(exact));
  const std::int64_t side = exact < static_cast<double>(nearest) ? -1 : 1;  // the nearer one first
  const auto max = static_cast<std::int64_t>((samples - 1) / 2);
  for (std::int64_t by = 0;; ++by) {
    for (const auto cycles : {nearest + side * by, nearest - side * by}) {
      if (cycles < 1 || cycles > max) continue;
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

}  // namespace tamlo::signal
