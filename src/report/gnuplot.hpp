// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <string_view>

#include "tamlo/quantity/unit.hpp"

// Pictures by gnuplot, fed through a pipe.
namespace tamlo::report {

/// gnuplot's single-quoted text: everything is itself but the quote, which is doubled.
std::string literal(std::string_view text);

/// What all pictures have: a pale grid, a grey frame, the key below.
extern const char* const common_look;

/// Runs a script that sets up everything but the terminal and the output. Written to a temporary
/// file beside `path` and renamed, so that `path` is never half a picture. Throws PlotError.
void draw(const std::string& path, const std::string& script);

}  // namespace tamlo::report
