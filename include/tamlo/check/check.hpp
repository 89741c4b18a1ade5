// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace tamlo::chain {
struct Chain;
}  // namespace tamlo::chain

/// Is the description of a channel sound, and what would hurt? The catalogue with its reasons is
/// docs/findings.md.
namespace tamlo::check {

enum class Severity : std::uint8_t {
  error,    ///< readings are wrong or a part is destroyed
  warning,  ///< a unit at its limits, or a target, is in danger
  advice,   ///< sound, but something is given away
};
std::string_view name(Severity severity);

struct Finding {
  std::string identifier{};  ///< stable: "span-beyond-range"
  Severity severity{};
  std::string channel{};
  std::string found{};   ///< what is so, with its numbers
  std::string why{};     ///< why it matters
  std::string remedy{};  ///< what would cure it, with a number
};

/// The findings about one channel, the gravest first.
std::vector<Finding> check(const chain::Chain& chain);

}  // namespace tamlo::check
