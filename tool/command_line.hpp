// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace tamlo::tool {

/// What the user asked for, still as text: numbers are read in `quantity`, where their units are
/// known.
struct Arguments {
  std::string command;
  std::vector<std::string> boards;    ///< the board and the files that override it
  std::vector<std::string> channels;  ///< empty: all
  std::string readings;
  std::string meter;
  std::vector<std::string> at;
  std::vector<std::string> code;
  std::vector<std::string> pin;
  std::string coverage = "0.95";
  std::string format = "text";
  std::string plot;
  std::string since;
  std::string apart;
  std::string model = "best";
  std::string order = "2";
  std::string held_out;
  std::string write;
  std::string staircase;
  std::string beside;
  std::string ramp;
  std::string step;
  std::string trials;
  std::string seed = "1";
  std::string threads = "1";
  std::string picture;
  std::vector<std::string> what_if;  ///< files that change the board
  std::vector<std::string> set;      ///< single keys that change it
  std::vector<std::string> over;     ///< temperature, age
  // Records and virtual units.
  std::string input = "steady";  ///< what the channel was, or is, fed with
  std::string layout;
  std::vector<std::string> columns;
  std::vector<std::string> averages;
  std::string meter_accuracy;
  std::string shows;
  std::string rate;
  std::string low, high;  ///< ends of a ramp, a sine or a step
  std::string step_at;
  std::string wanted = "0.1 LSB";
  std::string window;
  std::string scale;
  std::string frequency;
  std::string samples = "10000";
  std::string unit = "1";
  std::string run = "0";
  std::vector<std::string> deviate;
  std::string firmware;
  std::string inl, bend = "bow";
  std::vector<std::string> missing;
  std::string jitter;
  std::string drift;
  std::string hum;
};

/// Reads the command line. Without a command to run (--help, --version, wrong usage) it prints what
/// is to be printed and gives the exit status.
struct CommandLine {
  Arguments arguments;
  std::optional<int> exit;  ///< where no command is to run
  std::string said;         ///< help, or what is wrong
};
CommandLine read_command_line(int argc, const char* const* argv);

}  // namespace tamlo::tool
