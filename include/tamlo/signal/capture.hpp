// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/signal/detail/chart.hpp"
#include "tamlo/signal/histogram.hpp"
#include "tamlo/signal/moments.hpp"
#include "tamlo/signal/spectrum.hpp"
#include "tamlo/signal/stability.hpp"

namespace tamlo {
namespace signal TAMLO_API {

/// All that is kept of a record of one channel, in constant memory: feed blocks, ask at any time.
class Capture {
 public:
  /// Options of a capture.
  struct Options {
    double bin_width =
        1.0;  ///< of the histogram: 1 for codes, a small part of the noise for values
    Window window = Window::blackman_harris;
    std::size_t segment = std::size_t{1} << 14;  ///< of the spectrum; a power of two, 8 or more
    std::size_t head = std::size_t{1} << 20;     ///< samples that are kept as they came
    std::vector<std::uint64_t> averages{};       ///< of the stability, beside powers of two
  };
  Capture();
  /// Throws ArgumentError for a bin width that is not above 0.
  explicit Capture(const Options& options);

  /// Throws DataError for values that lie too far apart for the histogram.
  void add(std::span<const double> values);
  /// Adds codes as a converter's driver has them.
  void add(std::span<const std::int16_t> codes);
  /// Adds codes as above.
  void add(std::span<const std::uint16_t> codes);
  /// Adds codes as above.
  void add(std::span<const std::int32_t> codes);
  /// Adds codes as above.
  void add(std::span<const std::uint32_t> codes);
  /// A stretch of its own that was fed elsewhere: histogram, moments, spectrum and stability become
  /// those of both; head and chart stay as they are.
  void merge(const Capture& other);

  /// Samples so far.
  std::uint64_t count() const { return moments_.count(); }
  /// Returns the options as they were given.
  const Options& options() const { return options_; }
  const Histogram& histogram() const { return histogram_; }  ///< of value / bin_width, rounded
  /// Mean, deviation, ends.
  const Moments& moments() const { return moments_; }
  /// The course of the record, for a picture.
  const Chart& chart() const { return chart_; }
  /// The first samples, as they came.
  std::span<const double> head() const { return head_; }
  /// In shorter segments if the record is shorter than one. Needs eight samples.
  Spectrum spectrum() const;
  /// Needs three samples.
  Stability stability(double coverage = 0.95) const;

 private:
  Options options_;
  Histogram histogram_{};
  Moments moments_{};
  SpectrumParts spectrum_;
  StabilityParts stability_;
  Chart chart_{};
  std::vector<double> head_{};
  std::vector<std::int32_t> codes_{};

  template <class Code>
  void add_codes(std::span<const Code> codes);
};

}  // namespace signal
}  // namespace tamlo
