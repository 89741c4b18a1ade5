// SPDX-License-Identifier: Apache-2.0
// tamlo explore on the demo's choices; what it writes, read by budget; mistakes of a choices file.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <map>

#include <nlohmann/json.hpp>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

using Json = nlohmann::json;

// The demo's choices without some of them: fewer candidates.
std::string choices_without(const std::vector<std::string>& names) {
  auto text = read(demo("choices.toml"));
  for (const auto& name : names) {
    const auto from = text.rfind("[[choice]]", text.find('"' + name + '"'));
    text.erase(from, text.find("[[choice]]", from + 1) - from);
  }
  return text;
}

std::string few_choices() {
  return choices_without({"auxiliary divider", "flow divider", "flow sensor", "flow filter"});
}

TEST(Explore, WhatItWritesIsTheBoardThatItFound) {
  const Folder folder;
  const auto chosen = folder.path("chosen.toml");
  const auto choices = folder.write(
      "choices.toml",
      choices_without({"pack divider", "auxiliary divider", "flow sensor", "flow filter"}));
  const auto result = tamlo({"explore", demo_board, choices, "--channel", "coolant_flow",
                             "--format", "json", "--write", chosen});
  ASSERT_EQ(result.status, 0) << result.errors;
  const auto json = Json::parse(result.output);
  EXPECT_EQ(json["candidates"], 2 * 3 * 4 * 2 * 3);
  EXPECT_EQ(json["goals"], (Json{"price", "error", "latency"}));
  const auto& front = json["front"];
  ASSERT_GE(front.size(), 2u);
  const auto figures = [](const Json& of) {
    return std::vector<double>{of["amounts"][1]["value"], of["error"], of["latency"]};
  };
  for (std::size_t i = 0; i < front.size(); ++i) {
    EXPECT_TRUE(front[i]["feasible"]);
    // By price; and none is as good as another in everything.
    EXPECT_GE(figures(front[i])[0], figures(front[i > 0 ? i - 1 : 0])[0]);
    for (std::size_t k = 0; k < front.size(); ++k) {
      const auto one = figures(front[i]), other = figures(front[k]);
      EXPECT_EQ(one[0] <= other[0] && one[1] <= other[1] && one[2] <= other[2], i == k);
    }
  }
  // The same by the number, as the last that is not adjusted, held against the budget's own figure.
  int written_back = 0;
  for (const auto& of : front) {
    if (of["choices"].back()["value"] != "none" || ++written_back > 2) continue;
    const auto number = std::to_string(of["number"].get<int>());
    const auto written = tamlo({"explore", demo_board, choices, "--channel", "coolant_flow",
                                "--number", number, "--write", chosen});
    ASSERT_EQ(written.status, 0) << written.errors;
    const auto budget =
        tamlo({"budget", demo_board, chosen, "--channel", "coolant_flow", "--format", "json"});
    ASSERT_EQ(budget.status, 0) << budget.errors;
    const auto worst = Json::parse(budget.output)["channels"][0]["worst_place"];
    const double used = (std::abs(worst["bias"].get<double>()) + worst["expanded"].get<double>()) /
                        worst["limit"].get<double>();
    EXPECT_NEAR(of["error"].get<double>(), used, 1e-12);
  }
  EXPECT_GT(written_back, 0);
}

void expect_the_designed_board(const Json& json) {
  const std::vector<std::string> designed{"precision", "12 bit", "0.1 %", "0.1 %",    "1 %",
                                          "as it is",  "50 ms",  "4",     "two-point"};
  double price = 0.0;
  for (const auto& of : json["front"]) {
    std::vector<std::string> values;
    for (const auto& choice : of["choices"]) values.push_back(choice["value"]);
    if (values == designed) price = of["amounts"][1]["value"];
  }
  EXPECT_NEAR(price, 0.90 + 0.50 + 0.30 + 0.30 + 0.02 + 1.40, 1e-12);
  EXPECT_EQ(json["best"][1]["least"], "price");
  EXPECT_LT(json["best"][1]["candidate"]["amounts"][1]["value"], price);
  // What a tighter target costs is dearer, and tighter.
  ASSERT_EQ(json["costs"].size(), 5u);
  for (const auto& of : json["costs"]) {
    if (of["next"].is_null()) continue;
    EXPECT_GT(of["next_cost"], of["cost"]);
    EXPECT_EQ(of["next"].get<double>() > of["now"].get<double>(), of["target"] == "noise_free");
  }
}

