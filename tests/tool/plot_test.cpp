// SPDX-License-Identifier: Apache-2.0
#include <gtest/gtest.h>

#include <filesystem>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

namespace fs = std::filesystem;

Result plot(const std::string& path, const std::vector<std::string>& environment = {}) {
  return tamlo({"compare", demo_board, demo_readings, "--channel", "pack_voltage", "--plot", path},
               environment);
}

TEST(Plot, DrawsTheDifferencesAndLeavesNothingElse) {
  const Folder folder;
  EXPECT_EQ(plot(folder.path("d.svg")).status, 1);
  const auto svg = read(folder.path("d.svg"));
  for (const char* text :
       {"<svg", "reading - meter [V]", "meter bench [V]", "allowed by the target",
        "fail, with guard band", "pass, with guard band", "pack_voltage: FAIL"}) {
    EXPECT_NE(svg.find(text), std::string::npos) << text;
  }
  EXPECT_EQ(plot(folder.path("d.png")).status, 1);
  EXPECT_EQ(read(folder.path("d.png")).substr(1, 3), "PNG");
  EXPECT_EQ(std::distance(fs::directory_iterator(fs::path(folder.path("d.svg")).parent_path()), {}),
            2);
}

TEST(Plot, EveryPictureOfTheBench) {
  const Folder folder;
  struct Picture {
    std::vector<std::string> call;
    std::vector<const char*> says;
  };
  const std::vector<std::string> calibrate{"calibrate", demo_board, demo_readings, "--channel",
                                           "pack_voltage"};
  const Picture pictures[] = {
      {{"compare", demo_board, demo_readings, "--channel", "pack_voltage", "--plot-kind",
        "normalised"},
       {"normalised error E_n", "beyond: one side is off", "can both be right"}},
      {{"compare", demo_board, demo("readings_units.csv"), "--plot-kind", "units"},
       {"12 units", "22", "gain [%]", "offset [V]"}},
      {calibrate,
       {"before, with guard band", "after, with guard band", "weighted-line correction"}},
      {[&] {
         auto residuals = calibrate;
         residuals.insert(residuals.end(), {"--plot-kind", "residuals"});
         return residuals;
       }(),
       {"uncertainty of the correction", "corrected reading - meter [V]"}},
  };
  for (auto [call, says] : pictures) {
    const auto path = folder.path("p.svg");
    call.insert(call.end(), {"--plot", path});
    const auto result = tamlo(call);
    EXPECT_EQ(result.status, status_said(result.output)) << result.errors;
    const auto svg = read(path);
    for (const char* text : says) EXPECT_NE(svg.find(text), std::string::npos) << text;
  }
}

// Names that mean something to a shell or to gnuplot are text.
TEST(Plot, HostileNamesAreText) {
  const Folder folder;
  const auto odd = folder.write(
      "odd.toml",
      replaced(replaced(small_board, "[channel.v]", "[channel.\"v'; system('touch x') #\"]"),
               "[meter.bench]", "[meter.\"`touch y` $(touch z)\"]"));
  const auto rows = folder.write("r.csv",
                                 "channel,meter [V],reading [V]\nv'; system('touch x') #,5,5.001\n"
                                 "v'; system('touch x') #,15,15.001\n");
  const auto path = folder.path("a 'b' $(touch q).svg");
  const auto result = tamlo({"compare", odd, rows, "--plot", path});
  EXPECT_EQ(result.status, 0) << result.errors;
  EXPECT_TRUE(fs::exists(path));
  for (const char* name : {"x", "y", "z", "q"}) EXPECT_FALSE(fs::exists(name)) << name;
}

// A name is a name: nothing in it is run, or cuts it short.
TEST(Plot, NoNameIsACommand) {
  const Folder folder;
  for (const std::string name : {"|touch run.svg", "$(touch run).svg", "it's.svg", "two\nlines.svg",
                                 "-d.svg", "a \"b\".png"}) {
    const auto result =
        run("/bin/sh", {"-c", "cd \"$0\" && exec \"$1\" budget \"$2\" coolant_flow --plot=\"$3\"",
                        folder.path(""), TAMLO_TOOL, demo_board, name});
    EXPECT_EQ(result.status, 1) << name << result.errors;
    EXPECT_GT(read(folder.path(name)).size(), 1000U) << name;
  }
  EXPECT_TRUE(read(folder.path("run")).empty());
  EXPECT_TRUE(read(folder.path("run.svg")).empty());
}

TEST(Plot, WithoutGnuplotTheEnvironmentFailedAndAPageDrawsItself) {
  const Folder folder;
  const auto page = tamlo({"page", demo_board, demo_readings}, {"PATH=" + folder.path("none")});
  EXPECT_EQ(page.status, 1) << page.errors;
  EXPECT_NE(page.output.find("\"name\":\"worst case\""), std::string::npos);
  const auto result = plot(folder.path("d.svg"), {"PATH=" + folder.path("none")});
  EXPECT_EQ(result.status, 3);
  EXPECT_EQ(result.output, "");
  EXPECT_NE(result.errors.find("apt-get install gnuplot-nox"), std::string::npos) << result.errors;
  EXPECT_FALSE(fs::exists(folder.path("d.svg")));
}

