// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <gtest/gtest.h>

#include <span>
#include <string>
#include <vector>

#include "tool/process.hpp"

// What the tests of commands ask of a run of the tool.
namespace tamlo::testing {

struct Case {
  std::vector<std::string> arguments;
  int status;
  std::vector<std::string> says;
};

inline void expect(const std::vector<Case>& cases) {
  for (const auto& [arguments, status, says] : cases) {
    const auto result = tamlo(arguments);
    SCOPED_TRACE(arguments.front() + " " + arguments.back());
    EXPECT_EQ(result.status, status) << result.errors;
    EXPECT_EQ(result.errors, "");
    for (const auto& text : says) {
      EXPECT_NE(result.output.find(text), std::string::npos) << text << " in\n" << result.output;
    }
    EXPECT_EQ(result.output.find('\033'), std::string::npos);  // no colour into a file
    EXPECT_EQ(result.output.find("nan"), std::string::npos);
  }
}

inline void expect_refused(const Result& result, const std::string& place,
                           const std::string& says) {
  EXPECT_EQ(result.status, 2) << result.errors;
  EXPECT_EQ(result.output, "");
  EXPECT_NE(result.errors.find(place), std::string::npos) << place << " in " << result.errors;
  EXPECT_NE(result.errors.find(says), std::string::npos) << says << " in " << result.errors;
  const bool hinted = result.errors.find("expected ") != std::string::npos ||
                      result.errors.find("did you mean ") != std::string::npos;
  EXPECT_TRUE(hinted) << result.errors;
}

// The small board with one piece replaced; where the message must point; what it must say.
struct Mistake {
  const char* from;
  const char* to;
  const char* place;  ///< line:column: key
  const char* says;
};

// A table beside the board, with each of the mistakes that can be made in it.
inline void expect_each_refused(const std::string& board_text, const char* name,
                                const std::string& sound, std::span<const Mistake> mistakes) {
  for (const auto& [from, to, place, says] : mistakes) {
    const Folder folder;
    const auto board = folder.write("board.toml", board_text);
    const auto path = folder.write(name, sound);
    EXPECT_EQ(tamlo({"check", board}).status, 0) << tamlo({"check", board}).errors;
    folder.write(name, replaced(sound, from, to));
    SCOPED_TRACE(to);
    expect_refused(tamlo({"check", board}), path + place, says);
  }
  const Folder folder;
  expect_refused(tamlo({"check", folder.write("board.toml", board_text)}), "board.toml:",
                 std::string("\"") + name + "\", no such file, expected a CSV file beside");
}

}  // namespace tamlo::testing
