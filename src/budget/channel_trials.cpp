// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/channel_trials.hpp"

#include <cmath>

#include "tamlo/chain/varied.hpp"

namespace tamlo::budget {
namespace {

using chain::Chain;
using chain::Kind;

Shape shape_of(quantity::Distribution distribution) {
  switch (distribution) {
    case quantity::Distribution::uniform:
      return Shape::uniform;
    case quantity::Distribution::normal:
      return Shape::normal;
    case quantity::Distribution::triangular:
      return Shape::triangular;
    case quantity::Distribution::arcsine:
      return Shape::arcsine;
  }
  return Shape::normal;
}

// The parameters of up to 1024 units, row by row.
class Units {
 public:
  explicit Units(const Chain& chain)
      : chain_(chain), storage_(chain.parameters.size(), std::vector<double>(1024)) {
    for (const auto& row : storage_) rows_.push_back(row.data());
  }

  /// Nominal, plus what each source of the kinds that are asked for moves it by.
  void set(const std::vector<std::vector<double>>& deviations, std::size_t n) {
    for (std::size_t i = 0; i < storage_.size(); ++i) {
      std::fill_n(storage_[i].begin(), n, chain_.nominal[i]);
    }
    for (std::size_t s = 0; s < chain_.sources.size(); ++s) {
      double* row = storage_[chain_.sources[s].parameter].data();
      const double* deviation = deviations[s].data();
      for (std::size_t t = 0; t < n; ++t) row[t] += deviation[t];
    }
  }
  const double* const* rows() const { return rows_.data(); }

 private:
  const Chain& chain_;
  std::vector<std::vector<double>> storage_;
  std::vector<const double*> rows_;
};

// Everything that the trials of one channel at one point need, once.
class ChannelModel {
 public:
  ChannelModel(const Chain& chain, double x, std::uint64_t seed)
      : chain_(chain), x_(x), seed_(seed), inputs_(inputs_of(chain, x)) {
    for (const auto& [i, j, r] : chain.correlations) correlations_.push_back({i, j, r});
  }

  void operator()(std::uint64_t first, std::span<double> y) const {
    Units units(chain_);
    std::vector<std::vector<double>> deviations;
    draw(inputs_, correlations_, seed_, first, y.size(), deviations);
    units.set(deviations, y.size());
    chain::read_varied(chain_, x_, units.rows(), y);
    const auto& tare = chain_.channel.scaling.tare;
    if (tare) {
      // The tare is a reading of its own: what is new at every reading is drawn again.
      std::vector<std::vector<double>> again;
      draw(inputs_, correlations_, seed_ ^ 0x7461726500000000ULL, first, y.size(), again);
      for (std::size_t s = 0; s < again.size(); ++s) {
        if (chain::random(chain_.sources[s].kind)) deviations[s] = again[s];
      }
      units.set(deviations, y.size());
      std::vector<double> empty(y.size());
      chain::read_varied(chain_, *tare, units.rows(), empty);
      for (std::size_t t = 0; t < y.size(); ++t) y[t] -= empty[t] - *tare;
    }
    for (double& value : y) value -= x_;
  }

 private:
  const Chain& chain_;
  double x_;
  std::uint64_t seed_;
  std::vector<Input> inputs_;
  std::vector<Correlation> correlations_;
};

}  // namespace

std::vector<Input> inputs_of(const Chain& chain, double x) {
  const auto standards = chain::standards_at(chain, x);
  std::vector<Input> result;
  for (std::size_t i = 0; i < chain.sources.size(); ++i) {
    const auto& source = chain.sources[i];
    Input input{.name = source.name,
                .standard = standards[i],
                .shape = shape_of(source.distribution),
                .half_width = source.limit * source.passes};
    if (source.kind == Kind::quantisation) input.half_width = standards[i] * std::sqrt(3.0);
    result.push_back(std::move(input));
  }
  return result;
}

Trials simulate(const Chain& chain, double x, const TrialsRequest& request) {
  return run(ChannelModel(chain, x, request.seed), request);
}

std::vector<double> sample(const Chain& chain, double x, std::uint64_t count,
                           const TrialsRequest& request) {
  return sample(ChannelModel(chain, x, request.seed), count, request.threads);
}

}  // namespace tamlo::budget
