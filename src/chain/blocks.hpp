// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>

#include "math/instructions.hpp"
#include "tamlo/chain/detail/batch.hpp"
#include "tamlo/chain/detail/laws.hpp"
#include "tamlo/chain/detail/register_format.hpp"

// What batches of one unit and of many share: a part on one signal, and the loops over a block of
// signals, which read_units_kernel.cpp defines once for each set of instructions.
namespace tamlo::chain {

/// Turns what is reported into volts and back to the quantity, by the nominals; as exact_reading()
/// of a firmware without integers or taught points.
void exact_readings(const Chain& chain, double* value, std::size_t n);

#define TAMLO_DECLARE(set)                                                                   \
  namespace set {                                                                            \
  /* n signals through a part, each with its own unit's parameters: rows[parameter][signal]. \
     False, and nothing done, for a part that is not a few operations. */                    \
  bool pass(const Law& law, double* value, double* resistance, std::size_t n,                \
            const double* const* rows);                                                      \
  /* n values back through a part, all with the same parameters; false as above */           \
  bool pass_back(const Law& law, double* value, std::size_t n, const double* parameters);    \
  /* n volts to what is reported, each with its own unit's parameters */                     \
  void to_reported(const ConverterLaw& law, const RegisterFormat& report, double first,      \
                   double* value, std::size_t n, const double* const* rows);                 \
  }
TAMLO_EACH_SET(TAMLO_DECLARE)
#undef TAMLO_DECLARE

}  // namespace tamlo::chain
