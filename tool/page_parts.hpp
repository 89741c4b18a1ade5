// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "bench.hpp"
#include "tamlo/firmware/registers.hpp"
#include "tamlo/report/page.hpp"

// The parts of a page, each of one channel; each puts its verdict above, where it has one.
namespace tamlo::tool {

struct PageArguments : MeterArguments {
  std::vector<std::string> records{};  ///< KIND[:CHANNEL]=FILE
  std::string layout{}, map{}, since{}, apart{}, coverage = "0.95", write{};
  bool units = false;
};

/// The nominal signal at every step, at both ends of the span.
std::vector<report::PageStep> path_of(const chain::Chain& chain);

report::PagePart findings_part(const model::Board& board, report::PageChannel& into);
report::PagePart budget_part(const model::Board& board, const chain::Chain& chain, double coverage,
                             report::PageChannel& into);

/// A quantity of several channels, with its budget.
report::PageChannel quantity_channel(const io::LoadedBoard& board, const model::Quantity& quantity,
                                     double coverage);

/// Readings beside a meter, and those of the same units before, where they are asked for.
struct PageReadings {
  io::ReadingsFile now{};
  std::optional<io::ReadingsFile> earlier{};
};
/// Returns the parts of a page about a channel: readings beside the meter, changes, and the gain of
/// a calibration; of several units all together first.
std::vector<report::PagePart> meter_parts(const model::Board& board, const PageReadings& readings,
                                          const PageArguments& arguments, double coverage,
                                          report::PageChannel& into);

/// A record of some channels, taken and judged as `record` does.
struct PageRecord {
  std::string channel{};
  report::PagePart part{};
  report::Line verdict{};
  bool damaged = false;
};
std::vector<PageRecord> records_of(const io::LoadedBoard& board, const PageArguments& arguments);

report::PagePart firmware_part(const model::Board& board, const chain::Chain& chain);
/// Words for the channel's converter, where a map has it.
std::vector<report::PagePart> registers_part(const model::Board& board, const chain::Chain& chain,
                                             const std::vector<firmware::RegisterMap>& maps);
report::PagePart settings_part(const chain::Chain& chain);

}  // namespace tamlo::tool
