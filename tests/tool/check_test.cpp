// SPDX-License-Identifier: Apache-2.0
// Findings with their places, for programs that show them there; checking again at every save; the
// schema of a board file, by which an editor completes and checks.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include <chrono>
#include <filesystem>
#include <fstream>
#include <regex>
#include <set>
#include <thread>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/result/results.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

using Json = nlohmann::json;

// Each channel is a test case, whatever its name, and the exit status is that of the text.
TEST(Check, VerdictsAreTestCases) {
  const Folder folder;
  const auto board = folder.write("board.toml", replaced(read(demo_board), "[channel.coolant_flow]",
                                                         "[channel.\"a < b & 'c'\"]"));
  struct Case {
    std::vector<std::string> call;
    const char* counts;
    std::vector<const char*> says;
  };
  for (const auto& [call, counts, says] :
       {Case{{"budget", board},
             "tests=\"3\" failures=\"1\" errors=\"0\" skipped=\"0\"",
             {"name=\"a &#60; b &#38; &#39;c&#39;\"><failure message=\"a &#60; b",
              "name=\"pack_voltage\"><system-out>pack_voltage: TARGET MET"}},
        Case{{"budget", demo_board, "--set", "channel.coolant_flow.target.accuracy=±2 % of span"},
             "tests=\"3\" failures=\"0\"",
             {"coolant_flow: TARGET MET"}},
        Case{{"compare", demo_board, demo_readings},
             "tests=\"2\" failures=\"1\"",
             {"name=\"pack_voltage\"><failure message=\"pack_voltage: FAIL: 6 of 10"}}}) {
    auto as_tests = call;
    as_tests.insert(as_tests.end(), {"--format", "junit"});
    const auto result = tamlo(as_tests);
    EXPECT_EQ(result.status, tamlo(call).status) << result.errors;
    EXPECT_NE(result.output.find(counts), std::string::npos) << result.output;
    for (const auto* text : says)
      EXPECT_NE(result.output.find(text), std::string::npos) << text << result.output;
  }
}

// The same findings for hosts of code: what SARIF 2.1.0 requires is there, and each at its line.
TEST(Check, FindingsAreSarif) {
  const Folder folder;
  const auto board =
      folder.write("my board.toml", replaced(read(demo_board), "240 kohm", "220 kohm"));
  const auto json = tamlo({"check", board, "--format", "json"});
  const auto result = tamlo({"check", board, "--format", "sarif"});
  EXPECT_EQ(result.status, 1) << result.errors;
  const auto sarif = Json::parse(result.output), findings = Json::parse(json.output)["findings"];
  EXPECT_EQ(sarif["version"], "2.1.0");
  ASSERT_EQ(sarif["runs"].size(), 1U);
  const auto& run = sarif["runs"][0];
  EXPECT_EQ(run["tool"]["driver"]["name"], "tamlo");
  ASSERT_EQ(run["results"].size(), findings.size());
  ASSERT_GE(findings.size(), 1U);
  for (std::size_t i = 0; i < findings.size(); ++i) {
    const auto& one = run["results"][i];
    EXPECT_EQ(one["ruleId"], findings[i]["identifier"]);
    EXPECT_EQ(one["level"],
              findings[i]["severity"] == "advice" ? Json("note") : findings[i]["severity"]);
    EXPECT_NE(one["message"]["text"].get<std::string>().find(findings[i]["found"]),
              std::string::npos);
    const auto& place = one["locations"][0]["physicalLocation"];
    EXPECT_EQ(place["region"]["startLine"], findings[i]["line"]);
    EXPECT_EQ(place["region"]["startColumn"], findings[i]["column"]);
    EXPECT_EQ(place["artifactLocation"]["uri"], "file://" + replaced(board, " ", "%20"));
  }
  // A board that cannot be read is found at fault, too.
  const auto broken = folder.write("broken.toml", "format = 1\n[channel.v]\nspan = \"x\"\n");
  const auto refused = tamlo({"check", broken, "--format", "sarif"});
  EXPECT_EQ(refused.status, 2);
  const auto first = Json::parse(refused.output)["runs"][0]["results"][0];
  EXPECT_EQ(first["level"], "error");
  EXPECT_GE(first["locations"][0]["physicalLocation"]["region"]["startLine"], 2);
}

