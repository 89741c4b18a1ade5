// SPDX-License-Identifier: Apache-2.0
// Texts fit the terminal that there is, in its letters, with colour only where it is wanted.
#include <gtest/gtest.h>

#include <algorithm>
#include <set>
#include <sstream>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

std::size_t characters(const std::string& line) {
  return static_cast<std::size_t>(
      std::ranges::count_if(line, [](char c) { return (c & '\xc0') != '\x80'; }));
}

std::string without_space(std::string text) {
  std::erase_if(text, [](unsigned char c) { return std::isspace(c) != 0; });
  return text;
}

const std::vector<std::vector<std::string>> every_text{
    {"check", example("small_inputs.toml")},
    {"channel", demo_board, "coolant_flow", "--sine", "5 Hz"},
    {"budget", demo_board},
    {"compare", demo_board, demo_readings},
    {"calibrate", demo_board, demo_readings, "--channel", "pack_voltage"},
    {"record", demo_board, demo("steady.raw"), "--layout", "int16", "--channel", "pack_voltage"},
    {"convert", demo_board, "pack_voltage", "--at", "48 V"},
    {"firmware", demo_board, "--channel", "pack_voltage"},
    {"explore", demo_board, demo("choices.toml"), "--channel", "pack_voltage"},
    {"measure", demo_board, "--channel", "pack_voltage", "--plan"},
    {"demo"},
    {"start"},
    {"--help"},
    {"budget", "--help"},
};

// Nothing is lost on the way: every word of the wide text stands in the narrow one.
TEST(TerminalText, FitsEightyColumns) {
  for (const auto& call : every_text) {
    const auto wide = tamlo(call), narrow = tamlo(call, {"COLUMNS=80"});
    EXPECT_EQ(narrow.status, wide.status);
    std::istringstream lines(narrow.output);
    for (std::string line; std::getline(lines, line);) {
      // A word that is longer, such as a path, stays whole.
      const bool one_word = line.find(' ', line.find_first_not_of(' ')) == std::string::npos;
      EXPECT_TRUE(characters(line) <= 80 || one_word) << call.front() << ": " << line;
    }
    std::istringstream words(wide.output);
    const auto all = without_space(narrow.output);
    for (std::string word; words >> word;)
      EXPECT_NE(all.find(word), std::string::npos) << call.front() << ": " << word;
  }
}

TEST(TerminalText, IsPlainWhereTheLocaleIs) {
  const auto plain = [](const std::string& text) {
    return std::ranges::all_of(text, [](char c) { return (c & '\x80') == 0; });
  };
  const char* const locales[] = {"LC_ALL=C", "LC_ALL=POSIX", "LC_ALL=en_US.ISO-8859-1"};
  std::size_t which = 0;
  for (const auto& call : every_text) {
    const auto full = tamlo(call), result = tamlo(call, {locales[which++ % std::size(locales)]});
    EXPECT_TRUE(plain(result.output) && plain(result.errors)) << call.front() << result.output;
    EXPECT_EQ(result.output.find('?') == std::string::npos,
              full.output.find('?') == std::string::npos)
        << call.front() << ": a letter without a plain form";
  }
  EXPECT_NE(tamlo({"budget", demo_board}, {"LC_ALL=C"}).output.find("+-0.134 V at 60.00 V"),
            std::string::npos);
  EXPECT_NE(tamlo({"budget", demo_board}, {"LC_ALL=", "LC_CTYPE=", "LANG=de_DE.utf8"})
                .output.find("±0.134 V"),
            std::string::npos);
  // Columns stay straight: "+-" is wider than the sign that it stands for.
  std::istringstream lines(tamlo({"budget", demo_board, "pack_voltage"}, {"LC_ALL=C"}).output);
  std::set<std::size_t> columns;
  for (std::string line; std::getline(lines, line);) {
    if (line.find("uniform") != std::string::npos) columns.insert(line.find("uniform"));
  }
  EXPECT_EQ(columns.size(), 1U);
  // What programs read keeps its letters.
  EXPECT_NE(tamlo({"start", "thermistor"}, {"LC_ALL=C"}).output.find("±"), std::string::npos);
  EXPECT_FALSE(plain(tamlo({"budget", demo_board, "--format", "csv"}, {"LC_ALL=C"}).output));
  const Folder folder;
  const auto wrong = folder.write("board.toml", "format = 1\n[reference.r]\nvoltage = \"3 °\"\n");
  EXPECT_TRUE(plain(tamlo({"check", wrong}, {"LC_ALL=C"}).errors));
}

}  // namespace
}  // namespace tamlo::testing
