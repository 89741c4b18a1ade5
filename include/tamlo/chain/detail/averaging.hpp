// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/export.hpp"

/// Quantisation of averaged conversions (docs/method.md, "Resolution, averaging and dither").
/// Everything in code widths; the input is steady at an unknown place within its code, the noise
/// normal and independent from conversion to conversion.
namespace tamlo {
namespace chain TAMLO_API {

/// Variance of the part of the quantisation error that no averaging removes, for noise of standard
/// deviation `sigma` before the quantiser:
///
///     u_sys^2 = sum_{k>=1} exp(-4 pi^2 k^2 sigma^2) / (2 (pi k)^2)
///
/// 1/12 at sigma = 0; under 1e-9 from sigma = 0.75 on. Accurate to 1e-15 for all sigma >= 0.
/// Source: the Fourier series of the quantiser's sawtooth (Widrow and Kollar, 2008, ch. 4).
double systematic_quantisation_variance(double sigma);

/// Standard uncertainty that quantisation adds to the mean of `count` conversions, beside the
/// sigma / sqrt(count) of the noise itself:
///
///     u_q^2 = u_sys^2 + (1/12 - u_sys^2) / count
///
/// For a filter, `count` is the inverse of its noise gain.
double quantisation_standard(double sigma, double count);

}  // namespace chain
}  // namespace tamlo