// A place of a finding leads to the key that it is about, in the file that has it.
TEST(Check, FindingsHaveTheirPlaces) {
  const Folder folder;
  const auto board = folder.write("board.toml", R"(format = 1
[reference.supply]
voltage = "3.3 V"
[converter.main]
resolution = "10 bit"
reference = "supply"
[channel.throttle]
span = "0..5 V"
converter = "main"
)");
  const auto overlay = folder.write("more.toml", "[channel.throttle]\nspan = \"0..9 V\"\n");
  struct Case {
    std::vector<std::string> files;
    std::string file;
    int line, column;
  };
  for (const auto& [files, file, line, column] :
       {Case{{board}, board, 8, 8}, Case{{board, overlay}, overlay, 2, 8}}) {
    std::vector<std::string> call{"check"};
    call.insert(call.end(), files.begin(), files.end());
    const auto text = tamlo(call);
    EXPECT_NE(text.output.find("at      " + file + ":" + std::to_string(line) + ":" +
                               std::to_string(column) + ": channel.throttle.span"),
              std::string::npos)
        << text.output;
    call.insert(call.end(), {"--format", "json"});
    const auto result = tamlo(call);
    EXPECT_EQ(result.status, 1);
    const auto finding = Json::parse(result.output)["findings"].at(0);
    EXPECT_EQ(finding["identifier"], "span-beyond-range");
    EXPECT_EQ(finding["file"], file);
    EXPECT_EQ(finding["line"], line);
    EXPECT_EQ(finding["column"], column);
    EXPECT_EQ(finding["end_column"], column + 8);  // "0..5 V" with its quotes
    EXPECT_EQ(finding["key"], "channel.throttle.span");
  }
}

// What cannot be read is a list of findings too, each with its stable code, and still status 2.
TEST(Check, WhatCannotBeReadIsFoundToo) {
  const struct {
    const char *text, *code, *key;
    int line, column, end_column;
  } cases[] = {
      {"format = 1\n[board]\ntitel = \"x\"\n", "unknown-key", "board.titel", 3, 1, 6},
      {"format = 1\n[reference.r]\nnoise = \"1 uV rms\"\n", "missing-key", "reference.r.voltage", 2,
       1, 14},
      {"format = 1\n[reference.r]\nvoltage = \"2.5 W\"\n", "wrong-value", "reference.r.voltage", 3,
       16, 18},
      {"format = 1\n[board\n", "not-toml", "", 2, 7, 0},
  };
  const Folder folder;
  for (const auto& of : cases) {
    const auto board = folder.write("board.toml", of.text);
    const auto result = tamlo({"check", board, "--format", "json"});
    EXPECT_EQ(result.status, 2) << of.text;
    EXPECT_NE(result.errors.find(board), std::string::npos) << result.errors;
    bool found = false;
    const auto document = Json::parse(result.output);
    for (const auto& finding : document["findings"]) {
      if (finding["identifier"] != of.code) continue;
      found = found || (finding["severity"] == "error" && finding["key"] == of.key &&
                        finding["file"] == board && finding["line"] == of.line &&
                        finding["column"] == of.column && finding["end_column"] == of.end_column);
    }
    EXPECT_TRUE(found) << of.text << result.output;
  }
}

// The key that a finding names is one that a board can have: every report in the code.
TEST(Check, KeysOfFindingsAreKeysOfABoard) {
  const auto schema = Json::parse(read(std::string(TAMLO_SCHEMAS) + "/board.json"));
  const std::regex report("report\\(\\s*\"[a-z-]+\", \"(converter\\.)?([a-z_]+)\"");
  int reports = 0;
  for (const auto& entry :
       std::filesystem::directory_iterator(std::string(TAMLO_SOURCE) + "/src/check")) {
    const auto code = read(entry.path().string());
    for (std::sregex_iterator at(code.begin(), code.end(), report), end; at != end; ++at) {
      ++reports;
      const auto* section = (*at)[1].matched                    ? "converter"
                            : entry.path().stem() == "quantity" ? "quantity"
                                                                : "channel";
      EXPECT_TRUE(schema["properties"][section]["additionalProperties"]["properties"].contains(
          (*at)[2].str()))
          << at->str();
    }
  }
  EXPECT_GT(reports, 38);
}

// Saved again, checked again, until it is ended; a board that cannot be read ends nothing.
TEST(Check, WatchesItsFiles) {
  const Folder folder;
  const auto board = folder.write("board.toml", "format = 1\n");
  const auto script = R"(
"$1" check "$2" --watch > "$3" & watcher=$!
said() { for i in $(seq 100); do grep -q "$1" "$2" && return; sleep 0.1; done; return 1; }
said "NOT READ" "$3" && cp "$4" "$2" && said "SOUND" "$3"; seen=$?
kill -INT $watcher; wait $watcher; echo "ended with $?, seen $seen")";
  const auto result =
      run("/bin/bash", {"-c", script, "watch", TAMLO_TOOL, board, folder.path("said"), demo_board});
  EXPECT_NE(result.output.find("ended with 0, seen 0"), std::string::npos)
      << result.output << result.errors << read(folder.path("said"));
}

