// SPDX-License-Identifier: Apache-2.0
// What the tool reads and writes: failures on the way are told, and nothing read is written over.
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <unistd.h>

#include <filesystem>

#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

namespace fs = std::filesystem;

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
}

// What has no end, or never begins, is said and not waited for.
TEST(Files, WhatHasNoEndIsRefused) {
  const Folder folder;
  const auto pipe = folder.path("pipe");
  ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
  const std::pair<std::vector<std::string>, const char*> cases[] = {
      {{"check", "/dev/zero"}, "a device, which may have no end"},
      {{"record", demo_board, "/dev/zero", "--layout", "int16", "--channel", "pack_voltage"},
       "a device, which may have no end"},
      {{"check", pipe}, "a pipe that nobody writes to"},
      {{"compare", demo_board, folder.path("")}, "a directory"},
  };
  for (const auto& [command, says] : cases) {
    const auto result = tamlo(command);
    EXPECT_EQ(result.status, 2) << command.back();
    EXPECT_NE(result.errors.find(says), std::string::npos) << result.errors;
  }
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

std::vector<std::string> calibrate_to(const std::string& path) {
  return {"calibrate", demo_board, demo_readings, "--channel", "pack_voltage", "--write", path};
}

// A file that stood there keeps its mode; a link stays one; nothing is left beside them.
TEST(Files, WritingKeepsWhatStoodThere) {
  const Folder folder;
  const auto file = folder.write("file.toml", "old"), link = folder.path("link.toml");
  ASSERT_EQ(symlink("file.toml", link.c_str()), 0);
  ASSERT_EQ(chmod(file.c_str(), 0640), 0);
  ASSERT_EQ(tamlo(calibrate_to(link)).status, 0);
  EXPECT_TRUE(fs::is_symlink(link));
  EXPECT_NE(read(file).find("[channel.pack_voltage.correction]"), std::string::npos);
  EXPECT_EQ(static_cast<int>(fs::status(file).permissions()), 0640);
  // One that is not to be written is not replaced, and the other output is not written either.
  folder.write("file.toml", "old");
  ASSERT_EQ(chmod(file.c_str(), 0440), 0);
  auto both = calibrate_to(file);
  both.insert(both.end(), {"--plot", folder.path("p.svg")});
  const auto refused = tamlo(both);
  EXPECT_EQ(refused.status, 3);
  EXPECT_NE(refused.errors.find("file.toml: Permission denied"), std::string::npos)
      << refused.errors;
  EXPECT_EQ(read(file), "old");
  EXPECT_EQ(std::distance(fs::directory_iterator(folder.path("")), {}), 2);
}

// Devices are written to and stay what they are.
TEST(Files, DevicesAreWrittenToDirectly) {
  const auto to = [](const char* path) {
    return tamlo({"simulate", demo_board, "pack_voltage", "--at", "12 V", "--write", path});
  };
  const auto full = to("/dev/full");
  EXPECT_EQ(full.status, 3);
  EXPECT_NE(full.errors.find("/dev/full: No space left on device"), std::string::npos)
      << full.errors;
  EXPECT_EQ(to("/dev/null").status, 0);
  EXPECT_TRUE(fs::is_character_file("/dev/null"));
  const auto direct =
      run("/bin/sh", {"-c", std::string(TAMLO_TOOL) + " simulate " + demo_board +
                                " pack_voltage --at '12 V' --write /dev/stderr 2>&1 | cat"});
  EXPECT_NE(direct.output.find("pack_voltage,12,"), std::string::npos) << direct.output;
}

// The second file of an output is named, and a stranger in its place is left alone.
TEST(Files, ASecondFileIsNoSurprise) {
  const Folder folder;
  const auto ramp = folder.path("ramp.csv"), written = folder.path("m.toml"),
             table = folder.path("m_inl.csv");
  ASSERT_EQ(tamlo({"simulate", demo_board, "coolant_flow", "--input", "ramp", "--low", "-1.8 l/min",
                   "--high", "13.8 l/min", "--samples", "50000", "--write", ramp})
                .status,
            0);
  const std::vector<std::string> record{"record",     demo_board, ramp,         "--input",
                                        "ramp",       "--low",    "-1.8 l/min", "--high",
                                        "13.8 l/min", "--write",  written};
  folder.write("m_inl.csv", "mine");
  const auto refused = tamlo(record);
  EXPECT_EQ(refused.status, 2);
  EXPECT_NE(refused.errors.find("m_inl.csv: found a file that this command did not write"),
            std::string::npos)
      << refused.errors;
  EXPECT_EQ(read(table), "mine");
  EXPECT_FALSE(fs::exists(written));
  fs::remove(table);
  for (int again = 0; again < 2; ++again) {
    const auto result = tamlo(record);
    EXPECT_EQ(result.status, status_said(result.output)) << result.errors;
    EXPECT_NE(result.output.find("m.toml and " + table), std::string::npos) << result.output;
  }
}

// Quotes, commas, brackets and what a spreadsheet or a page would take for its own: a name comes
// through every file that is written and read.
TEST(Files, NamesComeThroughEveryFormat) {
  const Folder folder;
  const std::string name = "=a, \"b\" [c] |<i>#";
  const auto board = folder.write(
      "b.toml", replaced(small_board, "[channel.v]", "[channel.\"=a, \\\"b\\\" [c] |<i>#\"]"));
  const auto rows = folder.path("r.csv"), overlay = folder.path("c.toml"),
             record = folder.path("s.csv");
  const std::vector<std::vector<std::string>> commands{
      {"simulate", board, name, "--at", "2 V", "--at", "10 V", "--at", "18 V", "--write", rows},
      {"compare", board, rows, "--format", "json"},
      {"calibrate", board, rows, "--write", overlay},
      {"simulate", board, name, "--low", "10 V", "--samples", "3000", "--rate", "1 kSa/s",
       "--write", record},
      {"record", board, record},
      {"budget", board, overlay, name},
  };
  for (const auto& command : commands) {
    const auto result = tamlo(command);
    EXPECT_EQ(result.status, 0) << command.front() << result.errors << result.output;
  }
  const auto markdown = tamlo({"budget", board, name, "--format", "markdown"}).output;
  EXPECT_NE(markdown.find("=a, \"b\" [c] \\|&lt;i>#"), std::string::npos) << markdown;
  EXPECT_EQ(markdown.find("<i>"), std::string::npos);
}

// A picture is XML, code compiles without a warning, a name is no link: whatever the user calls it.
TEST(Files, HostileNamesAreTextInEveryTarget) {
  const char* const names[] = {"a]]>b",     "a&lt;b &x; <b>", "a%b %s \\\\n",
                               "a*/b /* c", "$(x) @y {z}",    "[x](javascript:alert(1))"};
  for (const std::string name : names) {
    SCOPED_TRACE(name);
    const Folder folder;
    const auto board =
        folder.write("b.toml", replaced(small_board, "[channel.v]", "[channel.\"" + name + "\"]"));
    const auto picture = folder.path("p.svg"), code = folder.path("code");
    ASSERT_EQ(tamlo({"budget", board, "--plot", picture}).status, 0);
    const auto xml = run("/usr/bin/python3",
                         {"-c", "import sys, xml.dom.minidom as m; m.parse(sys.argv[1])", picture});
    EXPECT_EQ(xml.status, 0) << xml.errors;
    ASSERT_EQ(tamlo({"firmware", board, "--write", code}).status, 0);
    const auto compiled =
        run("/bin/bash",
            {"-c", "cc -std=c99 -Wall -Wextra -Werror -fsyntax-only \"$1\"/*.c", "cc", code});
    EXPECT_EQ(compiled.status, 0) << compiled.errors;
    const auto markdown = tamlo({"budget", board, "--format", "markdown"}).output;
    EXPECT_EQ(markdown.find("]("), std::string::npos) << markdown;
  }
}

// Nothing that a file or a command line says steers the terminal.
TEST(Files, ControlCharactersAreShownAndNotSent) {
  const Folder folder;
  const auto steered = folder.write(
      "b.toml", replaced(small_board, "[channel.v]", "[channel.\"\\u001B[31mv\\u009B\"]"));
  const auto rows = folder.write("r.csv", "channel,meter [V],reading [V]\n\x1b[31mv,5,5\n");
  const std::vector<std::vector<std::string>> commands{
      {"check", steered},
      {"check", folder.write("t.toml", replaced(small_board, "[channel.v]",
                                                "[channel.\"\\u001b[31m\\u202ev\"]"))},
      {"budget", steered, "--format", "json"},
      {"compare", demo_board, rows},
      {"check", demo_board, "a\x1b[31m"},
      {"check", demo_board, "--\x1b[31m"},
      {"check", folder.path("\x1b[31m")},
  };
  for (const auto& command : commands) {
    const auto result = tamlo(command);
    EXPECT_EQ(result.status, 2) << command.front();
    for (const char* control : {"\x1b", "\xc2\x9b", "\u202e"}) {
      EXPECT_EQ((result.output + result.errors).find(control), std::string::npos) << result.errors;
    }
    EXPECT_NE(result.errors.find("\\x1b[31m"), std::string::npos) << result.errors;
  }
}

// The head of a WAV holds whole hertz.
TEST(Files, ARateThatAWavCannotHold) {
  const Folder folder;
  for (const char* rate : {"0.5 Sa/s", "12.5 Sa/s"}) {
    const auto result = tamlo({"simulate", demo_board, "coolant_flow", "--samples", "100", "--rate",
                               rate, "--write", folder.path("r.wav")});
    EXPECT_EQ(result.status, 2) << rate;
    EXPECT_NE(result.errors.find("a whole number of hertz"), std::string::npos) << result.errors;
    EXPECT_TRUE(fs::is_empty(folder.path("")));
  }
}

TEST(Files, AFullDiskIsNotSilent) {
  const std::string demo_rows = " " + demo_board + " " + demo_readings;
  const std::vector<std::string> commands{"budget " + demo_board,
                                          "check " + demo_board,
                                          "channel " + demo_board + " --format csv",
                                          "demo",
                                          "convert " + demo_board + " pack_voltage --at '1 V'",
                                          "compare" + demo_rows,
                                          "--help",
                                          "--version",
                                          "budget --help",
                                          "calibrate" + demo_rows + " --channel pack_voltage",
                                          "simulate " + demo_board + " pack_voltage --at '1 V'",
                                          "simulate " + demo_board + " pack_voltage"};
  for (const auto& command : commands) {
    const auto result =
        run("/bin/sh", {"-c", std::string(TAMLO_TOOL) + " " + command + " >/dev/full"});
    EXPECT_EQ(result.status, 3) << command;
    EXPECT_NE(result.errors.find("standard output"), std::string::npos) << command << result.errors;
  }
  // What cannot be said changes no status.
  const auto unheard = run("/bin/sh", {"-c", std::string(TAMLO_TOOL) + " check none.toml 2>&-"});
  EXPECT_EQ(unheard.status, 2);
}

// Under a limit of size a command fails as on a full disk, and what stood there stays.
TEST(Files, ALimitOfSizeIsAFullDisk) {
  const Folder folder;
  const auto kept = folder.write("page.html", "old");
  const auto result =
      run("/bin/bash", {"-c",
                        "ulimit -f 1; exec \"$1\" simulate \"$2\" pack_voltage --samples "
                        "10000 --layout csv --write \"$3\"",
                        "limit", TAMLO_TOOL, demo_board, kept});
  EXPECT_EQ(result.status, 3) << result.errors;
  EXPECT_NE(result.errors.find("File too large"), std::string::npos) << result.errors;
  EXPECT_EQ(read(kept), "old");
}

// Files of one command go together: where the second cannot take its place, the first goes back.
TEST(Files, ASetOfFilesIsPutBackWhole) {
  const Folder folder;
  const auto header = folder.write("x.h", "old header"), code = folder.write("x.c", "old code");
  io::OutputFiles files({header, code, folder.path("new.toml")});
  for (const auto& name : {header, code, folder.path("new.toml")}) files.write(name, "new");
  // A folder takes the place of the second while the work goes on.
  std::filesystem::remove(code);
  std::filesystem::create_directory(code);
  EXPECT_THROW(files.finish(), io::EnvironmentError);
  EXPECT_EQ(read(header), "old header");
  EXPECT_FALSE(std::filesystem::exists(folder.path("new.toml")));
  int there = 0;
  for ([[maybe_unused]] const auto& of : std::filesystem::directory_iterator(folder.path("")))
    ++there;
  EXPECT_EQ(there, 2);  // the header and the folder: nothing is left over
}

// What a process left that was ended is taken away; what another is writing is not.
TEST(Files, LeftOversOfADeadProcessGo) {
  const Folder folder;
  const auto target = folder.path("x.txt");
  const auto dead = folder.write("x.txt.0123456789abcdef.part", "half");
  const auto other = folder.write("y.txt.0123456789abcdef.part", "of another file");
  io::OutputFile at_work(target);
  at_work.write("one");
  at_work.prepare();
  EXPECT_FALSE(std::filesystem::exists(dead));
  io::write_file(target, "two");
  at_work.finish();
  EXPECT_EQ(read(target), "one");
  EXPECT_TRUE(std::filesystem::exists(other));
}

// A board that comes through a pipe is read once, for all that asks for it: its hash in the code,
// and the identity of progress that is kept, are those of its text.
TEST(Files, ABoardMayComeThroughAPipe) {
  const Folder folder;
  const auto board = folder.write("board.toml", read(demo_board));
  const auto other =
      folder.write("other.toml", replaced(read(demo_board), "240 kohm ±0.1 %", "240 kohm ±1 %"));
  const auto piped = [&](const std::string& from, const std::string& words) {
    return run("/bin/bash", {"-c", "cat '" + from + "' | '" + TAMLO_TOOL + "' " + words});
  };
  const auto code = tamlo({"firmware", board, "--write", folder.path("file")});
  EXPECT_EQ(piped(board, "firmware - --write '" + folder.path("pipe") + "'").output.size(),
            code.output.size());
  EXPECT_EQ(run("/bin/bash", {"-c", "'" + std::string(TAMLO_TOOL) + "' firmware <(cat '" + board +
                                        "') --write '" + folder.path("shell") + "'"})
                .status,
            code.status);
  for (const auto* way : {"pipe", "shell"}) {
    for (const auto* file : {"/pack_voltage.c", "/pack_voltage.h"}) {
      EXPECT_EQ(read(folder.path(way) + file), read(folder.path("file") + file)) << way;
    }
  }
  const auto kept =
      "prove - --channel pack_voltage --unit 1..2000 --resume '" + folder.path("kept") + "'";
  EXPECT_EQ(piped(board, kept).status, 0);
  const auto refused = piped(other, kept);
  EXPECT_EQ(refused.status, 3);
  EXPECT_NE(refused.errors.find("the progress of another run"), std::string::npos);
  EXPECT_EQ(piped(board, "check - --watch").status, 2);
}

// The hash in the code is of all that the board says, also in a curve beside it; a page lists it.
TEST(Files, WhatIsMadeNamesAllThatItIsMadeOf) {
  const Folder folder;
  const auto board = folder.write("grip.toml", read(example("grip.toml")));
  const auto curve = read(example("grip_curve.csv"));
  const auto hash = [&](const std::string& text) {
    folder.write("grip_curve.csv", text);
    EXPECT_LE(tamlo({"firmware", board, "--write", folder.path("code")}).status, 1);
    const auto code = read(folder.path("code/grip.h"));
    const std::string before = "description whose hash is ";
    return code.substr(code.find(before) + before.size(), 16);
  };
  const auto as_it_was = hash(curve);
  EXPECT_EQ(hash(curve), as_it_was);
  EXPECT_NE(hash("# measured again\n" + curve), as_it_was);
  const auto page = folder.path("page.html");
  EXPECT_LE(tamlo({"page", board, "--write", page}).status, 1);
  EXPECT_NE(read(page).find("grip_curve.csv"), std::string::npos);
}

}  // namespace
}  // namespace tamlo::testing
