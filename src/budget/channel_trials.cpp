// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/channel_trials.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <optional>

#include "chain/read_units.hpp"
#include "math/draws.hpp"
#include "point.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/reading_distribution.hpp"
#include "tamlo/chain/detail/reading_sampler.hpp"
#include "tamlo/detail/per_thread.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/hash.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::budget {

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

namespace {

// What is drawn of each unit.
enum class What {
  smooth,     // a reading without steps and without ends
  by_codes,   // a reading as it comes about, code by code
  adjusting,  // the mean of such readings on the day when the unit is adjusted: tolerances and
              // shape
};

// Everything that the trials of one channel at one point need, once.
class ChannelModel {
 public:
  ChannelModel(const Chain& chain, double x, std::uint64_t seed, What what = What::smooth,
               double step = 0.0)
      : chain_(chain),
        x_(x),
        step_(step),
        seed_(seed),
        own_seed_(seed),
        what_(what),
        inputs_(inputs_of(chain, x)) {
    for (const double nominal : chain.nominal) nominal_.emplace_back(math::draws_block, nominal);
    for (const auto& [i, j, r] : chain.correlations) {
      correlations_.push_back({i, j, r});
      pairs_.emplace_back(std::vector{inputs_[i], inputs_[j]}, std::vector{Correlation{0, 1, r}});
    }
    leave_out_what_does_nothing();
    if (what_ == What::smooth) return;
    at_point_.emplace(chain, x);
    if (const auto& tare = chain.channel.scaling.tare) at_tare_.emplace(chain, *tare);
  }

  // One of several channels of the same units: a source that they share is drawn by its name, all
  // else by that of the channel too.
  ChannelModel together() && {
    own_seed_ = seed_ ^ math::hash_of(chain_.channel.name);
    for (const auto& source : chain_.sources) {
      const auto by = source.shared ? source.name : chain_.channel.name + ": " + source.name;
      identities_.push_back(math::hash_of(by));
    }
    return std::move(*this);
  }

  void operator()(std::uint64_t first, std::span<double> y) const {
    static const tamlo::detail::PerThread<Units> memory;
    auto& units = memory.own();
    read(units, x_, first, {.reading = own_seed_, .place = seed_of_place(x_)}, y);
    if (const auto& tare = chain_.channel.scaling.tare) {
      // The tare is a reading of its own: what is new at every reading is drawn again, and so is
      // what a place has to itself.
      std::vector<double> empty(y.size());
      const std::uint64_t seed = own_seed_ ^ 0x7461726500000000ULL;
      read(units, *tare, first, {.reading = seed, .place = seed_of_place(*tare)}, empty);
      for (std::size_t t = 0; t < y.size(); ++t) y[t] -= empty[t] - *tare;
    }
    for (double& value : y) value -= x_;
  }

 private:
  // The parameters of some units, row by row. One for each thread, kept from block to block:
  // allocating it anew would cost more than the trials.
  struct Units {
    std::vector<std::vector<double>> parameters{}, joint{};
    std::vector<const double*> rows{};
    std::vector<double> codes{};
  };
  // Of what is new at every reading, and of what is that of a place.
  struct Seeds {
    std::uint64_t reading = 0, place = 0;
  };

  const Chain& chain_;
  double x_;
  double step_;                              // codes over which the places of the units are spread
  std::uint64_t seed_, own_seed_;            // of what is fixed in a unit, and of its readings
  std::vector<std::uint64_t> identities_{};  // of the sources, where channels are drawn together
  What what_;
  std::vector<Input> inputs_;
  std::optional<chain::ReadingSampler> at_point_{}, at_tare_{};
  std::vector<std::size_t> alone_{};  // sources that are drawn by themselves
  std::vector<Correlation> correlations_{};
  std::vector<Draws> pairs_{};                  // of each correlation
  std::vector<std::vector<double>> nominal_{};  // a row for each parameter

  // A source that moves the reading by less than a 1e-12th of what all do is left at its nominal:
  // it would change no digit. Those that correlate are drawn together.
  void leave_out_what_does_nothing() {
    std::vector<double> standards;
    for (const auto& input : inputs_) standards.push_back(input.standard_uncertainty);
    const auto effects = chain::effects(chain_, x_, standards);
    double sum = 0.0;
    for (const double effect : effects) sum += effect * effect;
    for (std::size_t s = 0; s < inputs_.size(); ++s) {
      const bool joint = std::ranges::any_of(
          correlations_, [&](const auto& c) { return c.first == s || c.second == s; });
      if (!joint && drawn(s, effects[s], std::sqrt(sum))) alone_.push_back(s);
    }
  }

