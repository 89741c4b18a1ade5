// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <fcntl.h>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <spawn.h>
#include <sys/wait.h>

#include <csignal>
#include <string>
#include <vector>

#include "tamlo/link/stream.hpp"
#include "tool/process.hpp"

extern char** environ;

namespace tamlo::testing {

/// The tool while it serves a page, and a plain client of it.
class PageOfTool {
 public:
  std::string host{}, path{};

  explicit PageOfTool(std::vector<std::string> arguments) {
    arguments.insert(arguments.begin(), TAMLO_TOOL);
    std::vector<char*> words;
    for (auto& word : arguments) words.push_back(word.data());
    words.push_back(nullptr);
    const auto output = folder_.path("said.txt");
    posix_spawn_file_actions_t files;
    posix_spawn_file_actions_init(&files);
    posix_spawn_file_actions_addopen(&files, 1, output.c_str(), O_WRONLY | O_CREAT | O_APPEND,
                                     0600);
    posix_spawn_file_actions_adddup2(&files, 1, 2);
    EXPECT_EQ(::posix_spawn(&process_, TAMLO_TOOL, &files, nullptr, words.data(), environ), 0);
    posix_spawn_file_actions_destroy(&files);
    const auto end = link::Clock::now() + std::chrono::seconds(20);
    while (link::Clock::now() < end && read(output).find(" in a browser") == std::string::npos)
      std::this_thread::sleep_for(std::chrono::milliseconds(10));
    const auto text = read(output);
    const auto begin = text.find("http://") + 7;
    const auto address = text.substr(begin, text.find(' ', begin) - begin);
    host = address.substr(0, address.find('/'));
    path = address.substr(address.find('/'));
  }
  ~PageOfTool() {
    if (process_ > 0) stop();
  }
  PageOfTool(const PageOfTool&) = delete;
  PageOfTool& operator=(const PageOfTool&) = delete;

  /// Waits for its end, and gives its exit status; `interrupted`: it is told to end.
  int stop(bool interrupted = true) {
    if (interrupted) ::kill(process_, SIGINT);
    int status = -1;
    ::waitpid(process_, &status, 0);
    process_ = 0;
    return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
  }

  /// Status line and the rest of what comes until the tool closes, or for so long.
  std::string asked(const std::string& what, const std::string& headers,
                    const std::string& body = {},
                    std::chrono::milliseconds most = std::chrono::seconds(20)) const {
    const auto stream =
        link::open({.name = "page",
                    .at = model::TcpPort{.host = "127.0.0.1",
                                         .port = std::stoi(host.substr(host.find(':') + 1))}});
    const auto length = body.empty() ? "" : fmt::format("Content-Length: {}\r\n", body.size());
    std::string text;
    const auto end = link::Clock::now() + most;
    try {
      stream->write(fmt::format("{} {} HTTP/1.1\r\nConnection: close\r\n{}{}\r\n{}",
                                body.empty() ? "GET" : "POST", what, headers, length, body));
      while (link::Clock::now() < end && !stream->ended()) stream->read_bytes(text, end);
    } catch (const link::LinkError&) {  // it was closed
    }
    return text;
  }
  /// The answer to a request of the page itself, without its head.
  std::string answer(const std::string& what, const std::string& body) const {
    const auto text = asked(path + what, "Host: " + host + "\r\n", body);
    const auto end = text.find("\r\n\r\n");
    return end == std::string::npos ? text : text.substr(end + 4);
  }

 private:
  Folder folder_{};
  pid_t process_ = 0;
};

}  // namespace tamlo::testing
