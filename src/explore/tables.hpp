// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "figures.hpp"
#include "tamlo/explore/explore.hpp"

namespace tamlo::explore {

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
