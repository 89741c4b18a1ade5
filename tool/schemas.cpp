// SPDX-License-Identifier: Apache-2.0
// Writes the schema of every command's JSON into a folder.
#include <exception>
#include <filesystem>
#include <iostream>

#include "tamlo/io/output_file.hpp"
#include "tamlo/result/results.hpp"

int main(int count, char** arguments) try {
  if (count != 2) return 2;
  const std::filesystem::path folder(arguments[1]);
  std::filesystem::create_directories(folder);
  const auto commands = tamlo::result::commands();
  std::vector<std::string> paths;
  for (const auto& command : commands) {
    paths.push_back((folder / (command + ".json")).string());
  }
  tamlo::io::OutputFiles files(paths);
  for (std::size_t i = 0; i < paths.size(); ++i) {
    files.write(paths[i], tamlo::result::schema(commands[i]));
  }
  files.finish();
  return 0;
} catch (const std::exception& error) {
  std::cerr << error.what() << "\n";
  return 3;
}
