// SPDX-License-Identifier: Apache-2.0
// Every command's JSON against its schema, and its figures against the library's.
#include <gtest/gtest.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/io/board_file.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

using Json = nlohmann::json;

Json parsed(const std::vector<std::string>& arguments) {
  auto with_format = arguments;
  with_format.insert(with_format.end(), {"--format", "json"});
  return Json::parse(tamlo(with_format).output);
}

TEST(Json, EveryCommandKeepsToItsSchema) {
  const Folder folder;
  const auto ramp = folder.path("ramp.csv"), two = folder.path("two.csv");
  tamlo({"simulate", demo_board, "coolant_flow", "--input", "ramp", "--low", "-1.8 l/min", "--high",
         "13.8 l/min", "--samples", "50000", "--write", ramp});
  tamlo({"simulate", demo_board, "pack_voltage", "auxiliary_supply", "--samples", "50", "--write",
         two});
  const std::vector<std::vector<std::string>> calls{
      {"check", demo_board},
      {"check", demo_board, "pack_voltage"},
      {"channel", demo_board},
      {"channel", demo_board, "coolant_flow"},
      {"channel", example("eight_channels.toml")},
      {"channel", example("process_inputs.toml"), "coolant_pressure"},
      {"channel", example("registers.toml")},
      {"channel", example("lamp_light.toml")},
      {"convert", example("registers.toml"), "widened", "--at", "24 V", "--code", "65535"},
      {"convert", demo_board, "pack_voltage", "--at", "48 V", "--code", "0", "--code", "4095"},
      {"budget", demo_board},
      {"budget", demo_board, "pack_voltage", "--at", "48 V"},
      {"budget", demo_board, "coolant_flow", "--trials", "5000", "--seed", "3"},
      {"budget", demo_board, "--set", "channel.coolant_flow.average=64"},
      {"budget", example("temperatures.toml")},
      {"compare", demo_board, demo_readings},
      {"compare", demo_board, demo_readings, "--channel", "auxiliary_supply"},
      {"compare", demo_board, demo("readings_units.csv")},
      {"compare", demo_board, demo("readings_later.csv"), "--since", demo_readings, "--elapsed",
       "1 year"},
      {"calibrate", demo_board, demo_readings, "--channel", "pack_voltage"},
      {"calibrate", demo_board, demo_readings, "--channel", "pack_voltage", "--model",
       "polynomial"},
      {"calibrate", demo_board, demo_readings, "--channel", "pack_voltage", "--model", "piecewise"},
      {"calibrate", demo_board, demo_readings, "--channel", "auxiliary_supply", "--held-out",
       demo("readings_later.csv")},
      {"record", demo_board, demo("steady.raw"), "--layout", "int16", "--channel", "pack_voltage"},
      {"record", demo_board, demo("step.csv"), "--input", "step", "--step-at", "99.05"},
      {"record", demo_board, demo("sine.wav"), "--channel", "auxiliary_supply", "--input", "sine"},
      {"record", demo_board, ramp, "--input", "ramp", "--low", "-1.8 l/min", "--high",
       "13.8 l/min"},
      {"record", demo_board, two},
  };
  auto pairs = Json::array();
  for (const auto& call : calls) {
    pairs.push_back({{"schema", std::string(TAMLO_SCHEMAS) + "/" + call.front() + ".json"},
                     {"document", parsed(call)}});
  }
  const auto result =
      run("/usr/bin/python3",
          {"-c",
           "import json, sys, jsonschema\n"
           "for pair in json.load(open(sys.argv[1])):\n"
           "    schema, document = json.load(open(pair['schema'])), pair['document']\n"
           "    print(document['command'])\n"
           "    jsonschema.Draft7Validator.check_schema(schema)\n"
           "    valid = jsonschema.Draft7Validator(schema)\n"
           "    valid.validate(document)\n"
           "    # a schema that takes anything proves nothing\n"
           "    document['surprise'] = 1\n"
           "    assert not valid.is_valid(document)\n",
           folder.write("pairs.json", pairs.dump())});
  EXPECT_EQ(result.status, 0) << result.output << result.errors;
  EXPECT_EQ(std::ranges::count(result.output, '\n'), std::ssize(calls));
}

