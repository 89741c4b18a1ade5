// SPDX-License-Identifier: Apache-2.0
// tamlo measure, from position to position through stand-ins, without a hand.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <fstream>
#include <nlohmann/json.hpp>
#include <thread>

#include "link/live_bench.hpp"
#include "tamlo/io/readings_file.hpp"

namespace tamlo::testing {
namespace {

// What is wrong with a unit, and what the summary must name first.
struct Faulty {
  const char* fault;
  LiveBench::Unit unit;
  const char* named;
};

std::vector<Faulty> faulty_units(const Folder& folder) {
  const auto firmware =
      folder.write("firmware.toml", "[channel.pack_voltage.scaling]\nconvention = \"last code\"\n");
  const auto reference = folder.write("built.toml", "[converter.main]\nreference = \"internal\"\n");
  return {{"sound", {.number = 3}, ""},
          {"divider", {.number = 4, .moved = {{"divider top", 0.02}}}, "divider"},
          {"reference", {.number = 5, .as_built = reference}, "reference"}};
}

TEST(Measure, NamesTheFaultOfAUnitAsCompareDoes) {
  const Folder folder;
  std::vector<std::jthread> threads;
  for (const auto& of : faulty_units(folder)) {
    threads.emplace_back([of] {
      const Folder own;
      const LiveBench bench(of.unit);
      const auto rows = own.path("readings.csv");
      const auto measured =
          tamlo({"measure", demo_board, bench.links(own), "--channel", "pack_voltage",
                 "--positions", "6", "--write", rows, "--format", "json"});
      ASSERT_LE(measured.status, 1) << of.fault << measured.errors;
      // The same rows, compared afterwards, say the same.
      const auto compared = tamlo({"compare", demo_board, rows, "--format", "json"});
      EXPECT_EQ(compared.output, measured.output) << of.fault;
      const auto json = nlohmann::json::parse(measured.output)["channels"][0];
      EXPECT_EQ(json["rows"].size(), 6u) << of.fault;
      const bool sound = of.named[0] == '\0';
      EXPECT_EQ(json["diagnosis"]["fault"], !sound) << of.fault;
      EXPECT_EQ(measured.status, sound ? 0 : 1) << of.fault << measured.output;
      if (!sound) {
        EXPECT_NE(json["diagnosis"].dump().find(of.named), std::string::npos) << json["diagnosis"];
      }
    });
  }
}

// Killed while it measures, and started again, it goes on: no row is lost, doubled or torn.
TEST(Measure, GoesOnAfterItWasKilled) {
  const Folder folder;
  const LiveBench bench({.number = 6});
  const auto links = bench.links(folder);
  const auto rows = folder.path("readings.csv");
  const std::vector<std::string> command{
      "measure", demo_board, links,         "--channel", "pack_voltage",
      "--write", rows,       "--positions", "9",         "--both-ways"};
  std::size_t before = 0;
  for (int round = 0; round < 4; ++round) {
    std::string line = "timeout -s KILL " + fmt::format("{:.2f}", 0.3 + 0.35 * round);
    line += " " + std::string(TAMLO_TOOL);
    for (const auto& word : command) line += " '" + word + "'";
    run("/bin/sh", {"-c", line + " > /dev/null 2>&1"});
    const auto text = std::filesystem::exists(rows) ? read(rows) : "";
    const auto now = static_cast<std::size_t>(std::ranges::count(text, '\n'));
    EXPECT_GE(now, before);
    before = now;
  }
  // As a crash of the machine would leave it.
  { std::ofstream(rows, std::ios::app) << "pack_voltage,12.0"; }
  const auto last = tamlo(command);
  ASSERT_EQ(last.status, 0) << last.errors << last.output;
  EXPECT_NE(last.output.find("a torn row of 17 bytes at its end was cut off"), std::string::npos);
  const auto text = read(rows);
  EXPECT_EQ(std::ranges::count(text, '\n'), 19) << text;
  const auto board = io::load_board({demo_board});
  const auto file = io::load_readings(rows, board);
  EXPECT_EQ(file.channels.front().readings.size(), 18u);
  const auto again = tamlo(command);
  EXPECT_EQ(read(rows), text);
  EXPECT_NE(again.output.find("18 of 18 positions are there already"), std::string::npos);
}

// By hand, and over other links: lines on a terminal, a meter beyond its range, a board that hangs.
TEST(Measure, SaysWhyAPositionIsNotTaken) {
  const Folder folder;
  const LiveBench bench({.number = 2});
  const auto links = bench.links(folder);
  const auto rows = folder.path("readings.csv");
  const auto far = tamlo(
      {"measure", demo_board, links, "--channel", "pack_voltage", "--at", "70 V", "--write", rows});
  EXPECT_EQ(far.status, 3);
  EXPECT_NE(far.errors.find("70 V is outside of its range"), std::string::npos) << far.errors;
  const auto wide = folder.write("wide.toml", "[source.knob]\nrange = \"0..80 V\"\n");
  const auto over = tamlo({"measure", demo_board, links, wide, "--channel", "pack_voltage", "--at",
                           "75 V", "--at", "30 V", "--longest", "0.7 s", "--write", rows});
  EXPECT_EQ(over.status, 4) << over.output << over.errors;
  EXPECT_NE(over.output.find("not taken"), std::string::npos);
  EXPECT_NE(over.output.find("the meter is beyond its range"), std::string::npos) << over.output;
  EXPECT_NE(over.output.find("all 1 readings within"), std::string::npos) << over.output;
  EXPECT_NE(over.errors.find("1 position was not taken"), std::string::npos);

  struct Case {
    std::vector<std::string> words;
    const char* says;
  };
  const Case cases[] = {
      {{"--write", rows}, "one: name it with --channel"},
      {{"--channel", "pack_voltage"}, "no file"},
      {{"--channel", "pack_voltage", "--write", rows, "--source", "x"}, "knob"},
      {{"--channel", "pack_voltage", "--write", rows, "--positions", "0"}, "from 1 to 1000"},
      {{"--channel", "pack_voltage", "--write", rows, "--at", "5 A"}, "5 A"},
  };
  for (const auto& [words, says] : cases) {
    std::vector<std::string> all{"measure", demo_board, links};
    all.insert(all.end(), words.begin(), words.end());
    const auto result = tamlo(all);
    EXPECT_EQ(result.status, 2) << result.output;
    EXPECT_NE(result.errors.find(says), std::string::npos) << result.errors;
  }
}

}  // namespace
}  // namespace tamlo::testing
