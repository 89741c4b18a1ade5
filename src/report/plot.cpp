// SPDX-License-Identifier: Apache-2.0
#include "tamlo/report/plot.hpp"

#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <csignal>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <iterator>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

namespace fs = std::filesystem;

// gnuplot's single-quoted text: everything is itself but the quote, which is doubled.
std::string literal(std::string_view text) {
  std::string result = "'";
  for (const char c : text) {
    if (c == '\'') result += '\'';
    result += c == '\n' ? ' ' : c;
  }
  return result + "'";
}

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

// Runs a script that sets up everything but the terminal and the output.
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

}  // namespace

bool can_plot_to(std::string_view path) {
  return (path.ends_with(".svg") || path.ends_with(".png")) && path.size() > 4;
}

void plot(const meter::Comparison& c, const std::string& path) {
  const auto difference = quantity::difference_unit(c.unit);
  const auto in = [](double si, const quantity::Unit& unit) {
    return (si - unit.offset) / unit.scale();
  };
  auto rows = c.rows;
  std::ranges::stable_sort(rows, {}, &meter::Row::meter);

  std::string data = "$rows << EOD\n";
  for (const auto& row : rows) {
    data += fmt::format("{:.17g} {:.17g} {:.17g} {:.17g} {:.17g} {}\n", in(row.meter, c.unit),
                        in(row.difference, difference), in(row.guard_band, difference),
                        in(row.limit, difference), in(row.expanded_channel, difference),
                        static_cast<int>(row.verdict));
  }
  data += "EOD\n";

  const double left = in(rows.front().meter, c.unit), right = in(rows.back().meter, c.unit);
  const double margin = right > left ? 0.04 * (right - left) : 1.0;
  const auto allowed = c.has_target ? "allowed by the target" : "allowed: the budget itself";
  std::string script = data;
  script += fmt::format("set title {}\n", literal(headline(c).text));
  script += fmt::format("set xlabel {}\n", literal(heading("meter " + c.meter, c.unit)));
  script += fmt::format("set ylabel {}\n", literal(heading("reading - meter", difference)));
  script += fmt::format("set xrange [{:.17g}:{:.17g}]\n", left - margin, right + margin);
  script +=
      "set key below spacing 1.3 samplen 2\nset bmargin 6\nset border linecolor '#444444'\n"
      "set grid back linetype 1 linecolor '#e4e4e4'\n"
      "set offsets 0, 0, graph 0.06, graph 0.06\n"
      "plot ";
  if (rows.size() > 1) {
    script += fmt::format(
        "$rows using 1:(-$4):4 with filledcurves fillcolor '#e3edf5' title {}, "
        "$rows using 1:4 with lines linecolor '#7d9cb8' notitle, "
        "$rows using 1:(-$4) with lines linecolor '#7d9cb8' notitle, "
        "$rows using 1:5 with lines dashtype 2 linecolor '#7a7a7a' title {}, "
        "$rows using 1:(-$5) with lines dashtype 2 linecolor '#7a7a7a' notitle, ",
        literal(allowed), literal("budget of the channel"));
  } else {
    script += fmt::format(
        "$rows using 1:(0):4 with yerrorbars linewidth 8 pointtype 0 linecolor '#b9cfe2' title "
        "{}, ",
        literal(allowed));
  }
  // A thin line at zero, then one mark for each verdict, so that none depends on colour alone.
  script += "0 with lines linewidth 1.5 linecolor '#000000' notitle";
  struct Mark {
    meter::Verdict verdict;
    int shape;
    const char* colour;
  };
  for (const auto& [verdict, shape, colour] :
       {Mark{meter::Verdict::pass, 7, "#1b7a3d"}, Mark{meter::Verdict::undecided, 5, "#b07a00"},
        Mark{meter::Verdict::fail, 13, "#b3261e"}}) {
    if (std::ranges::find(rows, verdict, &meter::Row::verdict) == rows.end()) continue;
    script += fmt::format(
        ", $rows using 1:($6=={} ? $2 : 1/0):3 with yerrorbars linewidth 2 pointtype {} "
        "pointsize 1.4 linecolor '{}' title {}",
        static_cast<int>(verdict), shape, colour,
        literal(fmt::format("{}, with guard band", name(verdict))));
  }
  draw(path, script + "\n");
}

}  // namespace tamlo::report
