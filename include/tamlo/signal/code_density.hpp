// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/signal/detail/input.hpp"
#include "tamlo/signal/histogram.hpp"

/// Linearity from how often each code occurs (IEEE 1241, 4.1.6; IEC 60748-4-3).
namespace tamlo {
namespace signal TAMLO_API {

/// Linearity of the codes between the first and the last, which have no width of their own. LSB are
/// the mean width of these codes.
struct Linearity {
  std::int64_t first = 0;               ///< code of dnl[0]
  std::vector<double> dnl{};            ///< width - 1
  std::vector<double> inl_end_point{};  ///< of the transition above each code, from the line
                                        ///< through the outermost transitions
  std::vector<double> inl_best_fit{};   ///< from the line of least squares
  std::vector<double> dnl_standard{};   ///< what so many samples leave
  std::vector<double> inl_standard{};
  std::vector<std::int64_t> missing{};  ///< codes that never occur, and surely would if they were
                                        ///< as wide as others
  std::uint64_t unseen = 0;             ///< codes that do not occur, as may be by chance
  bool reaches_both_ends = false;       ///< the first and the last code of the converter occur
  double largest_dnl() const;           ///< with its sign
  /// With its sign, from the line through the ends.
  double largest_inl_end_point() const;
  /// With its sign, from the best line.
  double largest_inl_best_fit() const;
};

/// Returns INL and DNL (LSB) of each code from the histogram of a ramp or a sine (IEEE 1241), with
/// their standard uncertainties. Takes codes `first` to `last`, four or more, and at least as many
/// samples between them. Without `even_noise` each sample counts as falling anywhere, independent
/// of the others. With it the samples are spread evenly, as those of a ramp or a coherent sine are,
/// and moved by noise of that standard deviation (LSB) alone, which makes them far surer (Blair,
/// 1994). Throws ArgumentError for fewer codes, DataError for fewer samples.
Linearity linearity(const Histogram& histogram, std::int64_t first, std::int64_t last, Input input,
                    std::optional<double> even_noise = {});

/// The first and the last transition (below code first + 1 and below code last), by what the
/// input's ends would be in unquantised codes.
struct EndTransitions {
  double first = 0.0, last = 0.0;
};
EndTransitions transition_ends(const Histogram& histogram, std::int64_t first, std::int64_t last,
                               Input input, double low, double high);

/// Samples that leave a standard uncertainty of `standard` LSB of INL in the middle, the largest,
/// for so many codes.
std::uint64_t samples_needed(Input input, std::uint64_t codes, double standard,
                             std::optional<double> even_noise = {});

}  // namespace signal
}  // namespace tamlo
