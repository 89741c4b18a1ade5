// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/capture.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <limits>

#include "tamlo/error.hpp"
#include "tamlo/names.hpp"
#include "tamlo/signal/detail/input.hpp"

namespace tamlo::signal {

Capture::Capture() : Capture(Options{}) {}

Capture::Capture(const Options& options)
    : options_(options), spectrum_(options.window, options.segment), stability_(options.averages) {
  require(options.bin_width > 0.0 && std::isfinite(options.bin_width),
          "the bin_width of a capture is above 0");
}

void Capture::add(std::span<const double> values) {
  constexpr double max = std::numeric_limits<std::int32_t>::max();
  const double per_bin = 1.0 / options_.bin_width;
  for (const double x : values) {
    // Not negated: what is not a number is none of them.
    if (!(std::abs(x * per_bin) < 9e18)) {
      throw DataError("a value of a record that is not a number, or too large to be counted");
    }
  }
  codes_.clear();
  for (const double x : values) {
    const double code = std::floor(x * per_bin + 0.5);
    if (std::abs(code) <= max) {
      codes_.push_back(static_cast<std::int32_t>(code));
    } else {
      histogram_.add(static_cast<std::int64_t>(code));
    }
  }
  histogram_.add(codes_);
  moments_.add(values);
  spectrum_.add(values);
  stability_.add(values);
  chart_.add(values);
  const auto room = std::min(values.size(), options_.head - head_.size());
  head_.insert(head_.end(), values.begin(), values.begin() + static_cast<std::ptrdiff_t>(room));
}

// In stretches, so that memory does not grow with what is handed over.
template <class Code>
void Capture::add_codes(std::span<const Code> codes) {
  std::array<double, 4096> values;
  while (!codes.empty()) {
    const auto some = codes.first(std::min(codes.size(), values.size()));
    std::ranges::copy(some, values.begin());
    add(std::span<const double>(values).first(some.size()));
    codes = codes.subspan(some.size());
  }
}

void Capture::add(std::span<const std::int16_t> codes) { add_codes(codes); }
void Capture::add(std::span<const std::uint16_t> codes) { add_codes(codes); }
void Capture::add(std::span<const std::int32_t> codes) { add_codes(codes); }
void Capture::add(std::span<const std::uint32_t> codes) { add_codes(codes); }

void Capture::merge(const Capture& other) {
  require(other.options_.bin_width == options_.bin_width,
          "captures of other bin widths do not merge");
  histogram_.merge(other.histogram_);
  moments_.merge(other.moments_);
  spectrum_.merge(other.spectrum_);
  stability_.merge(other.stability_);
}

Spectrum Capture::spectrum() const {
  if (spectrum_.segments() > 0) return spectrum_.result();
  return signal::spectrum(head_, options_.window);
}

Stability Capture::stability(double coverage) const { return stability_.result(coverage); }

std::string_view name(Input input) { return name_in({"steady", "ramp", "sine", "step"}, input); }

}  // namespace tamlo::signal
