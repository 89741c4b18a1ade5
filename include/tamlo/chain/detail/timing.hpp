// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo::model {
struct Board;
struct Channel;
struct Clock;
struct Converter;
}  // namespace tamlo::model

/// When a channel is converted, and how often (docs/method.md, "Time"). All in s, Hz and
/// conversions a second; 0 is what the board does not say.
namespace tamlo {
namespace chain TAMLO_API {

/// When a channel is converted: Hz and s.
struct Timing {
  double clock = 0.0;
  double sampling_time = 0.0;
  double conversion_time = 0.0;     ///< with the sampling; of a delta sigma in a scan, settled
  std::vector<std::string> scan{};  ///< channels of the converter, in their order
  double scan_period = 0.0;         ///< every channel of the converter once
  double rate_limit = 0.0;          ///< what a scan leaves for each channel
  double rate = 0.0;                ///< as asked, else the limit
  double aggregate_rate = 0.0;      ///< of all channels of the converter
  double busy = 0.0;                ///< part of the converter's time that all of them take
};

Timing timing(const model::Board& board, const model::Converter& converter,
              const model::Channel& channel);

/// The divider nearest to the asked one that brings the clock within its limits; 0 if none does.
int legal_divider(const model::Clock& clock);

/// The channel that is converted before `channel` in a scan; itself where it is alone.
std::string before_in_scan(const Timing& timing, const std::string& channel);

}  // namespace chain
}  // namespace tamlo
