// SPDX-License-Identifier: Apache-2.0
// Writes the schema of every command's JSON, and that of a board file, into a folder, and the page
// for man of a board file: tamlo_schemas FOLDER MANUAL PAGE BOARD...
#include <exception>
#include <filesystem>
#include <iostream>

#include "board_schema.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/result/results.hpp"

int main(int count, char** arguments) try {
  if (count < 5) return 2;
  const std::filesystem::path folder(arguments[1]);
  std::filesystem::create_directories(folder);
  const auto commands = tamlo::result::commands();
  const auto board = (folder / "board.json").string();
  const std::string manual(arguments[2]);
  std::filesystem::create_directories(std::filesystem::path(manual).parent_path());
  std::vector<std::string> paths{board};
  for (const auto& command : commands) {
    paths.push_back((folder / (command + ".json")).string());
  }
  paths.push_back(manual);
  tamlo::io::OutputFiles files(paths);
  // The keys that reading these boards asks for, and what the page says of them.
  const auto keys = tamlo::io::keys_asked({arguments + 4, arguments + count});
  const auto page = tamlo::io::read_file(arguments[3]);
  files.write(board, tamlo::tool::board_schema(keys, page));
  files.write(manual, tamlo::tool::board_manual(keys, page));
  for (std::size_t i = 0; i < commands.size(); ++i) {
    files.write(paths[i + 1], tamlo::result::schema(commands[i]));
  }
  files.finish();
  return 0;
} catch (const std::exception& error) {
  std::cerr << error.what() << "\n";
  return 3;
}
