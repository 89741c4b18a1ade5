// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <string_view>

#include "tamlo/quantity/unit.hpp"
#include "tamlo/report/plot.hpp"

// Pictures by gnuplot, fed through a file.
namespace tamlo::report {

/// gnuplot's single-quoted text: everything is itself but the quote, which is doubled.
std::string literal(std::string_view text);

/// Look that all pictures share: a pale grid, a grey frame, the key below.
extern const char* const common_look;

/// Behind a plot: points that are not seen, and show the text of the third column under the
/// pointer: "$d using 1:2:3".
std::string pointed_at(std::string_view columns);

/// Runs a script that sets up everything but the terminal and the output, and gives the bytes of
/// the whole picture. Throws PlotError.
std::string draw(Image image, const std::string& script);

/// Feeds a script to gnuplot, without the user's own settings and for a minute at most, and returns
/// what comes from its standard output. Throws PlotError. In run_gnuplot_posix.cpp.
std::string run_gnuplot(const std::string& script);

}  // namespace tamlo::report
