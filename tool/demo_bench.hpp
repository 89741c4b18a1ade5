// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/model/board.hpp"
#include "tamlo/report/table.hpp"

namespace tamlo::tool {

/// Measures a simulated unit beside its meter, with a source, in real time over loopback links, and
/// returns what is said of it. In demo_bench.cpp; without links in no_links.cpp.
std::vector<report::Line> told_at_the_bench(const model::Board& described,
                                            const std::string& channel);

}  // namespace tamlo::tool
