// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/link/detail/listening.hpp"
#include "tamlo/meter/detail/live.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/signal/detail/chart.hpp"

/// Channels that are watched over their links, each beside a meter where there is one.
namespace tamlo {
namespace link TAMLO_API {

/// Latest values of all links, channel by channel.
class Watching {
 public:
  /// Request for watching.
  struct Settings {
    std::vector<std::string> channels{};
    std::vector<std::string> links{};  ///< none: all that are of no instrument, and the meter's
    const model::Meter* meter = nullptr;
    /// Amount, of each channel, that a reading is to be known within, SI; empty: by its target.
    std::vector<double> within{};
  };
  /// Keeps a reference to the board. Throws LinkError, ArgumentError.
  Watching(const model::Board& board, const Settings& settings);
  ~Watching();
  Watching(const Watching&) = delete;
  Watching& operator=(const Watching&) = delete;

  /// One value that came: of the channel of that place among those that are watched.
  struct Event {
    std::size_t channel = 0;
    Value value{};
    double seconds = 0.0;
    std::optional<double> shown{};  ///< by the meter, last
  };
  /// Takes what comes until then; `each` hears of every value, and ends it with false. False once
  /// nothing comes any more.
  bool advance(Clock::time_point until, const std::function<bool(const Event&)>& each);
  /// Listens no longer, and takes what was read by then.
  void finish(const std::function<bool(const Event&)>& each);
  /// Tells whether no channel moves.
  bool all_at_rest() const;
  /// Tells whether the meter is held against a channel: where it could be of several, it is of
  /// none.
  bool compares() const;
  /// Returns the present values of each channel.
  std::vector<meter::LiveView> channels() const;
  /// Returns the state of each link.
  std::vector<LinkState> links() const;
  /// The past of a channel.
  const signal::Strip& strip(std::size_t channel) const;
  /// Since it began.
  double seconds() const;

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

}  // namespace link
}  // namespace tamlo
