// SPDX-License-Identifier: Apache-2.0
// What the lines and the floor of a spectrum say.
#include <algorithm>
#include <cmath>
#include <functional>

#include "tamlo/chain/dynamics.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/regression.hpp"
#include "tamlo/signal/spectrum.hpp"

namespace tamlo::signal {
namespace {

// Takes the bins about a place out of a spectrum; gives their power and their centroid.
class Lines {
 public:
  explicit Lines(const Spectrum& spectrum)
      : spectrum_(spectrum),
        reach_(figures(spectrum.window).reach),
        bandwidth_(figures(spectrum.window).noise_bandwidth),
        taken_(spectrum.power.size(), false) {
    take(0);  // the mean was taken away, and leaks into its neighbours
  }

  /// Mean square of a line about that bin; what was taken before does not count.
  Tone take(std::size_t bin) {
    const auto last = spectrum_.power.size() - 1;
    const auto reach = static_cast<std::size_t>(reach_);
    const auto from = bin > reach ? bin - reach : 0, to = std::min(last, bin + reach);
    double power = 0.0, moment = 0.0;
    for (auto k = from; k <= to; ++k) {
      if (taken_[k]) continue;
      taken_[k] = true;
      power += spectrum_.power[k];
      moment += spectrum_.power[k] * static_cast<double>(k);
    }
    const double centre = power > 0.0 ? moment / power : static_cast<double>(bin);
    return {.frequency = centre / static_cast<double>(spectrum_.segment),
            .power = power / bandwidth_};
  }

  /// The same at a frequency, cycles a sample.
  Tone take_at(double frequency) {
    return take(
        static_cast<std::size_t>(std::llround(frequency * static_cast<double>(spectrum_.segment))));
  }

  std::size_t largest() const {
    std::size_t best = 0;
    double max = -1.0;
    for (std::size_t k = 0; k < taken_.size(); ++k) {
      if (taken_[k] || spectrum_.power[k] <= max) continue;
      max = spectrum_.power[k];
      best = k;
    }
    return best;
  }

  /// What is left: its mean square, and the bins that hold it.
  std::vector<double> rest() const {
    std::vector<double> result;
    for (std::size_t k = 0; k < taken_.size(); ++k) {
      if (!taken_[k]) result.push_back(spectrum_.power[k]);
    }
    return result;
  }

  bool taken(std::size_t bin) const { return taken_[bin]; }
  double bandwidth() const { return bandwidth_; }

