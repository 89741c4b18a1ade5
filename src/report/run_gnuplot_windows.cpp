// SPDX-License-Identifier: Apache-2.0
#include "gnuplot.hpp"

namespace tamlo::report {

std::string run_gnuplot(const std::string&) {
  throw PlotError("pictures are not drawn on Windows: \"tamlo page\" has them, in a browser");
}

}  // namespace tamlo::report
