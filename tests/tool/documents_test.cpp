// SPDX-License-Identifier: Apache-2.0
// What the documents say is run as written.
#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <optional>
#include <regex>
#include <set>
#include <sstream>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

namespace fs = std::filesystem;
const std::string root = TAMLO_SOURCE;

std::vector<std::string> blocks(const std::string& text, const std::string& language) {
  std::vector<std::string> result;
  const std::string fence = "```" + language + "\n";
  for (auto at = text.find(fence); at != std::string::npos; at = text.find(fence, at)) {
    at += fence.size();
    const auto end = text.find("```", at);
    result.push_back(text.substr(at, end - at));
    at = end + 3;
  }
  return result;
}

// The README's first board is whole, short and sound.
TEST(Documents, TheBoardOfTheReadmeRuns) {
  const auto boards = blocks(read(root + "/README.md"), "toml");
  ASSERT_EQ(boards.size(), 1U);
  EXPECT_LE(std::ranges::count(boards.front(), '\n'), 13);
  const Folder folder;
  const auto path = folder.write("my-board.toml", boards.front());
  for (const char* command : {"check", "channel", "budget"}) {
    const auto result = tamlo({command, path});
    EXPECT_EQ(result.status, status_said(result.output)) << command << " " << result.errors;
    EXPECT_EQ(result.errors, "");
  }
}

// What a page names lies in the folder that its commands run in, so that what they write does not
// end up among the sources.
void furnish(const Folder& folder) {
  for (const char* name : {"demo", "examples"}) {
    fs::create_directory_symlink(root + "/" + name, folder.path(name));
  }
}

// A line that calls the tool, as from the root of the tree; nothing for another line.
std::optional<std::string> said_by(const std::string& line, const Folder& folder) {
  static const std::regex as_command("^(build/release/)?tamlo ");
  if (!std::regex_search(line, as_command)) return {};
  const auto words = std::regex_replace(line, as_command, "");
  const auto result =
      run("/bin/sh", {"-c", "cd '" + folder.path("") + "' && '" + TAMLO_TOOL + "' " + words});
  // The demo tells of channels that fail, and has not failed.
  EXPECT_EQ(result.status, words == "demo" ? 0 : status_said(result.output)) << line << "\n"
                                                                             << result.errors;
  EXPECT_EQ(result.errors, "") << line;
  return result.output;
}

TEST(Documents, TheCommandsOfTheReadmeRun) {
  const Folder folder;
  folder.write("my-board.toml", blocks(read(root + "/README.md"), "toml").at(0));
  furnish(folder);
  int commands = 0;
  for (const auto& block : blocks(read(root + "/README.md"), "sh")) {
    std::istringstream lines(block);
    for (std::string line; std::getline(lines, line);) commands += said_by(line, folder) ? 1 : 0;
  }
  EXPECT_GE(commands, 6);
}

// The blocks that need a shell, as they are written.
TEST(Documents, TheScriptsOfTheReadmeRun) {
  const auto scripts = blocks(read(root + "/README.md"), "bash");
  ASSERT_FALSE(scripts.empty());
  for (const auto& script : scripts) {
    const Folder folder;
    fs::create_directory_symlink(root + "/demo", folder.path("demo"));
    fs::create_directories(folder.path("build"));
    fs::create_directory_symlink(fs::path(TAMLO_TOOL).parent_path(), folder.path("build/release"));
    const auto result = run("/bin/bash", {"-emc", "cd '" + folder.path("") + "'\n" + script});
    EXPECT_EQ(result.status, 0) << result.output << result.errors;
    EXPECT_NE(result.output.find("PASS"), std::string::npos) << result.output;
  }
}

// Every command of a page of docs/ runs, in the order of the page, and says what the page says that
// it says.
TEST(Documents, TheCommandsOfTheBookRun) {
  int commands = 0, said = 0;
  for (const auto& entry : fs::directory_iterator(root + "/docs")) {
    if (entry.path().extension() != ".md") continue;
    const Folder folder;
    furnish(folder);
    std::istringstream lines(read(entry.path().string()));
    std::string fence, output;
    for (std::string line; std::getline(lines, line);) {
      if (line.starts_with("```")) {
        if (line == "```sh") output.clear();
        fence = line == "```" ? "" : line;
      } else if (fence == "```sh") {
        const auto here = said_by(line, folder);
        output += here.value_or("");
        commands += here ? 1 : 0;
      } else if (fence == "```text") {
        EXPECT_NE(output.find(line), std::string::npos) << entry.path() << ": " << line;
        ++said;
      }
    }
  }
  EXPECT_GE(commands, 40);
  EXPECT_GE(said, 25);
}

