// SPDX-License-Identifier: Apache-2.0
#include "tool/process.hpp"

#include <fcntl.h>
#include <spawn.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <fstream>
#include <sstream>
#include <stdexcept>

extern char** environ;

namespace tamlo::testing {
namespace fs = std::filesystem;

Folder::Folder() {
  static std::atomic<int> count = 0;
  folder_ = fs::temp_directory_path() /
            ("tamlo-test-" + std::to_string(getpid()) + "-" + std::to_string(++count));
  fs::create_directories(folder_);
}

Folder::~Folder() {
  std::error_code ignored;
  fs::permissions(folder_, fs::perms::owner_all, ignored);
  fs::remove_all(folder_, ignored);
}

std::string Folder::write(const std::string& name, const std::string& text) const {
  std::ofstream(folder_ / name, std::ios::binary) << text;
  return path(name);
}

int status_said(const std::string& output) {
  const auto said = [&](const char* words) { return output.find(words) != std::string::npos; };
  return std::ranges::any_of(
      std::to_array({"TARGET MISSED", ": FAIL:", "UNSOUND", "DIFFERS:", "cannot be expressed",
                     "allowed: MISSED", "MORE NOISE", "WORSE THAN", "IS NOT AS THE BOARD"}),
      said);
}

std::string read(const std::string& path) {
  std::ifstream file(path, std::ios::binary);
  std::ostringstream text;
  text << file.rdbuf();
  return text.str();
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
  const auto at = text.find(from);
  if (at == std::string::npos) throw std::runtime_error("not in the text: " + from);
  return text.replace(at, from.size(), to);
}

std::string repeated(const std::string& text, int times) {
  std::string result;
  for (int i = 0; i < times; ++i) result += text;
  return result;
}

std::string demo(const std::string& name) { return std::string(TAMLO_SOURCE) + "/demo/" + name; }

std::string example(const std::string& name) {
  return std::string(TAMLO_SOURCE) + "/examples/boards/" + name;
}

std::vector<std::string> boards_of_the_tree() {
  std::vector<std::string> result{demo_board};
  for (const char* folder : {"/examples/boards", "/share/start"}) {
    for (const auto& entry : fs::directory_iterator(TAMLO_SOURCE + std::string(folder))) {
      if (entry.path().extension() == ".toml") result.push_back(entry.path().string());
    }
  }
  std::ranges::sort(result);  // not as the disk has them
  return result;
}

Result run(const std::string& program, const std::vector<std::string>& arguments,
           const std::vector<std::string>& environment) {
  const Folder folder;
  const auto out = folder.path("out"), err = folder.path("err");
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_addopen(&actions, 0, "/dev/null", O_RDONLY, 0);
  posix_spawn_file_actions_addopen(&actions, 1, out.c_str(), O_WRONLY | O_CREAT, 0600);
  posix_spawn_file_actions_addopen(&actions, 2, err.c_str(), O_WRONLY | O_CREAT, 0600);

  std::vector<char*> argv{const_cast<char*>(program.c_str())};
  for (const auto& argument : arguments) argv.push_back(const_cast<char*>(argument.c_str()));
  argv.push_back(nullptr);
  // Texts in all their letters, as wide as they are, whatever runs the tests.
  static const std::vector<std::string> ordinary{"LC_ALL=C.UTF-8", "COLUMNS="};
  std::vector<char*> env;
  const auto set = [](const std::vector<std::string>& entries, const std::string& name) {
    return std::ranges::any_of(entries, [&](const auto& own) { return own.starts_with(name); });
  };
  for (const auto& entry : ordinary) {
    if (!set(environment, entry.substr(0, entry.find('=') + 1))) {
      env.push_back(const_cast<char*>(entry.c_str()));
    }
  }
  for (const auto& entry : environment) env.push_back(const_cast<char*>(entry.c_str()));
  for (char** entry = environ; *entry != nullptr; ++entry) {
    const std::string name(*entry, std::string(*entry).find('=') + 1);
    if (!set(environment, name) && !set(ordinary, name)) env.push_back(*entry);
  }
  env.push_back(nullptr);

  pid_t child = 0;
  const int failed =
      posix_spawn(&child, program.c_str(), &actions, nullptr, argv.data(), env.data());
  posix_spawn_file_actions_destroy(&actions);
  if (failed != 0) throw std::runtime_error("cannot start " + program);
  int status = 0;
  rusage used{};
  wait4(child, &status, 0, &used);
  const auto seconds = [](const timeval& of) {
    return static_cast<double>(of.tv_sec) + 1e-6 * static_cast<double>(of.tv_usec);
  };
  auto errors = read(err);
  // "scripts/golden messages" lists all that is ever written there.
  if (const char* list = std::getenv("TAMLO_MESSAGES"); list != nullptr && !errors.empty()) {
    std::ofstream(list, std::ios::app) << errors;
  }
  return {.output = read(out),
          .errors = std::move(errors),
          .status = WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status),
          .cpu_seconds = seconds(used.ru_utime),
          .megabytes = static_cast<double>(used.ru_maxrss) / 1024.0};
}

Result tamlo(const std::vector<std::string>& arguments,
             const std::vector<std::string>& environment) {
  return run(TAMLO_TOOL, arguments, environment);
}

const char* const small_board = R"(format = 1
[conditions]
temperature = "15..45 degC"
[reference.ref]
voltage = "2.5 V ±0.1 %"
noise = "9 uV rms"
[converter.adc]
resolution = "12 bit"
reference = "ref"
offset = "±2 LSB"
input_limit = "-0.3..2.8 V"
[channel.v]
span = "0..24 V"
converter = "adc"
frontend = [ { divider = { top = "90 kohm ±0.1 %", bottom = "10 kohm ±0.1 %" } } ]
average = 16
target = { accuracy = "±0.5 % of span" }
[meter.bench]
ranges = [ { full_scale = "60 V", digits = 6000, accuracy = "±0.05 % ±2 digits" } ]
)";

const char* const small_readings = R"(# a comment
channel, meter [V], reading [V]
v, 5.00, 5.003
v, 20.00, 20.01
)";

}  // namespace tamlo::testing
