// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/math/random.hpp"

/// Disturbances of lines, as by a bad cable.
namespace tamlo {
namespace link TAMLO_API {

enum class LinkFault : std::uint8_t {
  lost,        ///< a line does not come
  torn,        ///< its beginning does not
  doubled,     ///< it comes twice
  late,        ///< it comes behind later ones
  garbage,     ///< bytes that are none of it come before it
  disconnect,  ///< the other side is left
  hang,        ///< an instrument does not answer for five seconds
};
std::string_view name(LinkFault fault);

/// Each fault at one line or question in fifty, drawn anew for each; disconnect at one in two
/// hundred.
class Disturbance {
 public:
  /// These faults, at times that the seed draws.
  Disturbance(std::vector<LinkFault> faults, std::uint64_t seed);

  /// Returns the text to send for a line, with the line ends that are left of it.
  std::string of(const std::string& line);
  /// Tells whether the other side is left behind this line.
  bool disconnects();
  /// Tells whether an instrument hangs at this question.
  bool hangs();

 private:
  std::vector<LinkFault> faults_;
  math::RandomStream stream_;
  std::string late_{};

  bool strikes(LinkFault fault, double part);
};

}  // namespace link
}  // namespace tamlo
