// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "job.hpp"
#include "tamlo/io/record_file.hpp"
#include "tamlo/signal/capture.hpp"

// What `record` and `page` share: a record taken channel by channel, and judged.
namespace tamlo::tool {

struct RecordArguments : BoardArguments {
  std::vector<std::string> columns{}, averages{};
  std::string input = "steady", layout{}, shows{}, rate{}, low{}, high{}, step_at{};
  std::string wanted = "0.1 LSB", window{}, scale{}, write{}, coverage = "0.95", plot{}, picture{};
  Form format{};
};

/// One channel of the record: what its samples are, and all that is kept of them.
struct Captured {
  chain::Chain chain{};  ///< without a board its name alone
  record::Shows shows{};
  quantity::Unit unit{};  ///< of readings
  signal::Capture capture{};
  std::optional<double> mistake{};  ///< the first sample that is no code
  bool alone = false;               ///< without a board
  record::Input input{};            ///< of those

  void add(std::span<const double> samples);
};

/// A record that was read to its end, and what it says of each channel.
struct Taken {
  std::vector<result::ChannelRecord> channels{};
  std::vector<Captured> captures{};
  io::RecordRead read{};
};
Taken take(const io::LoadedBoard& board, const RecordArguments& arguments);
/// Reads samples that have no board, and says what they alone show.
Taken take_alone(const RecordArguments& arguments);

}  // namespace tamlo::tool