// The page of the commands is what the tool says of itself; scripts/golden writes it anew.
TEST(Documents, ThePageOfTheCommandsIsThatOfTheTool) {
  const auto path = root + "/docs/commands.md";
  std::string text =
      "# Every command\n\nAs `tamlo --help` and `tamlo COMMAND --help` say it.\n\n```help\n" +
      tamlo({"--help"}).output + "```\n";
  const auto help = tamlo({"--help"}).output;
  const std::regex listed("\n  ([a-z]+) +[a-z]");
  for (std::sregex_iterator at(help.begin(), help.end(), listed), end; at != end; ++at) {
    const auto name = (*at)[1].str();
    text += "\n## " + name + "\n\n```help\n" + tamlo({name, "--help"}).output + "```\n";
  }
  if (std::getenv("TAMLO_WRITE_GOLDEN") != nullptr) {
    std::ofstream(path) << text;
  } else {
    EXPECT_EQ(read(path), text) << "scripts/golden writes it anew";
  }
}

// Every example board is read whole, and every command works on it.
TEST(Documents, TheExampleBoardsRun) {
  int boards = 0;
  for (const auto& entry : fs::directory_iterator(root + "/examples/boards")) {
    if (entry.path().extension() != ".toml") continue;
    for (const char* command : {"check", "channel", "budget"}) {
      const auto result = tamlo({command, entry.path().string()});
      EXPECT_EQ(result.status, status_said(result.output)) << command << " " << entry.path() << "\n"
                                                           << result.errors;
      EXPECT_EQ(result.errors, "");
      EXPECT_EQ(result.output.find("nan"), std::string::npos) << command << " " << entry.path();
      EXPECT_EQ(result.output.find(" inf"), std::string::npos) << command << " " << entry.path();
    }
    ++boards;
  }
  EXPECT_GE(boards, 13);
}

// Every relative link of every page leads somewhere, and every screenshot is shown in the README.
TEST(Documents, LinksLeadSomewhere) {
  std::vector<fs::path> pages{root + "/README.md"};
  for (const auto& entry : fs::directory_iterator(root + "/docs")) {
    if (entry.path().extension() == ".md") pages.push_back(entry.path());
  }
  const std::regex link(R"(\]\(([^)#]+)(#[^)]*)?\))");
  for (const auto& page : pages) {
    const auto text = read(page.string());
    for (std::sregex_iterator at(text.begin(), text.end(), link), end; at != end; ++at) {
      const auto target = (*at)[1].str();
      if (target.starts_with("http")) continue;
      EXPECT_TRUE(fs::exists(page.parent_path() / target)) << page << ": " << target;
    }
  }
  const auto readme = read(root + "/README.md");
  for (const auto& entry : fs::directory_iterator(root + "/docs/screenshots")) {
    EXPECT_NE(readme.find("docs/screenshots/" + entry.path().filename().string()),
              std::string::npos)
        << entry.path();
  }
}

// Every finding that the code can raise stands in docs/findings.md, and no other.
TEST(Documents, TheCatalogueOfFindingsIsComplete) {
  const auto page = read(root + "/docs/findings.md");
  const auto names = [](const std::string& text, const std::regex& pattern) {
    std::set<std::string> result;
    for (std::sregex_iterator at(text.begin(), text.end(), pattern), end; at != end; ++at) {
      result.insert((*at)[1]);
    }
    return result;
  };
  std::string code;
  for (const auto& entry : fs::directory_iterator(root + "/src/check"))
    code += read(entry.path().string());
  EXPECT_EQ(names(page, std::regex("\n## `([a-z-]+)`")),
            names(code, std::regex("report\\(\\s*\"([a-z-]+)\"")));
}

// Every call that docs/calls.md names is one of a public header of that room.
TEST(Documents, TheCallsOfThePageAreThere) {
  const auto page = read(root + "/docs/calls.md");
  const std::regex call("`([a-z]+)::([a-z_]+)`");
  int calls = 0;
  for (std::sregex_iterator at(page.begin(), page.end(), call), end; at != end; ++at) {
    const auto room = (*at)[1].str(), name = (*at)[2].str();
    if (room == "tamlo") continue;
    bool found = false;
    for (const auto& entry : fs::directory_iterator(root + "/include/tamlo/" + room)) {
      if (!entry.is_regular_file()) continue;
      const auto header = read(entry.path().string());
      found = found || header.find(" " + name + "(") != std::string::npos ||
              header.find("class " + name + " ") != std::string::npos;
    }
    EXPECT_TRUE(found) << room << "::" << name;
    ++calls;
  }
  EXPECT_GT(calls, 20);
}

TEST(Documents, EverySourceHasItsLicenceLine) {
  for (const char* folder :
       {"include", "src", "tool", "tests", "bench", "examples", "demo", "scripts"}) {
    for (const auto& entry : fs::recursive_directory_iterator(root + "/" + folder)) {
      const auto extension = entry.path().extension();
      if (extension != ".cpp" && extension != ".hpp") continue;
      EXPECT_EQ(read(entry.path().string()).find("// SPDX-License-Identifier: Apache-2.0\n"), 0U)
          << entry.path();
    }
  }
}

}  // namespace
}  // namespace tamlo::testing
