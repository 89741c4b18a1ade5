// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/watching.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/chain/chain.hpp"
#include "tamlo/error.hpp"
#include "tamlo/link/detail/measuring.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/detail/pairing.hpp"

namespace tamlo::link {
namespace {

// Of a meter that reads something else, none.
bool reads(const model::Meter* meter, const model::Channel& channel) {
  if (meter == nullptr || meter->ranges.empty()) return false;
  if (meter->touches == model::Touches::pin) return true;
  return meter->ranges.front().full_scale.unit.dimension == channel.span.unit.dimension;
}

// The name of the zone between two edges, where it has one.
std::string zone_of(const model::Channel& channel, double reading) {
  if (!channel.zones) return "";
  const auto& zones = *channel.zones;
  const auto at = std::ranges::upper_bound(zones.edges, reading) - zones.edges.begin();
  const auto index = static_cast<std::size_t>(at);
  return index < zones.names.size() ? zones.names[index] : "";
}

}  // namespace

struct Watching::Inside {
  // When values of one source came. They are old once five of them should have come since, and 2 s.
  struct Arrivals {
    double first = 0.0, last = 0.0;
    std::uint64_t count = 0;

    void add(double seconds) {
      if (count++ == 0) first = seconds;
      last = seconds;
    }
    bool old(double now) const {
      const double period = count > 1 ? (last - first) / static_cast<double>(count - 1) : 0.0;
      return now - last > std::max(2.0, 5.0 * period);
    }
  };

  struct One {
    std::size_t index;  // of the channel on the board
    meter::Live live;
    std::optional<meter::Pairing> pairing;
    std::optional<chain::Chain> as_metered{};
    signal::Strip strip{};
    Arrivals arrivals{};
  };

  const model::Board& board;
  const model::Meter* meter;
  std::vector<One> all;
  Listening listening;
  std::vector<Sample> samples{};
  Arrivals of_meter{};

  // A meter is of one channel: where several could be it, it is held against none.
  bool compares() const {
    return std::ranges::count_if(all, [](const One& one) { return one.pairing.has_value(); }) == 1;
  }

  // False where it is to end.
  bool take(const Value& value, double seconds, const std::function<bool(const Event&)>& each) {
    if (value.of.holds == Holds::shown) {
      if (meter == nullptr || &board.meters[value.of.index] != meter) return true;
      of_meter.add(seconds);
      for (auto& watched : all) {
        if (!watched.pairing) continue;
        if (value.overload()) {
          watched.pairing->add_overload();
        } else {
          watched.pairing->add_shown(*value.value, value.place);
        }
      }
      return true;
    }
    for (std::size_t i = 0; i < all.size(); ++i) {
      auto& watched = all[i];
      if (watched.index != value.of.index) continue;
      const auto before = watched.live.readings();
      if (value.of.holds == Holds::code) {
        watched.live.add_code(*value.value, seconds);
        if (watched.pairing) watched.pairing->add_code(*value.value, seconds);
      } else {
        watched.live.add_reading(*value.value, seconds);
        if (watched.pairing) watched.pairing->add_reading(*value.value, seconds);
      }
      if (watched.live.readings() > before) {
        watched.strip.add(seconds, watched.live.last());
        watched.arrivals.add(seconds);
      }
      const auto shown = watched.pairing ? watched.pairing->shown() : std::nullopt;
      if (!each({.channel = i, .value = value, .seconds = seconds, .shown = shown})) return false;
    }
    return true;
  }
};

Watching::Watching(const model::Board& board, const Settings& settings) {
  std::vector<Inside::One> all;
  require(settings.within.empty() || settings.within.size() == settings.channels.size(),
          "what each channel is to be known within, or none");
  for (std::size_t i = 0; i < settings.channels.size(); ++i) {
    const auto& name = settings.channels[i];
    const auto* channel = model::find(board.channels, name);
    require(channel != nullptr, "a channel of the board");
    auto chain = chain::build(board, name);
    const double within =
        settings.within.empty() ? meter::wanted_uncertainty(chain) : settings.within[i];
    Inside::One one{.index = static_cast<std::size_t>(channel - board.channels.data()),
                    .live = meter::Live(chain, within),
                    .pairing = {}};
    if (reads(settings.meter, *channel)) {
      one.as_metered = meter::chain_as_metered(board, name, *settings.meter);
      one.pairing.emplace(std::move(chain), *settings.meter, within);
    }
    all.push_back(std::move(one));
  }
  auto links = settings.links.empty() ? links_for(board, settings.meter, nullptr) : settings.links;
  if (settings.meter != nullptr && std::ranges::find(links, settings.meter->link) == links.end()) {
    links.push_back(settings.meter->link);
  }
  std::vector<chain::Chain> chains;
  for (const auto& watched : all) chains.push_back(watched.live.chain());
  inside_.reset(new Inside{.board = board,
                           .meter = settings.meter,
                           .all = std::move(all),
                           .listening = {board, links, doubt_codes(board, chains)}});
}
Watching::~Watching() = default;

bool Watching::advance(Clock::time_point until, const std::function<bool(const Event&)>& each) {
  auto& in = *inside_;
  in.samples.clear();
  const bool more = in.listening.take(in.samples, until);
  for (const auto& sample : in.samples) {
    for (const auto& value : sample.values) {
      if (!in.take(value, sample.seconds, each)) return true;
    }
  }
  return more;
}

void Watching::finish(const std::function<bool(const Event&)>& each) {
  inside_->listening.stop();
  advance(Clock::now(), each);
}

bool Watching::all_at_rest() const {
  return std::ranges::all_of(inside_->all,
                             [](const Inside::One& one) { return one.live.settled().has_value(); });
}

bool Watching::compares() const { return inside_->compares(); }

std::vector<meter::LiveView> Watching::channels() const {
  std::vector<meter::LiveView> result;
  const bool compares = inside_->compares();
  for (const auto& watched : inside_->all) {
    const auto& chain = watched.live.chain();
    meter::LiveView one{.state = watched.live.state(), .span = chain.channel.span};
    if (one.state.readings > 0) {
      one.age = seconds() - watched.arrivals.last;
      one.old = watched.arrivals.old(seconds());
      if (one.old) one.state.settled.reset();
      const double at = std::clamp(one.state.last, one.span.low, one.span.high);
      const auto& accuracy = chain.channel.target.accuracy;
      if (accuracy) one.allowed = chain::allowed_at(chain, *accuracy, at);
      one.zone = zone_of(chain.channel, one.state.last);
    }
    if (chain.channel.zones) one.edges = chain.channel.zones->edges;
    if (watched.pairing && !inside_->of_meter.old(seconds())) {
      // A meter at the pin shows volts.
      if (const auto shown = watched.pairing->shown()) {
        one.shown = meter::quantity_of(*watched.as_metered, *inside_->meter, *shown);
      }
      if (const auto pair = watched.pairing->pair(); pair && !one.old && compares) {
        one.row = meter::compare(*watched.as_metered, *inside_->meter, {*pair}).rows.front();
      }
    }
    result.push_back(std::move(one));
  }
  return result;
}

std::vector<LinkState> Watching::links() const { return inside_->listening.states(); }
const signal::Strip& Watching::strip(std::size_t channel) const {
  return inside_->all.at(channel).strip;
}
double Watching::seconds() const { return inside_->listening.seconds(); }

}  // namespace tamlo::link
