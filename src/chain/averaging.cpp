// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/averaging.hpp"

#include <cmath>
#include <numbers>

#include "tamlo/error.hpp"

namespace tamlo::chain {

double systematic_quantisation_variance(double sigma) {
  require(sigma >= 0.0, "a standard deviation is not below 0");
  using std::numbers::pi;
  if (sigma < 0.08) {
    // The same sum by Poisson's formula; what it leaves out is below exp(-1 / (4 sigma^2)).
    return 1.0 / 12.0 + sigma * sigma - sigma * std::numbers::inv_sqrtpi;
  }
  double sum = 0.0;
  for (int k = 1;; ++k) {
    const double pi_k = pi * k;
    const double term = std::exp(-4.0 * pi_k * pi_k * sigma * sigma) / (2.0 * pi_k * pi_k);
    sum += term;
    if (term <= 1e-17 * sum || term == 0.0) return sum;
  }
}

double quantisation_standard(double sigma, double count) {
  require(count >= 1e-12, "a mean of more than nothing");
  const double irreducible = systematic_quantisation_variance(sigma);
  return std::sqrt(irreducible + (1.0 / 12.0 - irreducible) / count);
}

}  // namespace tamlo::chain