  bool drawn(std::size_t source, double effect, double all) const {
    if (what_ == What::smooth) return std::abs(effect) > 1e-12 * all;
    // Beyond a clamp the smooth limit does not move; what is random comes with the codes.
    return !chain::by_codes(chain_, source) && moves(chain_.sources[source]);
  }
  bool moves(const chain::Source& source) const {
    return what_ != What::adjusting || source.kind() == Kind::tolerance ||
           source.kind() == Kind::nonlinearity;
  }

  // What a place has to itself is the same whenever a unit is read there.
  std::uint64_t seed_of_place(double x) const {
    return own_seed_ ^ (std::bit_cast<std::uint64_t>(x + 0.0) * 0x9e3779b97f4a7c15ULL | 1U);
  }

  // Readings at `x` of the units from `first` on.
  void read(Units& units, double x, std::uint64_t first, const Seeds& seeds,
            std::span<double> y) const {
    set(units, x, first, y.size(), seeds);
    if (what_ == What::smooth) return chain::read_units(chain_, x, units.rows.data(), y);
    const bool at_point = x == x_;
    const auto& sampler = at_point ? *at_point_ : *at_tare_;
    units.codes.resize(y.size());
    sampler.codes(units.rows.data(), units.codes);
    if (what_ == What::by_codes) {
      if (step_ > 0.0 && at_point) return about(sampler, units, seeds, first, y);
      return sampler.draw(units.codes, seeds.reading ^ 0x636f646573000000ULL, first, y);
    }
    // The mean of some readings: their noise adds a 16th of its variance to the adjustment, of
    // readings that take long a quarter of what a single one has left.
    const double most = 1000.0 / sampler.effort();
    const int readings = static_cast<int>(std::clamp(most, 4.0, 16.0));
    std::vector<double> one(y.size());
    std::ranges::fill(y, 0.0);
    for (int i = 0; i < readings; ++i) {
      const std::uint64_t seed = seeds.reading ^ (std::uint64_t{0x61646a757374} + i) << 8U;
      sampler.draw(units.codes, seed, first, one);
      for (std::size_t t = 0; t < y.size(); ++t) y[t] += one[t] / readings;
    }
  }

  // Of places within a step: what the quantity is more there is no error.
  void about(const chain::ReadingSampler& sampler, Units& units, const Seeds& seeds,
             std::uint64_t first, std::span<double> y) const {
    std::vector<double> away(y.size(), 0.0);
    math::add_deviates(math::Deviate::uniform, seeds.reading, std::uint64_t{1} << 23U, first,
                       step_ / 2.0, away, away);
    for (std::size_t t = 0; t < y.size(); ++t) units.codes[t] += away[t];
    sampler.draw(units.codes, seeds.reading ^ 0x636f646573000000ULL, first, y);
    for (std::size_t t = 0; t < y.size(); ++t) y[t] -= away[t] * sampler.per_code();
  }

