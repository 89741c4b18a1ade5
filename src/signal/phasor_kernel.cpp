// SPDX-License-Identifier: Apache-2.0
// The loops of phasor.hpp, compiled once for each set of instructions (cmake/settings.cmake). Eight
// sums run side by side on all of them, so that the width changes no bit.
#include "phasor.hpp"

namespace tamlo::signal::TAMLO_SET {
namespace {

constexpr std::size_t lanes = 8;
// Eight numbers, in as many registers as the set of instructions needs for them.
using Lanes = double __attribute__((vector_size(lanes * sizeof(double))));

// The same in memory, where no more is known of it than that numbers stand there.
using Stored
    __attribute__((vector_size(lanes * sizeof(double)), aligned(alignof(double)), may_alias)) =
        double;

// Always a part of its caller: how it would be called does not matter.
#pragma GCC diagnostic ignored "-Wpsabi"
[[gnu::always_inline]] inline Lanes load(const double* from) {
  return *reinterpret_cast<const Stored*>(from);
}

double total(const Lanes& of) {
  return ((of[0] + of[4]) + (of[2] + of[6])) + ((of[1] + of[5]) + (of[3] + of[7]));
}

}  // namespace

WithSamples with_samples(const double* __restrict cosine, const double* __restrict sine,
                         const double* __restrict y, std::size_t n) {
  Lanes one{}, yy{}, yc{}, ys{}, yic{}, yis{}, place{0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0};
  std::size_t i = 0;
  for (; i + lanes <= n; i += lanes) {
    const Lanes x = load(y + i), xc = x * load(cosine + i), xs = x * load(sine + i);
    one += x;
    yy += x * x;
    yc += xc;
    ys += xs;
    yic += place * xc;
    yis += place * xs;
    place += static_cast<double>(lanes);
  }
  WithSamples result{total(one), total(yy), total(yc), total(ys), total(yic), total(yis)};
  for (; i < n; ++i) {
    const double x = y[i], xc = x * cosine[i], xs = x * sine[i], at = static_cast<double>(i);
    result.y += x;
    result.yy += x * x;
    result.yc += xc;
    result.ys += xs;
    result.yic += at * xc;
    result.yis += at * xs;
  }
  return result;
}

double squares_off(const double* __restrict cosine, const double* __restrict sine, double real,
                   double imaginary, double offset, const double* __restrict y, std::size_t n) {
  Lanes part{};
  std::size_t i = 0;
  for (; i + lanes <= n; i += lanes) {
    const Lanes off = load(y + i) - offset - (real * load(cosine + i) - imaginary * load(sine + i));
    part += off * off;
  }
  double result = total(part);
  for (; i < n; ++i) {
    const double off = y[i] - offset - (real * cosine[i] - imaginary * sine[i]);
    result += off * off;
  }
  return result;
}

}  // namespace tamlo::signal::TAMLO_SET
