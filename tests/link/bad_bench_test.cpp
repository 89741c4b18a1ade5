// SPDX-License-Identifier: Apache-2.0
// A bench that behaves badly, in each of eight ways at the unit, the meter and the source, or whose
// unit is late: measure ends, says why, and takes no row that is not of its position.
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

#include <array>
#include <chrono>
#include <deque>
#include <regex>
#include <thread>

#include "link/live_bench.hpp"
#include "link/loopback.hpp"
#include "tamlo/link/stream.hpp"

namespace tamlo::testing {
namespace {

using link::Clock;

enum class Kind {
  closing,
  restarting,
  slow,
  late,
  silent,
  garbage,
  exponents,
  overload,
  wrong_unit
};

// Stands between the tool and a port, and spoils what comes from there after the first pieces; what
// is late is so from the first.
class BadLink {
 public:
  BadLink(int port, Kind kind, const std::string& side)
      : target_(port),
        kind_(kind),
        lines_(side == "board"),
        sound_pieces_(lines_            ? 3
                      : side == "meter" ? 4
                                        : 2),
        listener_(::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0)) {
    port_ = listen_with(listener_);
    thread_ = std::jthread([this](const std::stop_token& stop) { serve(stop); });
  }
  ~BadLink() {
    thread_ = {};
    ::close(listener_);
  }
  BadLink(const BadLink&) = delete;
  BadLink& operator=(const BadLink&) = delete;
  int port() const { return port_; }

 private:
  int target_, port_ = 0;
  Kind kind_;
  bool lines_, spoilt_ = false;
  int sound_pieces_, listener_;
  std::jthread thread_{};

