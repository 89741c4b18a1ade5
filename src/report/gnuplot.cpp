// SPDX-License-Identifier: Apache-2.0
#include "gnuplot.hpp"

#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <csignal>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <string_view>

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

// A name for the shell, whatever is in it. A relative one begins with "./", so that none looks like
// an option.
std::string shell_name(const fs::path& path) {
  std::string result = path.is_absolute() ? "'" : "'./";
  for (const char c : path.string()) result += c == '\'' ? "'\\''" : std::string(1, c);
  return result + "'";
}

// Feeds a script to gnuplot, without the user's own settings and for a minute at most. The picture
// comes from its standard output, so that no name of a file reaches it.
void run_gnuplot(const std::string& script, const fs::path& picture, const fs::path& errors) {
  const WithoutPipeSignal guard;
  FILE* pipe =
      popen(fmt::format("timeout 60 gnuplot -d >{} 2>{}", shell_name(picture), shell_name(errors))
                .c_str(),
            "w");
  if (pipe == nullptr) throw PlotError("gnuplot cannot be started");
  const bool written = std::fputs(script.c_str(), pipe) >= 0;
  const int status = pclose(pipe);
  if (written && status == 0) return;
  if (WIFEXITED(status) && WEXITSTATUS(status) == 124) {
    throw PlotError("gnuplot did not end within a minute");
  }
  if (WIFEXITED(status) && WEXITSTATUS(status) == 127) {
    throw PlotError("gnuplot is missing; install it with: apt-get install gnuplot-nox");
  }
  std::ifstream file(errors);
  const std::string said{std::istreambuf_iterator<char>(file), {}};
  throw PlotError(fmt::format("gnuplot failed: {}", said));
}

// A picture that was written to its end.
bool is_whole(const fs::path& picture, bool svg) {
  std::ifstream file(picture, std::ios::binary);
  const std::string bytes{std::istreambuf_iterator<char>(file), {}};
  const auto tail =
      std::string_view(bytes).substr(bytes.size() - std::min<std::size_t>(bytes.size(), 16));
  return tail.find(svg ? "</svg>" : "IEND") != std::string_view::npos;
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
  run_gnuplot(fmt::format("set terminal {} noenhanced\n{}\nset output\n", terminal, script),
              picture.path, errors.path);
  if (!is_whole(picture.path, svg)) {
    throw PlotError(fmt::format("the picture for {} was not written to its end", path));
  }
  std::error_code error;
  fs::rename(picture.path, target, error);
  if (error) throw PlotError(fmt::format("cannot write {}: {}", path, error.message()));
}

bool can_plot_to(std::string_view path) {
  return (path.ends_with(".svg") || path.ends_with(".png")) && path.size() > 4;
}

}  // namespace tamlo::report
