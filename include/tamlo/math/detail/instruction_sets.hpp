// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string_view>

#include "tamlo/export.hpp"

namespace tamlo {
namespace math TAMLO_API {

/// The sets of instructions that the loops over many numbers were compiled for, and the one that
/// runs on this machine. Results are the same bits on all of them; only the time differs.
struct InstructionSets {
  std::string_view compiled{};  ///< "SSE2, AVX2, AVX-512", or "baseline" where no other was built
  std::string_view in_use{};    ///< one of them
};

/// Returns the instruction sets of this build and of this machine.
InstructionSets instruction_sets();

}  // namespace math
}  // namespace tamlo
