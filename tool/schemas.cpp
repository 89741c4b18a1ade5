// SPDX-License-Identifier: Apache-2.0
// Writes the schema of every command's JSON, and that of a board file, into a folder:
// tamlo_schemas FOLDER PAGE BOARD...
#include <exception>
#include <filesystem>
#include <iostream>

#include "board_schema.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/output_file.hpp"
#include "tamlo/result/results.hpp"

int main(int count, char** arguments) try {
  if (count < 4) return 2;
  const std::filesystem::path folder(arguments[1]);
  std::filesystem::create_directories(folder);
  const auto commands = tamlo::result::commands();
  const auto board = (folder / "board.json").string();
  std::vector<std::string> paths{board};
  for (const auto& command : commands) {
    paths.push_back((folder / (command + ".json")).string());
  }
  tamlo::io::OutputFiles files(paths);
  // The keys that reading these boards asks for, and what the page says of them.
  files.write(board,
              tamlo::tool::board_schema(tamlo::io::keys_asked({arguments + 3, arguments + count}),
                                        tamlo::io::read_file(arguments[2])));
  for (std::size_t i = 0; i < commands.size(); ++i) {
    files.write(paths[i + 1], tamlo::result::schema(commands[i]));
  }
  files.finish();
  return 0;
} catch (const std::exception& error) {
  std::cerr << error.what() << "\n";
  return 3;
}
