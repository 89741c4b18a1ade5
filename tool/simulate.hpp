// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "job.hpp"
#include "tamlo/simulate/sampler.hpp"

// What the commands of virtual units share: units of a board, and the records that they give.
namespace tamlo::tool {

struct SimulateArguments : BoardArguments {
  std::vector<std::string> at, deviate, missing;
  std::string meter, input = "steady", low, high, frequency, samples = "10000", rate, shows;
  std::string unit = "1", seed = "1", run = "0", firmware, inl, bend = "bow", jitter, drift, hum;
  std::string layout, write;
};

/// The numbers of a range such as 11..22, or one.
struct Numbers {
  std::uint64_t first = 1, last = 1;
};
/// The readings of so many are one text.
constexpr std::uint64_t most_units = 100'000;
/// Returns the numbers of --unit.
Numbers numbers_of(const std::string& text, std::uint64_t most = most_units);

std::uint64_t seed_of(const SimulateArguments& arguments);

/// A channel of the board with what its firmware believes.
struct Built {
  chain::Chain chain, firmware;

  simulate::VirtualUnit unit(const SimulateArguments& arguments, std::uint64_t number) const;
};

/// The channels that were asked for.
std::vector<Built> built_of(const SimulateArguments& arguments, const io::LoadedBoard& board);

/// The options of the input, and of the unit.
void declare_input(Options& options, SimulateArguments& a);
void declare_unit(Options& options, SimulateArguments& a);

/// Captures what a unit shows. One that is endless repeats its input after --samples.
simulate::Sampler sampler_of(const SimulateArguments& arguments, const Built& built,
                             bool endless = false);
/// A record of all channels at once.
int write_record(const SimulateArguments& arguments, const std::vector<Built>& channels);

}  // namespace tamlo::tool
