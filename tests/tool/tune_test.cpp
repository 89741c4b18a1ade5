// SPDX-License-Identifier: Apache-2.0
// A board that is tuned: what the page asks and is told, beside the commands.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <thread>

#include "tamlo/check/check.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/model/detail/board_keys.hpp"
#include "tool/page_of_tool.hpp"

namespace tamlo::testing {
namespace {

using Json = nlohmann::json;
using Settings = std::vector<std::string>;

std::string request(const Settings& settings, const std::string& channel = "") {
  return Json{{"settings", settings}, {"channel", channel}}.dump();
}

Json told(const PageOfTool& page, const std::string& what, const Settings& settings,
          const std::string& channel = "") {
  return Json::parse(page.answer(what, request(settings, channel)), nullptr, false);
}

// Changes that follow one another, as a user makes them: what is known of the ones before must not
// show in the ones behind.
const Settings changes[] = {
    {},
    {"channel.pack_voltage.frontend[0].divider.top=\"220 kohm ±0.5 %\""},
    {"channel.pack_voltage.frontend[0].divider.top=\"240 kohm ±0.5 %\""},
    {"channel.pack_voltage.frontend[0].divider.top=\"240 kohm ±0.5 %\"",
     "channel.auxiliary_supply.rate=\"2 kSa/s\""},
    {"channel.coolant_flow.average=64"},
    {"channel.coolant_flow.average=64", "channel.coolant_flow.average=16"},
    {"reference.precision.voltage=\"2.5 V ±0.2 %\""},
    {"conditions.temperature=\"-20..60 degC\"", "converter.main.resolution=\"14 bit\""},
    {"channel.coolant_flow.filter=[{ kind = \"exponential\", weight = 0.25 }]"},
    {"channel.pack_voltage.input=1", "channel.auxiliary_supply.input=2"},
    {"channel.pack_voltage.frontend=[]"},
    {},
};

TEST(Tune, AnswersAreThoseOfTheCommands) {
  PageOfTool page({"tune", demo_board, "--for", "100 s"});
  const Folder folder;
  for (const auto& settings : changes) {
    const auto answer = told(page, "evaluate", settings, "coolant_flow");
    ASSERT_TRUE(answer.contains("result")) << answer.dump();
    // The overlay that the page writes stands for the changes.
    const auto overlay = folder.write("changes.toml", told(page, "write", settings)["text"]);
    const auto result_of = [&](const char* command, const Settings& more = {}) {
      std::vector<std::string> words{command, demo_board, overlay, "--format", "json"};
      words.insert(words.end(), more.begin(), more.end());
      return Json::parse(tamlo(words).output);
    };
    auto budget = result_of("budget");
    EXPECT_EQ(answer["result"]["budget"]["channels"], budget["channels"]) << overlay;
    const auto check = result_of("check");
    for (std::size_t i = 0; i < check["findings"].size(); ++i) {
      for (const auto* key : {"identifier", "found", "remedy", "changes"})
        EXPECT_EQ(answer["result"]["check"]["findings"][i][key], check["findings"][i][key]);
    }
    EXPECT_EQ(answer["result"]["settings"],
              result_of("channel", {"--channel", "coolant_flow"})["channels"]);
    // What people are shown is what the command prints, digit by digit.
    const auto printed = tamlo({"budget", demo_board, overlay}).output;
    for (const auto& headline : answer["headlines"]) {
      EXPECT_NE(printed.find(headline["line"]["text"]), std::string::npos) << headline.dump();
    }
  }
  EXPECT_EQ(page.stop(), 0);
}

// A name that TOML takes in quotes alone is a channel as any other: its keys change its figures.
TEST(Tune, NamesInQuotesAreChannelsToo) {
  const Folder folder;
  const auto board = folder.write("board.toml", replaced(read(demo_board), "[channel.coolant_flow]",
                                                         "[channel.\"coolant flow\"]"));
  PageOfTool page({"tune", board, "--for", "100 s"});
  const auto budgets = [&](const Settings& settings) {
    return told(page, "evaluate", settings, "coolant flow")["result"]["budget"]["channels"];
  };
  const auto before = budgets({});
  const std::string top = "channel.\"coolant flow\".frontend[0].divider.top=\"20 kohm ±1 %\"";
  const auto after = budgets({top});
  EXPECT_NE(after, before);
  const auto overlay = folder.write("changes.toml", told(page, "write", {top})["text"]);
  EXPECT_EQ(after,
            Json::parse(tamlo({"budget", board, overlay, "--format", "json"}).output)["channels"]);
  EXPECT_EQ(budgets({}), before);
}

TEST(Tune, ReadingsAreHeldAgainstEachChange) {
  PageOfTool page({"tune", demo_board, "--readings", demo_readings, "--for", "100 s"});
  const Folder folder;
  const Settings settings{"channel.pack_voltage.frontend[0].divider.top=\"241 kohm ±0.1 %\""};
  const auto answer = told(page, "evaluate", settings, "pack_voltage");
  const auto overlay = folder.write("changes.toml", told(page, "write", settings)["text"]);
  const auto compared = Json::parse(
      tamlo({"compare", demo_board, overlay, demo_readings, "--format", "json"}).output);
  const auto& channels = answer["result"]["comparisons"];
  ASSERT_EQ(channels.size(), compared["channels"].size());
  for (std::size_t i = 0; i < channels.size(); ++i)
    EXPECT_EQ(channels[i]["rows"], compared["channels"][i]["rows"]);
}

TEST(Tune, WhatCannotBeIsSaidAtItsKeyAndThePageLives) {
  PageOfTool page({"tune", demo_board, "--for", "100 s"});
  struct Case {
    Settings settings;
    const char *key, *says;
  };
  for (const auto& [settings, key, says] :
       {Case{{"channel.pack_voltage.average.time=\"20 mss\""},
             "channel.pack_voltage.average.time",
             "expected a unit of s"},
        Case{{"channel.pack_voltage.frontend[0].divider.top=\"240\""},
             "channel.pack_voltage.frontend[0].divider.top",
             "expected"},
        Case{{"converter.main.resolution=\"99 bit\""}, "converter.main.resolution", "99"},
        Case{{"channel.pack_voltage.spam=1"}, "channel.pack_voltage.spam", "span"},
        Case{{"no setting"}, "--set", "a key and its value"},
        Case{
            {"channel.pack_voltage.average=2000000"}, "channel.pack_voltage.average", "1048576"}}) {
    const auto problem = told(page, "evaluate", settings)["problems"][0];
    EXPECT_EQ(problem["key"], key);
    EXPECT_NE(problem["text"].get<std::string>().find(says), std::string::npos) << problem;
  }
  for (const char* body :
       {"x", "[]", "{}", "{\"settings\":1}", "{\"settings\":[1]}", "null", "\xff",
        "{\"settings\":[],\"channel\":7}", "[[[[[[", "{\"settings\":[\"=\"]}"}) {
    const auto answer = Json::parse(page.answer("evaluate", body), nullptr, false);
    EXPECT_TRUE(answer.contains("problems")) << body;
  }
  const auto deep = std::string(500'000, '[');
  EXPECT_TRUE(Json::parse(page.answer("evaluate", deep)).contains("problems"));
  EXPECT_TRUE(Json::parse(page.answer("spell", request({}))).contains("problems"));
  const auto mine = "Host: " + page.host + "\r\n";
  EXPECT_NE(page.asked(page.path + "evaluate", mine, std::string(1'100'000, ' ')).find(" 413 "),
            std::string::npos);
  for (const auto& headers : {std::string("Host: elsewhere.example\r\n"),
                              mine + "Origin: http://elsewhere.example\r\n"}) {
    EXPECT_NE(page.asked(page.path + "evaluate", headers, request({})).find("403"),
              std::string::npos);
  }
  // Of many at once the newest is answered, and the others are told so, or are.
  std::vector<std::jthread> clients;
  for (int i = 0; i < 20; ++i) {
    clients.emplace_back([&, i] {
      const auto answer =
          told(page, "evaluate", {fmt::format("channel.pack_voltage.average={}", 2 + i)});
      EXPECT_TRUE(answer.contains("result") || answer.contains("superseded")) << i;
    });
  }
  clients.clear();
  EXPECT_TRUE(told(page, "evaluate", {}).contains("result"));
  EXPECT_EQ(page.stop(), 0);
}

TEST(Tune, WritesChangesWhereItIsTold) {
  const Folder folder;
  const auto file = folder.path("changes.toml");
  EXPECT_EQ(tamlo({"tune", demo_board, "--write", "changes.txt", "--for", "1 s"}).status, 2);
  EXPECT_EQ(tamlo({"tune", demo_board, "--write", demo_board, "--for", "1 s"}).status, 2);
  EXPECT_EQ(tamlo({"tune", demo("absent.toml"), "--for", "1 s"}).status, 2);
  PageOfTool page({"tune", demo_board, "--write", file, "--for", "100 s"});
  const auto answer = told(page, "write", {"channel.pack_voltage.average=64"});
  EXPECT_EQ(answer["file"], file);
  EXPECT_EQ(io::load_board({demo_board, file}).channels.front().average.count, 64);
  // A wrong one leaves the good one there.
  EXPECT_TRUE(told(page, "write", {"=2"}).contains("problems"));
  EXPECT_EQ(io::load_board({demo_board, file}).channels.front().average.count, 64);
}

// A remedy that is of single keys is one: with them the finding is gone.
TEST(Check, ARemedyOfSingleKeysCures) {
  int cured = 0;
  const auto examine = [&](const std::vector<std::string>& files, const Settings& settings) {
    const auto board = io::load_board(files, settings);
    for (const auto& channel : board.channels) {
      for (const auto& finding : check::check(board, channel.name)) {
        if (finding.changes.empty()) continue;
        auto with_remedy = settings;
        with_remedy.insert(with_remedy.end(), finding.changes.begin(), finding.changes.end());
        const auto left = check::check(io::load_board(files, with_remedy), channel.name);
        EXPECT_TRUE(std::ranges::none_of(
            left,
            [&](const check::Finding& other) { return other.identifier == finding.identifier; }))
            << finding.identifier << " " << finding.changes.front();
        ++cured;
      }
    }
  };
  for (const auto& file : boards_of_the_tree()) examine({file}, {});
  examine({demo_board}, {"channel.pack_voltage.frontend[0].divider.top=\"220 kohm ±0.1 %\""});
  const Folder folder;
  const auto in_quotes = folder.write(
      "board.toml",
      replaced(read(demo_board), "[channel.pack_voltage]", "[channel.\"pack voltage\"]"));
  examine({in_quotes}, {"channel.\"pack voltage\".frontend[0].divider.top=\"220 kohm ±0.1 %\""});
  examine({demo_board}, {"channel.pack_voltage.target.noise_free=\"14 bit\""});
  examine({demo_board}, {"converter.main.clock.divider=1"});
  examine({demo_board}, {"channel.pack_voltage.rate=\"60 kSa/s\""});
  examine({demo_board}, {"channel.pack_voltage.sampling=\"1 cycles\""});
  EXPECT_GE(cured, 6);
}

}  // namespace
}  // namespace tamlo::testing
