// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <atomic>
#include <map>
#include <mutex>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "bench.hpp"

namespace tamlo::tool {

struct DeskArguments : MeterArguments {
  std::vector<std::string> readings{};
  std::string coverage = "0.95", write{};
};

/// A board under change: answers what single keys would make of it. What no changed key can have
/// an effect on is not computed again.
class Desk {
 public:
  /// Throws as io::load_board() and io::load_readings() do.
  explicit Desk(DeskArguments arguments);
  Desk(const Desk&) = delete;
  Desk& operator=(const Desk&) = delete;

  /// Returns the answer to a request, both JSON (docs/tune.md); a request that is none, or a board
  /// that is not sound, is answered with its problems. May be called from several threads: a newer
  /// evaluation ends an older one between two channels.
  std::string answer(std::string_view name, std::string_view body);
  /// Ends evaluations, now and from now on.
  void stop() { stopped_ = true; }

 private:
  struct Request;
  /// Figures that only the channel in view is asked for.
  struct Seen {
    budget::ChannelSettings settings{};
    std::vector<budget::SpanPoint> span{};
    chain::Response response{};
  };
  /// Figures of one channel.
  struct Kept {
    check::Examined check{};
    budget::Budget budget{};
    std::vector<result::ChannelComparison> comparisons{};
    std::optional<Seen> seen{};
  };
  /// Figures of a quantity of several channels.
  struct KeptQuantity {
    check::Examined check{};
    budget::QuantityBudget budget{};
    std::vector<result::ChannelComparison> comparisons{};
  };

  DeskArguments arguments_;
  double coverage_;
  std::string title_{};
  std::vector<io::ReadingsFile> readings_{};
  std::vector<model::Meter> provided_{};  // for readings that no meter of the board shows
  std::mutex mutex_{};
  std::atomic<std::uint64_t> newest_ = 0;
  std::atomic<bool> stopped_ = false;
  // Of the last evaluation: its board, its keys and what came of them.
  std::optional<io::LoadedBoard> board_{};
  std::vector<std::string> settings_{};
  std::map<std::string, Kept> kept_{};
  std::map<std::string, KeptQuantity> kept_quantities_{};

  std::string evaluate(const Request& request, std::uint64_t number);
  std::string advise(const Request& request);
  std::string write(const Request& request);
  std::string start();
  void forget_changed(const io::LoadedBoard& board, const std::vector<std::string>& settings);
  void complete(const chain::Chain* in_view, std::uint64_t number);
  Kept kept_of(const io::LoadedBoard& board, const chain::Chain& chain) const;
  KeptQuantity kept_of(const io::LoadedBoard& board, const model::Quantity& quantity) const;
  Seen seen_of(const io::LoadedBoard& board, const chain::Chain& chain) const;
  std::vector<result::ChannelComparison> comparisons_of(const model::Board& as_it_is,
                                                        const std::string& channel) const;
};

}  // namespace tamlo::tool
