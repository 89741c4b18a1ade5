// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <stdexcept>
#include <string>
#include <string_view>

#include "tamlo/meter/compare.hpp"

namespace tamlo::report {

/// gnuplot is missing or failed, or the file cannot be written.
class PlotError : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// True for a file name that ends in .svg or .png.
bool can_plot_to(std::string_view path);

/// Differences against the meter's value, with error bars (the guard band), the band that is
/// allowed and the zero line. Written to a temporary file beside `path` and renamed, so that `path`
/// is never half a picture. Throws PlotError.
void plot(const meter::Comparison& comparison, const std::string& path);

}  // namespace tamlo::report
