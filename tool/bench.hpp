// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "job.hpp"
#include "tamlo/io/readings_file.hpp"

// What the commands of the bench share: a board, readings, the meter that was used.
namespace tamlo::tool {

struct MeterArguments : BoardArguments {
  std::string meter{}, meter_accuracy{};
};
void declare_meter(Options& options, MeterArguments& a);

/// The readings file of that name; a column that means nothing is mentioned aside. Throws
/// io::BadInput without a name.
io::ReadingsFile readings_of(const std::string& path, const model::Board& board);

/// The readings that were asked for; a channel that has none is bad input.
std::vector<io::ChannelReadings> wanted(const io::ReadingsFile& file,
                                        const BoardArguments& arguments);

/// Puts a meter beside those of the board for readings that none of them could have shown, and for
/// all with --meter-accuracy; what is taken as exact is said.
void provide_meters(model::Board& board, const std::vector<io::ChannelReadings>& channels,
                    const MeterArguments& arguments);

/// The meter, the chain as it sees it, and the rows.
struct Bench {
  const model::Meter& meter;
  chain::Chain chain;
  std::vector<meter::Reading> rows;
};
Bench bench_of(const model::Board& board, const io::ReadingsFile& file,
               const io::ChannelReadings& readings, const MeterArguments& arguments);

/// One channel of one unit beside its meter, and what the diagnosis says.
result::ChannelComparison comparison_of(const model::Board& board, const io::ChannelReadings& of,
                                        const Bench& bench, double coverage);

/// What compare says of a readings file, in its format; its exit status.
int show_comparisons(const model::Board& board, const std::string& path,
                     const MeterArguments& arguments, double coverage, const std::string& format);

}  // namespace tamlo::tool
