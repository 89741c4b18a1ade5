// SPDX-License-Identifier: Apache-2.0
// Servers that cut, repeat and exaggerate: what they send is counted, and never believed.
#include <gtest/gtest.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <functional>
#include <nlohmann/json.hpp>
#include <thread>

#include "link/awake.hpp"
#include "link/loopback.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/link/detail/bench_stand_in.hpp"
#include "tamlo/link/detail/listening.hpp"
#include "tamlo/simulate/sampler.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

using link::Clock;
using link::Holds;
using std::chrono::milliseconds;

// A port that answers each line with whatever a function makes of it, and may hang up.
class HostileServer {
 public:
  struct Conduct {
    std::string greeting{};
    std::function<std::string(const std::string&)> answer{};
    bool hangs_up = false;  ///< after the greeting
  };

  explicit HostileServer(Conduct conduct) : conduct_(std::move(conduct)) {
    port_ = listen_with(listener_);
    thread_ = std::jthread([this](const std::stop_token& stop) { serve(stop); });
  }
  ~HostileServer() {
    thread_.request_stop();
    thread_.join();
    ::close(listener_);
  }
  HostileServer(const HostileServer&) = delete;
  HostileServer& operator=(const HostileServer&) = delete;
  int port() const { return port_; }

 private:
  Conduct conduct_;
  int listener_ = ::socket(AF_INET, SOCK_STREAM, 0), port_ = 0;
  std::jthread thread_{};

  static bool ready(int descriptor) {
    pollfd polled{.fd = descriptor, .events = POLLIN, .revents = 0};
    return ::poll(&polled, 1, 20) > 0;
  }
  static void send(int client, const std::string& bytes) {
    (void)::send(client, bytes.data(), bytes.size(), MSG_NOSIGNAL);
  }
  void serve(const std::stop_token& stop) {
    while (!stop.stop_requested()) {
      if (!ready(listener_)) continue;
      const int client = ::accept(listener_, nullptr, nullptr);
      send(client, conduct_.greeting);
      std::string lines;
      while (!conduct_.hangs_up && !stop.stop_requested()) {
        if (!ready(client)) continue;
        char bytes[512];
        const auto got = ::read(client, bytes, sizeof bytes);
        if (got <= 0) break;
        lines.append(bytes, static_cast<std::size_t>(got));
        for (auto end = lines.find('\n'); end != std::string::npos; end = lines.find('\n')) {
          if (conduct_.answer) send(client, conduct_.answer(lines.substr(0, end)));
          lines.erase(0, end + 1);
        }
      }
      ::close(client);
    }
  }
};

struct Received {
  std::vector<double> values{};
  link::LinkState state{};
};

// What one link of the demo board brings within a time.
Received hear(const HostileServer& server, const std::string& speaks, milliseconds time) {
  const Folder folder;
  const auto file =
      folder.write("link.toml", "[link.l]\ntcp = \"127.0.0.1:" + std::to_string(server.port()) +
                                    "\"\nevery = \"10 ms\"\n" + speaks);
  const auto board = io::load_board({demo_board, file});
  link::Listening listening(board, {"l"}, link::doubt_codes(board, board.chains));
  Received received;
  std::vector<link::Sample> samples;
  for (const auto end = Clock::now() + time; Clock::now() < end;) {
    listening.take(samples, Clock::now() + milliseconds(20));
  }
  for (const auto& sample : samples) {
    for (const auto& value : sample.values) received.values.push_back(value.value.value_or(-1.0));
  }
  received.state = listening.states().front();
  return received;
}

std::string instrument(const std::string& line, const std::string& reading) {
  if (line == "*IDN?") return "bench,1\n";
  if (line == "SYST:ERR?") return "0,\"No error\"\n";
  return line == "READ?" ? reading : "";
}

