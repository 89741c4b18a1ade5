// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "field.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::io {

inline quantity::Expected in(std::string_view unit,
                             std::vector<quantity::Basis> bases = {quantity::Basis::absolute,
                                                                   quantity::Basis::relative}) {
  return {.unit = quantity::unit(unit), .bases = std::move(bases)};
}

/// Reads `sensor` and `frontend` of a channel, whose span is known. Reports a chain of parts that
/// does not end in volts, or of which one gives what the next cannot take.
void read_signal_path(Fields& fields, const std::vector<std::string>& references,
                      model::Channel& channel);

}  // namespace tamlo::io
