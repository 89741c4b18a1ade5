// SPDX-License-Identifier: Apache-2.0
// Writes the schema of every command's JSON, and that of a board file, into a folder, the manual
// page of the board file, and its page of the documents with the tables of keys as they are now:
// tamlo_schemas FOLDER MANUAL PAGE NEW_PAGE.
#include <exception>
#include <filesystem>
#include <iostream>

#include "board_schema.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/result/results.hpp"

int main(int count, char** arguments) try {
  if (count != 5) return 2;
  const std::filesystem::path folder(arguments[1]), manual(arguments[2]);
  std::filesystem::create_directories(folder);
  std::filesystem::create_directories(manual.parent_path());
  const auto commands = tamlo::result::commands();
  std::vector<std::string> paths{(folder / "board.json").string(), manual.string(), arguments[4]};
  for (const auto& command : commands) paths.push_back((folder / (command + ".json")).string());
  tamlo::io::OutputFiles files(paths);
  files.write(paths[0], tamlo::tool::board_schema());
  files.write(paths[1], tamlo::tool::board_manual());
  files.write(paths[2], tamlo::tool::board_page(tamlo::io::read_file(arguments[3])));
  for (std::size_t i = 0; i < commands.size(); ++i) {
    files.write(paths[i + 3], tamlo::result::schema(commands[i]));
  }
  files.finish();
  return 0;
} catch (const std::exception& error) {
  std::cerr << error.what() << "\n";
  return 3;
}