TEST(Json, FiguresAreThoseOfTheLibraryInTheUnitOfTheSpan) {
  const auto whole = parsed({"budget", demo_board, "pack_voltage", "--at", "48 V"});
  EXPECT_EQ(whole["format"], 2);
  EXPECT_EQ(whole["command"], "budget");
  const auto& document = whole["channels"].at(0);
  EXPECT_EQ(document["channel"], "pack_voltage");
  EXPECT_EQ(document["unit"], "V");
  const auto chain = chain::build(io::load_board({demo_board}), "pack_voltage");
  const auto budget = budget::evaluate(chain, {.at = {48.0}});
  const auto& point = budget.points.front();
  const auto& of = document["points"].at(0);
  EXPECT_EQ(of["at"], 48.0);
  EXPECT_EQ(of["combined"], point.combined);
  EXPECT_EQ(of["expanded"], point.expanded);
  EXPECT_EQ(of["worst_case"]["low"], point.worst_case.low);
  EXPECT_EQ(of["worst_case"]["high"], point.worst_case.high);
  EXPECT_EQ(of["adjusted"]["two_point"], point.adjusted.two_point);
  EXPECT_TRUE(of["dof"].is_null());
  double share = 0.0, last = 1.0;
  for (const auto& c : of["contributions"]) {
    EXPECT_LE(c["share"].get<double>(), last + 1e-12);  // sorted, but for rounding
    last = c["share"].get<double>();
    share += last;
    EXPECT_NEAR(c["sensitivity"].get<double>() * c["standard_uncertainty"].get<double>(),
                c["contribution"].get<double>(), 1e-12);
  }
  EXPECT_NEAR(share, 1.0, 1e-12);
}

// The same demo_board with its span in millivolts: figures of the quantity move, nothing else does.
TEST(Json, FiguresFollowTheUnitOfTheSpan) {
  const Folder folder;
  const auto volts = folder.write("volts.toml", small_board);
  const auto millivolts = folder.write("mv.toml", replaced(small_board, "0..24 V", "0..24000 mV"));
  const auto a = parsed({"budget", volts, "v", "--at", "12 V"})["channels"].at(0)["points"].at(0);
  const auto b =
      parsed({"budget", millivolts, "v", "--at", "12 V"})["channels"].at(0)["points"].at(0);
  EXPECT_EQ(b["at"], 12000.0);
  EXPECT_NEAR(b["expanded"].get<double>(), 1000.0 * a["expanded"].get<double>(), 1e-9);
  EXPECT_EQ(b["contributions"].at(0)["standard_uncertainty"],
            a["contributions"].at(0)["standard_uncertainty"]);
}

// The contract's fields of trials, and the same digits on any number of threads.
TEST(Json, Trials) {
  const std::vector<std::string> call{"budget",   demo_board, "coolant_flow", "--at", "12 l/min",
                                      "--trials", "20000",    "--seed",       "7",    "--threads"};
  std::vector<Json> all;
  for (const char* threads : {"1", "2", "7"}) {
    auto with = call;
    with.emplace_back(threads);
    all.push_back(parsed(with)["channels"].at(0)["points"].at(0));
  }
  EXPECT_EQ(all[0], all[1]);
  EXPECT_EQ(all[0], all[2]);
  const auto& trials = all[0]["trials"];
  EXPECT_EQ(trials["count"], 20000);
  EXPECT_NEAR(trials["combined"].get<double>() / all[0]["combined"].get<double>(), 1.0, 0.02);
  const auto width = [&](const char* of) {
    return trials[of]["high"].get<double>() - trials[of]["low"].get<double>();
  };
  EXPECT_GT(width("symmetric"), 0.0);
  EXPECT_LE(width("shortest"), width("symmetric"));
}

TEST(Json, OfAComparison) {
  const auto document = parsed({"compare", demo_board, demo_readings});
  ASSERT_EQ(document["channels"].size(), 2U);
  const auto& pack = document["channels"].at(0);
  EXPECT_EQ(pack["rows"].size(), 10U);
  EXPECT_EQ(pack["summary"]["verdict"], "fail");
  EXPECT_FALSE(pack["summary"]["agreement"]["agrees"].get<bool>());
  EXPECT_NEAR(pack["summary"]["gain"]["value"].get<double>(), 0.012, 0.001);
  const auto& row = pack["rows"].at(9);
  EXPECT_NEAR(row["reading"].get<double>() - row["meter"].get<double>(),
              row["difference"].get<double>(), 1e-12);
  EXPECT_EQ(document["channels"].at(1)["summary"]["verdict"], "pass");
}

}  // namespace
}  // namespace tamlo::testing