// Of what is folded another stands, at most one percent worse in every goal, and for itself.
void expect_folded(const Json& json, const std::string& text) {
  std::map<int, std::vector<double>> goals;
  for (const auto& of : json["front"]) {
    goals[of["number"]] = {of["amounts"][1]["value"], of["error"], of["latency"]};
  }
  std::size_t folded = 0;
  for (const auto& of : json["front"]) {
    const auto row = "\n" + fmt::format("{:>8}", of["number"].get<int>()) + "   ";
    EXPECT_EQ(text.find(row) == std::string::npos, !of["like"].is_null()) << row;
    if (of["like"].is_null()) continue;
    ++folded;
    for (std::size_t g = 0; g < 3; ++g) {
      EXPECT_LE(goals.at(of["like"])[g], 1.01 * goals.at(of["number"])[g]);
    }
  }
  EXPECT_GT(folded, 10U);
}

// The board as it was designed, with a quicker filter and adjusted at two points, is one of the
// front; a cheaper one meets everything too.
TEST(Explore, FindsTheDesignOfTheDemoAndACheaperOneWithAnyThreads) {
  const auto with = [](const char* threads, const char* format) {
    return tamlo(
        {"explore", demo_board, demo("choices.toml"), "--threads", threads, "--format", format});
  };
  const auto result = with("1", "json");
  ASSERT_EQ(result.status, 0) << result.errors;
  EXPECT_EQ(result.output, with("2", "json").output);
  const auto json = Json::parse(result.output);
  expect_the_designed_board(json);
  const auto text = with("2", "text").output;
  EXPECT_NE(text.find("candidates meet everything"), std::string::npos);
  expect_folded(json, text);
}

TEST(Explore, WhereNothingIsFeasibleItIsSaid) {
  const Folder folder;
  const auto poor = folder.write("poor.toml", R"(format = 1
[limit]
price = 0.5
[[choice]]
name = "average"
key = "channel.coolant_flow.average"
values = [ { is = 1, price = 1 }, { is = 4, price = 2 } ]
[[choice]]
name = "top"
key = "channel.coolant_flow.frontend[0].divider.top"
values = { series = "E6", from = "4.7 kohm", to = "22 kohm", limits = "±1 %" }
)");
  const auto none = tamlo({"explore", demo_board, poor, "--channel", "coolant_flow"});
  EXPECT_EQ(none.status, 1) << none.errors;
  EXPECT_NE(none.output.find("0 of 10 candidates meet everything"), std::string::npos)
      << none.output;
  EXPECT_NE(none.output.find("nearest"), std::string::npos) << none.output;
  // With a better sensor the limit alone is in the way.
  const auto dear = folder.write("dear.toml", R"(format = 1
[limit]
price = 0.5
[[choice]]
name = "adjustment"
adjustment = true
values = [ { is = "none", price = 0 }, { is = "two-point", price = 0.7 } ]
)");
  const auto beyond = tamlo({"explore", demo_board, dear, "--channel", "coolant_flow"});
  EXPECT_EQ(beyond.status, 1);
  EXPECT_NE(
      beyond.output.find("to relax first: the limit of price: candidate 1 meets every target with "
                         "0.7000; 0.5000 is allowed"),
      std::string::npos)
      << beyond.output;
}