 private:
  const Spectrum& spectrum_;
  int reach_;
  double bandwidth_;
  std::vector<bool> taken_;
};

double decibels(double ratio) { return 10.0 * std::log10(ratio); }

// Segments that overlap by half count as 18 K^2 / (19 K - 1) (Welch, 1967, for Hann). A bin of
// white noise is chi-squared of two degrees for each that counts.
// A spectrum that somebody filled by hand may be anything.
void require_whole(const Spectrum& spectrum) {
  require(spectrum.segments > 0 && spectrum.segment >= 8 &&
              spectrum.power.size() == spectrum.segment / 2 + 1,
          "a spectrum of a whole segment");
  require_numbers(spectrum.power, "powers within ±1e150");
}

double degrees_of_freedom(const Spectrum& spectrum) {
  const auto k = static_cast<double>(spectrum.segments);
  const double counts =
      spectrum.window == Window::rectangular ? k : 18.0 * k * k / (19.0 * k - 1.0);
  return 2.0 * std::max(1.0, counts);
}

// What bins to both sides of a line's own make likely at its place, if their noise is even or rises
// towards low frequencies with their inverse or its square: the most of these.
double noise_beside(const Spectrum& spectrum, std::size_t bin) {
  const auto reach = static_cast<std::size_t>(figures(spectrum.window).reach);
  const auto last = spectrum.power.size() - 1;
  std::vector<double> near, once, twice;
  const auto add = [&](std::size_t k) {
    const double along = static_cast<double>(k) / static_cast<double>(bin);
    near.push_back(spectrum.power[k]);
    once.push_back(near.back() * along);
    twice.push_back(near.back() * along * along);
  };
  for (std::size_t away = reach + 1; away <= 3 * reach + 8; ++away) {
    if (bin > away + reach) add(bin - away);
    if (bin + away <= last) add(bin + away);
  }
  if (near.empty()) return 0.0;
  return std::max({math::median(near), math::median(once), math::median(twice)});
}

}  // namespace

SineFigures sine_figures(const Spectrum& spectrum) {
  require_whole(spectrum);
  Lines lines(spectrum);
  SineFigures result;
  result.fundamental = lines.take(lines.largest());
  result.fundamental.order = 1;
  double distortion = 0.0, largest = 0.0;
  for (int order = 2; order <= 10; ++order) {
    const double at = chain::folded(order * result.fundamental.frequency, 1.0);
    auto tone = lines.take_at(at);
    tone.order = order;
    tone.frequency = at;
    distortion += tone.power;
    largest = std::max(largest, tone.power);
    result.harmonics.push_back(tone);
  }
  const auto rest = lines.rest();
  double noise = 0.0;
  for (const double power : rest) noise += power / lines.bandwidth();
  // The bins that lines were taken from hold noise as well.
  noise *= static_cast<double>(spectrum.power.size()) /
           static_cast<double>(std::max<std::size_t>(1, rest.size()));
  if (!rest.empty()) {
    result.noise_floor = math::median(rest);
    largest = std::max(largest, *std::ranges::max_element(rest));
  }
  const double wave = result.fundamental.power;
  result.snr = decibels(wave / noise);
  result.sinad = decibels(wave / (noise + distortion));
  result.thd = decibels(distortion / wave);
  result.sfdr = decibels(wave / largest);
  result.enob = (result.sinad - decibels(1.5)) / decibels(4.0);
  return result;
}

std::vector<Tone> tones(const Spectrum& spectrum) {
  require_whole(spectrum);
  std::vector<Tone> result;
  Lines lines(spectrum);
  const auto rest = lines.rest();
  if (rest.size() < 8) return result;
  const double dof = degrees_of_freedom(spectrum);
  const double middle = math::chi_squared_quantile(0.5, dof) / dof;
  const auto bins = static_cast<double>(spectrum.power.size());
  const double far = math::chi_squared_quantile(1.0 - 0.01 / bins, dof) / dof / middle;
  const double floor = math::median(rest);
  std::vector<std::size_t> standing;
  for (std::size_t k = 0; k < spectrum.power.size(); ++k) {
    if (spectrum.power[k] > far * floor) standing.push_back(k);
  }
  std::ranges::sort(standing, std::greater{}, [&](std::size_t k) { return spectrum.power[k]; });
  for (const auto bin : standing) {
    if (result.size() == 20) break;
    // What stands out of all bins, but not of those beside it, is noise that rises there.
    if (lines.taken(bin) || spectrum.power[bin] <= far * noise_beside(spectrum, bin)) continue;
    result.push_back(lines.take(bin));
  }
  return result;
}

InterToneNoise between_tones(const Spectrum& spectrum, std::span<const Tone> tones) {
  require_whole(spectrum);
  Lines lines(spectrum);
  for (const auto& tone : tones) lines.take_at(tone.frequency);
  const auto rest = lines.rest();
  double sum = 0.0, squares = 0.0;
  for (const double power : rest) {
    sum += power;
    squares += power * power;
  }
  const auto left = static_cast<double>(std::max<std::size_t>(1, rest.size()));
  // The squares also hold the scatter of each bin.
  const double scatter = 1.0 + 2.0 / degrees_of_freedom(spectrum);
  const double dof_ratio = squares > 0.0 ? sum * sum / left / squares * scatter : 1.0;
  return {.power = sum / left * static_cast<double>(spectrum.power.size() - 1) / lines.bandwidth(),
          .dof = degrees_of_freedom(spectrum) * left / lines.bandwidth(),
          .dof_ratio = std::min(1.0, dof_ratio)};
}

Floor noise_floor(const Spectrum& spectrum, std::span<const Tone> tones) {
  require_whole(spectrum);
  Lines lines(spectrum);
  for (const auto& tone : tones) lines.take_at(tone.frequency);
  // Bands of four to an octave. In each a mean power, and the mean of 1 / frequency.
  struct Band {
    double power = 0.0, inverse = 0.0, bins = 0.0;
  };
  std::vector<Band> bands;
  const auto half = spectrum.power.size() - 1;
  for (std::size_t from = 1; from < half;) {
    const auto to = std::min(half, std::max(from + 1, from * 6 / 5));
    Band band;
    for (auto k = from; k < to; ++k) {
      if (lines.taken(k)) continue;
      band.power += spectrum.power[k];
      band.inverse += static_cast<double>(spectrum.segment) / static_cast<double>(k);
      band.bins += 1.0;
    }
    if (band.bins > 0.0) {
      bands.push_back({band.power / band.bins, band.inverse / band.bins, band.bins});
    }
    from = to;
  }
  Floor result;
  if (bands.size() < 4) return result;
  // power = white + flicker / frequency; each band is as sure as its bins and segments make it.
  const double dof = degrees_of_freedom(spectrum);
  std::vector<double> ones(bands.size(), 1.0), inverse, power, standards;
  for (const auto& band : bands) {
    inverse.push_back(band.inverse);
    power.push_back(band.power);
    standards.push_back(band.power * std::sqrt(2.0 / (dof * band.bins)));
  }
  const std::vector<double> columns[] = {ones, inverse};
  for (int round = 0; round < 4; ++round) {
    const auto fit = math::regress(columns, power, standards);
    const double white = fit.parameters[0], flicker = fit.parameters[1];
    if (!(white > 0.0)) return result;
    result.density = white / lines.bandwidth() * static_cast<double>(spectrum.segment);
    result.corner = std::max(0.0, flicker / white);
    result.corner_standard = std::sqrt(fit.covariance[3]) / white;
    // As sure as the line says, not as the noise of each band has it.
    for (std::size_t i = 0; i < bands.size(); ++i) {
      const double density = std::max(white + flicker * inverse[i], white / 100.0);
      standards[i] = density * std::sqrt(2.0 / (dof * bands[i].bins));
    }
  }
  return result;
}

}  // namespace tamlo::signal
