// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/trials.hpp"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <stdexcept>
#include <thread>

namespace tamlo::budget {
namespace {

constexpr std::uint64_t block_size = 1024;

// Runs the blocks of `values` on so many threads; each block has its own place.
void fill(const Block& block, std::uint64_t first, std::span<double> values, int threads) {
  const std::uint64_t blocks = (values.size() + block_size - 1) / block_size;
  std::atomic<std::uint64_t> next{0};
  const auto work = [&] {
    for (std::uint64_t i = next++; i < blocks; i = next++) {
      const auto from = i * block_size;
      block(first + from, values.subspan(from, std::min(block_size, values.size() - from)));
    }
  };
  std::vector<std::jthread> others;
  for (int i = 1; i < threads; ++i) others.emplace_back(work);
  work();
}

// Sums of blocks in the order of the blocks: the same digits on any number of threads.
struct Moments {
  double mean = 0.0, variance = 0.0;
};
Moments moments(std::span<const double> values) {
  const auto sum = [&](auto figure) {
    double total = 0.0;
    for (std::size_t from = 0; from < values.size(); from += block_size) {
      double part = 0.0;
      for (std::size_t i = from; i < std::min(from + block_size, values.size()); ++i) {
        part += figure(values[i]);
      }
      total += part;
    }
    return total;
  };
  const auto n = static_cast<double>(values.size());
  const double mean = sum([](double y) { return y; }) / n;
  return {.mean = mean,
          .variance = sum([&](double y) { return (y - mean) * (y - mean); }) / (n - 1.0)};
}

// Mean and its standard deviation of h figures.
struct Spread {
  double mean = 0.0, of_mean = 0.0;
};
Spread spread(const std::vector<double>& figures) {
  const auto [mean, variance] = moments(figures);
  return {mean, std::sqrt(variance / static_cast<double>(figures.size()))};
}

}  // namespace

std::vector<double> sample(const Block& block, std::uint64_t count, int threads) {
  std::vector<double> values(count);
  fill(block, 0, values, threads);
  return values;
}

Trials describe(std::vector<double>& values, double coverage) {
  const auto n = values.size();
  const auto [mean, variance] = moments(values);
  if (!std::isfinite(mean) || !std::isfinite(variance)) {
    throw std::domain_error("a trial gave a value that is not a number");
  }
  Trials result{.count = n, .mean = mean, .combined = std::sqrt(variance)};
  // An interval spans q steps of the sorted values; only its two tails need sorting.
  const auto q = std::min(
      static_cast<std::size_t>(std::floor(coverage * static_cast<double>(n) + 0.5)), n - 1);
  const auto tail = n - q;
  const auto at = [&](std::size_t i) { return values.begin() + static_cast<std::ptrdiff_t>(i); };
  if (2 * tail < n) {
    std::nth_element(values.begin(), at(tail), values.end());
    std::nth_element(at(tail), at(q), values.end());
    std::sort(values.begin(), at(tail));
    std::sort(at(q), values.end());
  } else {
    std::ranges::sort(values);
  }
  const auto low = (n - q) / 2;
  result.symmetric = {values[low], values[low + q]};
  std::size_t best = 0;
  for (std::size_t r = 1; r < tail; ++r) {
    if (values[r + q] - values[r] < values[best + q] - values[best]) best = r;
  }
  result.shortest = {values[best], values[best + q]};
  return result;
}

double tolerance(double standard, int digits) {
  if (!(standard > 0.0)) return 0.0;
  // standard = c * 10^l with c an integer of so many digits.
  const double l = std::floor(std::log10(standard)) - (digits - 1);
  return 0.5 * std::pow(10.0, l);
}

Trials run(const Block& block, const TrialsRequest& request) {
  if (request.count > 0) {
    auto values = sample(block, request.count, request.threads);
    return describe(values, request.coverage);
  }
  // JCGM 101, 7.9.4: groups of M trials, until the figures of the groups agree.
  const double needed = std::max(100.0 / (1.0 - request.coverage), 1e4);
  const auto group =
      (static_cast<std::uint64_t>(needed) + block_size - 1) / block_size * block_size;
  std::vector<double> values;
  std::vector<double> means, deviations, lows, highs;
  bool settled = false;
  while (!settled && values.size() + group <= request.most) {
    const auto first = values.size();
    values.resize(first + group);
    fill(block, first, std::span(values).subspan(first), request.threads);
    std::vector<double> last(values.begin() + static_cast<std::ptrdiff_t>(first), values.end());
    const auto of = describe(last, request.coverage);
    means.push_back(of.mean);
    deviations.push_back(of.combined);
    lows.push_back(of.symmetric[0]);
    highs.push_back(of.symmetric[1]);
    if (means.size() < 2) continue;
    const double allowed = tolerance(spread(deviations).mean, request.digits) / 5.0;
    settled = std::ranges::all_of(
        std::array{&means, &deviations, &lows, &highs},
        [&](const auto* of_groups) { return 2.0 * spread(*of_groups).of_mean <= allowed; });
  }
  auto result = describe(values, request.coverage);
  result.settled = settled;
  return result;
}

}  // namespace tamlo::budget
