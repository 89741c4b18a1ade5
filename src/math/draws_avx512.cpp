// SPDX-License-Identifier: Apache-2.0
#include <immintrin.h>

#define TAMLO_WIDTH 8

namespace tamlo::math::avx512 {
namespace {

using B [[gnu::vector_size(8 * TAMLO_WIDTH)]] = unsigned long long;
using R [[gnu::vector_size(8 * TAMLO_WIDTH)]] = double;

inline B mul32(B a, B b) {
  return reinterpret_cast<B>(
      _mm512_maskz_mul_epu32(0xff, reinterpret_cast<__m512i>(a), reinterpret_cast<__m512i>(b)));
}
inline R root(R x) {
  return reinterpret_cast<R>(_mm512_maskz_sqrt_pd(0xff, reinterpret_cast<__m512d>(x)));
}

}  // namespace

#include "draws_kernel.hpp"

}  // namespace tamlo::math::avx512
