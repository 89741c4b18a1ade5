// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <spawn.h>

#include <chrono>
#include <filesystem>
#include <thread>

#include "desk.hpp"
#include "served_page.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/page_texts.hpp"

// NOLINTNEXTLINE: of POSIX
extern char** environ;

namespace tamlo::tool {
namespace {

using Clock = std::chrono::steady_clock;

struct TuneArguments : DeskArguments {
  std::string port = "0", duration;
  bool open = false;
};

// By the program that the desktop has for addresses; it need not end before this one.
void open_browser(const std::string& address) {
  std::string program = "xdg-open", target = address;
  char* const words[] = {program.data(), target.data(), nullptr};
  pid_t child = 0;
  if (::posix_spawnp(&child, program.c_str(), nullptr, nullptr, words, environ) != 0)
    fmt::print(stderr, "no program opens addresses here: open it yourself\n");
}

int run_tune(const TuneArguments& arguments) {
  check_ending("--write", arguments.write, ".toml");
  for (const auto& board : arguments.boards) {
    std::error_code none;
    if (!arguments.write.empty() &&
        std::filesystem::equivalent(io::path_of(arguments.write), io::path_of(board), none))
      refuse("--write", fmt::format("\"{}\", which is read", arguments.write), "another file");
  }
  const auto end = arguments.duration.empty() ? Clock::time_point::max()
                                              : Clock::now() + time_of("--for", arguments.duration);
  const auto port = static_cast<int>(whole_of("--port", arguments.port, 0, 65535));
  Desk desk(arguments);
  catch_interrupts();
  ServedPage page(port, tune_page_text, [&desk](std::string_view name, std::string_view body) {
    return desk.answer(name, body);
  });
  say(fmt::format("open {} in a browser on this machine; Ctrl-C ends\n", page.address()));
  if (arguments.open) open_browser(page.address());
  while (!interrupted() && Clock::now() < end)
    std::this_thread::sleep_for(std::chrono::milliseconds(50));
  desk.stop();
  return done;
}

void declare_tune(Options& options, TuneArguments& a) {
  options.board(a);
  options.group("Beside it");
  options.inputs("--readings", a.readings,
                 {"FILE", "readings beside a meter, held against each change; may be repeated"});
  options.coverage(a.coverage);
  options.group("The page");
  options.option("--port", a.port, {"PORT", "to serve it at; 0: any port that is free", "0"});
  options.flag("--open", a.open, {"", "open it in the browser of the desktop"});
  options.output("--write", a.write, {"FILE.toml", "where its button \"write\" puts the changes"});
  options.option("--for", a.duration, {"TIME", "such as \"30 s\"", "until Ctrl-C"});
}

}  // namespace

extern const Command tune_command{
    .name = "tune",
    .question = "what if? the board as a form in a browser, with its figures as it changes",
    .examples = {R"(tune demo/board.toml --for "1 s")",
                 R"(tune demo/board.toml --readings demo/readings.csv --for "1 s")"},
    .describe = [](Options& options) {
      return described<TuneArguments>(options, declare_tune, run_tune);
    }};

}  // namespace tamlo::tool
