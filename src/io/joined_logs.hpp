// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/io/readings_file.hpp"

namespace tamlo::io {

/// Gives each reading of a firmware's log the value that the log of a meter has for its moment, and
/// leaves out those without; says in the notes what was found. Throws BadInput where the logs do
/// not belong together, or no reading is left.
ReadingsFile joined(ReadingsFile readings, const ReadingsFile& meter, const model::Board& board,
                    const ReadingsForm& form);

}  // namespace tamlo::io
