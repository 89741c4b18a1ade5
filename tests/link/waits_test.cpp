// SPDX-License-Identifier: Apache-2.0
// Whatever the other side of a link does, a command ends when its time is over, or soon after it is
// told to.
#include <fcntl.h>
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <future>
#include <thread>

#include "link/awake.hpp"
#include "link/loopback.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

using std::chrono::milliseconds;

// A port whose clients hear nothing, a byte now and then, a line without an end, or that they are
// not wanted.
class SlowServer {
 public:
  enum class Conduct : std::uint8_t { silent, a_byte_now_and_then, endless_line, closes };

  explicit SlowServer(Conduct conduct) : conduct_(conduct) {
    port_ = listen_with(listener_);
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

// What the command is told, a second after its start: nothing where its own time ends it.
struct Ending {
  const char* name;
  const char* signal;
};

struct Ended {
  int status = -1;
  milliseconds after{};  ///< the signal, or the start
};

Ended end_of(const std::vector<std::string>& arguments, const std::string& signal) {
  const auto wait = signal.empty() ? milliseconds(20'000) : milliseconds(1000);
  std::vector<std::string> words{"--foreground",
                                 "--preserve-status",
                                 "-k",
                                 "20",
                                 "-s",
                                 signal.empty() ? "KILL" : signal,
                                 std::to_string(wait.count() / 1000),
                                 TAMLO_TOOL};
  words.insert(words.end(), arguments.begin(), arguments.end());
  const Awake awake;
  const auto status = run("/usr/bin/timeout", words).status;
  const auto after = awake.elapsed();
  return {status, signal.empty() ? after : after - wait};
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
  const Ending endings[] = {{"its time", ""}, {"SIGINT", "INT"}, {"SIGTERM", "TERM"}};
  const Folder folder;
  std::vector<std::unique_ptr<SlowServer>> servers;
  std::vector<std::pair<std::string, std::future<Ended>>> ended;
  const auto start = [&](const std::string& name, std::vector<std::string> arguments,
                         const Ending& how) {
    arguments.insert(arguments.end(), {"--for", how.signal[0] == '\0' ? "1 s" : "1 h"});
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
