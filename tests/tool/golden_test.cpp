// SPDX-License-Identifier: Apache-2.0
// The text of every command on the demo board, as somebody read and approved it. What changes here
// is looked at, and then written anew by scripts/golden.
#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <fstream>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

struct Golden {
  const char* name;
  std::vector<std::string> call;
  int status;
};

// Of this tree, wherever it lies and from wherever it is named.
std::string without_place(std::string text) {
  for (const auto& place : {std::string(TAMLO_SOURCE) + "/", std::string("../")}) {
    for (auto at = text.find(place); at != std::string::npos; at = text.find(place)) {
      text.erase(at, place.size());
    }
  }
  return text;
}

const std::vector<Golden> all{
    {"check", {"check", demo_board}, 0},
    {"check_unsound", {"check", example("small_inputs.toml")}, 1},
    {"channel", {"channel", demo_board}, 0},
    {"channel_ramp", {"channel", demo_board, "coolant_flow", "--ramp", "1 l/min/s"}, 0},
    {"convert", {"convert", demo_board, "pack_voltage", "--at", "48 V", "--code", "0x800"}, 0},
    {"budget", {"budget", demo_board}, 1},
    {"budget_over", {"budget", demo_board, "pack_voltage", "--over", "age", "--all"}, 0},
    {"budget_set",
     {"budget", demo_board, "coolant_flow", "--set", "channel.coolant_flow.average=64"},
     1},
    {"budget_trials", {"budget", demo_board, "coolant_flow", "--trials", "5000"}, 1},
    {"compare", {"compare", demo_board, demo_readings}, 1},
    {"compare_units", {"compare", demo_board, demo("readings_units.csv")}, 0},
    {"compare_since",
     {"compare", demo_board, demo("readings_later.csv"), "--since", demo_readings, "--elapsed",
      "1 year"},
     1},
    {"compare_join",
     {"compare", demo_board, demo("firmware_log.csv"), "--channel", "pack_voltage", "--join",
      demo("meter_log.csv"), "--column", "time=Time (s)", "--column", "meter=Value (V)"},
     0},
    {"calibrate", {"calibrate", demo_board, demo_readings, "--channel", "pack_voltage"}, 0},
    {"record_steady",
     {"record", demo_board, demo("steady.raw"), "--layout", "int16", "--channel", "pack_voltage"},
     0},
    {"record_step", {"record", demo_board, demo("step.csv"), "--input", "step"}, 0},
    {"record_sine",
     {"record", demo_board, demo("sine.wav"), "--channel", "auxiliary_supply", "--input", "sine"},
     0},
    {"simulate",
     {"simulate", demo_board, "pack_voltage", "--unit", "7", "--at", "12 V", "--at", "48 V"},
     0},
    {"prove", {"prove", demo_board, "pack_voltage", "--unit", "1..300"}, 0},
    {"serve", {"serve", "--help"}, 0},
    {"explore", {"explore", demo_board, demo("choices.toml"), "--channel", "coolant_flow"}, 0},
    {"registers",
     {"registers", example("eight_channels.toml"), TAMLO_SOURCE "/examples/maps/controller.toml",
      "--channel", "winding"},
     0},
    {"firmware", {"firmware", demo_board, "--channel", "pack_voltage"}, 0},
    {"watch", {"watch", demo_board, demo("live.toml"), "--channel", "pack_voltage"}, 0},
    {"measure", {"measure", demo_board, "--channel", "pack_voltage", "--plan"}, 0},
    {"page", {"page", "--help"}, 0},
    {"demo", {"demo"}, 0},
    {"start", {"start"}, 0},
    {"help", {"--help"}, 0},
    {"help_budget", {"budget", "--help"}, 0},
};

TEST(Golden, TheTextOfEveryCommand) {
  const bool anew = std::getenv("TAMLO_WRITE_GOLDEN") != nullptr;
  for (const auto& [name, call, status] : all) {
    SCOPED_TRACE(name);
    const auto path = std::string(TAMLO_SOURCE) + "/tests/golden/" + name + ".txt";
    const auto result = tamlo(call);
    EXPECT_EQ(result.status, status) << result.errors;
    auto text = without_place(result.output);
    // A slow machine shows a line of the live view on the way.
    if (name == std::string("watch"))
      text.erase(0, std::min(text.size(), text.find("120 readings")));
    if (anew) {
      std::ofstream(path) << text;
    } else {
      EXPECT_EQ(text, read(path));
    }
  }
}

}  // namespace
}  // namespace tamlo::testing