TEST(Plot, WhereNothingCanBeWritten) {
  const auto result = plot("/proc/none/d.svg");
  EXPECT_EQ(result.status, 3);
  EXPECT_NE(result.errors.find("cannot write /proc/none/d.svg: No such file"), std::string::npos)
      << result.errors;
}

TEST(Plot, OfOneReading) {
  const Folder folder;
  const auto rows = folder.write("r.csv", "channel,meter [V],reading [V]\npack_voltage,5,5.001\n");
  const auto result = tamlo({"compare", demo_board, rows, "--plot", folder.path("one.svg")});
  EXPECT_EQ(result.status, 0) << result.errors;
  EXPECT_NE(read(folder.path("one.svg")).find("allowed by the target"), std::string::npos);
}

TEST(Plot, OneChannelInAPicture) {
  const Folder folder;
  const auto result = tamlo({"compare", demo_board, demo_readings, "--plot", folder.path("d.svg")});
  EXPECT_EQ(result.status, 2);
  EXPECT_NE(result.errors.find("one channel in a picture"), std::string::npos);
}

TEST(Plot, OfAverageAndFilter) {
  const Folder folder;
  const auto boards = example("process_inputs.toml");
  const auto path = folder.path("response.svg");
  const auto result = tamlo({"channel", boards, "load_step", "--plot", path});
  EXPECT_EQ(result.status, 0) << result.errors;
  const auto svg = read(path);
  for (const char* text : {"frequency [Hz]", "gain [dB]", "sinc of order 3", "mains",
                           "time after a step [s]", "reading, of the step"}) {
    EXPECT_NE(svg.find(text), std::string::npos) << text;
  }
}

TEST(Plot, EveryPictureOfABudget) {
  const Folder folder;
  const struct {
    const char* picture;
    std::vector<const char*> texts;
  } cases[] = {{"contributions", {"divider top tolerance", "31.7 %", "TARGET MISSED"}},
               {"span", {"allowed by the target", "after a two-point adjustment", "worst case"}},
               {"temperature", {"temperature [degC]", "as built"}},
               {"age", {"age [year]", "as built"}},
               {"trials", {"as much below as above", "shortest", "closed form: agrees"}}};
  for (const auto& [picture, texts] : cases) {
    const auto path = folder.path(std::string(picture) + ".svg");
    const auto result = tamlo({"budget", demo_board, "coolant_flow", "--trials", "20000", "--plot",
                               path, "--plot-kind", picture});
    EXPECT_EQ(result.status, 1) << result.errors;
    for (const auto* text : texts) {
      EXPECT_NE(read(path).find(text), std::string::npos) << picture << ": " << text;
    }
  }
}

// A sine as it is sampled: followed, folded, and so fast that only the band it fills can be drawn.
TEST(Plot, ASineAsItIsSampled) {
  const Folder folder;
  const auto path = folder.path("sampled.svg");
  const struct {
    const char *channel, *sine, *said;
    std::vector<const char*> drawn, not_drawn;
  } cases[] = {
      {"coolant_flow",
       "5 Hz",
       "of 5 Hz there are 20 conversions and 5 readings a period; 15.8 % of it",
       {"conversions", "readings, 15.8 % of the sine"},
       {"what they show", "periods"}},
      {"pack_voltage",
       "60 Hz",
       "2.94 % of it is in the readings, which show it at 10 Hz",
       {"what they show: 10 Hz"},
       {"periods"}},
      {"pack_voltage", "1 GHz", "which show it at 0 Hz", {"the quantity, 1.6e+08 periods"}, {}},
  };
  for (const auto& of : cases) {
    const auto result = tamlo({"channel", demo_board, of.channel, "--sine", of.sine, "--plot-kind",
                               "sampled", "--plot", path});
    EXPECT_EQ(result.status, 0) << result.errors;
    EXPECT_NE(result.output.find(of.said), std::string::npos) << result.output;
    const auto svg = read(path);
    for (const auto* text : of.drawn) EXPECT_NE(svg.find(text), std::string::npos) << text;
    for (const auto* text : of.not_drawn) EXPECT_EQ(svg.find(text), std::string::npos) << text;
  }
}

TEST(Plot, AStaircaseOfTwoResolutions) {
  const Folder folder;
  const auto path = folder.path("stairs.svg");
  const auto result = tamlo({"channel", demo_board, "pack_voltage", "--ramp", "0.1 V/s",
                             "--staircase", path, "--other-resolution", "8 bit"});
  EXPECT_EQ(result.status, 0) << result.errors;
  EXPECT_NE(result.output.find("by a step of 0.0153 V every 152.6 ms"), std::string::npos)
      << result.output;
  const auto svg = read(path);
  // 62.5 V / 2^8 at 0.1 V/s.
  for (const char* text : {"8 bit: a step is 0.244 V, one every 2.44 s", "12 bit:"}) {
    EXPECT_NE(svg.find(text), std::string::npos) << text;
  }
}

}  // namespace
}  // namespace tamlo::testing
