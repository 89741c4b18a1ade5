// SPDX-License-Identifier: Apache-2.0
// Manual pages and completion hold what --help holds, and a shell takes them.
#include <gtest/gtest.h>

#include <regex>
#include <sstream>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

std::vector<std::string> commands_of_help() {
  const auto help = tamlo({"--help"}).output;
  std::vector<std::string> result;
  const std::regex line("\n  ([a-z]+) +[a-z]");
  for (std::sregex_iterator i(help.begin(), help.end(), line), end; i != end; ++i)
    result.push_back((*i)[1]);
  return result;
}

TEST(Manual, HoldsEveryOptionOfEveryCommand) {
  const auto every = commands_of_help();
  ASSERT_GE(every.size(), 16u);
  const auto page = tamlo({"--manual"});
  ASSERT_EQ(page.status, 0) << page.errors;
  const std::regex option("\n  (--[a-z-]+)");
  const auto bash = tamlo({"--completion", "bash"}).output,
             zsh = tamlo({"--completion", "zsh"}).output;
  for (const auto& command : every) {
    EXPECT_NE(page.output.find("tamlo\\-" + command + " (1)"), std::string::npos) << command;
    const auto manual = tamlo({"--manual", command}).output;
    EXPECT_TRUE(manual.starts_with(".TH TAMLO-")) << command;
    const auto help = tamlo({command, "--help"}).output;
    for (std::sregex_iterator i(help.begin(), help.end(), option), end; i != end; ++i) {
      const auto name = std::regex_replace(std::string((*i)[1]), std::regex("-"), "\\-");
      EXPECT_NE(manual.find(".B " + name), std::string::npos) << command << (*i)[1];
      for (const auto& completion : {bash, zsh})
        EXPECT_NE(completion.find((*i)[1]), std::string::npos) << command << (*i)[1];
    }
  }
  EXPECT_EQ(tamlo({"--manual", "nonsense"}).status, 2);
  EXPECT_EQ(tamlo({"--completion", "nonsense"}).status, 2);
}

TEST(Manual, CompletesInAShell) {
  const Folder folder;
  const auto script = folder.write("tamlo.bash", tamlo({"--completion", "bash"}).output);
  struct Case {
    const char *line, *completed;
  };
  for (const auto& [line, completed] :
       {Case{"tamlo ex", "explore"}, Case{"tamlo budget 'BOARD' --channel pa", "pack_voltage"},
        Case{"tamlo budget 'BOARD' --format ''", "text json csv markdown xlsx junit"},
        Case{"tamlo explore 'BOARD' --plot-k", "--plot-kind"}, Case{"tamlo check 'BOARD'", ""}}) {
    const auto result =
        run("/bin/bash",
            {"-c", "source '" + script + "'; COMP_WORDS=(" +
                       std::regex_replace(std::string(line), std::regex("BOARD"), demo_board) +
                       "); COMP_CWORD=$((${#COMP_WORDS[@]} - 1)); _tamlo; "
                       "echo \"${COMPREPLY[*]}\""});
    EXPECT_EQ(result.output, std::string(completed) + "\n") << line;
    EXPECT_EQ(result.errors, "") << line;
  }
}

// What is listed for completion is what --set takes: a value that none can hold is refused as a
// value, and never as a key that is unknown.
TEST(Completion, ListsTheKeysThatCanBeSet) {
  const Folder folder;
  const auto board = folder.write("board.toml", small_board);
  std::istringstream keys(tamlo({"--keys", board}).output);
  int count = 0;
  for (std::string key; std::getline(keys, key); ++count) {
    const auto result = tamlo({"budget", board, "--set", key + "=[[{}]]"});
    EXPECT_EQ(result.status, 2) << key;
    // Some are keys beside another one alone, such as those of integers.
    static const std::regex beside_another("scaling\\.|report\\.word|zones\\.(from|to)");
    EXPECT_TRUE(result.errors.find("unknown key") == std::string::npos ||
                std::regex_search(key, beside_another))
        << result.errors;
    EXPECT_NE(result.errors.find(key.substr(key.rfind('.') + 1)), std::string::npos) << key;
  }
  EXPECT_GT(count, 60);
  const auto divider = tamlo({"--keys", demo_board}).output;
  EXPECT_NE(divider.find("channel.pack_voltage.frontend[0].divider.top\n"), std::string::npos);
  EXPECT_EQ(tamlo({"--keys", folder.path("none.toml")}).status, 2);
}

}  // namespace
}  // namespace tamlo::testing
