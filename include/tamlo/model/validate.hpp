// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/error.hpp"
#include "tamlo/export.hpp"
#include "tamlo/problem.hpp"

/// Describes what a sound description is, for boards from files and for boards built in code.
namespace tamlo {
namespace model TAMLO_API {

struct Board;
struct Channel;

/// All of a board that is not sound in itself: numbers that are not finite or lie where they
/// cannot, names that occur twice, parts that do not fit together. Empty for a sound one. What only
/// a calculation shows, such as a converter that is missing, chain::build() says.
std::vector<Problem> validate(const Board& board);

/// Returns the same of one channel of a board, and of the references, converters and conditions.
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