// The loosest limits meet the target, and a hundredth more does not.
TEST(Explore, SolvesForTheLoosestLimits) {
  const Folder folder;
  const std::string top = "channel.pack_voltage.frontend[0].divider.top";
  const auto result = tamlo({"explore", demo_board, "--channel", "pack_voltage", "--solve", top,
                             "--solve", "reference.precision.voltage", "--format", "json"});
  ASSERT_EQ(result.status, 0) << result.errors;
  const auto json = Json::parse(result.output);
  const double factor = json["factor"];
  EXPECT_GT(factor, 1.5);
  EXPECT_NEAR(json["error"], 1.0, 0.01);
  const auto budget = [&](double times) {
    const auto percent = [&](double of) { return std::to_string(of * times) + " % "; };
    const auto ppm = [&](double of) { return std::to_string(of * times) + " ppm"; };
    return tamlo({"budget", demo_board, "--channel", "pack_voltage", "--set",
                  top + "=240 kohm ±" + percent(0.1) + "±" + ppm(25) + "/K", "--set",
                  "reference.precision.voltage=2.5 V ±" + percent(0.05) + "±" + ppm(10) + "/K ±" +
                      ppm(40) + "/year"});
  };
  EXPECT_EQ(budget(factor * 0.998).status, 0);
  // As it is said, to three digits, it is met too.
  std::vector<std::string> words{"budget", demo_board, "--channel", "pack_voltage"};
  for (const auto& of : json["keys"]) {
    const std::string loosest = of["loosest"];
    EXPECT_LT(loosest.size(), 50u) << loosest;
    words.insert(words.end(), {"--set", of["key"].get<std::string>() + "=" + loosest});
  }
  EXPECT_EQ(tamlo(words).status, 0);
  EXPECT_EQ(budget(factor * 1.01).status, 1);
  const auto never = tamlo({"explore", demo_board, "--solve", top, "--channel", "coolant_flow"});
  EXPECT_EQ(never.status, 1);
  EXPECT_NE(never.output.find("another source dominates"), std::string::npos) << never.output;
  const auto any =
      tamlo({"explore", demo_board, "--solve", "channel.coolant_flow.frontend[0].divider.top",
             "--channel", "auxiliary_supply"});
  EXPECT_NE(any.output.find("do not depend on these limits"), std::string::npos) << any.output;
  for (const char* const key :
       {"reference.none.voltage", "converter.main.resolution", "converter.main"}) {
    EXPECT_EQ(tamlo({"explore", demo_board, "--solve", key}).status, 2) << key;
  }
  const auto picture = folder.path("front.svg");
  const auto few = folder.write("few.toml", few_choices());
  EXPECT_EQ(tamlo({"explore", demo_board, few, "--plot", picture}).status, 0);
  EXPECT_NE(read(picture).find("<svg"), std::string::npos);
}

// Where nothing says what is allowed, no error is known, and that is said.
TEST(Explore, SaysOfWhichChannelNoErrorIsKnown) {
  const Folder folder;
  const std::string target = "target = { accuracy = \"±0.5 % of span\" }\n";
  const auto with = folder.write("with.toml", small_board);
  const auto without = folder.write("without.toml", replaced(small_board, target, ""));
  const auto choices = folder.write("c.toml", R"(format = 1
[[choice]]
name = "average"
key = "channel.v.average"
values = [ { is = 1, price = 1 }, { is = 4, price = 2 } ]
)");
  const std::string says = "the error of v does not count: it has no accuracy target";
  const auto asked = tamlo({"explore", with, choices});
  EXPECT_EQ(asked.status, 0) << asked.errors;
  EXPECT_EQ(asked.output.find(says), std::string::npos) << asked.output;
  const auto result = tamlo({"explore", without, choices});
  EXPECT_EQ(result.status, 0) << result.errors;
  EXPECT_NE(result.output.find(says), std::string::npos) << result.output;
}

