// SPDX-License-Identifier: Apache-2.0
// Whatever the other side of a link does, a command ends when its time is over, or soon after it is
// told to.
#include <arpa/inet.h>
#include <fcntl.h>
#include <gtest/gtest.h>
#include <spawn.h>
#include <sys/socket.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <future>
#include <thread>

#include "tool/process.hpp"

extern char** environ;

namespace tamlo::testing {
namespace {

using Clock = std::chrono::steady_clock;
using std::chrono::milliseconds;

// A port whose clients hear nothing, a byte now and then, a line without an end, or that they are
// not wanted.
class SlowServer {
 public:
  enum class Conduct : std::uint8_t { silent, a_byte_now_and_then, endless_line, closes };

  explicit SlowServer(Conduct conduct) : conduct_(conduct) {
    sockaddr_in at{};
    at.sin_family = AF_INET;
    at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    EXPECT_EQ(::bind(listener_, reinterpret_cast<sockaddr*>(&at), sizeof at), 0);
    EXPECT_EQ(::listen(listener_, 64), 0);
    socklen_t size = sizeof at;
    ::getsockname(listener_, reinterpret_cast<sockaddr*>(&at), &size);
    port_ = ntohs(at.sin_port);
    thread_ = std::jthread([this](const std::stop_token& stop) { serve(stop); });
  }
  ~SlowServer() {
    thread_ = {};
    for (const int client : clients_) ::close(client);
    ::close(listener_);
  }
  SlowServer(const SlowServer&) = delete;
  SlowServer& operator=(const SlowServer&) = delete;
  int port() const { return port_; }

 private:
  Conduct conduct_;
  int listener_ = ::socket(AF_INET, SOCK_STREAM | SOCK_NONBLOCK | SOCK_CLOEXEC, 0), port_ = 0;
  std::vector<int> clients_{};
  std::jthread thread_{};

  void serve(const std::stop_token& stop) {
    const std::string much(65536, '7');
    const auto send = [&](std::size_t bytes) {
      for (const int client : clients_) {
        (void)::send(client, much.data(), bytes, MSG_DONTWAIT | MSG_NOSIGNAL);
      }
    };
    for (int turn = 0; !stop.stop_requested(); ++turn) {
      for (int client = 0; (client = ::accept4(listener_, nullptr, nullptr, SOCK_CLOEXEC)) >= 0;) {
        if (conduct_ == Conduct::closes) {
          ::close(client);
        } else {
          clients_.push_back(client);
        }
      }
      if (conduct_ == Conduct::endless_line) send(much.size());
      if (conduct_ == Conduct::a_byte_now_and_then && turn % 40 == 0) send(1);
      std::this_thread::sleep_for(milliseconds(5));
    }
  }
};

// What the command is told, half a second after its start: nothing where its own time ends it.
struct Ending {
  const char* name;
  int signal;
};

struct Ended {
  int status = -1;
  milliseconds after{};  ///< the signal, or the start
};

Ended end_of(const std::vector<std::string>& arguments, int signal) {
  std::vector<char*> argv{const_cast<char*>(TAMLO_TOOL)};
  for (const auto& argument : arguments) argv.push_back(const_cast<char*>(argument.c_str()));
  argv.push_back(nullptr);
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  for (const int stream : {0, 1, 2}) {
    posix_spawn_file_actions_addopen(&actions, stream, "/dev/null", O_RDWR, 0);
  }
  pid_t child = 0;
  EXPECT_EQ(posix_spawn(&child, TAMLO_TOOL, &actions, nullptr, argv.data(), environ), 0);
  posix_spawn_file_actions_destroy(&actions);
  auto begin = Clock::now();
  if (signal != 0) {
    std::this_thread::sleep_for(milliseconds(1000));
    ::kill(child, signal);
    begin = Clock::now();
  }
  int status = 0;
  while (::waitpid(child, &status, WNOHANG) == 0) {
    if (Clock::now() - begin > std::chrono::seconds(20)) ::kill(child, SIGKILL);
    std::this_thread::sleep_for(milliseconds(5));
  }
  return {WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status),
          std::chrono::duration_cast<milliseconds>(Clock::now() - begin)};
}

TEST(Waits, EndWhenTheirTimeIsOverOrTheyAreToldTo) {
  using Conduct = SlowServer::Conduct;
  const std::pair<Conduct, const char*> conducts[] = {
      {Conduct::silent, "silent"},
      {Conduct::a_byte_now_and_then, "a byte now and then"},
      {Conduct::endless_line, "an endless line"},
      {Conduct::closes, "closes"}};
  const std::pair<const char*, const char*> links[] = {
      {"lines", "holds = \"pack_voltage.code\"\n"},
      {"scpi", "speaks = \"scpi\"\nask = \"READ?\"\nholds = \"pack_voltage.reading\"\n"},
      {"modbus",
       "speaks = \"modbus\"\nvalues = [{ holds = \"pack_voltage.code\", at = 0, type = \"int32\" "
       "}]\n"},
      {"frames",
       "speaks = \"frames\"\nlength = 8\nbegins = \"55 AA\"\nvalues = [{ holds = "
       "\"pack_voltage.code\", at = 2, type = \"int16\" }]\n"}};
  const Ending endings[] = {{"its time", 0}, {"SIGINT", SIGINT}, {"SIGTERM", SIGTERM}};
  const Folder folder;
  std::vector<std::unique_ptr<SlowServer>> servers;
  std::vector<std::pair<std::string, std::future<Ended>>> ended;
  const auto start = [&](const std::string& name, std::vector<std::string> arguments,
                         const Ending& how) {
    arguments.insert(arguments.end(), {"--for", how.signal == 0 ? "1 s" : "1 h"});
    ended.emplace_back(name + ", " + how.name, std::async(std::launch::async, [=] {
                         return end_of(arguments, how.signal);
                       }));
  };
  for (const auto& [conduct, how_served] : conducts) {
    servers.push_back(std::make_unique<SlowServer>(conduct));
    for (const auto& [speaks, keys] : links) {
      const auto name = std::string(speaks) + ", " + how_served;
      const auto file = folder.write(
          name + ".toml",
          "[link.l]\ntcp = \"127.0.0.1:" + std::to_string(servers.back()->port()) + "\"\n" + keys);
      for (const auto& how : endings) {
        start(name, {"watch", demo_board, file, "--channel", "pack_voltage"}, how);
      }
    }
  }
  // A pipe that nobody writes to, a file that does not grow, and a command that serves.
  const auto pipe = folder.path("pipe");
  ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
  const int kept_open = ::open(pipe.c_str(), O_RDWR | O_CLOEXEC);
  const auto quiet = folder.write("quiet.txt", "");
  for (const auto& how : endings) {
    for (const auto& path : {pipe, quiet}) {
      const auto file = folder.write(
          path == pipe ? "p.toml" : "q.toml",
          "[link.l]\nfile = \"" + path + "\"\nfollow = true\nholds = \"pack_voltage.code\"\n");
      start(path, {"watch", demo_board, file, "--channel", "pack_voltage"}, how);
    }
    start("serve", {"serve", demo_board, "pack_voltage", "--lines", "0"}, how);
  }
  for (auto& [name, end] : ended) {
    const auto of = end.get();
    // What is bad from the start, as a port that closes at once, may end it at once. Its own time
    // begins when the instruments have said who they are, or have not for 5 s.
    EXPECT_LE(of.status, 4) << name;
    EXPECT_LT(of.after, milliseconds(name.ends_with("its time") ? 9000 : 4000)) << name;
  }
  ::close(kept_open);
}

}  // namespace
}  // namespace tamlo::testing