TEST(Hostile, AnswersOfInstrumentsAreNotShiftedOrTakenForZero) {
  const std::string scpi = "speaks = \"scpi\"\nholds = \"pack_voltage.reading\"\n";
  struct Case {
    const char *reading, *problem;
    bool any;
  };
  const Case cases[] = {{"9.9E37\n", "an overload", false},
                        {"\n12.5\n", "no number", false},
                        {"12.5\n\n", "bytes more than an answer", true},
                        {"12.5\n13.5\n", "bytes more than an answer", true},
                        {"12.5\n0,\"No error\"\n", "bytes more than an answer", true},
                        {"0,\"No error\"\n", "no number", false},
                        {"1e306\n", "no number", false},
                        {"1e306 GV\n", "no number", false}};
  for (const auto& [reading, problem, any] : cases) {
    SCOPED_TRACE(reading);
    const HostileServer server({.answer = [text = std::string(reading)](const std::string& line) {
      return instrument(line, text);
    }});
    const auto received = hear(server, scpi, milliseconds(300));
    EXPECT_EQ(any, !received.values.empty());
    for (const double value : received.values) EXPECT_EQ(value, 12.5);
    EXPECT_GT(received.state.malformed, 0u);
    EXPECT_NE(received.state.problem.find(problem), std::string::npos) << received.state.problem;
  }
}

TEST(Hostile, FramesThatWereNotAskedForAreNoAnswers) {
  const HostileServer server({.answer = [](const std::string&) {  // a stale one behind each
    return std::string("\x00\x07", 2) + std::string("\x00\x09", 2);
  }});
  const auto received = hear(server,
                             "speaks = \"frames\"\nask = \"?\"\nlength = 2\n"
                             "values = [ { holds = \"pack_voltage.code\", at = 0 } ]\n",
                             milliseconds(300));
  ASSERT_FALSE(received.values.empty());
  for (const double value : received.values) EXPECT_EQ(value, 7.0);
  EXPECT_GT(received.state.malformed, 0u);
}

TEST(Hostile, ALineThatWasCutIsNoLine) {
  const HostileServer server(
      {.greeting = "pack_voltage.code=2048\npack_voltage.code=2", .hangs_up = true});
  const auto received = hear(server, "form = \"pairs\"\n", milliseconds(150));
  ASSERT_FALSE(received.values.empty());
  for (const double value : received.values) EXPECT_EQ(value, 2048.0);
  EXPECT_GT(received.state.lost, 0u);
  // Of a pipe as of a port; of a file the last line may have no end.
  const Folder folder;
  const auto kept = folder.write("kept.txt", "pack_voltage.code=2048\npack_voltage.code=2");
  const auto links = folder.write("link.toml", "[link.l]\nfile = \"-\"\nform = \"pairs\"\n");
  for (const auto& [command, readings] : {std::pair{"cat \"$1\" | ", 1}, {"< \"$1\" ", 2}}) {
    const auto result =
        run("/bin/bash", {"-c",
                          std::string(command) + "\"$2\" watch \"$3\" \"$4\" --channel "
                                                 "pack_voltage --format json",
                          "watch", kept, TAMLO_TOOL, demo_board, links});
    const auto json = nlohmann::json::parse(result.output);
    EXPECT_EQ(json["links"][0]["lines"], readings) << command;
  }
}

TEST(Hostile, OneValueThatCannotBeIsCountedAndNeverTheEnd) {
  std::string lines;
  for (const char* value : {"code=2048", "reading=1e306", "code=99999999", "code=-1", "code=2048",
                            "reading=nan", "reading=1e31", "code=2048"}) {
    lines += "pack_voltage." + std::string(value) + "\n";
  }
  const HostileServer server({.greeting = lines});
  const auto received = hear(server, "form = \"pairs\"\n", milliseconds(200));
  EXPECT_EQ(received.values, (std::vector<double>{2048.0, 2048.0, 2048.0}));
  EXPECT_EQ(received.state.lines, 8u);
  EXPECT_EQ(received.state.malformed, 5u);
  EXPECT_EQ(received.state.lost, 0u);
}

