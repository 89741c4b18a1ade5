// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include "installed.hpp"
#include "job.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"

namespace tamlo::tool {
namespace {

namespace fs = std::filesystem;

struct StartArguments {
  std::string kind, write;
};

// In the order in which they are shown: what is met most often first.
constexpr std::array kinds{"battery",       "thermistor", "platinum",     "sensor",
                           "potentiometer", "light",      "bridge",       "loop",
                           "process",       "external",   "thermocouple", "cells"};

std::string text_of(std::string_view kind) {
  return io::read_file(fmt::format("{}/{}.toml", installed("start"), kind));
}

// The kinds, in the plain words that their files begin with.
int list() {
  std::string text =
      "tamlo start KIND --write board.toml writes a board with the questions to "
      "answer:\n\n";
  for (const auto* kind : kinds) {
    const auto file = text_of(kind);
    text += fmt::format("  {:<15}{}\n", kind, file.substr(2, file.find('\n') - 2));
  }
  say(text + "\nBoards with several channels are in " + installed("examples") + "\n");
  return done;
}

int run_start(const StartArguments& arguments) {
  if (arguments.kind.empty()) return list();
  if (std::ranges::find(kinds, arguments.kind) == kinds.end()) {
    const std::vector<std::string> known(kinds.begin(), kinds.end());
    refuse("KIND", "\"" + arguments.kind + "\"", io::one_of(arguments.kind, known));
  }
  const auto text = text_of(arguments.kind);
  if (arguments.write.empty()) {
    print(text);
    return done;
  }
  // What stands there may be an hour's work.
  std::error_code error;
  if (fs::is_regular_file(io::path_of(arguments.write), error))
    refuse("--write", arguments.write + ", which is there", "a new file");
  io::write_file(arguments.write, text);
  print(
      fmt::format("{0} is written. Answer the questions in it, then:\n  tamlo check {0}\n"
                  "  tamlo budget {0}\n",
                  arguments.write));
  return done;
}

void declare_start(Options& options, StartArguments& a) {
  options.word("KIND", a.kind, {"", "of system; without one they are listed"});
  options.output("--write", a.write, {"FILE", "write it to FILE instead of standard output"});
}

}  // namespace

extern const Command start_command{.name = "start",
                                   .question = "how do I begin? a board file of my kind of system",
                                   .examples = {"start", "start thermistor"},
                                   .describe = [](Options& options) {
                                     return described<StartArguments>(options, declare_start,
                                                                      run_start);
                                   }};

}  // namespace tamlo::tool
