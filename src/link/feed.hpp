// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "tamlo/link/detail/line_parser.hpp"
#include "tamlo/link/stream.hpp"

// What comes over one link, whatever it speaks.
namespace tamlo::link {

enum class Got { nothing, values, malformed };

class Feed {
 public:
  virtual ~Feed() = default;
  /// The next values, or nothing before `until`; may take a second more where an instrument is slow
  /// to answer. Throws LinkError where the link is lost, or does not answer.
  virtual Got next(std::vector<Value>& values, Clock::time_point until) = 0;
  /// Nothing comes any more.
  virtual bool ended() const { return false; }
  /// Sends a command, and sees that it was taken. Throws LinkError.
  virtual void tell(const std::string& command) = 0;
  /// Why the last was malformed.
  const std::string& problem() const { return problem_; }

 protected:
  std::string problem_{};
};

/// Throws LinkError for a link that cannot be opened, ArgumentError for names that the board does
/// not have.
std::unique_ptr<Feed> open_feed(const model::Link& link, const model::Board& board);
std::unique_ptr<Feed> open_modbus(const model::Link& link, const model::Board& board);

/// The number at a place of bytes.
double decode(const unsigned char* bytes, model::NumberType type, model::Order order);

/// Appends what the number at its place holds; false for one that is none, as a float may be.
bool put(std::vector<Value>& into, const model::Board& board, const Slot& slot,
         const model::PlacedNumber& placed, double number);

/// The slots of numbers at places, in their order. Throws ArgumentError.
std::vector<Slot> slots_of(const model::Link& link, const model::Board& board);

}  // namespace tamlo::link
