// SPDX-License-Identifier: Apache-2.0
// Files beside the board that are wrong: refused with their place.
#include <gtest/gtest.h>

#include <algorithm>
#include <span>

#include "tool/expect.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

// The curve of a sensor, a file of its own.
TEST(BadFiles, EveryMistakeInACurveIsPlacedAndExplained) {
  const char* const sound = "x [%], r [kohm]\n0, 10\n50, 5\n100, 1\n";
  const Mistake curves[] = {
      {"x [%]", "x", ":1:1: table:", "two columns such as: v [%]"},
      {"r [kohm]", "r [kg]", ":1:8: table:", "V, ohm or A"},
      {", r [kohm]", "", ":1:1: table:", "found 1 cells"},
      {"50, 5", "50, 11", ":4:1: table:", "a point that turns back"},
      {"50, 5", "0, 5", ":3:1: table:", "a point that turns back"},
      {"50, 5", "50, five", ":3:5: table:", "a decimal number"},
      {"50, 5", "50", ":3:1: table:", "found 1 cells"},
      {"100, 1", "90, 1", ":4:1: table:", "over the whole span"},
      {"50, 5\n100, 1\n", "", ":2:1: table:", "at least two points"},
  };
  auto text = replaced(small_board, "0..24 V", "0..100 %");
  text = replaced(text, "target = { accuracy = \"±0.5 % of span\" }", "");
  text = replaced(text, "top = \"90 kohm ±0.1 %\", bottom = \"10 kohm ±0.1 %\"",
                  "top = \"sensor\", bottom = \"10 kohm\", supply = \"ref\"");
  text = replaced(text, "average = 16", "sensor = { table = \"curve.csv\" }");
  expect_each_refused(text, "curve.csv", sound, curves);
}

TEST(BadFiles, EveryMistakeInATableOfInlIsPlacedAndExplained) {
  const Mistake tables[] = {
      {"code, inl [LSB]", "code, inl", ":1:1: inl_table:", "a header such as: code, inl [LSB]"},
      {"code,", "voltage,", ":1:1: inl_table:", "a header such as"},
      {"2048, 0.5", "2048", ":3:1: inl_table:", "found 1 cells, expected two"},
      {"2048, 0.5", "2048, 0.5, 1", ":3:1: inl_table:", "found 3 cells"},
      {"2048, 0.5", "2048, half", ":3:7: inl_table:", "a decimal number"},
      {"2048, 0.5", "0, 0.5", ":3:1: inl_table:", "rising codes"},
      {"2048, 0.5\n4095, 0\n", "", ":2:1: inl_table:", "at least two points"},
  };
  expect_each_refused(
      replaced(small_board, "offset = \"±2 LSB\"", "inl_table = \"inl.csv\"\noffset = \"±2 LSB\""),
      "inl.csv", "code, inl [LSB]\n0, 0\n2048, 0.5\n4095, 0\n", tables);
}

TEST(BadFiles, AReadingThatNoRangeOfTheMeterHolds) {
  const Folder folder;
  const auto board = folder.write(
      "board.toml", replaced(small_board, "full_scale = \"60 V\"", "full_scale = \"6 V\""));
  const auto rows = folder.write("readings.csv", small_readings);
  const auto result = tamlo({"compare", board, rows});
  EXPECT_EQ(result.status, 2);
  EXPECT_NE(result.errors.find(rows + ":4:4: meter: found 20"), std::string::npos) << result.errors;
  EXPECT_EQ(result.output, "");
}

// Bytes of any kind: refused with a message, never a crash.
TEST(BadFiles, Garbage) {
  const Folder folder;
  const auto board = folder.write("board.toml", small_board);
  const std::string zeros(1000, '\0'), bytes("\xff\xfe\x80[\x01", 5), deep(5000, '[');
  for (const auto& text : {zeros, bytes, deep, std::string("channel"), std::string("\xef\xbb\xbf"),
                           std::string("[channel.v]\nspan"), std::string(100000, 'a')}) {
    EXPECT_EQ(tamlo({"budget", folder.write("garbage.toml", text)}).status, 2) << text.size();
    EXPECT_EQ(tamlo({"compare", board, folder.write("garbage.csv", text)}).status, 2);
  }
}

}  // namespace
}  // namespace tamlo::testing
