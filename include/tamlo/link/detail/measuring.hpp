// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/link/detail/listening.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/detail/pairing.hpp"
#include "tamlo/model/board.hpp"

/// A channel that is taken from position to position beside its meter.
namespace tamlo {
namespace link TAMLO_API {

/// Position of the source during a measurement. SI.
struct Position {
  double at = 0.0;
  meter::Direction direction = meter::Direction::unknown;
  std::string unit{};  ///< of the board, where there are several
};

/// A row that was taken, and what it says.
struct Taken {
  Position position{};
  meter::Reading reading{};
  meter::Row row{};
};

/// Progress of a position, and what it waits for.
struct Progress {
  Position position{};
  meter::Waits waits = meter::Waits::nothing;
  std::optional<double> shown{};    ///< the quantity, as the meter says
  std::optional<double> reading{};  ///< of the channel, the last
  bool elsewhere = false;           ///< both are at rest, and not where they were asked to be
  std::string lost{};               ///< why the source cannot be set; empty while it can
};

/// Returns the links that a measurement needs: those of the meter and the source, and all that
/// belong to no instrument.
std::vector<std::string> links_for(const model::Board& board, const model::Meter* meter,
                                   const model::SourceInstrument* source);

/// A session beside a meter, position by position.
class Measuring {
 public:
  /// Settings of a measurement.
  struct Settings {
    double longest = 20.0;  ///< s, that a position is waited for where a source sets it, and that
                            ///< repeats are taken
    const model::SourceInstrument* source = nullptr;  ///< none: a hand sets it
  };
  /// Keeps references. The meter must name a link. Throws LinkError, ArgumentError.
  Measuring(const model::Board& board, const std::string& channel, const model::Meter& meter,
            const Settings& settings);
  ~Measuring();
  Measuring(const Measuring&) = delete;
  Measuring& operator=(const Measuring&) = delete;

  /// Sets the position where there is a source, and waits until both sides are at rest there,
  /// within a fiftieth of the span, and until repeats decide the verdict or cannot. `watch` is
  /// called ten times a second; what it returns says whether to go on, to take what is there, or to
  /// leave.
  enum class Wish { go_on, take, leave };
  /// Nothing where it was left, or its time was over: progress() then says what it waited for. A
  /// source whose link is lost is set once it is there again, and again where both sides rest
  /// elsewhere, as after its restart. Throws LinkError where the source does not take the value.
  std::optional<Taken> take(const Position& position,
                            const std::function<Wish(const Progress&)>& watch);
  /// Returns the progress of the current position.
  const Progress& progress() const { return progress_; }
  /// Returns the state of each link.
  std::vector<LinkState> links() const;
  /// Both sides of a position that is near enough.
  double tolerance() const;

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
  Progress progress_{};
};

}  // namespace link
}  // namespace tamlo
