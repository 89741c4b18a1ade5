// SPDX-License-Identifier: Apache-2.0
// tamlo watch on lines that were kept, on lines that come over TCP, and on links that fail.
#include <fcntl.h>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <thread>

#include "link/awake.hpp"
#include "link/live_bench.hpp"
#include "link/loopback.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/link/detail/stand_in.hpp"
#include "tamlo/link/stream.hpp"
#include "tool/page_of_tool.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

TEST(Watch, ReadsLinesThatWereKept) {
  const auto result = tamlo(
      {"watch", demo_board, demo("live.toml"), "--channel", "pack_voltage", "--format", "json"});
  ASSERT_EQ(result.status, 0) << result.errors;
  const auto json = nlohmann::json::parse(result.output);
  const auto& channel = json["channels"][0];
  EXPECT_EQ(json["links"][0]["lines"], 2400);
  EXPECT_EQ(json["links"][0]["malformed"], 0);
  EXPECT_EQ(channel["readings"], 120);  // an average of 20
  EXPECT_NEAR(channel["min"], 12.0, 0.2);
  EXPECT_NEAR(channel["max"], 48.0, 0.2);
  EXPECT_NEAR(channel["settled"]["value"], 48.0, 0.2);
  EXPECT_NEAR(channel["noise"], channel["predicted_noise"], channel["predicted_noise"]);
}

TEST(Watch, SaysWhatDoesNotFit) {
  const Folder folder;
  folder.write("lines.txt", "raw 100\nraw x\nraw 101\nboot ok\n");
  const auto link = folder.write(
      "link.toml", "[link.l]\nfile = \"lines.txt\"\npattern = \"raw {pack_voltage.code}\"\n");
  const auto result = tamlo({"watch", demo_board, link, "--channel", "pack_voltage"});
  EXPECT_EQ(result.status, 4) << result.errors;
  EXPECT_NE(result.output.find(
                "2 lines do not match the pattern, the last: a line that is not the pattern"),
            std::string::npos)
      << result.output;
}

TEST(Watch, RefusesLinksThatAreNone) {
  const Folder folder;
  struct Case {
    const char* link;
    int status;
    const char* says;
  };
  const Case cases[] = {
      {"file = \"nowhere.txt\"\nholds = \"pack_voltage.code\"", 3, "No such file"},
      {"tcp = \"127.0.0.1:1\"\nholds = \"pack_voltage.code\"", 3, "refused"},
      {"tcp = \"somewhere\"\nholds = \"pack_voltage.code\"", 2, "host:port"},
      {"serial = { device = \"/dev/null\" }\nholds = \"pack_voltage.code\"", 3, "/dev/null"},
      {"serial = { baud = 9600 }\nholds = \"pack_voltage.code\"", 2, "device"},
      {"file = \"-\"\ntcp = \"a:1\"\nholds = \"pack_voltage.code\"", 2, "2 ways to reach it"},
      {"file = \"-\"", 2, "what the number is"},
      {"file = \"-\"\npattern = \"x\"", 2, "no value in it"},
      {"file = \"-\"\nform = \"xml\"", 2, "found \"xml\""},
  };
  for (const auto& [text, status, says] : cases) {
    const auto link = folder.write("link.toml", fmt::format("[link.l]\n{}\n", text));
    const auto result =
        tamlo({"watch", demo_board, link, "--channel", "pack_voltage", "--for", "1 s"});
    EXPECT_EQ(result.status, status) << text << result.errors << result.output;
    EXPECT_NE(result.errors.find(says), std::string::npos) << text << "\n" << result.errors;
  }
  const auto none = tamlo({"watch", demo_board});
  EXPECT_EQ(none.status, 2);
  EXPECT_NE(none.errors.find("a board without a link"), std::string::npos) << none.errors;
}

