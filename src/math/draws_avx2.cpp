// SPDX-License-Identifier: Apache-2.0
#include <immintrin.h>

#define TAMLO_WIDTH 4

namespace tamlo::math::avx2 {
namespace {

using B [[gnu::vector_size(8 * TAMLO_WIDTH)]] = unsigned long long;
using R [[gnu::vector_size(8 * TAMLO_WIDTH)]] = double;

inline B mul32(B a, B b) {
  return reinterpret_cast<B>(
      _mm256_mul_epu32(reinterpret_cast<__m256i>(a), reinterpret_cast<__m256i>(b)));
}
inline R root(R x) { return reinterpret_cast<R>(_mm256_sqrt_pd(reinterpret_cast<__m256d>(x))); }

}  // namespace

#include "draws_kernel.hpp"

}  // namespace tamlo::math::avx2
