// SPDX-License-Identifier: Apache-2.0
// The loops of transform.hpp, compiled once for each set of instructions (cmake/settings.cmake). No
// sum runs over the elements of a loop, so that its width changes no bit.
#include "transform.hpp"

namespace tamlo::record::TAMLO_SET {
namespace {

constexpr std::size_t lanes = 8;

// One number, or eight that pass at once, in as many registers as the set of instructions needs for
// them; in memory they may begin anywhere.
struct One {
  using Number = double;
  static const double& at(const double* from) { return *from; }
  static double& at(double* to) { return *to; }
};
struct Eight {
  using Number = double __attribute__((vector_size(lanes * sizeof(double))));
  using Stored
      __attribute__((vector_size(lanes * sizeof(double)), aligned(alignof(double)), may_alias)) =
          double;
  static const Stored& at(const double* from) { return *reinterpret_cast<const Stored*>(from); }
  static Stored& at(double* to) { return *reinterpret_cast<Stored*>(to); }
};

// Four inputs `apart` from one another to four outputs `step` apart: sums and differences, turned
// by the roots.
template <class Of>
inline void butterfly(const double* fr, const double* fi, double* tr, double* ti, std::size_t apart,
                      std::size_t step, double w1r, double w1i, double w2r, double w2i, double w3r,
                      double w3i) {
  using Number = typename Of::Number;
  const Number ar = Of::at(fr), br = Of::at(fr + apart), cr = Of::at(fr + 2 * apart),
               dr = Of::at(fr + 3 * apart);
  const Number ai = Of::at(fi), bi = Of::at(fi + apart), ci = Of::at(fi + 2 * apart),
               di = Of::at(fi + 3 * apart);
  const Number even_r = ar + cr, even_i = ai + ci, odd_r = br + dr, odd_i = bi + di;
  const Number apart_r = ar - cr, apart_i = ai - ci, turned_r = bi - di, turned_i = dr - br;
  const Number one_r = apart_r + turned_r, one_i = apart_i + turned_i;
  const Number two_r = even_r - odd_r, two_i = even_i - odd_i;
  const Number three_r = apart_r - turned_r, three_i = apart_i - turned_i;
  Of::at(tr) = even_r + odd_r;
  Of::at(ti) = even_i + odd_i;
  Of::at(tr + step) = w1r * one_r - w1i * one_i;
  Of::at(ti + step) = w1r * one_i + w1i * one_r;
  Of::at(tr + 2 * step) = w2r * two_r - w2i * two_i;
  Of::at(ti + 2 * step) = w2r * two_i + w2i * two_r;
  Of::at(tr + 3 * step) = w3r * three_r - w3i * three_i;
  Of::at(ti + 3 * step) = w3r * three_i + w3i * three_r;
}

}  // namespace

void radix_4(const double* wr, const double* wi, const double* fr, const double* fi, double* tr,
             double* ti, std::size_t m, std::size_t stride, std::size_t root_step) {
  const auto apart = m * stride;
  for (std::size_t p = 0; p < m; ++p) {
    const auto k = p * root_step;
    const auto pass = [&](auto of, std::size_t q) {
      const auto i = p * stride + q, o = 4 * p * stride + q;
      butterfly<decltype(of)>(fr + i, fi + i, tr + o, ti + o, apart, stride, wr[k], wi[k],
                              wr[2 * k], wi[2 * k], wr[3 * k], wi[3 * k]);
    };
    std::size_t q = 0;
    for (; q + lanes <= stride; q += lanes) pass(Eight{}, q);
    for (; q < stride; ++q) pass(One{}, q);
  }
}

void radix_2(const double* __restrict fr, const double* __restrict fi, double* __restrict tr,
             double* __restrict ti, std::size_t stride) {
  for (std::size_t q = 0; q < stride; ++q) {
    tr[q] = fr[q] + fr[q + stride];
    ti[q] = fi[q] + fi[q + stride];
    tr[q + stride] = fr[q] - fr[q + stride];
    ti[q + stride] = fi[q] - fi[q + stride];
  }
}

}  // namespace tamlo::record::TAMLO_SET
