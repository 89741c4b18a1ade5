// SPDX-License-Identifier: Apache-2.0
#include "serve.hpp"

#include <fmt/format.h>

#include <chrono>
#include <thread>

#include "job.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/link/stand_in.hpp"
#include "tamlo/link/stream.hpp"

namespace tamlo::tool {
int serve_lines(simulate::Sampler& sampler, const chain::Chain& chain, bool readings,
                const std::string& port, const std::string& duration) {
  using Clock = std::chrono::steady_clock;
  using Seconds = std::chrono::duration<double>;
  const auto after = [](Clock::time_point from, double seconds) {
    return from + std::chrono::duration_cast<Clock::duration>(Seconds(seconds));
  };
  const auto number = static_cast<int>(whole_of("--serve", port, 0, 65535));
  const auto end =
      duration.empty() ? Clock::time_point::max() : Clock::now() + time_of("--for", duration);
  heed_interrupts();
  try {
    link::LineServer server(number);
    print(fmt::format("serving {} on 127.0.0.1:{}, {:.6g} lines a second\n", chain.channel.name,
                      server.port(), sampler.rate()));
    const auto begin = Clock::now();
    const auto& unit = chain.channel.span.unit;
    const int decimals = simulate::record_decimals(chain);
    std::uint64_t sent = 0;
    while (!interrupted() && Clock::now() < end) {
      for (const double sample : sampler.next(1)) {
        server.send(readings ? fmt::format("{}.reading={:.{}f}", chain.channel.name,
                                           quantity::in_unit(sample, unit), decimals)
                             : fmt::format("{}.code={:.0f}", chain.channel.name, sample));
      }
      std::this_thread::sleep_until(after(begin, static_cast<double>(++sent) / sampler.rate()));
    }
  } catch (const link::LinkError& error) {
    throw io::EnvironmentError(error.what());
  }
  return done;
}

}  // namespace tamlo::tool
