// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>

#include "tamlo/export.hpp"
#include "tamlo/math/detail/blocks.hpp"

// Work on several machines by MPI, in a module of its own that is loaded under mpirun only: the
// tool starts, and is built, without that library.
extern "C" {

/// The number of this process among so many. Call it once.
TAMLO_API void tamlo_ranks_begin(int* rank, int* count);
/// Does the blocks on all ranks; the first takes their figures, on the others nothing is taken. All
/// ranks call it for the same works in the same order.
TAMLO_API bool tamlo_ranks_run(const tamlo::math::Blocks& blocks);
/// Returns the number of ranks that did not answer, with a sentence that names them.
TAMLO_API std::size_t tamlo_ranks_lost(char* sentence, std::size_t size);
/// The last call. It ends the process where a rank was lost, with this status.
TAMLO_API void tamlo_ranks_end(int status);
}