// Clients that send a byte now and then neither hold the page nor the end of the command.
TEST(Hostile, SlowClientsOfThePageHoldNothingUp) {
  const Folder folder;
  folder.write("log.txt", "1000\n");
  const auto file = folder.write("live.toml",
                                 "[link.l]\nfile = \"log.txt\"\nfollow = true\n"
                                 "holds = \"pack_voltage.code\"\n");
  const auto command = std::string("exec '") + TAMLO_TOOL + "' watch '" + demo_board + "' '" +
                       file + "' --channel pack_voltage --page 0 --for '7 s' 2>&1 > /dev/null";
  const Awake awake;
  std::FILE* const tool = ::popen(command.c_str(), "r");
  ASSERT_NE(tool, nullptr);
  char line[256] = "";
  ASSERT_NE(std::fgets(line, sizeof line, tool), nullptr);
  const std::string text = line, host = "127.0.0.1:";
  const int port = std::stoi(text.substr(text.find(host) + host.size()));
  std::vector<int> clients;
  for (int i = 0; i < 20; ++i) clients.push_back(connected(port));
  // Each gets as many bytes through as there are until it is cut: after five seconds and a little.
  milliseconds cut{};
  for (int i = 0; i < 100 && awake.elapsed() < milliseconds(10'000); ++i) {
    for (const int client : clients) (void)::send(client, "G", 1, MSG_NOSIGNAL);
    pollfd ended{.fd = clients.front(), .events = POLLIN, .revents = 0};
    if (::poll(&ended, 1, 100) > 0) break;
    cut = awake.elapsed();
  }
  EXPECT_LT(cut, milliseconds(6500));
  EXPECT_EQ(::pclose(tool), 0);
  EXPECT_LT(awake.elapsed(), milliseconds(9000));
  for (const int client : clients) ::close(client);
}

// What a server at a port says to some lines, a line each.
std::string conversation(int port, const std::string& lines, int answers) {
  const int client = connected(port);
  (void)::send(client, lines.data(), lines.size(), MSG_NOSIGNAL);
  std::string answered;
  char bytes[512];
  while (std::ranges::count(answered, '\n') < answers) {
    pollfd polled{.fd = client, .events = POLLIN, .revents = 0};
    if (::poll(&polled, 1, 2000) <= 0) break;
    const auto got = ::read(client, bytes, sizeof bytes);
    if (got <= 0) break;
    answered.append(bytes, static_cast<std::size_t>(got));
  }
  ::close(client);
  return answered;
}

// More lines than a machine makes, more errors than an instrument keeps, more than the level of a
// source, more clients than a port takes: each has its bound, and the stand-in ends when it should.
TEST(Hostile, StandInsEndInTimeAndKeepLittle) {
  auto board = io::load_board({demo_board});
  const auto chain = chain::build(board, "pack_voltage");
  simulate::Sampler sampler(chain, chain, simulate::draw(chain, 1, 7),
                            {.rate = 1e7, .samples = 1ULL << 62U});
  link::BenchStandIn stand_in(sampler, chain, nullptr, {.lines = 0, .source = 0});
  stand_in.attach(board);
  const auto port_of = [&](const char* name) {
    return std::get<model::TcpPort>(model::find(board.links, name)->at).port;
  };
  std::atomic<bool> stop = false;
  std::jthread served([&] { stand_in.serve([&](double) { return !stop; }); });

  std::string flood = "*CLS\n", ask = "SYST:ERR?\n", questions, expected;
  for (int i = 0; i < 100; ++i) flood += "NOISE\n";
  for (int i = 0; i < 17; ++i) {
    questions += ask;
    expected += i < 15    ? "-113,\"Undefined header\"\n"
                : i == 15 ? "-350,\"Queue overflow\"\n"
                          : "0,\"No error\"\n";
  }
  EXPECT_EQ(conversation(port_of("source"), flood + questions, 17), expected);
  EXPECT_EQ(
      conversation(
          port_of("source"),
          "LEVEL 12\nLEVEL 1e308\nLEVEL -1e308\nLEVEL nan\n" + ask + ask + ask + "LEVEL?\n", 4),
      "-222,\"Data out of range\"\n-222,\"Data out of range\"\n"
      "-222,\"Data out of range\"\n1.200000000E+01\n");
  std::vector<int> clients;
  for (int i = 0; i < 40; ++i) clients.push_back(connected(port_of("board")));
  std::this_thread::sleep_for(milliseconds(600));
  const Awake awake;
  stop = true;
  served.join();
  EXPECT_LT(awake.elapsed(), milliseconds(500));
  EXPECT_GT(stand_in.skipped(), 10'000u);
  for (const int client : clients) ::close(client);
}

}  // namespace
}  // namespace tamlo::testing
