// SPDX-License-Identifier: Apache-2.0
#include "command.hpp"
#include "demo_bench.hpp"

// What stands for the commands that reach a bench or a browser by links, in a build without them.
namespace tamlo::tool {

extern const Command watch_command{.name = "watch", .here = false},
    measure_command{.name = "measure", .here = false},
    serve_command{.name = "serve", .here = false}, tune_command{.name = "tune", .here = false};

std::vector<report::Line> told_at_the_bench(const model::Board&, const std::string&) {
  return {{"no links in this build: not measured", report::Tone::doubtful}};
}

}  // namespace tamlo::tool
