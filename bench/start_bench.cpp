// SPDX-License-Identifier: Apache-2.0
// Start-up of the tool beside that of an empty process.
#include <benchmark/benchmark.h>
#include <fcntl.h>
#include <spawn.h>
#include <sys/wait.h>

extern char** environ;

namespace {

void start(benchmark::State& state, const char* program, const char* argument) {
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_addopen(&actions, 1, "/dev/null", O_WRONLY, 0);
  char* argv[] = {const_cast<char*>(program), const_cast<char*>(argument), nullptr};
  for (auto _ : state) {
    pid_t child = 0;
    if (posix_spawn(&child, program, &actions, nullptr, argv, environ) != 0) {
      state.SkipWithError("cannot start");
      break;
    }
    waitpid(child, nullptr, 0);
  }
  posix_spawn_file_actions_destroy(&actions);
}

void start_of_the_tool(benchmark::State& state) { start(state, TAMLO_TOOL, "--version"); }
BENCHMARK(start_of_the_tool)->Unit(benchmark::kMicrosecond)->UseRealTime();

void start_of_an_empty_process(benchmark::State& state) { start(state, "/bin/true", nullptr); }
BENCHMARK(start_of_an_empty_process)->Unit(benchmark::kMicrosecond)->UseRealTime();

}  // namespace