TEST(Explore, MistakesOfAChoicesFile) {
  const Folder folder;
  struct Case {
    const char *text, *says;
  };
  const Case cases[] = {
      {"[[choice]]\nname = \"a\"\nkey = \"x.y\"\nvalues = [1]", "missing key: expected format = 1"},
      {"format = 1", "no choice"},
      {"format = 1\n[[choice]]\nkey = \"channel.pack_voltage.average\"\nvalues = [1]",
       "without a name"},
      {"format = 1\n[[choice]]\nname = \"a\"\nvalues = [1]", "no key"},
      {"format = 1\n[[choice]]\nname = \"a\"\nkey = \"k\"\nvalues = []", "no values"},
      {"format = 1\n[[choice]]\nname = \"a\"\nkeys = [\"k\", \"l\"]\nvalues = [[1]]",
       "arrays of 2 values"},
      {"format = 1\n[[choice]]\nname = \"a\"\nadjustment = true\nvalues = [\"best\"]", "two-point"},
      {"format = 1\n[[choice]]\nname = \"a\"\nkey = \"k\"\nvalues = { from = 3, to = 1 }",
       "a range that is none"},
      {"format = 1\n[[choice]]\nname = \"a\"\nkey = \"k\"\nvalues = { series = \"E7\", from = \"1 "
       "ohm\", to = \"2 ohm\" }",
       "a series without values"},
      {"format = 1\n[[choice]]\nname = \"a\"\nkey = \"k\"\nvalues = { series = \"E6\", from = \"1 "
       "kohm ±1 %\", to = \"2 kohm\" }",
       "an end without limits"},
      {"format = 1\n[[choice]]\nname = \"a\"\nkey = \"k\"\nvalues = { series = \"E6\", from = \"1 "
       "kohm\", to = \"2 kohm ±5 ohm\" }",
       "an end without limits"},
      {"format = 1\n[goal]\nleast = \"beauty\"\n[[choice]]\nname = \"a\"\nkey = \"k\"\nvalues = "
       "[1]",
       "beauty"},
      {"format = 1\n[limit]\nprice = 1\n[[choice]]\nname = \"a\"\nkey = \"k\"\nvalues = [1]",
       "a limit of what no value has"},
      {"format = 1\n[[choice]]\nname = \"a\"\nkey = \"k\"\nvalues = [{ is = 1, price = \"x\" }]",
       "price"},
      {"format = 1\n[[choice]]\nname = \"a\"\nkey = \"k\"\nvalues = [{ is = 1, error = 1 }]",
       "another name"},
      {"format = 1\n[[choice]]\nname = \"a\"\nadjustment = true\nvalues = "
       "[\"none\"]\n[[choice]]\nname = "
       "\"b\"\nadjustment = true\nvalues = [\"zero\"]",
       "a second choice of an adjustment"},
      // What the board does not have: with its place and the nearest word.
      {"format = 1\n[[choice]]\nname = \"a\"\nkey = \"converter.mian.noise\"\nvalues = [\"1 LSB "
       "rms\"]",
       "c.toml:4:7: choice.key: found \"converter.mian.noise\", expected a key of this board (did "
       "you "
       "mean converter.main.noise?)"},
      {"format = 1\n[[choice]]\nname = \"a\"\nkey = \"converter.main.reference\"\nvalues = "
       "[\"internal\", \"precison\"]",
       "c.toml:5:23: converter.main.reference: found \"precison\""},
      {"format = 1\n[[choice]]\nname = \"a\"\nkey = \"channel.coolant_flow.average\"\nvalues = { "
       "from = 0, to = 4 }",
       "c.toml:5:10: channel.coolant_flow.average: found the integer 0"},
      {"format = 1\ncolour = 1\n[[choice]]\nname = \"a\"\nkey = \"k\"\nvalues = [1]", "colour"},
  };
  for (const auto& [text, says] : cases) {
    const auto result = tamlo({"explore", demo_board, folder.write("c.toml", text)});
    EXPECT_EQ(result.status, 2) << text << result.output;
    EXPECT_NE(result.errors.find(says), std::string::npos) << text << "\n" << result.errors;
  }
  EXPECT_EQ(tamlo({"explore", demo_board}).status, 2);
}

