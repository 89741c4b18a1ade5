// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/detail/settling.hpp"
#include "tamlo/quantity/value.hpp"

/// Live state of a channel.
namespace tamlo {
namespace meter TAMLO_API {

/// Tells whether a register value is the first or the last that there is: the quantity may lie
/// beyond.
bool is_end(const chain::Chain& chain, double register_value);

/// At one moment; SI.
struct LiveState {
  std::string channel{};
  quantity::Unit unit{};
  std::uint64_t readings = 0;
  double elapsed = 0.0;          ///< s, from the first reading to the last
  double last = 0.0;             ///< the last reading
  std::optional<double> code{};  ///< the last register value; none where readings come
  double min = 0.0, max = 0.0;   ///< of the readings since the start
  double noise = 0.0;            ///< standard deviation of the readings of the last window
  double predicted_noise = 0.0;  ///< of a reading, by the budget, there
  std::optional<Settled> settled{};
  bool at_end = false;  ///< the last register value is one of is_end()

  double rate() const {  ///< readings a second; 0 of fewer than two
    return elapsed > 0.0 ? static_cast<double>(readings - 1) / elapsed : 0.0;
  }
};

/// Live state with the target or uncertainty that it is held against; SI.
struct LiveView {
  LiveState state{};
  quantity::Range span{};
  std::optional<double> allowed{};  ///< by the target, at the last reading
  std::vector<double> edges{};      ///< between its zones
  std::string zone{};               ///< that the last reading lies in, by the edges alone
  double age = 0.0;                 ///< s, of the last reading
  bool old = false;                 ///< more should have come since: it is not what is there now
  std::optional<double> shown{};    ///< the quantity, as a meter beside it says
  std::optional<Row> row{};         ///< of both sides, once they are at rest
};

/// One channel whose register values or readings come one by one.
class Live {
 public:
  /// At rest is what is within a quarter of `uncertainty`, SI, above 0.
  Live(chain::Chain chain, double uncertainty);
  ~Live();
  Live(Live&& other) noexcept;
  Live& operator=(Live&& other) noexcept;

  /// The register value of one conversion, so many seconds after any zero: it goes through the
  /// channel's average and filter, which take the first as one that was always there.
  void add_code(double code, double seconds);
  /// A reading that the firmware made.
  void add_reading(double reading, double seconds);
  /// Tells whether it moves, settles or rests.
  LiveState state() const;
  /// Returns where the last window rests; nothing while it moves.
  std::optional<Settled> settled() const;
  /// Returns the number of readings so far.
  std::uint64_t readings() const;
  double last() const;  ///< reading; 0 before the first
  /// Settling begins anew, as after a change that is known; what was counted stays.
  void restart();
  /// Readings of a window of the settling, and how many of them are worth one independent one.
  std::size_t window() const;
  /// Returns the correlation of one reading with the next.
  double correlation() const;
  /// Returns the chain of the channel.
  const chain::Chain& chain() const;

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

}  // namespace meter
}  // namespace tamlo
