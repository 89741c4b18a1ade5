// SPDX-License-Identifier: Apache-2.0
#include "gnuplot.hpp"

#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <iterator>

#include "tamlo/report/plot.hpp"

namespace tamlo::report {
namespace {

namespace fs = std::filesystem;

// A file that goes away unless it was renamed.
struct Temporary {
  fs::path path;
  ~Temporary() {
    std::error_code ignored;
    fs::remove(path, ignored);
  }
};

// Writing to a program that has ended must come back as an error, not end this one.
class WithoutPipeSignal {
 public:
  WithoutPipeSignal() : before_(std::signal(SIGPIPE, SIG_IGN)) {}
  ~WithoutPipeSignal() { std::signal(SIGPIPE, before_); }
  WithoutPipeSignal(const WithoutPipeSignal&) = delete;
  WithoutPipeSignal& operator=(const WithoutPipeSignal&) = delete;

 private:
  void (*before_)(int);
};

// Feeds a script to gnuplot; what it prints to standard error goes to a file of that name.
void run_gnuplot(const std::string& script, const fs::path& errors) {
  const WithoutPipeSignal guard;
  std::string shell_name;
  for (const char c : errors.string()) shell_name += c == '\'' ? "'\\''" : std::string(1, c);
  FILE* pipe = popen(fmt::format("gnuplot >/dev/null 2>'{}'", shell_name).c_str(), "w");
  if (pipe == nullptr) throw PlotError("gnuplot cannot be started");
  const bool written = std::fputs(script.c_str(), pipe) >= 0;
  const int status = pclose(pipe);
  if (written && status == 0) return;
  if (WIFEXITED(status) && WEXITSTATUS(status) == 127) {
    throw PlotError("gnuplot is missing; install it with: apt-get install gnuplot-nox");
  }
  std::ifstream file(errors);
  const std::string said{std::istreambuf_iterator<char>(file), {}};
  throw PlotError(fmt::format("gnuplot failed: {}", said));
}

}  // namespace

const char* const common_look =
    "set key below spacing 1.3 samplen 2\nset bmargin 6\nset border linecolor '#444444'\n"
    "set grid back linetype 1 linecolor '#e4e4e4'\n";

std::string literal(std::string_view text) {
  std::string result = "'";
  for (const char c : text) {
    if (c == '\'') result += '\'';
    result += c == '\n' ? ' ' : c;
  }
  return result + "'";
}

void draw(const std::string& path, const std::string& script) {
  const fs::path target(path);
  const auto number = getpid();
  const Temporary picture{fs::path(target).concat(fmt::format(".{}.part", number))};
  const Temporary errors{fs::path(target).concat(fmt::format(".{}.log", number))};
  if (!std::ofstream(picture.path)) {
    throw PlotError(fmt::format("cannot write to {}", target.parent_path().empty()
                                                          ? "this directory"
                                                          : target.parent_path().string()));
  }
  const bool svg = target.extension() == ".svg";
  const auto terminal = svg ? "svg size 1280,800 dynamic background 'white' font 'DejaVu Sans,16'"
                            : "pngcairo size 1280,800 background 'white' font 'DejaVu Sans,13'";
  run_gnuplot(fmt::format("set terminal {} noenhanced\nset output {}\n{}", terminal,
                          literal(picture.path.string()), script),
              errors.path);
  std::error_code error;
  fs::rename(picture.path, target, error);
  if (error) throw PlotError(fmt::format("cannot write {}: {}", path, error.message()));
}

bool can_plot_to(std::string_view path) {
  return (path.ends_with(".svg") || path.ends_with(".png")) && path.size() > 4;
}

}  // namespace tamlo::report