// A board that prints over TCP, goes away, and comes back on the same port.
TEST(Watch, FindsALostLinkAgainAndSaysWhatIsOld) {
  const Folder folder;
  auto server = std::make_unique<link::LineServer>(0);
  const int port = server->port();
  const auto link = folder.write(
      "link.toml", fmt::format("[link.l]\ntcp = \"127.0.0.1:{}\"\nform = \"pairs\"\n", port));
  Result result;
  std::jthread watching([&] {
    result = tamlo({"watch", demo_board, link, "--channel", "pack_voltage", "--for", "7 s",
                    "--format", "json"});
  });
  const auto serve = [&](int lines) {
    while (server->clients() == 0) {
      server->send("pack_voltage.code=100");
      std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
    for (int i = 0; i < lines; ++i) {
      server->send("pack_voltage.code=101");
      std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
  };
  serve(100);
  server.reset();
  std::this_thread::sleep_for(std::chrono::milliseconds(100));
  server = std::make_unique<link::LineServer>(port);
  serve(100);
  watching.join();
  // It fell silent two seconds and more before the end.
  ASSERT_EQ(result.status, 4) << result.errors;
  const auto json = nlohmann::json::parse(result.output);
  EXPECT_TRUE(json["channels"][0]["old"]);
  EXPECT_GE(json["links"][0]["lost"], 1);
  EXPECT_GT(json["links"][0]["lines"], 120);  // some of the second hundred: a busy machine is late
}

// The virtual unit prints what the real one would; what is logged is a record.
TEST(Watch, AStandInIsWatchedAndItsLogIsARecord) {
  const Folder folder;
  const auto log = folder.path("log.csv");
  const int fixed = free_port();
  std::jthread unit([&] {
    tamlo({"serve", demo_board, "pack_voltage", "--unit", "3", "--low", "24 V", "--lines",
           std::to_string(fixed), "--for", "4 s"});
  });
  await_listener(fixed);
  const auto link = folder.write(
      "link.toml", fmt::format("[link.l]\ntcp = \"127.0.0.1:{}\"\nform = \"pairs\"\n", fixed));
  const auto result = tamlo({"watch", demo_board, link, "--channel", "pack_voltage", "--until",
                             "settled", "--for", "3 s", "--log", log, "--format", "json"});
  unit.join();
  ASSERT_EQ(result.status, 0) << result.errors;
  const auto json = nlohmann::json::parse(result.output);
  EXPECT_NEAR(json["channels"][0]["settled"]["value"], 24.0, 0.3);
  const auto record = tamlo({"record", demo_board, log, "--channel", "pack_voltage"});
  EXPECT_NE(record.status, 2) << record.errors;
  EXPECT_NE(record.output.find("pack_voltage"), std::string::npos) << record.errors;
}

// A virtual unit has its code and its reading in registers at once, whatever its lines hold: the
// reading is what the firmware makes of the codes about it.
TEST(Watch, AStandInHasReadingAndCodeInRegisters) {
  const Folder folder;
  for (const char* const data : {"codes", "readings"}) {
    const int port = free_port();
    std::jthread unit([&] {
      tamlo({"serve", demo_board, "coolant_flow", "--data", data, "--modbus", std::to_string(port),
             "--low", "6 l/min", "--for", "3 s"});
    });
    await_listener(port);
    const auto last = [&](const char* value) {
      const auto link = folder.write(
          "link.toml", fmt::format("[link.m]\ntcp = \"127.0.0.1:{}\"\nspeaks = \"modbus\"\nevery = "
                                   "\"20 ms\"\nvalues = [ {{ holds = \"coolant_flow.{} }} ]\n",
                                   port, value));
      const auto result = tamlo({"watch", demo_board, link, "--channel", "coolant_flow", "--for",
                                 "1 s", "--format", "json"});
      EXPECT_EQ(result.status, 0) << result.errors;
      return nlohmann::json::parse(result.output)["channels"][0];
    };
    // 6 l/min is code 2048.
    EXPECT_NEAR(last("code\", at = 0, type = \"int32\"")["code"], 2048.0, 60.0) << data;
    EXPECT_NEAR(last("reading\", at = 2, type = \"float32\"")["last"], 6.0, 0.22) << data;
  }
}

// A value at an end of the codes is not said to be at rest: it may lie beyond.
TEST(Watch, SaysThatACodeIsAtAnEnd) {
  const Folder folder;
  const auto link =
      folder.write("link.toml", "[link.l]\nfile = \"lines.txt\"\nholds = \"pack_voltage.code\"\n");
  struct Case {
    int code;
    bool at_end;
  };
  for (const auto& [code, at_end] :
       {Case{0, true}, Case{1, false}, Case{4094, false}, Case{4095, true}}) {
    std::string lines;
    for (int i = 0; i < 600; ++i) lines += fmt::format("{}\n", code);
    folder.write("lines.txt", lines);
    const auto text = tamlo({"watch", demo_board, link, "--channel", "pack_voltage"});
    const bool said =
        text.output.find("at an end of the codes: the value may lie beyond") != std::string::npos;
    EXPECT_EQ(said, at_end) << code << text.output;
    EXPECT_EQ(text.output.find("at rest") == std::string::npos, at_end) << code << text.output;
    const auto json = nlohmann::json::parse(
        tamlo({"watch", demo_board, link, "--channel", "pack_voltage", "--format", "json"}).output);
    EXPECT_EQ(json["channels"][0]["at_end"], at_end) << code;
  }
}

// A meter at the pin shows volts; beside the reading stands the quantity that puts them there.
TEST(Watch, AMeterAtThePinIsShownAsTheQuantity) {
  const Folder folder;
  const auto link = folder.write("link.toml", R"([link.board]
file = "codes.txt"
holds = "pack_voltage.code"
[link.pin]
file = "volts.txt"
[meter.pin]
ranges = [ { full_scale = "3 V", digits = 30000, accuracy = "±0.01 %" } ]
touches = "pin"
link = "pin"
)");
  std::string codes, volts;
  for (int i = 0; i < 400; ++i) codes += "1966\n";
  for (int i = 0; i < 8; ++i) volts += "1.2000\n";
  folder.write("codes.txt", codes);
  folder.write("volts.txt", volts);
  const auto result =
      tamlo({"watch", demo_board, link, "--channel", "pack_voltage", "--format", "json"});
  ASSERT_EQ(result.status, 0) << result.errors;
  const auto channel = nlohmann::json::parse(result.output)["channels"][0];
  EXPECT_NEAR(channel["shown"], 30.0, 0.1);  // 1.2 V times 250 / 10
  EXPECT_NEAR(channel["last"], 30.0, 0.1);
}

// How near is near enough is each channel's own, in its own unit; an aim is of one.
TEST(Watch, WithinIsOfEachChannel) {
  const Folder folder;
  const auto link = folder.write("link.toml", "[link.l]\nfile = \"lines.txt\"\nform = \"pairs\"\n");
  std::string lines;
  for (int i = 0; i < 600; ++i) {
    lines += fmt::format("pack_voltage.reading={} auxiliary_supply.reading={}\n", 30.0 + 0.001 * i,
                         12.0 + 0.001 * i);
  }
  folder.write("lines.txt", lines);
  const auto watch = [&](std::vector<std::string> more) {
    std::vector<std::string> words{"watch", demo_board, link, "--channel", "pack_voltage"};
    words.insert(words.end(), more.begin(), more.end());
    return tamlo(words);
  };
  const auto rests = [&](const char* within) {
    std::string said;
    const auto json = nlohmann::json::parse(
        watch({"--channel", "auxiliary_supply", "--within", within, "--format", "json"}).output);
    for (const auto& of : json["channels"]) said += of["settled"].is_null() ? "moves " : "rests ";
    return said;
  };
  EXPECT_EQ(rests("1 V"), "rests rests ");
  EXPECT_EQ(rests("1 mV"), "moves moves ");
  EXPECT_EQ(watch({"--channel", "coolant_flow", "--within", "1 V"}).status,
            2);  // no volts of a flow
  EXPECT_EQ(watch({"--channel", "coolant_flow", "--aim", "30 V"}).status, 2);
  // At rest: how many lines are there when the first view is shown does not matter.
  lines.clear();
  for (int i = 0; i < 600; ++i) lines += "pack_voltage.reading=30\n";
  folder.write("lines.txt", lines);
  EXPECT_NE(watch({"--aim", "31 V"}).output.find("up by 1.0 V to 31"), std::string::npos);
}

// 20,000 lines a second with a log and a page: each is on the disk, none is lost.
TEST(Watch, LosesNoLineOfManyWhileItLogsAndShows) {
  const Folder folder;
  const LiveBench bench({.number = 3, .rate = 20e3, .served = {.lines = 0, .meter = 0}});
  const auto log = folder.path("log.csv");
  const auto result =
      tamlo({"watch", demo_board, bench.links(folder), "--channel", "pack_voltage", "--link",
             "board", "--for", "3 s", "--log", log, "--page", "0", "--format", "json"});
  ASSERT_EQ(result.status, 0) << result.errors;
  const auto state = nlohmann::json::parse(result.output)["links"][0];
  EXPECT_EQ(state["lost"], 0);
  EXPECT_EQ(state["malformed"], 0);
  EXPECT_GT(state["lines"], 40'000);
  const auto text = read(log);
  EXPECT_EQ(std::ranges::count(text, '\n') - 1, state["lines"]);
}

// A pseudo terminal is a serial port to who opens it.
TEST(Watch, ReadsASerialPort) {
  const int terminal = posix_openpt(O_RDWR | O_NOCTTY);
  if (terminal < 0) GTEST_SKIP() << "this machine has no pseudo terminals";
  close(terminal);
  const Folder folder;
  const LiveBench bench({.number = 3, .served = {.meter = 0, .terminal = folder.path("port")}});
  const auto links = bench.links(folder);
  EXPECT_NE(read(links).find("serial = { device"), std::string::npos);
  const auto result = tamlo({"watch", demo_board, links, "--channel", "pack_voltage", "--for",
                             "0.7 s", "--format", "json"});
  const auto json = nlohmann::json::parse(result.output);
  EXPECT_GT(json["links"][0]["lines"], 300) << result.errors;
  EXPECT_LE(json["links"][0]["malformed"], 1);
  EXPECT_LT(json["channels"][0]["last"], 1.0);
}

// What only some commands need is loaded by them alone.
TEST(Watch, NothingOfItIsLoadedToSayTheVersion) {
  const auto loaded = run(TAMLO_TOOL, {"--version"}, {"LD_TRACE_LOADED_OBJECTS=1"});
  EXPECT_NE(loaded.output.find("libstdc++"), std::string::npos);
  for (const char* const library : {"modbus", "ncurses", "httplib", "sndfile", "ssl"}) {
    EXPECT_EQ(loaded.output.find(library), std::string::npos) << loaded.output;
  }
}

// A log that grows is waited at, and no longer than asked.
TEST(Watch, FollowsAFileThatGrows) {
  const Folder folder;
  const auto path = folder.write("log.txt", "1000\n");
  const auto file = folder.write("live.toml",
                                 "[link.l]\nfile = \"log.txt\"\nfollow = true\n"
                                 "holds = \"pack_voltage.code\"\n");
  std::jthread writer([&] {
    for (int i = 0; i < 5; ++i) {
      std::this_thread::sleep_for(std::chrono::milliseconds(60));
      std::ofstream(path, std::ios::app) << 1001 + i << "\n";
    }
  });
  const Awake awake;
  const auto result = tamlo({"watch", demo_board, file, "--channel", "pack_voltage", "--for",
                             "0.8 s", "--format", "json"});
  EXPECT_LT(awake.elapsed(), std::chrono::seconds(5));
  const auto json = nlohmann::json::parse(result.output);
  EXPECT_EQ(json["links"][0]["lines"], 6);
  EXPECT_EQ(json["channels"][0]["code"], 1005);
}

TEST(Watch, ServesItsPageToThisMachineAlone) {
  const Folder folder;
  const auto file = folder.write("live.toml",
                                 "[link.l]\nfile = \"log.txt\"\nfollow = true\n"
                                 "holds = \"pack_voltage.code\"\n");
  folder.write("log.txt", "1000\n1001\n1002\n");
  PageOfTool page({"watch", demo_board, file, "--channel", "pack_voltage", "--page", "0", "--for",
                   "3 s", "--format", "json"});
  const auto &path = page.path, &host = page.host;
  struct Case {
    std::string path, headers, says;
  };
  const Case cases[] = {
      {path, "Host: " + host + "\r\n", "200 OK"},
      {path, "Host: " + host + "\r\n", "default-src 'none'"},
      {path + "events", "Host: " + host + "\r\nOrigin: http://" + host + "\r\n", "\"code\": 1002"},
      {path + "events", "Host: " + host + "\r\n", "event: strip"},
      {path, "Host: elsewhere.example\r\n", "403 Forbidden"},
      {path, "Host: localhost\r\n", "403 Forbidden"},
      {path + "events", "Host: " + host + "\r\nOrigin: http://elsewhere.example\r\n",
       "403 Forbidden"},
      {"/", "Host: " + host + "\r\n", "404 Not Found"},
      {"/0123456789abcdef0123456789abcdef/", "Host: " + host + "\r\n", "404 Not Found"},
  };
  {
    std::vector<std::jthread> threads;
    for (const auto& of : cases) {
      threads.emplace_back([&] {
        const auto answer = page.asked(of.path, of.headers, "", std::chrono::milliseconds(500));
        EXPECT_NE(answer.find(of.says), std::string::npos) << of.path << answer.substr(0, 400);
      });
    }
  }
  EXPECT_EQ(page.stop(false), 0);
}

}  // namespace
}  // namespace tamlo::testing
