// SPDX-License-Identifier: Apache-2.0
#include "chain/read_units.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "blocks.hpp"
#include "correction.hpp"
#include "math/draws.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/error.hpp"

namespace tamlo::chain {
namespace {

using math::chosen;
using math::Instructions;

struct UnitSignals {
  std::array<double, math::draws_block> value;
  std::array<double, math::draws_block> resistance;
};

void pass(const Law& law, UnitSignals& signals, std::size_t n, const double* const* rows,
          std::size_t parameters, Instructions with) {
  if (chosen(with, base::pass, avx2::pass, avx512::pass)(law, signals.value.data(),
                                                         signals.resistance.data(), n, rows)) {
    return;
  }
  // A part that is not a few operations: unit by unit.
  std::vector<double> p(parameters);
  for (std::size_t t = 0; t < n; ++t) {
    for (std::size_t i = 0; i < parameters; ++i) p[i] = rows[i][t];
    const auto out =
        forward(law, {.value = signals.value[t], .resistance = signals.resistance[t]}, p);
    signals.value[t] = out.value;
    signals.resistance[t] = out.resistance;
  }
}

void back(const Law& law, double* value, std::size_t n, const std::vector<double>& nominal,
          Instructions with) {
  if (chosen(with, base::pass_back, avx2::pass_back, avx512::pass_back)(law, value, n,
                                                                        nominal.data())) {
    return;
  }
  for (std::size_t i = 0; i < n; ++i) value[i] = inverse(law, value[i], nominal);
}

void to_readings(const Chain& chain, double* value, std::size_t n, Instructions with) {
  const auto& scaling = chain.channel.scaling;
  if (scaling.integer || scaling.taught) {
    for (std::size_t t = 0; t < n; ++t) value[t] = exact_reading(chain, value[t]);
    return;
  }
  const auto line = count_line(chain);
  for (std::size_t i = 0; i < n; ++i) {
    value[i] = line.low + (value[i] - line.first) * line.per_count;
  }
  const auto& known = known_stages(chain);
  for (auto stage = known.rbegin(); stage != known.rend(); ++stage) {
    back(stage->law, value, n, chain.nominal, with);
  }
}

}  // namespace

void exact_readings(const Chain& chain, double* value, std::size_t n) {
  to_readings(chain, value, n, math::widest_instructions());
}

namespace {

// From the quantity to what the register shows on the whole.
void to_registers(const Chain& chain, const RegisterFormat& report, double x,
                  const double* const* rows, std::size_t n, UnitSignals& signals,
                  Instructions with) {
  require(n <= math::draws_block, "more units than one block takes");
  Signal known{.value = x};
  for (std::size_t i = 0; i < chain.path.known; ++i) {
    known = forward(chain.path.stages[i].law, known, chain.nominal);
  }
  std::fill_n(signals.value.begin(), n, known.value);
  std::fill_n(signals.resistance.begin(), n, known.resistance);
  for (std::size_t i = chain.path.known; i < chain.path.stages.size(); ++i) {
    pass(chain.path.stages[i].law, signals, n, rows, chain.parameters.size(), with);
  }
  chosen(with, base::to_reported, avx2::to_reported, avx512::to_reported)(
      chain.conversion, report, static_cast<double>(first_code(chain)), signals.value.data(), n,
      rows);
}

}  // namespace

void codes_of_units(const Chain& chain, double x, const double* const* rows, std::span<double> out,
                    Instructions with) {
  UnitSignals signals;
  to_registers(chain, RegisterFormat{}, x, rows, out.size(), signals, with);
  std::copy_n(signals.value.begin(), out.size(), out.begin());
}

void read_units(const Chain& chain, double x, const double* const* rows, std::span<double> out,
                Instructions with) {
  const auto n = out.size();
  UnitSignals signals;
  to_registers(chain, chain.report, x, rows, n, signals, with);
  const auto found = signals.value;
  to_readings(chain, signals.value.data(), n, with);
  const double* rounding = rows[chain.firmware.rounding];
  for (std::size_t t = 0; t < n; ++t) {
    if (!std::isfinite(signals.value[t])) signals.value[t] = smooth_reading(chain, found[t]);
    out[t] = signals.value[t] + chain.firmware.arithmetic.mean + rounding[t];
  }
  if (!chain.channel.correction) return;
  // As read_untared(): of nominal parameters, the difference is what the correction takes away.
  auto plain = chain;
  plain.channel.correction.reset();
  const double nominal = read_untared(plain, x, plain.nominal);
  const double away = nominal - nominal_after(*chain.channel.correction, nominal, x);
  for (double& value : out) value -= away;
}

}  // namespace tamlo::chain
