// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/model/converter.hpp"
#include "tamlo/model/scaling.hpp"
#include "tamlo/record/verdict.hpp"

namespace tamlo {
namespace record TAMLO_API {

/// Measured figures that replace limits of the description.
struct Measured {
  /// LSB: noise of the converter with which the channel's noise is that of the record, and its
  /// interval.
  struct Noise {
    double value = 0.0, low = 0.0, high = 0.0;
  };
  std::optional<Noise> noise{};
  std::vector<model::InlPoint> inl{};  ///< at most 1025 codes, with the first and the last
  double inl_uncertainty = 0.0;        ///< LSB, standard, the largest
  double dnl = 0.0;                    ///< LSB, the largest size; with `inl` only
  /// Offset and gain, where the ends of the input are known; those are taken as exact.
  std::optional<model::Correction> correction{};
  std::string reason{};  ///< why there is nothing at all; else empty
};

Measured measured(const chain::Chain& chain, const Verdict& verdict);

}  // namespace record
}  // namespace tamlo
