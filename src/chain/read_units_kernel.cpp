// SPDX-License-Identifier: Apache-2.0
// The loops of blocks.hpp, compiled once for each set of instructions (cmake/settings.cmake). The
// compiler sees the part, and that the rows do not change, and takes several signals at once;
// without contraction the width changes no bit.
#include <type_traits>
#include <variant>

#include "blocks.hpp"
#include "math/draws.hpp"

namespace tamlo::chain::TAMLO_SET {
namespace {

struct Set {};
using Unit = UnitOfMany<Set>;

// The same parameters for all.
struct Shared {
  const double* parameters;
  double operator[](std::size_t parameter) const { return parameters[parameter]; }
};

template <class Law>
void through(const Law& law, double* __restrict value, double* __restrict resistance, std::size_t n,
             const double* const* rows) {
  for (std::size_t t = 0; t < n; ++t) {
    const auto out = one(law, {.value = value[t], .resistance = resistance[t]}, Unit{rows, t});
    value[t] = out.value;
    resistance[t] = out.resistance;
  }
}

// Which of the two it is depends on the board alone.
template <>
void through(const SamplingLaw& law, double* __restrict value, double* __restrict resistance,
             std::size_t n, const double* const* rows) {
  const Sampling sampling = law.sampling;
  const double* before = rows[law.neighbour];
  const auto pass = [&](auto unsettled) {
    for (std::size_t t = 0; t < n; ++t) {
      value[t] = value[t] + unsettled(sampling, resistance[t]) * (before[t] - value[t]);
    }
  };
  sampling.pin_capacitor > 0.0 ? pass(unsettled_shared<Set>) : pass(unsettled_alone<Set>);
}

// Row after row: the number of terms is not known here.
template <>
void through(const PinDisturbance& law, double* __restrict value, double*, std::size_t n,
             const double* const* rows) {
  double sum[math::draws_block];
  for (std::size_t t = 0; t < n; ++t) sum[t] = law.unknown;
  for (const auto term : law.terms) {
    const double* row = rows[term];
    for (std::size_t t = 0; t < n; ++t) sum[t] += row[t];
  }
  for (std::size_t t = 0; t < n; ++t) value[t] += sum[t];
}

template <class Law>
void back_through(const Law& law, double* __restrict value, std::size_t n,
                  const double* parameters) {
  for (std::size_t i = 0; i < n; ++i) value[i] = inverse_of(law, value[i], Shared{parameters});
}

// What is taken off is the same for all.
template <>
void back_through(const PinDisturbance& law, double* __restrict value, std::size_t n,
                  const double* parameters) {
  const double sum = sum_of_terms(law, parameters, 0.0);
  if (sum == 0.0) return;
  for (std::size_t i = 0; i < n; ++i) value[i] -= sum;
}

}  // namespace

bool pass(const Law& law, double* value, double* resistance, std::size_t n,
          const double* const* rows) {
  return std::visit(
      [&](const auto& part) {
        constexpr bool several = std::decay_t<decltype(part)>::several_at_once;
        if constexpr (several) through(part, value, resistance, n, rows);
        return several;
      },
      law);
}

bool pass_back(const Law& law, double* value, std::size_t n, const double* parameters) {
  return std::visit(
      [&](const auto& part) {
        constexpr bool several = std::decay_t<decltype(part)>::several_at_once;
        if constexpr (several) back_through(part, value, n, parameters);
        return several;
      },
      law);
}

void to_reported(const ConverterLaw& law, const RegisterFormat& report, double first,
                 double* __restrict value, std::size_t n, const double* const* rows) {
  if (law.inl_table.empty()) {
    for (std::size_t t = 0; t < n; ++t) value[t] = without_table(law, value[t], Unit{rows, t});
  } else {
    for (std::size_t t = 0; t < n; ++t) value[t] = forward(law, value[t], Unit{rows, t});
  }
  const double offset = report.offset, gain = report.gain;
  for (std::size_t t = 0; t < n; ++t) value[t] = offset + gain * (first + value[t]);
}

}  // namespace tamlo::chain::TAMLO_SET
