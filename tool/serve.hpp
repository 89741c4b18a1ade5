// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "command.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/link/detail/bench_stand_in.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::tool {

/// What a virtual unit and its instruments are reached by; a port of 0 is any that is free, an
/// empty one is none.
struct ServeArguments {
  std::string lines, modbus, meter, source, terminal, profile, links, duration;
  std::vector<std::string> faults;

  bool asked() const {
    return !(lines.empty() && modbus.empty() && meter.empty() && source.empty() &&
             terminal.empty());
  }
};
void declare_serve(Options& options, ServeArguments& a);

/// The unit of `sampler`, in real time, with what stands beside it, until the time is over or
/// Ctrl-C comes. `bench` is nothing, or the meter of the board that is read.
int serve(simulate::Sampler& sampler, const chain::Chain& chain, bool readings,
          const model::Meter* bench, std::uint64_t seed, const ServeArguments& arguments);

}  // namespace tamlo::tool
