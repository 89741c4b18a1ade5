// SPDX-License-Identifier: Apache-2.0
// Each call to the system that reads, writes, opens, closes or names a file fails in turn, once.
// What comes of it: exit status 3 and the old files, or the same result as without the failure. And
// the tool is killed at each of them: each file is the old one or the new one. And the disk is full
// from a write on, of which half was still taken.
#include <gtest/gtest.h>
#include <sys/ptrace.h>
#include <sys/syscall.h>
#include <sys/user.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cerrno>
#include <csignal>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <set>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

namespace fs = std::filesystem;

bool fails(std::uint64_t call) {
  static const std::set<std::uint64_t> calls{
      SYS_read,   SYS_write,  SYS_open,  SYS_openat, SYS_readv, SYS_writev, SYS_close,
      SYS_rename, SYS_linkat, SYS_fstat, SYS_fsync,  SYS_link,  SYS_pread64};
  return calls.contains(call);
}

// A text of the traced program.
std::string text_of(pid_t child, std::uint64_t at) {
  std::string text;
  for (;; at += sizeof(long)) {
    const long word = ptrace(PTRACE_PEEKDATA, child, at, nullptr);
    char bytes[sizeof word];
    std::memcpy(bytes, &word, sizeof word);
    for (const char c : bytes) {
      if (c == '\0' || text.size() > 4096) return text;
      text += c;
    }
  }
}

struct Traced {
  int status = -1;
  int calls = 0;  // that could have failed, from the first time on that the board is opened
};

enum class Fault : std::uint8_t { fails, killed, full_disk };

// Runs the tool, its output into a file; the call of that number fails with EIO, or is its last, or
// it is a write that takes half, and all behind it none.
Traced run_with_fault(const std::vector<std::string>& arguments, const std::string& output,
                      int number, Fault fault = Fault::fails) {
  std::vector<const char*> argv{TAMLO_TOOL};
  for (const auto& argument : arguments) argv.push_back(argument.c_str());
  argv.push_back(nullptr);
  const pid_t child = fork();
  if (child == 0) {
    if (std::freopen(output.c_str(), "w", stdout) == nullptr ||
        std::freopen("/dev/null", "w", stderr) == nullptr) {
      _exit(125);
    }
    ptrace(PTRACE_TRACEME, 0, nullptr, nullptr);
    execv(TAMLO_TOOL, const_cast<char* const*>(argv.data()));
    _exit(126);
  }
  Traced result;
  int status = 0;
  bool begun = false, entering = true, failing = false;
  waitpid(child, &status, 0);
  ptrace(PTRACE_SETOPTIONS, child, nullptr, PTRACE_O_TRACESYSGOOD | PTRACE_O_EXITKILL);
  int signal = 0;
  for (;;) {
    ptrace(PTRACE_SYSCALL, child, nullptr, signal);
    signal = 0;
    if (waitpid(child, &status, 0) < 0 || WIFEXITED(status) || WIFSIGNALED(status)) break;
    if (WSTOPSIG(status) != (SIGTRAP | 0x80)) {
      signal = WSTOPSIG(status) == SIGTRAP ? 0 : WSTOPSIG(status);
      continue;
    }
    user_regs_struct registers{};
    ptrace(PTRACE_GETREGS, child, nullptr, &registers);
    if (entering) {
      begun = begun || (registers.orig_rax == SYS_openat &&
                        text_of(child, registers.rsi) == arguments.at(1));
      const bool counts = fault == Fault::full_disk
                              ? registers.orig_rax == SYS_write || registers.orig_rax == SYS_writev
                              : fails(registers.orig_rax);
      if (begun && counts) ++result.calls;
      failing = begun && counts && number > 0 && result.calls == number;
      if (fault == Fault::full_disk && failing && registers.orig_rax == SYS_write) {
        registers.rdx /= 2;
        failing = registers.rdx == 0;
      } else if (fault == Fault::full_disk) {
        failing = begun && counts && number > 0 && result.calls >= number;
      }
      if (failing && fault == Fault::killed) ::kill(child, SIGKILL);
      if (failing) registers.orig_rax = ~std::uint64_t{0};  // no call
    } else if (failing) {
      registers.rax = static_cast<std::uint64_t>(fault == Fault::full_disk ? -ENOSPC : -EIO);
      failing = false;
    }
    ptrace(PTRACE_SETREGS, child, nullptr, &registers);
    entering = !entering;
  }
  result.status = WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
  return result;
}

// Nothing where a test may trace the tool.
const char* why_not_traced() {
#ifdef __SANITIZE_ADDRESS__
  return "a sanitizer traces the tool itself";
#endif
  const pid_t child = fork();
  if (child == 0) _exit(ptrace(PTRACE_TRACEME, 0, nullptr, nullptr) == 0 ? 0 : 1);
  int status = 0;
  waitpid(child, &status, 0);
  return status == 0 ? nullptr : "this system does not let a test trace a program";
}

