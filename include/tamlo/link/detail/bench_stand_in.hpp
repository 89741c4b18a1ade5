// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/link/detail/stand_in.hpp"
#include "tamlo/simulate/sampler.hpp"

namespace tamlo::model {
struct Board;
struct Meter;
}  // namespace tamlo::model

/// A virtual unit on a virtual bench, in real time.
namespace tamlo {
namespace link TAMLO_API {

/// The board prints lines (NAME.code=2048 or NAME.reading=...) or holds Modbus registers, the meter
/// with its own drawn error answers MEAS? in SCPI, and the source takes LEVEL VALUE, in the unit of
/// the span: the unit's input follows it.
class BenchStandIn {
 public:
  /// Settings of a simulated bench: ports, instruments, disturbances.
  struct Settings {
    std::optional<int> lines{}, modbus{}, meter{}, source{};  ///< TCP ports; 0: any that is free
    std::string terminal{};  ///< a name for a pseudo terminal that prints the lines, too
    bool readings = false;   ///< the sampler shows readings, no codes
    std::vector<LinkFault> faults{};
    std::uint64_t seed = 1;  ///< of the meter's error and of the faults
  };
  /// Keeps references to all three. The meter may be missing where it is not served. Throws
  /// LinkError.
  BenchStandIn(simulate::Sampler& sampler, const chain::Chain& chain, const model::Meter* meter,
               const Settings& settings);
  ~BenchStandIn();
  BenchStandIn(const BenchStandIn&) = delete;
  BenchStandIn& operator=(const BenchStandIn&) = delete;

  /// One line for each way in, with its port.
  std::string ports() const;
  /// The links that reach it all, as a file behind the board.
  std::string links() const;
  /// Adds the same links to a board that was built in code: its meter and a source "knob" name
  /// them.
  void attach(model::Board& board) const;
  /// In real time, about a thousand times a second, for as long as `go_on`, which is told the
  /// seconds since it began, says so.
  void serve(const std::function<bool(double seconds)>& go_on);
  /// Returns the number of samples that were left out because this machine was too slow.
  std::uint64_t skipped() const;

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

}  // namespace link
}  // namespace tamlo
