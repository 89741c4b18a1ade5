// SPDX-License-Identifier: Apache-2.0
// What the tool reads and writes: failures on the way are told, and nothing read is written over.
#include <gtest/gtest.h>
#include <unistd.h>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

// A file that cannot be read to its end is not taken for a short one.
TEST(Files, AFailedReadIsNoEnd) {
  const std::string unreadable = "/proc/self/mem";
  const std::vector<std::vector<std::string>> commands{
      {"check", unreadable},
      {"compare", demo_board, unreadable},
      {"record", demo_board, unreadable, "--layout", "int16", "--channel", "pack_voltage"},
      {"record", demo_board, unreadable, "--layout", "csv"},
  };
  for (const auto& command : commands) {
    const auto result = tamlo(command);
    EXPECT_EQ(result.status, 3) << command.front() << result.errors;
    EXPECT_NE(result.errors.find("Input/output error"), std::string::npos) << result.errors;
  }
  const auto endless = tamlo({"check", "/dev/zero"});
  EXPECT_EQ(endless.status, 2);
  EXPECT_NE(endless.errors.find("more than 64 MB"), std::string::npos) << endless.errors;
}

// What is read is not written over, under no name of it.
TEST(Files, AnOutputIsNoInput) {
  const Folder folder;
  const auto whole = read(demo_board), board = folder.write("board.toml", whole);
  const auto rows = folder.write("rows.csv", read(demo("readings.csv")));
  const auto link = folder.path("link.toml");
  ASSERT_EQ(symlink(board.c_str(), link.c_str()), 0);
  const std::vector<std::vector<std::string>> commands{
      {"calibrate", board, rows, "--channel", "pack_voltage", "--write", board},
      {"calibrate", board, rows, "--channel", "pack_voltage", "--write", link},
      {"calibrate", board, rows, "--channel", "pack_voltage", "--write", rows},
      {"calibrate", board, rows, "--channel", "pack_voltage", "--write", folder.path("a.svg"),
       "--plot", folder.path("a.svg")},
  };
  for (const auto& command : commands) {
    const auto result = tamlo(command);
    EXPECT_EQ(result.status, 2);
    EXPECT_NE(result.errors.find("--write: found "), std::string::npos) << result.errors;
    EXPECT_EQ(read(board), whole);
  }
}

TEST(Files, AFullDiskIsNotSilent) {
  const auto result =
      run("/bin/sh", {"-c", std::string(TAMLO_TOOL) + " budget " + demo_board + " >/dev/full"});
  EXPECT_EQ(result.status, 3);
  EXPECT_NE(result.errors.find("standard output cannot be written"), std::string::npos);
}

}  // namespace
}  // namespace tamlo::testing
