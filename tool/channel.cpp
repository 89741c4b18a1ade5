// SPDX-License-Identifier: Apache-2.0
#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/json.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {

int run_channel(const Arguments& arguments) {
  const auto chains = chains_of(io::load_board(arguments.boards), arguments);
  if (wants_json(arguments)) {
    print(io::to_json(chains));
    return done;
  }
  std::vector<report::Report> reports;
  for (const auto& chain : chains) reports.push_back(report::of(chain, chain::settings(chain)));
  print(reports, arguments);
  return done;
}

}  // namespace tamlo::tool
