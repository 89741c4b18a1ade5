// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/varied.hpp"

#include <algorithm>
#include <array>
#include <cassert>
#include <type_traits>

#include "blocks.hpp"

namespace tamlo::chain {
namespace {

constexpr std::size_t most = 1024;

struct Signals {
  std::array<double, most> value;
  std::array<double, most> resistance;
};

template <class Law>
constexpr bool takes_rows = requires(const Law& law, const UnitOfMany& p) {
  forward_of(law, Signal{}, p);
}
|| requires(const Law& law, const UnitOfMany& p) { forward_of(law, 0.0, p); };

// The compiler sees the part and that the rows do not change, and takes several units at once.
template <class Law>
void through(const Law& law, double* __restrict value, double* __restrict resistance, std::size_t n,
             const double* const* rows) {
  for (std::size_t t = 0; t < n; ++t) {
    const auto out =
        one(law, {.value = value[t], .resistance = resistance[t]}, UnitOfMany{rows, t});
    value[t] = out.value;
    resistance[t] = out.resistance;
  }
}

void pass(const Law& law, Signals& signals, std::size_t n, const double* const* rows,
          std::size_t parameters) {
  std::visit(
      [&](const auto& of) {
        if constexpr (takes_rows<std::decay_t<decltype(of)>>) {
          through(of, signals.value.data(), signals.resistance.data(), n, rows);
        } else {
          // A part that is not a few operations: unit by unit.
          std::vector<double> p(parameters);
          for (std::size_t t = 0; t < n; ++t) {
            for (std::size_t i = 0; i < parameters; ++i) p[i] = rows[i][t];
            const auto out =
                one(of, {.value = signals.value[t], .resistance = signals.resistance[t]},
                    Parameters(p));
            signals.value[t] = out.value;
            signals.resistance[t] = out.resistance;
          }
        }
      },
      law);
}

void to_reported(const ConverterLaw& law, const ReportLaw& report, double first,
                 double* __restrict value, std::size_t n, const double* const* rows) {
  for (std::size_t t = 0; t < n; ++t) {
    const double code = first + forward(law, value[t], UnitOfMany{rows, t});
    value[t] = report.offset + report.gain * code;
  }
}

void to_readings(const Chain& chain, double* __restrict value, std::size_t n) {
  const auto& scaling = chain.channel.scaling;
  if (scaling.integer || scaling.taught) {
    for (std::size_t t = 0; t < n; ++t) value[t] = exact_reading(chain, value[t]);
    return;
  }
  exact_readings(chain, value, n);
}

}  // namespace

void read_varied(const Chain& chain, double x, const double* const* rows, std::span<double> out) {
  const auto n = out.size();
  assert(n <= most);
  Signals signals;
  std::fill_n(signals.value.begin(), n, x);
  std::fill_n(signals.resistance.begin(), n, 0.0);
  for (const auto& stage : chain.stages) pass(stage.law, signals, n, rows, chain.parameters.size());
  to_reported(chain.conversion, chain.report, static_cast<double>(first_code(chain)),
              signals.value.data(), n, rows);
  to_readings(chain, signals.value.data(), n);
  const double* rounding = rows[chain.rounding];
  for (std::size_t t = 0; t < n; ++t) {
    out[t] = signals.value[t] + chain.arithmetic.mean + rounding[t];
  }
}

}  // namespace tamlo::chain
