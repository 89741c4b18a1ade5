// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/detail/measuring.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/chain/chain.hpp"
#include "tamlo/error.hpp"

namespace tamlo::link {
namespace {

constexpr double set_again_after = 3.0;  // s at rest elsewhere
constexpr double least_followed = 0.1;   // part of the meter's way

}  // namespace

std::vector<std::string> links_for(const model::Board& board, const model::Meter* meter,
                                   const model::SourceInstrument* source) {
  std::vector<std::string> names;
  for (const auto& link : board.links) {
    const auto chosen = [&](const auto& list) {
      return std::ranges::any_of(list, [&](const auto& one) { return one.link == link.name; });
    };
    const bool wanted = (meter != nullptr && meter->link == link.name) ||
                        (source != nullptr && source->link == link.name);
    if (wanted || (!chosen(board.meters) && !chosen(board.sources))) names.push_back(link.name);
  }
  return names;
}

struct Measuring::Inside {
  Inside(const model::Board& of, const std::string& channel, const model::Meter& beside,
         const Settings& with)
      : board(of),
        meter(beside),
        settings(with),
        index(static_cast<std::size_t>(model::find(of.channels, channel) - of.channels.data())),
        beside_meter(meter::chain_as_metered(of, channel, beside)),
        pairing(chain::build(of, channel), beside, meter::wanted_uncertainty(beside_meter)),
        listening(of, links_for(of, &beside, with.source), doubt_codes(of, {beside_meter})) {}

  const model::Board& board;
  const model::Meter& meter;
  Settings settings;
  std::size_t index;
  chain::Chain beside_meter;
  meter::Pairing pairing;
  Listening listening;
  std::vector<Sample> samples{};

  std::optional<double> row_reading{};  // of the position that was taken last

  double tolerance() const { return board.channels[index].span.width() / 50.0; }

  // The position before, of the same unit: what the meter showed there, and the reading of its row.
  struct Before {
    std::optional<double> shown{}, reading{};
  };
  // A reading that did not move with the meter, or that lies at the position before of which no row
  // could be taken, is none of this position: lines come late, or the channel hangs.
  bool follows(const Before& before, double at, double reading) const {
    if (!before.shown) return true;
    const double way = at - *before.shown;
    if (std::abs(way) <= tolerance()) return true;
    if (before.reading) return (reading - *before.reading) / way > least_followed;
    return std::abs(reading - at) < std::abs(reading - *before.shown);
  }

  // Values that are older than the last change say nothing.
  void feed(double changed_at) {
    for (const auto& sample : samples) {
      if (sample.seconds < changed_at) continue;
      if (sample.after_gap) pairing.restart();
      for (const auto& value : sample.values) feed(value, sample.seconds);
    }
    samples.clear();
  }

  void feed(const Value& value, double seconds) {
    if (value.of.holds == Holds::shown) {
      if (&board.meters[value.of.index] != &meter) return;
      if (value.overload()) {
        pairing.add_overload();
      } else {
        pairing.add_shown(*value.value, value.place);
      }
    } else if (value.of.index == index) {
      if (value.of.holds == Holds::code) {
        pairing.add_code(*value.value, seconds);
      } else {
        pairing.add_reading(*value.value, seconds);
      }
    }
  }

  void set(double at) {
    const auto& source = *settings.source;
    if (!source.range.holds(at)) {
      throw CommandRefused(fmt::format("source {}: {:.6g} {} is outside of its range", source.name,
                                       quantity::in_unit(at, source.range.unit),
                                       source.range.unit.symbol));
    }
    auto command = source.sets;
    constexpr std::string_view place = "{value}";
    command.replace(command.find(place), place.size(),
                    fmt::format("{:.9g}", quantity::in_unit(at, source.range.unit)));
    listening.tell(source.link, command);
  }

  // Why the source could not be set, its link being lost; nothing where it was.
  std::string try_to_set(double at) {
    try {
      set(at);
      return {};
    } catch (const CommandRefused&) {
      throw;
    } catch (const LinkError& error) {
      return fmt::format("link {}: {}", settings.source->link, error.what());
    }
  }
};

Measuring::Measuring(const model::Board& board, const std::string& channel,
                     const model::Meter& meter, const Settings& settings) {
  require(model::find(board.channels, channel) != nullptr, "a channel of the board");
  require(!meter.link.empty(), "a meter with a link");
  inside_ = std::make_unique<Inside>(board, channel, meter, settings);
}
Measuring::~Measuring() = default;

std::vector<LinkState> Measuring::links() const { return inside_->listening.states(); }

double Measuring::tolerance() const { return inside_->tolerance(); }

std::optional<Taken> Measuring::take(const Position& position,
                                     const std::function<Wish(const Progress&)>& watch) {
  auto& in = *inside_;
  const bool sets = in.settings.source != nullptr;
  const double began = in.listening.seconds();
  double rests_since = 0.0, set_at = began;
  bool rests = false, wanted = sets;
  const auto row_before = std::exchange(in.row_reading, {});
  const auto before = progress_.position.unit == position.unit
                          ? Inside::Before{progress_.shown, row_before}
                          : Inside::Before{};
  progress_ = {.position = position};
  for (;;) {
    if (wanted) {
      progress_.lost = in.try_to_set(position.at);
      wanted = !progress_.lost.empty();
      set_at = in.listening.seconds();
      in.pairing.restart();
    }
    const bool more = in.listening.take(in.samples, Clock::now() + std::chrono::milliseconds(100));
    in.feed(set_at);
    const double now = in.listening.seconds();
    const auto state = in.pairing.channel().state();
    progress_.waits = in.pairing.waits();
    progress_.shown.reset();
    if (const auto shown = in.pairing.shown()) {
      progress_.shown = meter::quantity_of(in.beside_meter, in.meter, *shown);
    }
    if (state.readings > 0) progress_.reading = state.last;
    const auto pair = in.pairing.pair();
    const double at = pair ? meter::quantity_of(in.beside_meter, in.meter, pair->meter) : 0.0;
    progress_.elsewhere = pair && std::abs(at - position.at) > tolerance();
    const bool follows = !pair || in.follows(before, at, pair->reading);
    if (!follows) progress_.waits = meter::Waits::to_follow;
    const auto wish = watch(progress_);
    if (wish == Wish::leave || !more) return {};
    wanted = wanted || (sets && progress_.elsewhere && now - set_at > set_again_after);
    const bool takes = pair && !wanted && ((!progress_.elsewhere && follows) || wish == Wish::take);
    if (takes) {
      if (!std::exchange(rests, true)) rests_since = now;
      Taken taken{.position = position, .reading = *pair};
      taken.reading.direction = position.direction;
      taken.reading.unit = position.unit;
      taken.row = meter::compare(in.beside_meter, in.meter, {taken.reading}).rows.front();
      const auto& needed = taken.row.repeats_needed;
      const bool decided = !needed || taken.reading.repeats >= *needed;
      if (decided || wish == Wish::take || now - rests_since > in.settings.longest) {
        in.row_reading = pair->reading;
        return taken;
      }
    } else {
      rests = false;
    }
    if (!rests && sets && now - began > in.settings.longest) return {};
  }
}

}  // namespace tamlo::link
