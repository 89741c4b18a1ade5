// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <filesystem>
#include <string>
#include <vector>

// Runs programs as their user does.
namespace tamlo::testing {

struct Result {
  std::string output;                         ///< standard output
  std::string errors;                         ///< standard error
  int status = -1;                            ///< exit status; 128 + signal where one ended it
  double cpu_seconds = 0.0, megabytes = 0.0;  ///< that it took at most
};

/// A program by its path, with environment entries set or added ("PATH=").
Result run(const std::string& program, const std::vector<std::string>& arguments,
           const std::vector<std::string>& environment = {});
/// The tool.
Result tamlo(const std::vector<std::string>& arguments,
             const std::vector<std::string>& environment = {});

/// A folder of its own for one test, gone when the test is over.
class Folder {
 public:
  Folder();
  ~Folder();
  Folder(const Folder&) = delete;
  Folder& operator=(const Folder&) = delete;

  std::string path(const std::string& name) const { return (folder_ / name).string(); }
  /// Writes a file and gives its path.
  std::string write(const std::string& name, const std::string& text) const;

 private:
  std::filesystem::path folder_;
};

/// The exit status that goes with what a command said: 1 where a target or a limit is missed.
int status_said(const std::string& output);

std::string read(const std::string& path);
std::string replaced(std::string text, const std::string& from, const std::string& to);
std::string repeated(const std::string& text, int times);

/// Files of the demo, and the example board of that name.
std::string demo(const std::string& name);
std::string example(const std::string& name);
/// Every board there is, by its name: the demo's, the examples, those that `start` writes.
std::vector<std::string> boards_of_the_tree();
inline const std::string demo_board = demo("board.toml");
inline const std::string demo_readings = demo("readings.csv");

/// A small sound board with one channel "v", a meter, and readings that go with it.
extern const char* const small_board;
extern const char* const small_readings;

}  // namespace tamlo::testing
