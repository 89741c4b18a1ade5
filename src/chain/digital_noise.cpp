// SPDX-License-Identifier: Apache-2.0
// What averages and filters leave of noise.
#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "tamlo/chain/digital.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::chain {
namespace {

// Autocovariance of what a stage makes of white noise of variance 1.
class Autocovariance {
 public:
  explicit Autocovariance(const DigitalStage& stage) {
    if (stage.median > 0) {
      average_ = static_cast<std::size_t>(stage.median);
      scale_ = median_variance(stage.median) * stage.median;
    } else if (stage.averages.size() == 1 && stage.sections.empty() && stage.taps.size() == 1) {
      average_ = static_cast<std::size_t>(stage.averages.front());
    } else {
      h_ = impulse_response(stage);
    }
  }

  std::size_t length() const { return average_ > 0 ? average_ : h_.size(); }

  double at(std::size_t lag) const {
    if (lag >= length()) return 0.0;
    if (average_ > 0) {
      const auto n = static_cast<double>(average_);
      return scale_ * static_cast<double>(average_ - lag) / (n * n);
    }
    const auto known = cache_.find(lag);
    if (known != cache_.end()) return known->second;
    double sum = 0.0;
    for (std::size_t i = 0; i + lag < h_.size(); ++i) sum += h_[i] * h_[i + lag];
    cache_.emplace(lag, sum);
    return sum;
  }

 private:
  std::vector<double> h_;
  std::size_t average_ = 0;
  double scale_ = 1.0;
  mutable std::map<std::size_t, double> cache_;
};

std::vector<double> geometric(double ratio, std::size_t most) {
  std::vector<double> r{1.0};
  while (ratio > 0.0 && r.back() > 1e-13 && r.size() <= most) r.push_back(r.back() * ratio);
  return r;
}

}  // namespace

double median_variance(int length) {
  // Density of the middle of n = 2k + 1: n! / (k!)^2 Phi^k (1 - Phi)^k phi.
  const double k = length / 2;
  const double constant = std::lgamma(length + 1.0) - 2.0 * std::lgamma(k + 1.0);
  constexpr double step = 1.0 / 512.0;
  double sum = 0.0;
  for (double x = step; x < 12.0; x += step) {  // symmetric, and nothing at 0
    const double above = std::erfc(x / std::numbers::sqrt2) / 2.0;
    const double density = std::exp(constant + k * (std::log(above) + std::log1p(-above)) -
                                    x * x / 2.0 - std::log(2.0 * std::numbers::pi) / 2.0);
    if (std::isfinite(density)) sum += x * x * density;
  }
  return 2.0 * step * sum;
}

namespace {

// A median among other stages, or of noise whose neighbours correlate, has no closed form: the
// series is run on numbers that are the same every time.
double tried_noise_gain(const Digital& digital, double correlation) {
  constexpr std::int64_t readings = std::int64_t{1} << 17, most = std::int64_t{1} << 21;
  math::Stream stream(0x6d656469616eULL, 0);
  DigitalState state(digital);
  const double fresh = std::sqrt(1.0 - correlation * correlation);
  double noise = stream.normal(), squares = 0.0;
  std::int64_t count = 0;
  // Its memory holds nothing but noise after a hundredth of them.
  for (std::int64_t i = 0; i < most && count < readings; ++i) {
    noise = correlation * noise + fresh * stream.normal();
    if (!state.push(noise) || i < most / 100) continue;
    squares += state.value() * state.value();
    ++count;
  }
  return squares / static_cast<double>(std::max<std::int64_t>(1, count));
}

}  // namespace

double noise_gain(const Digital& digital, double correlation) {
  const bool median =
      std::ranges::any_of(digital.stages, [](const auto& s) { return s.median > 0; });
  if (median && (digital.stages.size() > 1 || correlation > 0.0)) {
    return tried_noise_gain(digital, correlation);
  }
  std::vector<Autocovariance> stages;
  for (const auto& stage : digital.stages) stages.emplace_back(stage);
  // How many lags each stage must hand on: none from the last, and as many before it as its memory
  // and its own output reach back.
  std::vector<std::size_t> lags(stages.size() + 1, 0);
  for (std::size_t i = stages.size(); i-- > 0;) {
    const auto kept = static_cast<std::size_t>(digital.stages[i].decimation);
    lags[i] = lags[i + 1] * kept + stages[i].length() - 1;
  }
  auto r = geometric(correlation, lags.front());
  for (std::size_t i = 0; i < stages.size(); ++i) {
    const auto kept = static_cast<std::size_t>(digital.stages[i].decimation);
    const auto reach = stages[i].length() - 1 + r.size() - 1;
    std::vector<double> out;
    for (std::size_t k = 0; k <= lags[i + 1] && k * kept <= reach; ++k) {
      const std::size_t lag = k * kept;
      double sum = r[0] * stages[i].at(lag);
      for (std::size_t j = 1; j < r.size(); ++j) {
        sum += r[j] * (stages[i].at(lag + j) + stages[i].at(lag > j ? lag - j : j - lag));
      }
      out.push_back(sum);
    }
    r = std::move(out);
  }
  return r.front();
}

}  // namespace tamlo::chain
