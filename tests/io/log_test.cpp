// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/log.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <filesystem>
#include <string>

#include "tamlo/io/diagnostics.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

// Rows are whole whatever moment the writer dies at; a torn end is cut, and the log goes on.
TEST(Log, LosesNoRowAndCutsATornEnd) {
  const Folder folder;
  const auto path = folder.path("log.csv");
  std::uint64_t before = 0;
  for (int round = 0; round < 20; ++round) {
    int ends[2];
    ASSERT_EQ(pipe(ends), 0);
    const pid_t child = fork();
    if (child == 0) {
      io::Log log(path, "time [s],x [code]");
      for (long i = 0;; ++i) {
        log.row(fmt::format("{},{}", i, i));
        const char said = '.';
        if (write(ends[1], &said, 1) != 1) _exit(1);  // after the row is written
      }
    }
    close(ends[1]);
    std::uint64_t told = 0;
    char bytes[256];
    for (int reads = 0; reads < 3 + round; ++reads)
      told += static_cast<std::uint64_t>(::read(ends[0], bytes, sizeof bytes));
    kill(child, SIGKILL);
    waitpid(child, nullptr, 0);
    close(ends[0]);
    if (round % 3 == 0) std::filesystem::resize_file(path, std::filesystem::file_size(path) - 1);
    io::Log log(path, "time [s],x [code]");
    EXPECT_GE(log.rows() + (round % 3 == 0 ? 1 : 0), before + told) << round;
    before = log.rows();
    const auto text = read(path);
    EXPECT_TRUE(text.ends_with('\n'));
  }
  EXPECT_THROW(io::Log(path, "time [s],y [code]"), io::EnvironmentError);
  EXPECT_THROW(io::Log(folder.path("no/log.csv"), "x"), io::EnvironmentError);
}

// What is no log of this kind is refused as it is: with or without an end of its last line, and
// what is no file at all. A heading that was torn itself is written anew.
TEST(Log, ChangesNothingThatIsNotItsOwn) {
  const Folder folder;
  for (const std::string text : {"notes", "notes\nmore", "time [s]x", "time [s]\nrow\ntorn"}) {
    const auto path = folder.write("other.txt", text);
    EXPECT_THROW(io::Log(path, "time [s],x"), io::EnvironmentError) << text;
    EXPECT_EQ(read(path), text);
  }
  const auto torn = folder.write("torn.csv", "time [");
  { io::Log log(torn, "time [s],x"); }
  EXPECT_EQ(read(torn), "time [s],x\n");
  const auto pipe = folder.path("pipe");
  ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
  EXPECT_THROW(io::Log(pipe, "time [s],x"), io::EnvironmentError);
  EXPECT_THROW(io::Log("/dev/zero", "time [s],x"), io::EnvironmentError);
  EXPECT_THROW(io::Log(folder.path(""), "time [s],x"), io::EnvironmentError);
  const io::Log first(torn, "time [s],x");
  EXPECT_THROW(io::Log(torn, "time [s],x"), io::EnvironmentError);  // two writers
}

}  // namespace
}  // namespace tamlo::testing
