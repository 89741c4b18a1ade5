// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/propagate.hpp"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <exception>
#include <mutex>
#include <numeric>
#include <stdexcept>
#include <thread>
#include <utility>

#include "math/draws.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/power_of_ten.hpp"

namespace tamlo::budget {
namespace {

constexpr std::uint64_t block_size = math::draws_block;

using Values = std::vector<std::vector<double>>;

// Appends `count` values to each output, on so many threads; each block has its own place.
void fill(const BlockOfOutputs& block, Values& values, std::uint64_t count, int threads) {
  const std::uint64_t first = values.front().size();
  const std::uint64_t blocks = (count + block_size - 1) / block_size;
  for (auto& value : values) value.resize(first + count);
  std::atomic<std::uint64_t> next{0};
  // What a model throws ends the trials, on whichever thread it is.
  std::exception_ptr thrown;
  std::mutex of_thrown;
  const auto work = [&] {
    try {
      std::vector<std::span<double>> y(values.size());
      for (std::uint64_t i = next++; i < blocks; i = next++) {
        const auto from = i * block_size, size = std::min(block_size, count - from);
        for (std::size_t k = 0; k < y.size(); ++k) {
          y[k] = std::span(values[k]).subspan(first + from, size);
        }
        block(first + from, y);
      }
    } catch (...) {
      const std::lock_guard lock(of_thrown);
      if (!thrown) thrown = std::current_exception();
      next = blocks;
    }
  };
  {
    std::vector<std::jthread> others;
    for (int i = 1; i < threads; ++i) others.emplace_back(work);
    work();
  }
  if (thrown) std::rethrow_exception(thrown);
}

// Sums in an order of their own: the same digits on any number of threads.
struct Moments {
  double mean = 0.0, variance = 0.0;
};
Moments moments(std::span<const double> values) {
  constexpr std::size_t lanes = 8;
  const auto sum = [&](auto figure) {
    std::array<double, lanes> parts{};
    const auto whole = values.size() / lanes * lanes;
    for (std::size_t i = 0; i < whole; i += lanes) {
      for (std::size_t k = 0; k < lanes; ++k) parts[k] += figure(values[i + k]);
    }
    for (const double y : values.subspan(whole)) parts[0] += figure(y);
    return std::accumulate(parts.begin(), parts.end(), 0.0);
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

// The `count` smallest and the `count` largest values, each by rising size.
struct Tails {
  std::vector<double> below, above;
};

// By rising size: first into some thousand cells of equal width, then each of them.
void sort(std::vector<double>& values) {
  const auto cells = values.size() / 16 + 1;
  const auto [least, most] = std::ranges::minmax(values);
  const double from = least, width = (most - least) / static_cast<double>(cells);
  if (!std::isnormal(1.0 / width)) {
    std::ranges::sort(values);
    return;
  }
  const auto cell = [=, scale = 1.0 / width](double y) {
    return std::min(static_cast<std::size_t>((y - from) * scale), cells - 1);
  };
  std::vector<std::size_t> ends(cells + 1);
  for (const double y : values) ++ends[cell(y) + 1];
  std::partial_sum(ends.begin(), ends.end(), ends.begin());
  std::vector<double> sorted(values.size());
  auto next = ends;
  for (const double y : values) sorted[next[cell(y)]++] = y;
  for (std::size_t i = 0; i < cells; ++i) {
    std::sort(&sorted[0] + ends[i], &sorted[0] + ends[i + 1]);
  }
  values = std::move(sorted);
}

// A sample tells where the tails end, about; only what lies in them is sorted.
Tails tails(std::span<const double> values, std::size_t count) {
  const auto n = values.size();
  std::vector<double> sample;
  for (std::size_t i = 0; i < n; i += n / 16384 + 1) sample.push_back(values[i]);
  std::ranges::sort(sample);
  // As many as needed, and four standard deviations of what a sample tells.
  const auto size = static_cast<double>(sample.size());
  const double part = static_cast<double>(count) / static_cast<double>(n);
  const auto reach = static_cast<std::size_t>(part * size + 4.0 * std::sqrt(part * size));
  const bool all = 2 * reach >= sample.size();
  const double low = all ? sample.back() : sample[reach];
  const double high = all ? sample.front() : sample[sample.size() - 1 - reach];
  Tails result;
  // Every value is written, and the next over it unless it belongs: no branch to guess.
  std::array<double, block_size> below, above;
  for (std::size_t from = 0; from < n; from += block_size) {
    std::size_t of_below = 0, of_above = 0;
    for (const double y : values.subspan(from, std::min<std::size_t>(block_size, n - from))) {
      below[of_below] = above[of_above] = y;
      of_below += y <= low ? 1U : 0U;
      of_above += y >= high ? 1U : 0U;
    }
    result.below.insert(result.below.end(), below.begin(), below.begin() + of_below);
    result.above.insert(result.above.end(), above.begin(), above.begin() + of_above);
  }
  for (auto* each : {&result.below, &result.above}) {
    if (each->size() < count) each->assign(values.begin(), values.end());
    sort(*each);
  }
  result.above.erase(result.above.begin(), result.above.end() - static_cast<std::ptrdiff_t>(count));
  return result;
}

// A block of one output, as one of several.
BlockOfOutputs alone(const Block& block) {
  return [&block](std::uint64_t first, std::span<const std::span<double>> y) {
    block(first, y.front());
  };
}

}  // namespace

std::vector<double> sample(const Block& block, std::uint64_t count, int threads) {
  Values values(1);
  fill(alone(block), values, count, threads);
  return std::move(values.front());
}

Trials describe(std::span<const double> values, double coverage) {
  const auto n = values.size();
  const auto [mean, variance] = moments(values);
  if (!std::isfinite(mean) || !std::isfinite(variance)) {
    throw DataError("a trial gave a value that is not a number");
  }
  Trials result{.count = n, .mean = mean, .combined = std::sqrt(variance)};
  // An interval spans q steps of the sorted values; only its two tails need sorting.
  const auto q = std::min(
      static_cast<std::size_t>(std::floor(coverage * static_cast<double>(n) + 0.5)), n - 1);
  const auto tail = n - q;
  const auto [below, above] = tails(values, tail);
  const auto low = (n - q) / 2;
  result.symmetric = {below[low], above[low]};
  std::size_t best = 0;
  for (std::size_t r = 1; r < tail; ++r) {
    if (above[r] - below[r] < above[best] - below[best]) best = r;
  }
  result.shortest = {below[best], above[best]};
  return result;
}

double tolerance(double standard, int digits) {
  require_number(standard, "a standard deviation within 1e150");
  if (!(standard > 0.0)) return 0.0;
  // standard = c * 10^l with c an integer of so many digits.
  const double l = math::decade_of(standard) - (digits - 1);
  return 0.5 * math::power_of_ten(l);
}

TrialsOfOutputs run(const BlockOfOutputs& block, std::size_t outputs,
                    const TrialsRequest& request) {
  require(outputs > 0, "trials are of one output or more");
  TrialsOfOutputs result{.values = Values(outputs)};
  auto& values = result.values;
  const auto describe_all = [&](bool settled) {
    for (const auto& value : values) {
      result.outputs.push_back(describe(value, request.coverage));
      result.outputs.back().settled = settled;
    }
    return std::move(result);
  };
  if (request.count > 0) {
    fill(block, values, request.count, request.threads);
    return describe_all(true);
  }
  // JCGM 101, 7.9.4: groups of M trials, until the figures of the groups agree, of every output.
  const double needed = std::max(100.0 / (1.0 - request.coverage), 1e4);
  const auto group =
      (static_cast<std::uint64_t>(needed) + block_size - 1) / block_size * block_size;
  struct Groups {
    std::vector<double> means{}, deviations{}, lows{}, highs{};
  };
  std::vector<Groups> groups(outputs);
  bool settled = false;
  while (!settled && values.front().size() + group <= request.most) {
    const auto first = values.front().size();
    fill(block, values, group, request.threads);
    settled = first > 0;
    for (std::size_t k = 0; k < outputs; ++k) {
      auto& [means, deviations, lows, highs] = groups[k];
      const auto value = describe(std::span(values[k]).subspan(first), request.coverage);
      means.push_back(value.mean);
      deviations.push_back(value.combined);
      lows.push_back(value.symmetric.low);
      highs.push_back(value.symmetric.high);
      if (first == 0) continue;
      const double allowed = tolerance(spread(deviations).mean, request.digits) / 5.0;
      settled = settled && std::ranges::all_of(std::array{&means, &deviations, &lows, &highs},
                                               [&](const auto* of_groups) {
                                                 return 2.0 * spread(*of_groups).of_mean <= allowed;
                                               });
    }
  }
  return describe_all(settled);
}

Trials run(const Block& block, const TrialsRequest& request) {
  return run(alone(block), 1, request).outputs.front();
}

double TrialsOfOutputs::correlation(std::size_t a, std::size_t b) const {
  require(a < outputs.size() && b < outputs.size(), "an output that is not there");
  const auto n = values[a].size();
  const double scale = outputs[a].combined * outputs[b].combined * static_cast<double>(n - 1);
  if (scale == 0.0) return 0.0;
  double sum = 0.0;
  for (std::size_t i = 0; i < n; ++i) {
    sum += (values[a][i] - outputs[a].mean) * (values[b][i] - outputs[b].mean);
  }
  return sum / scale;
}

}  // namespace tamlo::budget