  static bool ready(int socket) {
    pollfd one{.fd = socket, .events = POLLIN, .revents = 0};
    return ::poll(&one, 1, 10) > 0;
  }
  void serve(const std::stop_token& stop) {
    while (!stop.stop_requested()) {
      if (!ready(listener_)) continue;
      // Other threads start programs, which must not hold it open.
      const int client = ::accept4(listener_, nullptr, nullptr, SOCK_CLOEXEC);
      const int server = connected(target_);
      pass(stop, client, server);
      ::close(client);
      ::close(server);
      if (kind_ == Kind::restarting) std::this_thread::sleep_for(std::chrono::milliseconds(400));
    }
  }
  void pass(const std::stop_token& stop, int client, int server) {
    std::array<char, 4096> bytes{};
    int pieces = 0;
    std::deque<std::pair<Clock::time_point, std::string>> held;
    while (!stop.stop_requested()) {
      for (; !held.empty() && held.front().first < Clock::now(); held.pop_front()) {
        const auto& text = held.front().second;
        if (::send(client, text.data(), text.size(), MSG_NOSIGNAL) < 0) return;
      }
      for (const auto& [from, to] : {std::pair(client, server), std::pair(server, client)}) {
        if (!ready(from)) continue;
        const auto size = ::recv(from, bytes.data(), bytes.size(), 0);
        if (size <= 0) return;
        std::string text(bytes.data(), static_cast<std::size_t>(size));
        if (from == server && kind_ == Kind::late) {
          held.emplace_back(Clock::now() + std::chrono::seconds(1), std::exchange(text, {}));
        } else if (from == server && ++pieces > sound_pieces_) {
          const bool once = kind_ == Kind::closing || kind_ == Kind::restarting;
          if (once && !std::exchange(spoilt_, true)) return;
          if (!once) spoil(text);
        }
        if (!text.empty() && ::send(to, text.data(), text.size(), MSG_NOSIGNAL) < 0) return;
      }
    }
  }
  void spoil(std::string& text) const {
    if (kind_ == Kind::silent) text.clear();
    if (kind_ == Kind::slow) std::this_thread::sleep_for(std::chrono::milliseconds(900));
    const auto number = [&]() -> const char* {
      switch (kind_) {
        case Kind::garbage:
          return "\xff\xfe?";
        case Kind::exponents:
          return "1E306";
        case Kind::overload:
          return "9.9E37";
        case Kind::wrong_unit:
          return "12.5 A";
        default:
          return nullptr;
      }
    }();
    if (number != nullptr) text = (lines_ ? "pack_voltage.code=" : "") + std::string(number) + "\n";
  }
};

struct Cell {
  const char* side;  // name of its link
  Kind kind;
  int status;
  const char* says;
};

constexpr Cell cells[] = {
    {"board", Kind::closing, 0, "link board was lost 1 time: the other side closed it"},
    {"board", Kind::restarting, 0, "link board was lost 1 time"},
    {"board", Kind::slow, 4, "not taken"},
    {"board", Kind::late, 0, ""},
    {"board", Kind::silent, 4, "the channel moves, or too few readings arrived"},
    {"board", Kind::garbage, 4, "the channel moves, or too few readings arrived"},
    {"board", Kind::exponents, 4, "the channel moves, or too few readings arrived"},
    {"board", Kind::overload, 4, "the channel moves, or too few readings arrived"},
    {"board", Kind::wrong_unit, 4, "the channel moves, or too few readings arrived"},
    {"meter", Kind::closing, 0, "link meter was lost 1 time: the other side closed it"},
    {"meter", Kind::restarting, 0, "link meter was lost 1 time"},
    {"meter", Kind::slow, 4, "the meter moves, or too few readings arrived"},
    {"meter", Kind::silent, 4, "the meter moves, or too few readings arrived"},
    {"meter", Kind::garbage, 4, "the meter moves, or too few readings arrived"},
    {"meter", Kind::exponents, 4, "the meter moves, or too few readings arrived"},
    {"meter", Kind::overload, 4, "the meter is beyond its range"},
    {"meter", Kind::wrong_unit, 4, "the meter moves, or too few readings arrived"},
    {"source", Kind::closing, 0, "link source was lost 1 time: the other side closed it"},
    {"source", Kind::restarting, 0, "link source was lost 1 time"},
    {"source", Kind::slow, 0, ""},
    {"source", Kind::silent, 4, "the source cannot be set: link source: no answer to SYST:ERR?"},
    {"source", Kind::garbage, 0, "not an entry of an error queue"},
    {"source", Kind::exponents, 0, "not an entry of an error queue: 1E306"},
    {"source", Kind::overload, 0, "not an entry of an error queue: 9.9E37"},
    {"source", Kind::wrong_unit, 0, "not an entry of an error queue: 12.5 A"},
};

void measure_beside(const Cell& cell) {
  const auto name = fmt::format("{} {}", cell.side, static_cast<int>(cell.kind));
  const Folder folder;
  const LiveBench bench({.number = 7});
  auto links = read(bench.links(folder));
  std::smatch found;
  const std::string side = cell.side;
  ASSERT_TRUE(std::regex_search(links, found,
                                std::regex("link." + side + "\\]\ntcp = \"127.0.0.1:([0-9]+)")));
  const BadLink bad(std::stoi(found[1]), cell.kind, side);
  const auto spoilt =
      replaced(links, ":" + found[1].str() + "\"", fmt::format(":{}\"", bad.port()));
  const auto rows = folder.path("rows.csv");
  const auto result =
      tamlo({"measure", demo_board, folder.write("bad.toml", spoilt), "--channel", "pack_voltage",
             "--at", "10 V", "--at", "30 V", "--at", "50 V", "--longest",
             cell.status == 0 ? "8 s" : "1.5 s", "--write", rows, "--format", "text"});
  EXPECT_EQ(result.status, cell.status) << name << result.output << result.errors;
  EXPECT_NE((result.output + result.errors).find(cell.says), std::string::npos)
      << name << result.output << result.errors;
  // What was taken is of its position.
  const std::regex row("\n *([0-9.]+) +([0-9.]+) +");
  for (std::sregex_iterator each(result.output.begin(), result.output.end(), row), end; each != end;
       ++each) {
    EXPECT_NEAR(std::stod((*each)[1]), std::stod((*each)[2]), 0.3) << name << each->str();
  }
  if (cell.status == 0) {
    EXPECT_NE(result.output.find("all 3 readings within the target"), std::string::npos)
        << name << result.output << read(rows);
  }
}

TEST(BadBench, EachKindAtEachSideIsToldAndTakesNoWrongRow) {
  // They mostly wait: many at once.
  std::vector<std::jthread> threads;
  for (const auto& cell : cells) threads.emplace_back([&] { measure_beside(cell); });
}

}  // namespace
}  // namespace tamlo::testing
