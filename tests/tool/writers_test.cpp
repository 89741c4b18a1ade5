// SPDX-License-Identifier: Apache-2.0
// Every option that writes a file, against all that may stand in its place: afterwards there is the
// old file or the new one, whole; nothing else is changed or left over, and the command has ended.
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <functional>
#include <set>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

namespace fs = std::filesystem;

// OUT stands for the file. One that adds to a file changes none that is not its own.
struct Writer {
  std::vector<std::string> command;
  bool adds = false, makes_link = false;
};

std::vector<Writer> writers(const Folder& inputs) {
  const auto lines = inputs.write("lines.txt", "pack_voltage.code=2048\n");
  const auto live =
      inputs.write("live.toml", "[link.l]\nfile = \"" + lines + "\"\nform = \"pairs\"\n");
  const auto maps = std::string(TAMLO_SOURCE) + "/examples/maps/";
  const std::string pack = "pack_voltage", eight = example("eight_channels.toml");
  return {
      {{"calibrate", demo_board, demo_readings, "--channel", pack, "--write", "OUT.toml"}},
      {{"channel", demo_board, pack, "--staircase", "OUT.csv"}},
      {{"simulate", demo_board, pack, "--at", "12 V", "--write", "OUT.csv"}},
      {{"simulate", demo_board, pack, "--samples", "3000", "--write", "OUT.csv"}},
      {{"record", demo_board, demo("steady.raw"), "--layout", "int16", "--channel", pack, "--write",
        "OUT.toml"}},
      {{"registers", eight, maps + "controller.toml", "--found", maps + "controller_dump.csv",
        "--write-board", "OUT.toml"}},
      {{"registers", eight, maps + "controller.toml", "--channel", "winding", "--write", "OUT.h"}},
      {{"budget", demo_board, pack, "--plot", "OUT.svg"}},
      {{"page", demo_board, "--write", "OUT.html"}},
      {{"serve", demo_board, pack, "--lines", "0", "--for", "20 ms", "--links", "OUT.toml"}},
      {{"watch", demo_board, live, "--channel", pack, "--log", "OUT.csv"}, true},
      {{"explore", demo_board, demo("choices.toml"), "--resume", "OUT.rows"}, true},
  };
}

struct Case {
  const char* name;
  std::function<void(const std::string& out)> put{};  ///< what stands there
  const char* before = "";                            ///< of the shell, before the command
  std::string instead{};                              ///< of the file
};

const std::string mine = "mine\nwithout an end";

const std::vector<Case> targets{
    {"nothing"},
    {"a file of mine", [](const std::string& out) { std::ofstream(out) << mine; }},
    {"a file that may not be written",
     [](const std::string& out) {
       std::ofstream(out) << mine;
       ASSERT_EQ(chmod(out.c_str(), 0440), 0);
     }},
    {"a pipe", [](const std::string& out) { ASSERT_EQ(mkfifo(out.c_str(), 0600), 0); }},
    {"a folder", [](const std::string& out) { fs::create_directory(out); }},
    {"a file under a limit of size", [](const std::string& out) { std::ofstream(out) << mine; },
     "ulimit -f 0; "},
    {"a full disk", {}, "", "/dev/full"},
    {"a folder that is not there", {}, "", "none/there"},
};

std::set<std::string> names_in(const Folder& folder) {
  std::set<std::string> names;
  for (const auto& of : fs::directory_iterator(folder.path(""))) {
    names.insert(of.path().filename().string());
  }
  return names;
}

void try_writer(const Writer& writer, const Case& of) {
  const Folder folder;
  std::string out, words = "(" + std::string(of.before) + "exec timeout 20 \"$0\" \"$@\")";
  std::vector<std::string> arguments{"-c", "", TAMLO_TOOL};
  for (auto word : writer.command) {
    if (word.starts_with("OUT")) {
      if (of.instead == "/dev/full" && !word.ends_with(".csv") && !word.ends_with(".toml")) return;
      out = of.instead == "/dev/full" ? of.instead
                                      : folder.path(of.instead.empty() ? word : of.instead + word);
      word = out;
    }
    arguments.push_back(word);
  }
  arguments[1] = words + " 2>&1 | cat; exit ${PIPESTATUS[0]}";
  if (of.put) of.put(out);
  const auto before = names_in(folder);
  struct stat kind_before {
  }, kind_after{};
  const bool stood = ::lstat(out.c_str(), &kind_before) == 0;
  const auto result = run("/bin/bash", arguments);
  SCOPED_TRACE(std::string(of.name) + ": " + result.output);
  ASSERT_TRUE(result.status >= 0 && result.status <= 3) << result.status;
  const bool done = result.status <= 1;
  auto expected = before;
  if (done && of.instead.empty()) expected.insert(fs::path(out).filename().string());
  auto after = names_in(folder);
  EXPECT_TRUE(after == expected || (!done && after == before));
  if (!stood) return;
  // What it was, it is.
  ASSERT_EQ(::lstat(out.c_str(), &kind_after), 0);
  EXPECT_EQ(kind_before.st_mode, kind_after.st_mode);
  if (!S_ISREG(kind_before.st_mode)) {
    EXPECT_TRUE(!S_ISDIR(kind_before.st_mode) || fs::is_empty(out));
    return;
  }
  const auto holds = read(out);
  EXPECT_EQ(holds == mine, !done);
  EXPECT_FALSE(writer.adds && done);
  EXPECT_TRUE(holds == mine || holds.find("without an end") == holds.npos);
}

TEST(Writers, LeaveTheOldFileOrTheNewOne) {
  const Folder inputs;
  for (const auto& writer : writers(inputs)) {
    SCOPED_TRACE(writer.command.front());
    for (const auto& of : targets) try_writer(writer, of);
  }
}

}  // namespace
}  // namespace tamlo::testing
