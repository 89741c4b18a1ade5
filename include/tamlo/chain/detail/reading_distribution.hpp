// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo {
namespace chain TAMLO_API {

struct Chain;

/// Mean and variance of what is reported for an unquantised code with normal noise of standard
/// deviation `sigma` codes: a sum over the codes in reach, clipped at both ends.
struct ReportedMoments {
  double mean = 0.0, variance = 0.0;
};
ReportedMoments reported_moments(const Chain& chain, double unquantised, double sigma);
/// Returns mean and variance of the codes themselves, before the register format.
ReportedMoments code_moments(const Chain& chain, double unquantised, double sigma);

/// Returns the offset, in codes at `x`, of the unit that a channel's correction was made for from
/// the nominal unit. With that offset its corrected reading is `x`. 0 for a channel without a
/// correction.
double correction_in_codes(const Chain& chain, double x);

/// A value, and how often it comes up.
struct Outcome {
  double value = 0.0, probability = 0.0;
};

/// True for a source that stands for what one reading does itself when it is drawn conversion by
/// conversion: noise, interference, the steps of the codes, of the integers and of the decimals.
bool by_codes(const Chain& chain, std::size_t source);

/// The distribution of the readings at one place, summed over the codes in reach and not drawn: for
/// probabilities that are too small to be counted. It takes the largest sine that gets
/// in as one, whatever its phase, and any other as noise; a ReadingSampler draws what it sums up.
class ReadingDistribution {
 public:
  /// Prepares it for readings of the quantity `x`, SI; keeps a reference to the chain.
  ReadingDistribution(const Chain& chain, double x);
  ReadingDistribution(Chain&& temporary, double x) = delete;

  /// The register values behind average and filter that come up for a steady unquantised code.
  /// Exact for single conversions and for means of up to 256 whose noise is independent; else
  /// normal about the exact mean. What is rarer than 1e-20 is left out.
  std::vector<Outcome> outcomes(double unquantised) const;

 private:
  static constexpr int phases = 16;  // of the sine

  template <class Moments>
  ReportedMoments over_phases(double unquantised, Moments moments) const;
  double wave(int phase) const;
  ReportedMoments behind_filter(double unquantised) const;

  const Chain& chain_;
  // In codes: the noise of one conversion and the sine that gets in, as standard deviation and
  // amplitude; what of both is left behind average and filter, as a standard deviation.
  double noise_ = 0.0, sine_ = 0.0, left_ = 0.0;
  bool single_ = true;      // a reading is one conversion, or a median
  double bin_width_ = 0.0;  // an average of so many codes is a multiple of this; 0: of nothing
};

}  // namespace chain
}  // namespace tamlo
