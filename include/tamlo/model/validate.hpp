// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/error.hpp"
#include "tamlo/export.hpp"
#include "tamlo/problem.hpp"

/// Soundness of a description, from a file or built in code.
namespace tamlo {
namespace model TAMLO_API {

struct Board;
struct Channel;

/// Returns all that is not sound in a board by itself: numbers that are not finite or out of their
/// range, names that occur twice, parts that do not fit together. Empty for a sound one. Throws
/// nothing of its own; chain::build() reports what only a calculation shows, such as a converter
/// that is missing.
std::vector<Problem> validate(const Board& board);

/// Returns the problems of one channel alone, with those of references, converters and conditions.
std::vector<Problem> validate(const Board& board, const Channel& channel);

/// A board that is not sound. The message has all its problems.
class InvalidBoard : public Error {
 public:
  /// Holds one problem or more.
  explicit InvalidBoard(std::vector<Problem> problems);
  std::vector<Problem> problems;
};

}  // namespace model
}  // namespace tamlo
