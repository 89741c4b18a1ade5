// SPDX-License-Identifier: Apache-2.0
#include <immintrin.h>

#define TAMLO_WIDTH 2

namespace tamlo::math::sse2 {
namespace {

using B [[gnu::vector_size(8 * TAMLO_WIDTH)]] = unsigned long long;
using R [[gnu::vector_size(8 * TAMLO_WIDTH)]] = double;

inline B mul32(B a, B b) {
  return reinterpret_cast<B>(
      _mm_mul_epu32(reinterpret_cast<__m128i>(a), reinterpret_cast<__m128i>(b)));
}
inline R root(R x) { return reinterpret_cast<R>(_mm_sqrt_pd(reinterpret_cast<__m128d>(x))); }

}  // namespace

#include "draws_kernel.hpp"

}  // namespace tamlo::math::sse2