// A value that only another choice makes readable is no mistake.
TEST(Explore, ValuesThatBelongTogetherAreTaken) {
  const Folder folder;
  const auto choices = folder.write("c.toml", R"(format = 1
[[choice]]
name = "architecture"
key = "converter.main.architecture"
values = ["sar", "delta sigma"]
[[choice]]
name = "data rate"
key = "converter.main.data_rate"
values = ["100 Sa/s"]
)");
  const auto result = tamlo({"explore", demo_board, choices, "--format", "json"});
  EXPECT_LE(result.status, 1) << result.errors;
}

// The largest margin is the least error.
TEST(Explore, AMarginIsWhatTheErrorLeaves) {
  const Folder folder;
  const auto goals = [&](const char* least) {
    const auto file =
        folder.write("choices.toml", std::string("format = 1\n[goal]\nleast = ") + least +
                                         "\n[[choice]]\nname = \"average\"\n"
                                         "key = \"channel.coolant_flow.average\"\n"
                                         "values = [4, 64]\n");
    return Json::parse(tamlo({"explore", demo_board, file, "--format", "json"}).output)["goals"];
  };
  EXPECT_EQ(goals("\"margin\""), Json{"error"});
  EXPECT_EQ(goals("[\"latency\", \"margin\", \"error\"]"), (Json{"latency", "error"}));
}

// Ended by a signal it says what is known; what was kept is not tried again, and gives the same.
// The budget of every board of this tree holds, by counting virtual units.
TEST(Explore, EveryBudgetIsProvenByUnits) {
  for (const auto& board : boards_of_the_tree()) {
    const auto result = tamlo({"prove", board, "--unit", "1..500", "--threads", "2"});
    EXPECT_EQ(result.status, 0) << board << result.output << result.errors;
  }
}

TEST(Explore, GoesOnFromWhatItKept) {
  const Folder folder;
  const auto kept = folder.path("kept.csv");
  const auto few = folder.write("few.toml", few_choices());
  std::vector<std::string> words{"explore", demo_board, few, "--format", "json"};
  const auto whole = tamlo(words);
  words.insert(words.end(), {"--resume", kept});
  EXPECT_EQ(tamlo(words).output, whole.output);
  const auto text = read(kept);
  EXPECT_EQ(tamlo(words).output, whole.output);
  EXPECT_EQ(read(kept), text);
  // Half of it, torn in a row.
  folder.write("kept.csv", text.substr(0, text.size() / 2));
  EXPECT_EQ(tamlo(words).output, whole.output);
  // Another work does not go on in it.
  words.insert(words.end(), {"--channel", "coolant_flow"});
  const auto other = tamlo(words);
  EXPECT_EQ(other.status, 3);
  EXPECT_NE(other.errors.find("holds the progress of another run"), std::string::npos)
      << other.errors;

  const auto many = folder.write("many.toml", R"(format = 1
[[choice]]
name = "top"
key = "channel.pack_voltage.frontend[0].divider.top"
values = { series = "E192", from = "100 kohm", to = "10 Mohm" }
[[choice]]
name = "bottom"
key = "channel.pack_voltage.frontend[0].divider.bottom"
values = { series = "E192", from = "10 kohm", to = "1 Mohm" }
)");
  const auto ended = run("/usr/bin/timeout", {"-s", "INT", "1.5", TAMLO_TOOL, "explore", demo_board,
                                              many, "--channel", "pack_voltage"});
  EXPECT_EQ(ended.status, 124) << ended.errors;
  EXPECT_NE(ended.output.find("ended early: what follows is of the"), std::string::npos)
      << ended.output;
}

}  // namespace
}  // namespace tamlo::testing
