// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string_view>

#include "tamlo/export.hpp"

namespace tamlo {
namespace math TAMLO_API {

/// Returns a number of many bytes (Fowler, Noll and Vo, 64 bits, variant 1a), going on from
/// `before`. Not safe against a forger.
constexpr std::uint64_t hash_of(std::string_view bytes,
                                std::uint64_t before = 0xcbf29ce484222325U) {
  for (const char c : bytes) before = (before ^ static_cast<unsigned char>(c)) * 0x100000001b3U;
  return before;
}

}  // namespace math
}  // namespace tamlo