TEST(Faults, EachCallThatFailsIsToldAndLosesNothing) {
  if (const auto why = why_not_traced()) GTEST_SKIP() << why;
  const Folder folder;
  const auto out = folder.path("out"), written = folder.path("w.toml"),
             samples = folder.path("s.csv");
  const auto maps = std::string(TAMLO_SOURCE) + "/examples/maps/";
  const std::vector<std::vector<std::string>> commands{
      {"check", demo_board},
      {"convert", demo_board, "pack_voltage", "--at", "48 V"},
      {"compare", demo_board, demo_readings, "--format", "json"},
      {"calibrate", demo_board, demo_readings, "--channel", "pack_voltage", "--write", written},
      {"record", demo_board, demo("steady.raw"), "--layout", "int16", "--channel", "pack_voltage",
       "--write", written},
      {"registers", example("eight_channels.toml"), maps + "controller.toml", "--found",
       maps + "controller_dump.csv", "--write-board", written},
      {"simulate", demo_board, "pack_voltage", "--samples", "3000", "--write", samples},
      {"record", demo_board, demo("sine.wav"), "--channel", "auxiliary_supply", "--input", "sine"},
  };
  const auto clean = [&] {
    fs::remove(out);
    folder.write("w.toml", "old\n");
    folder.write("s.csv", "old\n");
  };
  for (const auto& command : commands) {
    clean();
    const auto whole = run_with_fault(command, out, 0);
    ASSERT_LE(whole.status, 1) << command.front();
    ASSERT_GT(whole.calls, 3) << command.front();
    const auto said = read(out), file = read(written), record = read(samples);
    for (int number = 1; number <= std::min(200, whole.calls); ++number) {
      clean();
      const auto result = run_with_fault(command, out, number);
      SCOPED_TRACE(command.front() + ", call " + std::to_string(number));
      if (result.status == 3) {
        // Both files are the old ones; or all was done, and only the report could not be shown.
        EXPECT_TRUE(read(written) == "old\n" || read(written) == file);
        EXPECT_TRUE(read(samples) == "old\n" || read(samples) == record);
      } else {
        EXPECT_EQ(result.status, whole.status);
        EXPECT_EQ(read(out), said);
        EXPECT_EQ(read(written), file);
        EXPECT_EQ(read(samples), record);
      }
      EXPECT_EQ(std::distance(fs::directory_iterator(folder.path("")), {}), 3);
    }
  }
}

TEST(Faults, ADiskThatFillsLeavesTheOldFile) {
  if (const auto why = why_not_traced()) GTEST_SKIP() << why;
  const Folder folder;
  const auto out = folder.path("out"), samples = folder.path("s.csv"),
             overlay = folder.path("w.toml");
  const struct {
    std::vector<std::string> command;
    std::string writes;
  } rows[] = {
      {{"simulate", demo_board, "pack_voltage", "--samples", "30000", "--write", samples}, samples},
      {{"calibrate", demo_board, demo_readings, "--channel", "pack_voltage", "--write", overlay},
       overlay},
      {{"budget", demo_board, "--format", "json"}, out},
  };
  for (const auto& [command, writes] : rows) {
    const auto whole = run_with_fault(command, out, 0, Fault::full_disk);
    ASSERT_LE(whole.status, 1) << command.front();
    ASSERT_GE(whole.calls, 1);
    const auto file = read(writes);
    for (int number = 1; number <= std::min(40, whole.calls); ++number) {
      SCOPED_TRACE(command.front() + ", write " + std::to_string(number));
      std::ofstream(writes) << "old\n";
      EXPECT_EQ(run_with_fault(command, out, number, Fault::full_disk).status, 3);
      EXPECT_TRUE(writes == out || read(writes) == "old\n" || read(writes) == file);
      EXPECT_LE(std::distance(fs::directory_iterator(folder.path("")), {}),
                3);  // no part of a file
    }
  }
}

// A kill leaves whole files, old or new, and at most what the next run takes away.
TEST(Faults, AKillLeavesWholeFiles) {
  if (const auto why = why_not_traced()) GTEST_SKIP() << why;
  const Folder folder;
  const auto out = folder.path("out"), code = folder.path("code");
  const std::vector<std::string> names{"pack_voltage.c", "pack_voltage.h", "pack_voltage.toml"};
  const std::vector<std::string> command{"firmware",     demo_board, "--channel",
                                         "pack_voltage", "--write",  code};
  const auto texts = [&] {
    std::vector<std::string> all;
    for (const auto& name : names) all.push_back(read(code + "/" + name));
    return all;
  };
  fs::create_directory(code);
  auto other = command;
  other.insert(other.end(), {"--count", "20 mV"});
  ASSERT_EQ(tamlo(other).status, 0);
  const auto old = texts();
  const auto put_old = [&] {
    fs::remove_all(code);
    fs::create_directory(code);
    for (std::size_t i = 0; i < names.size(); ++i) std::ofstream(code + "/" + names[i]) << old[i];
  };
  const auto whole = run_with_fault(command, out, 0);
  ASSERT_EQ(whole.status, 0);
  const auto expected = texts();
  ASSERT_NE(expected, old);
  for (int number = 1; number <= std::min(200, whole.calls); ++number) {
    SCOPED_TRACE("call " + std::to_string(number));
    put_old();
    EXPECT_EQ(run_with_fault(command, out, number, Fault::killed).status, 128 + SIGKILL);
    for (std::size_t i = 0; i < names.size(); ++i) {
      const auto left = read(code + "/" + names[i]);
      EXPECT_TRUE(left == old[i] || left == expected[i]) << names[i] << "\n" << left;
    }
    if (number % 8 != 0) continue;
    EXPECT_EQ(tamlo(command).status, 0);
    EXPECT_EQ(std::distance(fs::directory_iterator(code), {}), 3);
  }
}

}  // namespace
}  // namespace tamlo::testing