  // Nominal, plus what each source moves it by; what is new at every reading from its own seed.
  void set(Units& units, double x, std::uint64_t first, std::size_t n, const Seeds& seeds) const {
    units.parameters.resize(nominal_.size());
    units.rows.clear();
    for (const auto& row : nominal_) units.rows.push_back(row.data());
    // What moves a parameter is added to its nominal, and the next to the sum.
    const auto row = [&](std::size_t s) {
      auto& moved = units.parameters[chain_.sources[s].parameter];
      moved.resize(math::draws_block);
      return std::span(moved).first(n);
    };
    const auto before = [&](std::size_t s) {
      return std::span(units.rows[chain_.sources[s].parameter], n);
    };
    const auto seed = [&](std::size_t s) {
      const auto kind = chain_.sources[s].kind();
      const auto seed_of_kind = !chain::own_of_place(kind) ? seed_
                                : chain::random(kind)      ? seeds.reading
                                                           : seeds.place;
      return identities_.empty() ? seed_of_kind : seed_of_kind ^ identities_[s];
    };
    const auto number = [&](std::size_t s) { return identities_.empty() ? s : 0; };
    const auto followed = chain_.followed.empty() ? std::vector<double>() : followed_at(chain_, x);
    std::vector<double> taken(followed.empty() ? 0 : n, 0.0), start;
    // A correction has taken away what it follows of a tolerance.
    const auto follow = [&](std::size_t s, auto deviation) {
      if (followed.empty() || followed[s] == 0.0) return;
      for (std::size_t t = 0; t < n; ++t) taken[t] += followed[s] * deviation(t);
    };
    for (const auto s : alone_) {
      const auto from = before(s);
      if (!followed.empty()) start.assign(from.begin(), from.end());
      const auto put = [&](const Input& input) {
        add_deviations(input, seed(s), number(s), first, from, row(s));
      };
      if (chain_.named.calibration == s) {
        auto at_place = inputs_[s];
        at_place.standard_uncertainty = calibration_uncertainty_at(chain_, x);
        put(at_place);
      } else {
        put(inputs_[s]);
      }
      units.rows[chain_.sources[s].parameter] = row(s).data();
      follow(s, [&](std::size_t t) { return row(s)[t] - start[t]; });
    }
    for (std::size_t c = 0; c < correlations_.size(); ++c) {
      const auto& correlation = correlations_[c];
      pairs_[c].fill(seed(correlation.first) ^ (correlation.first + 1) << 32, first, n,
                     units.joint);
      const std::size_t both[] = {correlation.first, correlation.second};
      for (std::size_t k = 0; k < 2; ++k) {
        if (!moves(chain_.sources[both[k]])) continue;
        const auto from = before(both[k]);
        const auto out = row(both[k]);
        for (std::size_t t = 0; t < n; ++t) out[t] = from[t] + units.joint[k][t];
        units.rows[chain_.sources[both[k]].parameter] = out.data();
        follow(both[k], [&](std::size_t t) { return units.joint[k][t]; });
      }
    }
    if (followed.empty()) return;
    auto& rounding = units.parameters[chain_.firmware.rounding];
    const double* from = units.rows[chain_.firmware.rounding];
    start.assign(from, from + n);
    rounding.resize(math::draws_block);
    for (std::size_t t = 0; t < n; ++t) rounding[t] = start[t] - taken[t];
    units.rows[chain_.firmware.rounding] = rounding.data();
  }
};

}  // namespace

std::vector<Input> inputs_of(const Chain& chain, double x) {
  const auto standards = chain::standards_at(chain, x);
  std::vector<Input> result;
  for (std::size_t i = 0; i < chain.sources.size(); ++i) {
    const auto& source = chain.sources[i];
    Input input{.name = source.name,
                .standard_uncertainty = standards[i],
                .shape = shape_of(source.distribution),
                .half_width = source.limit * chain::filter_gain_at(chain, source, x)};
    if (source.kind() == Kind::interference) input.half_width = standards[i] * std::sqrt(2.0);
    if (source.kind() == Kind::quantisation) input.half_width = standards[i] * std::sqrt(3.0);
    result.push_back(std::move(input));
  }
  return result;
}

Trials simulate(const Chain& chain, double x, const TrialsRequest& request) {
  return run(ChannelModel(chain, x, request.seed), request);
}

Trials simulate_readings(const Chain& chain, double x, const TrialsRequest& request) {
  return run(ChannelModel(chain, x, request.seed, What::by_codes), request);
}

std::vector<double> sample_readings(const Chain& chain, double x, std::uint64_t count,
                                    std::uint64_t seed) {
  return sample(ChannelModel(chain, x, seed, What::by_codes), count);
}

std::vector<std::vector<double>> sample_together(const std::vector<const Chain*>& chains,
                                                 const std::vector<double>& at, std::uint64_t count,
                                                 std::uint64_t seed) {
  require(chains.size() == at.size(), "one place for each channel");
  std::vector<std::vector<double>> result;
  for (std::size_t i = 0; i < at.size(); ++i) {
    result.push_back(
        sample(ChannelModel(*chains[i], at[i], seed, What::by_codes).together(), count));
  }
  return result;
}

std::vector<double> sample_about(const Chain& chain, double x, double step, std::uint64_t count,
                                 std::uint64_t seed) {
  return sample(ChannelModel(chain, x, seed, What::by_codes, step), count);
}

std::vector<double> sample_expected(const Chain& chain, double x, std::uint64_t count,
                                    std::uint64_t seed) {
  return sample(ChannelModel(chain, x, seed, What::adjusting), count);
}

std::vector<double> sample(const Chain& chain, double x, std::uint64_t count,
                           const TrialsRequest& request) {
  return sample(ChannelModel(chain, x, request.seed), count, request.threads);
}

}  // namespace tamlo::budget
