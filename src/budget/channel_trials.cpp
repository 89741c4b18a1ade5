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

// The parameters of up to 1024 units, row by row, and the deviations that they are made from. One
// for each thread, kept from block to block: allocating them anew would cost more than the trials.
struct Units {
  std::vector<std::vector<double>> parameters{}, deviations{}, again{};
  std::vector<const double*> rows{};

  /// Nominal, plus what each source moves it by.
  void set(const Chain& chain, std::size_t n) {
    parameters.resize(chain.parameters.size());
    rows.clear();
    for (std::size_t i = 0; i < parameters.size(); ++i) {
      parameters[i].assign(1024, chain.nominal[i]);
      rows.push_back(parameters[i].data());
    }
    for (std::size_t s = 0; s < chain.sources.size(); ++s) {
      double* row = parameters[chain.sources[s].parameter].data();
      const double* deviation = deviations[s].data();
      for (std::size_t t = 0; t < n; ++t) row[t] += deviation[t];
    }
  }
};

// Everything that the trials of one channel at one point need, once.
class ChannelModel {
 public:
  ChannelModel(const Chain& chain, double x, std::uint64_t seed)
      : chain_(chain), x_(x), seed_(seed), inputs_(inputs_of(chain, x)) {
    for (const auto& [i, j, r] : chain.correlations) correlations_.push_back({i, j, r});
  }

  void operator()(std::uint64_t first, std::span<double> y) const {
    thread_local Units units;
    draw(inputs_, correlations_, seed_, first, y.size(), units.deviations);
    units.set(chain_, y.size());
    chain::read_varied(chain_, x_, units.rows.data(), y);
    const auto& tare = chain_.channel.scaling.tare;
    if (tare) {
      // The tare is a reading of its own: what is new at every reading is drawn again.
      draw(inputs_, correlations_, seed_ ^ 0x7461726500000000ULL, first, y.size(), units.again);
      for (std::size_t s = 0; s < units.again.size(); ++s) {
        if (chain::random(chain_.sources[s].kind)) units.deviations[s] = units.again[s];
      }
      units.set(chain_, y.size());
      std::vector<double> empty(y.size());
      chain::read_varied(chain_, *tare, units.rows.data(), empty);
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
