// SPDX-License-Identifier: Apache-2.0
// Every channel of every example board, which between them have every part there is.
#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/batch.hpp"
#include "tamlo/chain/settings.hpp"
#include "tamlo/io/board_file.hpp"

namespace tamlo::testing {
namespace {

std::vector<chain::Chain> all_chains() {
  std::vector<chain::Chain> result;
  std::vector<std::string> paths{std::string(TAMLO_SOURCE) + "/demo/board.toml"};
  for (const auto& entry :
       std::filesystem::directory_iterator(std::string(TAMLO_SOURCE) + "/examples/boards")) {
    if (entry.path().extension() == ".toml") paths.push_back(entry.path().string());
  }
  for (const auto& path : paths) {
    const auto board = io::load_board({path});
    for (const auto& channel : board.channels) result.push_back(chain::build(board, channel.name));
  }
  return result;
}

// Batches give what one by one gives, to the bit, in and around the span; with a calibration's
// correction, too.
TEST(ExampleChains, BatchesAreOneByOne) {
  auto chains = all_chains();
  for (std::size_t i = 0, n = chains.size(); i < n; ++i) {
    auto& corrected = chains.emplace_back(chains[i]).channel;
    corrected.correction = model::Correction{.coefficients = {0.01 * corrected.span.width(), 1e-3},
                                             .centre = corrected.span.middle(),
                                             .half_width = corrected.span.width() / 2.0};
  }
  EXPECT_GE(chains.size(), 40U);
  for (const auto& chain : chains) {
    SCOPED_TRACE(chain.channel.name);
    const auto& span = chain.channel.span;
    std::vector<double> x;
    for (int i = 0; i < 1300; ++i) x.push_back(span.low + span.width() * (i * 1.02 / 1300.0));
    std::vector<double> codes(x.size()), shown(x.size());
    std::vector<std::int64_t> found(x.size());
    chain::codes(chain, x, chain.nominal, codes);
    const auto clipped = chain::conversions(chain, x, chain.nominal, found);
    chain::readings(chain, found, shown);
    std::size_t expected_clipped = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
      const double code = chain::code(chain, x[i], chain.nominal);
      ASSERT_EQ(codes[i], code) << x[i];
      const auto one = chain::convert(chain, code);
      expected_clipped += one.clipped ? 1U : 0U;
      ASSERT_EQ(found[i], chain::reported(chain.report, one.code)) << x[i];
      ASSERT_EQ(shown[i], chain::reading(chain, static_cast<double>(found[i]))) << x[i];
    }
    EXPECT_EQ(clipped, expected_clipped);
  }
}

// With all deviations zero and an unlimited resolution a channel reads what is there, but for what
// the firmware does not know: rests in the sampling capacitor, self-heating, loaded dividers, its
// own arithmetic and the curve between taught points.
TEST(ExampleChains, AnIdealUnitReadsTrue) {
  for (const auto& chain : all_chains()) {
    const auto& scaling = chain.channel.scaling;
    bool knows_all =
        !scaling.integer && !scaling.taught && !scaling.sensor && chain.report.width == 1.0;
    knows_all = knows_all && chain.report.gain == chain.report.per_code &&
                scaling.convention == model::Convention::full_scale &&
                chain.conversion.shift == 0.0;
    for (const auto& stage : chain.path.stages) {
      knows_all = knows_all && !std::holds_alternative<chain::SamplingLaw>(stage.law) &&
                  !std::holds_alternative<chain::SelfHeatedLaw>(stage.law);
    }
    if (!knows_all) continue;
    const auto& span = chain.channel.span;
    for (const double part : {0.0, 0.3, 0.77, 1.0}) {
      const double x = span.low + part * span.width();
      EXPECT_NEAR(chain::read(chain, x, chain.nominal), x, 1e-9 * (std::abs(x) + span.width()))
          << chain.channel.name;
    }
  }
}

}  // namespace
}  // namespace tamlo::testing