// What the reader makes of some files: settings and budgets of all channels.
std::string all_of(const std::vector<std::string>& files) {
  const auto board = io::load_board(files);
  result::Budgets budgets;
  result::ChannelsSettings settings;
  for (const auto& channel : board.channels) {
    const auto chain = chain::build(board, channel.name);
    budgets.channels.push_back(
        {.budget = budget::evaluate(chain, {.search = false, .rough_units = 50})});
    settings.channels.push_back(budget::settings(chain, {.rough_units = 50}));
  }
  auto said = Json::parse(result::write(settings, result::Format::json));
  for (auto& of : said["channels"]) of.erase("defaults");  // those that are left out
  return result::write(budgets, result::Format::json) + said.dump();
}

// A board that states a default says the same as one that leaves it out.
TEST(Check, DefaultsOfTheSchemaAreThoseOfTheReader) {
  const auto schema = Json::parse(read(std::string(TAMLO_SCHEMAS) + "/board.json"))["properties"];
  const std::pair<const char*, const char*> places[] = {{"conditions", "[conditions]"},
                                                        {"converter", "[converter.main]"},
                                                        {"channel", "[channel.pack_voltage]"},
                                                        {"meter", "[meter.bench]"}};
  const Folder folder;
  std::set<std::string> held;
  for (const auto& [section, heading] : places) {
    const auto& of = schema[section];
    const auto& keys =
        of.contains("properties") ? of["properties"] : of["additionalProperties"]["properties"];
    for (const auto& [key, about] : keys.items()) {
      if (!about.contains("default")) continue;
      const auto without = folder.write(
          "without.toml",
          std::regex_replace(read(demo_board), std::regex("\n" + key + " *=[^\n]*"), ""));
      const auto stated = folder.write("stated.toml", std::string(heading) + "\n" + key + " = " +
                                                          about["default"].dump() + "\n");
      try {
        EXPECT_EQ(all_of({without}), all_of({without, stated})) << key;
        held.insert(key);
      } catch (const io::BadInput& error) {
        EXPECT_EQ(key, "sinc_order") << error.what();  // only beside what it belongs to
      }
    }
  }
  EXPECT_GE(held.size(), 8U);
}

// Every board of this tree keeps to the schema, what is misspelt does not, and every key of the
// board file's page is in it.
TEST(Check, TheSchemaOfABoardIsThatOfItsReader) {
  const std::string root = TAMLO_SOURCE;
  const auto result = run("/usr/bin/python3", {"-c", R"(
import glob, json, re, sys, tomllib, jsonschema
schema = json.load(open(sys.argv[1])); root = sys.argv[2]
jsonschema.Draft7Validator.check_schema(schema)
check = jsonschema.Draft7Validator(schema)
boards = glob.glob(root + '/examples/boards/*.toml') + glob.glob(root + '/share/start/*.toml') + [root + '/demo/board.toml']
assert len(boards) > 20
for path in boards:
    board = tomllib.load(open(path, 'rb'))
    check.validate(board)
    channel = next(iter(board['channel'].values()))
    channel['spam'] = channel.pop('span')
    wrong = [e.message for e in check.iter_errors(board)]
    assert any('spam' in m for m in wrong) and any('span' in m for m in wrong), wrong
def check_defaults(of):
    if not isinstance(of, dict): return
    if isinstance(of.get('description'), str) and 'default' in of:
        jsonschema.Draft7Validator(of).validate(of['default'])
    for below in of.values(): check_defaults(below)
check_defaults(schema)
section = None
for line in open(root + '/docs/board-file.md'):
    if line.startswith('#'):
        found = re.search(r'\[([a-z]+)(\.NAME)?\]`', line)
        section = schema['properties'][found[1]] if found else None
        if section and found[2]: section = section['additionalProperties']
    elif section and line.startswith('| `'):
        for key in re.findall(r'`([^`]+)`', line.split('|')[1]):
            assert section['properties'][key]['description'], key
            print(key)
)",
                                               std::string(TAMLO_SCHEMAS) + "/board.json", root});
  EXPECT_EQ(result.status, 0) << result.errors;
  EXPECT_GT(std::ranges::count(result.output, '\n'), 70);
}

TEST(Check, ThePageOfTheBoardFileHasTheKeysOfTheTable) {
  // After a change of a key: cp build/release/share/board-file.md docs/
  EXPECT_EQ(read(std::string(TAMLO_SOURCE) + "/docs/board-file.md"),
            read(std::string(TAMLO_SCHEMAS) + "/../../board-file.md"));
}

}  // namespace
}  // namespace tamlo::testing
