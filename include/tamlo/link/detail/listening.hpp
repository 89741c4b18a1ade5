// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "tamlo/chain/chain.hpp"
#include "tamlo/export.hpp"
#include "tamlo/link/detail/line_parser.hpp"
#include "tamlo/link/stream.hpp"

/// Several links side by side.
namespace tamlo {
namespace link TAMLO_API {

/// Values of one line, answer or frame, at one moment.
struct Sample {
  double seconds = 0.0;  ///< since the listening began
  std::vector<Value> values{};
  bool after_gap = false;  ///< the link was lost before it, and found again
};

/// State of a link: its lines (answers, frames), the malformed ones, and how often it was lost.
struct LinkState {
  std::string name{};
  std::uint64_t lines = 0;      ///< or answers, or frames
  std::uint64_t malformed = 0;  ///< of them
  std::uint64_t lost = 0;       ///< times that it was lost
  std::string problem{};        ///< of the last malformed line, or why it was lost
};

/// Says why a value cannot be, in words; nothing for one that can. Called from several threads.
using Doubt = std::function<std::string(const Value&)>;

/// Returns the doubt about codes that the registers of these channels never hold.
Doubt doubt_codes(const model::Board& board, const std::vector<chain::Chain>& chains);

/// Reads each link in a thread of its own, so that nothing that is done with the samples holds it
/// up; of more than 65536 samples that nobody takes, it waits with the next. A link that is lost is
/// opened again, after pauses that grow from a tenth of a second to five.
class Listening {
 public:
  /// Keeps a reference to the board. Throws LinkError for a link that cannot be opened,
  /// ArgumentError for one that names what the board does not have.
  Listening(const model::Board& board, const std::vector<std::string>& links, Doubt doubt = {});
  Listening(model::Board&& gone, const std::vector<std::string>& links, Doubt = {}) = delete;
  ~Listening();
  Listening(const Listening&) = delete;
  Listening& operator=(const Listening&) = delete;

  /// Appends what came since the last call, in the order of its coming; waits for it until then.
  /// False once all links have ended and nothing is left.
  bool take(std::vector<Sample>& into, Clock::time_point until);
  /// Reads nothing more: what was read before is there for take().
  void stop();
  /// Sends a command over one of the links, and returns when it was taken. Throws LinkError.
  void tell(const std::string& link, const std::string& command);
  /// Returns the state of each link.
  std::vector<LinkState> states() const;
  /// Since it began.
  double seconds() const;

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

}  // namespace link
}  // namespace tamlo
