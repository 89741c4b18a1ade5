// SPDX-License-Identifier: Apache-2.0
#include "tamlo/check/check.hpp"

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <thread>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

namespace fs = std::filesystem;

struct CheckArguments : BoardArguments {
  Form format{};
  bool watch = false;
};

// What is found, each with its place in the files.
check::Examined checked(const CheckArguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  auto check = check::examine(board, requested(board, arguments).names());
  io::locate(check, arguments.boards);
  return check;
}

// A board that cannot be read is a finding too, for programs that show them where they stand.
check::Examined unreadable(const io::BadInput& error) {
  check::Examined check;
  for (const auto& diagnostic : error.problems) {
    check::LocatedFinding found{{.identifier = diagnostic.code,
                                 .severity = check::Severity::error,
                                 .key = diagnostic.path,
                                 .found = diagnostic.problem,
                                 .remedy = diagnostic.hint}};
    found.file = diagnostic.file;
    found.line = diagnostic.line;
    found.column = diagnostic.column;
    found.end_column = diagnostic.end_column;
    check.findings.push_back(std::move(found));
  }
  return check;
}

void show_check(const check::Examined& check, const std::vector<report::Report>& reports,
                const Form& format) {
  show(check, reports, format, [&] { return result::sarif(check); });
}

int check_once(const CheckArguments& arguments) {
  try {
    const auto check = checked(arguments);
    show_check(check, {report::of(check)}, arguments.format);
    return check.count(check::Severity::error) == 0 ? done : missed;
  } catch (const io::BadInput& error) {
    const auto check = unreadable(error);
    if (arguments.format != "text") {
      show_check(check, {}, arguments.format);
    } else if (arguments.watch) {
      print({report::of(check)});
    }
    if (arguments.watch) return bad_input;
    throw;
  }
}

// When the files were last written; one that is being replaced is not there for a moment.
std::vector<fs::file_time_type> written(const std::vector<std::string>& paths) {
  std::vector<fs::file_time_type> result;
  for (const auto& path : paths) {
    std::error_code missing;
    result.push_back(fs::last_write_time(io::path_of(path), missing));
  }
  return result;
}

int run_check(const CheckArguments& arguments) {
  if (!arguments.watch) return check_once(arguments);
  if (std::ranges::find(arguments.boards, "-") != arguments.boards.end())
    refuse("--watch", "a board from standard input", "files, which are saved");
  catch_interrupts();
  int status = done;
  for (auto before = written({}); !interrupted();) {
    if (const auto now = written(arguments.boards); now != before) {
      before = now;
      status = check_once(arguments);
      if (arguments.format == "text") say("\nwaiting for the next save; Ctrl-C ends\n");
    }
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
  }
  return status;
}

void declare_check(Options& options, CheckArguments& a) {
  options.board(a);
  options.flag("--watch", a.watch, {"", "check again whenever a file is saved"});
  options.group("Output");
  options.format(a.format, {"sarif"}, "; sarif: for hosts of code, beside its lines");
}

}  // namespace

extern const Command check_command{
    .name = "check",
    .question = "is this description sound, and what needs attention?",
    .examples = {R"(check demo/board.toml)",
                 R"(check demo/board.toml --channel pack_voltage --format csv)"},
    .describe = [](Options& options) {
      return described<CheckArguments>(options, declare_check, run_check);
    }};

}  // namespace tamlo::tool
