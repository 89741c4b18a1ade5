// SPDX-License-Identifier: Apache-2.0
// The page of a board: what the commands say, nothing from outside, nothing that a name could do.
#include <gtest/gtest.h>

#include <regex>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

std::size_t count(const std::string& text, const std::string& what) {
  std::size_t result = 0;
  for (auto at = text.find(what); at != std::string::npos; at = text.find(what, at + 1)) ++result;
  return result;
}

TEST(Page, SaysWhatTheCommandsSay) {
  const Folder folder;
  const auto file = folder.path("board.html");
  const auto result = tamlo({"page", demo_board, demo_readings, "--write", file});
  EXPECT_EQ(result.status, 1) << result.errors;  // a target is missed, and readings fail
  const auto html = read(file);
  // The first line of budget and of compare, without the channel's name.
  for (const char* channel : {"pack_voltage", "auxiliary_supply", "coolant_flow"}) {
    const auto said = tamlo({"budget", demo_board, channel}).output;
    const auto verdict = said.substr(said.find(": ") + 2, said.find('\n') - said.find(": ") - 2);
    EXPECT_EQ(count(html, verdict), 2u + count(html, channel + (": " + verdict))) << verdict;
    EXPECT_NE(html.find("<section class=\"channel\" id=\"channel-" + std::string(channel)),
              std::string::npos);
  }
  EXPECT_NE(html.find("FAIL: 6 of 10 readings outside the target"), std::string::npos);
  EXPECT_NE(html.find("tamlo page " + demo_board), std::string::npos);
  // A chart of each budget, of each comparison and its calibration, and of each filter, with words
  // for them.
  EXPECT_EQ(count(html, "<div class=\"figure\" role=\"group\" aria-label=\""), 3u + 2 * 2 + 3);
  EXPECT_NE(html.find("\"at 57.99 V: 0.761 V from the meter, E_n 5.73, fail\""), std::string::npos);
  EXPECT_EQ(count(html, "<h1>"), 1u);
}

// Each part says what its command says; what is damaged, wrong or missing has its status.
TEST(Page, HoldsWhatElseThereIs) {
  const auto steady = "steady:pack_voltage=" + demo("steady.raw");
  struct Case {
    std::vector<std::string> more;
    int status;
    std::vector<std::string> says, says_not;
  };
  const std::vector<Case> cases{
      {{demo_board, "--record", steady, "--record", "sine:auxiliary_supply=" + demo("sine.wav"),
        "--layout", "int16"},
       1,
       {"in its record", "NOISE AS PREDICTED: noise 0.671 LSB", "0.667 LSB residual after the sine",
        "Integers for the firmware"},
       {"beside the meter"}},
      {{demo_board, demo("readings_units.csv"), "--units"},
       1,
       {"All units together", "of all units 100.0 % (12 of 12) would meet the target"},
       {"Beside the meter, unit 12", "calibration would buy"}},
      {{demo_board, demo("readings_units.csv")}, 1, {"Beside the meter, unit 12"}, {}},
      {{demo_board, demo("readings_later.csv"), "--since", demo_readings, "--elapsed", "1 year"},
       1,
       {"in 1 year it CHANGED BY MORE than the ageing"},
       {}},
      {{example("eight_channels.toml"), "--map",
        std::string(TAMLO_SOURCE) + "/examples/maps/controller.toml", "--channel", "winding"},
       0,
       {"Register words"},
       {}},
      {{demo_board, "--record", "steady=-"}, 2, {}, {}},
      {{demo_board, "--record", "wobbly=" + demo("steady.raw")}, 2, {}, {}},
      {{demo_board, "--record", "steady"}, 2, {}, {}},
      {{demo_board, "--record", "steady=missing.csv"}, 2, {}, {}},
  };
  for (const auto& of : cases) {
    std::vector<std::string> call{"page"};
    call.insert(call.end(), of.more.begin(), of.more.end());
    const auto result = tamlo(call);
    EXPECT_EQ(result.status, of.status) << of.more.back() << result.errors;
    for (const auto& said : of.says) EXPECT_NE(result.output.find(said), std::string::npos) << said;
    for (const auto& said : of.says_not)
      EXPECT_EQ(result.output.find(said), std::string::npos) << said;
    EXPECT_EQ(result.errors.empty(), of.status != 2) << result.errors;
  }
  // The command that it names makes it again.
  const Folder folder;
  const auto page = folder.path("a page.html");
  tamlo({"page", demo_board, "--record", steady, "--layout", "int16", "--write", page});
  EXPECT_NE(
      read(page).find("--record " + steady + " --layout int16 --write &apos;" + page + "&apos;"),
      std::string::npos);
}

TEST(Page, AsksForNothing) {
  const auto html = tamlo({"page", demo_board, "--channel", "pack_voltage"}).output;
  // Addresses stand in the names of XML alone.
  const auto rest =
      std::regex_replace(html, std::regex("http://www.w3.org/(2000/svg|1999/xlink)"), "");
  for (const char* address : {"http:", "https:", "//www"})
    EXPECT_EQ(rest.find(address), std::string::npos) << address;
  for (const char* outside : {"<link rel=\"stylesheet", "src=", "@import", "url(http", "fetch("})
    EXPECT_EQ(html.find(outside), std::string::npos) << outside;
  EXPECT_EQ(count(html, " id=\""), 1u);
}

TEST(Page, NamesAreTexts) {
  const Folder folder;
  auto text = replaced(small_board, "[channel.v]", "[channel.\"<script>alert(1)</script>\"]");
  text = replaced(text, "span", "measures = \"a & b \\\"quoted\\\" {{title}}\"\nspan");
  const auto board = folder.write("board.toml", text);
  const auto result = tamlo({"page", board});
  ASSERT_LE(result.status, 1) << result.errors;
  EXPECT_EQ(result.output.find("<script>alert"), std::string::npos);
  EXPECT_NE(result.output.find("&lt;script&gt;alert(1)"), std::string::npos);
  EXPECT_NE(result.output.find("a &amp; b &quot;quoted&quot; {{title}}"), std::string::npos);
  EXPECT_EQ(tamlo({"page", board, "--write", board}).status, 2);
}

}  // namespace
}  // namespace tamlo::testing
