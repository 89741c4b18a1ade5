// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "job.hpp"
#include "tamlo/io/detail/beside_meter.hpp"

// What the commands of the bench share: a board, readings, the meter that was used.
namespace tamlo::tool {

struct MeterArguments : BoardArguments {
  std::string meter{}, meter_accuracy{};
  std::vector<std::string> columns{};
  /// A log of the meter with a clock of its own, and what is known of that clock.
  struct Join {
    std::string log{}, clock_offset{}, clock_drift{}, rest{};
  } join{};
};
void declare_meter(Options& options, MeterArguments& a, bool needs_readings = true);

/// The readings file of that name; a column that means nothing, and what is not as in our own
/// files, are mentioned aside. Throws io::BadInput without a name.
io::ReadingsFile readings_of(const std::string& path, const model::Board& board,
                             const MeterArguments& arguments);

/// Returns the readings of a further file, which has both readings and meter.
io::ReadingsFile further_readings_of(const std::string& path, const model::Board& board,
                                     MeterArguments arguments);

/// The readings that were asked for; a channel that has none is bad input.
std::vector<io::ChannelReadings> wanted(const io::ReadingsFile& file,
                                        const BoardArguments& arguments);

/// Puts a meter beside those of the board for readings that none of them could have shown, and for
/// all with --meter-accuracy; what is taken as exact is said.
void provide_meters(model::Board& board, const std::vector<io::ChannelReadings>& channels,
                    const MeterArguments& arguments);

using Bench = io::BesideMeter;
Bench bench_of(const model::Board& board, const io::ReadingsFile& file,
               const io::ChannelReadings& readings, const MeterArguments& arguments,
               double coverage);

/// One channel of one unit beside its meter, and what the diagnosis says; `file` has the rows of
/// the channels that were read with it.
result::ChannelComparison comparison_of(const model::Board& board, const io::ReadingsFile& file,
                                        const Bench& bench);

/// The change since the same unit's readings in an earlier file; `apart` is the time between them,
/// where the rows do not say it.
meter::Drift drift_since(const model::Board& board, const io::ReadingsFile& earlier,
                         const Bench& bench, const MeterArguments& arguments,
                         const std::string& apart, double coverage);

/// The rows of a file beside the meter, as they are and with the correction.
struct BothWays {
  meter::Comparison before{}, after{};
};
BothWays both_ways(const Bench& bench, const model::Board& board, const std::string& channel,
                   const model::Correction& correction, double coverage);

/// Prints the comparison of a readings file, in its format, and returns the exit status.
int show_comparisons(const model::Board& board, const std::string& path,
                     const MeterArguments& arguments, double coverage, const Form& format);

}  // namespace tamlo::tool
