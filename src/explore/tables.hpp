// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/explore/explore.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::explore {

/// Target of a channel or a quantity of the board.
const model::Target& target_of(const model::Board& board, const std::string& name);

/// Holds the figures of one channel or quantity. The error is (|bias| + U) / allowed, 0 without an
/// accuracy: as built at the worst place of the span, as budget finds it; after an adjustment at
/// the worst of adjusted_places().
struct Figures {
  enum class State : std::uint8_t { not_tried, not_sound, sound };
  static constexpr std::size_t adjustments = 4;
  static constexpr std::size_t packed = 4 + adjustments;  ///< numbers that carry it

  State state = State::not_tried;  ///< sound: there is such a board, and check finds no error
  double latency = 0.0;            ///< s
  double noise_free = 0.0;         ///< bits, the smallest
  std::array<bool, adjustments> meets{};  ///< all targets, by the adjustment
  std::array<double, adjustments> error{};

  void pack(std::vector<double>& into) const;
  static Figures unpack(const double* from);
};

/// Throws nothing: a channel that cannot be built is not sound. Of a quantity the error is by
/// trials, and no adjustment makes it smaller; it is as sound and as late as its channels. What
/// adjustments leave of a channel is found only where a choice is between them (`adjustable`).
Figures figures_of(const model::Board& board, const std::string& channel, bool adjustable = false);
/// Returns the figures of a channel or quantity of the space for the board with those options; not
/// sound where there is no such board.
Figures figures_of(const Space& space, const BoardOf& board, const Pick& pick,
                   const std::string& channel);

/// The figures of one channel for each combination of the choices that it depends on.
struct ChannelTable {
  std::string channel{};
  std::vector<std::size_t> depends{};  ///< choices, in their order
  std::vector<std::size_t> stride{};   ///< of each choice of the space; 0 where it does not matter
  std::vector<Figures> figures{};

  /// The combination of a candidate's options.
  std::size_t index_of(const std::vector<std::size_t>& pick) const;
  const Figures& of(const std::vector<std::size_t>& pick) const { return figures[index_of(pick)]; }
  Pick pick_of(const Space& space, std::size_t combination) const;
};

/// Throws ArgumentError for more than 2^22 combinations of a channel.
std::vector<ChannelTable> tables_of(const Space& space, const model::Board& board);

/// All combinations of all channels. What was done stays where it is ended.
bool fill(std::vector<ChannelTable>& tables, const Space& space, const BoardOf& board,
          const math::BlockDriver& driver, const std::function<bool(double)>& go_on);

}  // namespace tamlo::explore
