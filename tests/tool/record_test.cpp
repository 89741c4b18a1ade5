// SPDX-License-Identifier: Apache-2.0
// Records and virtual units by the tool: what is drawn is read again, and judged.
#include <gtest/gtest.h>
#include <sys/resource.h>

#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

using Json = nlohmann::json;
using Arguments = std::vector<std::string>;

Result with(Arguments call, const Arguments& more) {
  call.insert(call.end(), more.begin(), more.end());
  return tamlo(call);
}

Arguments with_words(Arguments words, const Arguments& more) {
  words.insert(words.end(), more.begin(), more.end());
  return words;
}

void expect_says(const Result& result, int status, const std::vector<const char*>& says) {
  EXPECT_EQ(result.status, status) << result.output << result.errors;
  for (const auto* text : says) {
    EXPECT_NE((result.output + result.errors).find(text), std::string::npos)
        << text << " in\n"
        << result.output << result.errors;
  }
}

TEST(Record, SaysWhatTheDemoRecordsShow) {
  expect_says(
      tamlo({"record", demo_board, demo("steady.raw"), "--layout", "int16", "--channel",
             "pack_voltage"}),
      0,
      {"pack_voltage: NOISE AS PREDICTED", "a tone at 50 Hz", "the mains of 50 Hz", "predicted",
       "12.0 effective", "averaging helps up to 4096 samples", "32768 codes at 1 kSa/s"});
  expect_says(tamlo({"record", demo_board, demo("sine.wav"), "--channel", "auxiliary_supply",
                     "--input", "sine"}),
              0,
              {"AS GOOD AS PREDICTED", "SINAD 65.", "ENOB 10.", "THD", "SFDR",
               "whole number of periods", "blackman-harris window"});
  expect_says(tamlo({"record", demo_board, demo("step.csv"), "--input", "step"}), 0,
              {"a step from 12.0", "--step-at says when", "delay to half", "rise from 10 to 90 %",
               "settled to 1 %", "one sample every 20 ms, without jitter"});
}

// Without a board the samples say the same of themselves, and nothing is predicted.
TEST(Record, SaysWhatSamplesAloneShow) {
  struct Case {
    Arguments file, of_board;
    const char* part;
    std::vector<const char*> same;
  };
  const Case cases[] = {
      {{demo("steady.raw"), "--layout", "int16", "--rate", "1 kSa/s"},
       {"--channel", "pack_voltage"},
       "steady",
       {"noise", "low", "high", "deviation", "mean", "best_average", "missing"}},
      {{demo("sine.wav"), "--input", "sine"},
       {"--channel", "auxiliary_supply"},
       "wave",
       {"frequency", "amplitude", "residual", "snr", "thd", "sfdr", "low", "high"}},
      {{demo("step.csv"), "--input", "step"}, {}, "step", {"before", "after", "rise", "delay"}}};
  for (const auto& [file, of_board, part, same] : cases) {
    const auto alone = with({"record"}, with_words(file, {"--format", "json"}));
    ASSERT_EQ(alone.status, 0) << alone.errors;
    const auto beside =
        with({"record", demo_board}, with_words(with_words(file, of_board), {"--format", "json"}));
    const auto a = Json::parse(alone.output)["channels"][0],
               b = Json::parse(beside.output)["channels"][0];
    EXPECT_TRUE(a["alone"].get<bool>());
    EXPECT_FALSE(b["alone"].get<bool>());
    EXPECT_EQ(a["samples"], b["samples"]);
    for (const auto* figure : same) EXPECT_EQ(a[part][figure], b[part][figure]) << part << figure;
  }
  expect_says(tamlo({"record", demo("sine.wav"), "--input", "sine"}), 0,
              {"samples: 0.667 LSB residual", "of the 16 bits of the file"});
  const Folder folder;
  expect_says(tamlo({"record", demo("sine.wav"), "--write", folder.path("m.toml")}), 2,
              {"a board beside the record"});
  expect_says(tamlo({"record", demo("sine.wav"), "--input", "ramp"}), 2, {"needs the codes"});
  expect_says(tamlo({"record", demo("sine.wav"), "--low", "1 V"}), 2,
              {"a board beside the record"});
  expect_says(tamlo({"record"}), 2, {"RECORD is required"});
  const auto halves = folder.write("h.csv", "x [code]\n1\n2.5\n3\n");
  expect_says(tamlo({"record", halves}), 2, {"2.5, which is no code of it"});
}

// For each channel of the demo the noise of a simulated record is that of the budget.
TEST(Record, RecordBudgetAndSimulationAgree) {
  const Folder folder;
  for (const char* channel : {"pack_voltage", "auxiliary_supply", "coolant_flow"}) {
    for (const char* shows : {"codes", "readings"}) {
      int meets_prediction = 0;
      for (int run = 0; run < 10; ++run) {
        const auto path = folder.path("r.csv");
        ASSERT_EQ(tamlo({"simulate", demo_board, channel, "--data", shows, "--samples", "4000",
                         "--run", std::to_string(run), "--write", path})
                      .status,
                  0);
        const auto json =
            Json::parse(tamlo({"record", demo_board, path, "--format", "json"}).output)["channels"]
                .at(0);
        meets_prediction += json["steady"]["differs"] == 0 ? 1 : 0;
        EXPECT_EQ(json["data"], shows);
        EXPECT_NEAR(
            json["steady"]["noise"].get<double>() / json["steady"]["predicted"].get<double>(), 1.0,
            0.1)
            << channel << " " << shows;
      }
      EXPECT_GE(meets_prediction, 7) << channel << " " << shows;
    }
  }
}

TEST(Record, EveryWayIn) {
  const Folder folder;
  const Arguments simulate{"simulate", demo_board, "auxiliary_supply", "pack_voltage",
                           "--low",    "9 V",      "--samples",        "2000",
                           "--rate",   "1 kSa/s"};
  Json first;
  for (const char* layout : {"csv", "wav", "int16", "int16 big", "uint16", "int24 big", "int32"}) {
    const auto path = folder.path("r");
    ASSERT_EQ(with(simulate, {"--layout", layout, "--write", path}).status, 0) << layout;
    const auto result =
        tamlo({"record", demo_board, path, "--layout", layout, "--rate", "1 kSa/s", "--channel",
               "auxiliary_supply", "--channel", "pack_voltage", "--format", "json"});
    ASSERT_EQ(result.status, 0) << layout << result.errors;
    auto json = Json::parse(result.output);
    for (auto& channel : json["channels"]) channel.erase("times");
    if (first.is_null()) first = json;
    EXPECT_EQ(json, first) << layout;
  }
  // By standard output and standard input.
  const auto written = with(simulate, {});
  EXPECT_EQ(std::ranges::count(written.output, '\n'), 2001);
  const auto piped =
      run("/bin/sh", {"-c", std::string(TAMLO_TOOL) + " simulate " + demo_board +
                                " auxiliary_supply --samples 500 | " + TAMLO_TOOL + " record " +
                                demo_board + " - --plot " + folder.path("p.svg")});
  expect_says(piped, 0, {"auxiliary_supply: NOISE AS PREDICTED", "500 codes"});
  EXPECT_TRUE(std::filesystem::exists(folder.path("p.svg")));
}

TEST(Record, DamageHasAStatusOfItsOwn) {
  const Folder folder;
  const auto path = folder.write("cut.csv", "pack_voltage [code]\n3000\n3001\n3000\n30x1\n3000\n");
  expect_says(tamlo({"record", demo_board, path}), 4,
              {":5: found \"30x1\", expected a number", "only the 3 samples before it were used",
               "3 codes"});
}

TEST(Record, BadCallsAndFiles) {
  const Folder folder;
  const auto far = folder.write("far.csv", "pack_voltage [mV]\n5\n5.01\n2400000\n");
  const auto codes = folder.write("c.csv", "3000\n3001\n3000\n3001\n");
  const auto odd = folder.write("o.csv", "3000\n3001.5\n");
  const auto beyond = folder.write("b.csv", "3000\n4096\n");
  const auto amps = folder.write("a.csv", "pack_voltage [A]\n1\n2\n");
  const Arguments record{"record", demo_board, codes, "--channel", "pack_voltage"};
  struct BadCall {
    Arguments call;
    std::vector<const char*> says;
  };
  const std::vector<BadCall> cases{
      {{"record", demo_board}, {"missing RECORD after the board"}},
      {{"record", demo_board, folder.write("w.csv", "# log\nabc,x\n1,2\n"), "--channel",
        "pack_voltage"},
       {"w.csv:2:1: found columns abc, x", "pack_voltage"}},
      {{"record", demo_board, "none.csv", "--channel", "pack_voltage"}, {"none.csv: no such file"}},
      {{"record", demo_board, folder.write("x.dat", "1")},
       {"--layout: no layout in the name of the file", "uint24"}},
      {{"record", demo_board, codes, "--layout", "int12"}, {"found \"int12\"", "float64"}},
      {{"record", demo_board, codes}, {"1 columns without a heading", "--channel"}},
      {{"record", demo_board, codes, "--channel", "pack"},
       {"no channel \"pack\"", "one of pack_voltage"}},
      {{"record", demo_board, odd, "--channel", "pack_voltage"},
       {"3001.5, which is no code", "--data readings"}},
      {{"record", demo_board, beyond, "--channel", "pack_voltage"}, {"4096, which is no code"}},
      {{"record", demo_board, amps}, {"pack_voltage [A]", "[code] or [V]"}},
      {{"record", demo_board, amps, "--column", "x"}, {"--column", "in pairs"}},
      {{"record", demo_board, codes, "--channel", "pack_voltage", "--input", "ramp"},
       {"did not reach both ends"}},
      {{"record", demo_board, codes, "--channel", "pack_voltage", "--input", "step"},
       {"less than 16 samples"}},
      {{"record", demo_board, far, "--channel", "pack_voltage"},
       {"pack_voltage: cannot be computed: values of the record that lie too far apart",
        "0 to 60000 mV"}},
      {{"record", demo_board, codes, "--channel", "pack_voltage", "--step-at", "3"},
       {"--step-at: found an input that is no step", "--input step"}},
      {{"record", demo_board, codes, "--channel", "pack_voltage", "--low", "1 V"},
       {"--low: found a steady input", "--input ramp"}},
      {{"record", demo_board, codes, "--channel", "pack_voltage", "--input", "ramp", "--low",
        "1 V"},
       {"both: --low and --high"}},
      {{"record", demo_board, codes, "--channel", "pack_voltage", "--write", "x.csv"},
       {"ends in .toml"}},
      {{"record", demo_board, codes, "--channel", "pack_voltage", "--plot", folder.path("p.png"),
        "--plot-kind", "linearity"},
       {"another picture"}},
      {{"record", demo_board, codes, "--channel", "pack_voltage", "--inl-uncertainty", "0 LSB"},
       {"above 0"}},
      {{"record", demo_board, codes, "--channel", "pack_voltage", "--plot", folder.path("p.png"),
        "--plot-kind", "chart", "--scale", "4..2"},
       {"--scale \"4..2\""}},
      {{"simulate", demo_board, "pack_voltage", "--unit", "x"}, {"--unit", "a whole number"}},
      {{"simulate", demo_board, "pack_voltage", "--unit", "1..3"}, {"one unit for a record"}},
      {{"simulate", demo_board, "pack_voltage", "--deviate", "divider tip=1 %"},
       {"did you mean \"divider top\""}},
      {{"simulate", demo_board, "pack_voltage", "--input", "sine"}, {"--frequency"}},
      {{"simulate", demo_board, "pack_voltage", "--input", "sine", "--frequency", "700 Hz"},
       {"below half the rate"}},
      {{"simulate", demo_board, "pack_voltage", "--hum", "2 V"}, {"such as \"0.2 V at 50 Hz\""}},
      {{"simulate", demo_board, "pack_voltage", "--layout", "wav"}, {"its head is written last"}},
      {{"simulate", demo_board, "pack_voltage", "coolant_flow", "--samples", "9"},
       {"different rates"}},
      {{"simulate", demo_board, "pack_voltage", "--at", "70 V"},
       {"a value that the meter bench reads"}},
      {{"simulate", demo_board, "coolant_flow", "pack_voltage", "--at", "1 l/min"},
       {"channels of one unit"}},
      {{"simulate", demo_board, "pack_voltage", "--layout", "int8", "--write", folder.path("s")},
       {"as the layout holds them"}},
  };
  for (const auto& [call, says] : cases) {
    const auto result = tamlo(call);
    SCOPED_TRACE(call.back());
    EXPECT_EQ(result.output, "");
    expect_says(result, 2, says);
  }
  EXPECT_FALSE(std::filesystem::exists(folder.path("s")));
  EXPECT_FALSE(std::filesystem::exists(folder.path("p.png")));
}

// Ten million samples from standard input take no more memory than three hundred thousand.
TEST(Record, MemoryDoesNotGrow) {
#if defined(__SANITIZE_ADDRESS__)
  GTEST_SKIP() << "the sanitizer's own memory grows";
#endif
  rusage before{};
  getrusage(RUSAGE_CHILDREN, &before);
  if (before.ru_maxrss > 32 * 1024) GTEST_SKIP() << "a child before took more already";
  const auto memory_after = [](int rounds) {
    const auto result =
        run("/bin/sh", {"-c", "for i in $(seq " + std::to_string(rounds) + "); do cat " +
                                  demo("steady.raw") + "; done | " + TAMLO_TOOL + " record " +
                                  demo_board + " - --layout int16 --channel pack_voltage"});
    EXPECT_NE(result.output.find(std::to_string(32768L * rounds) + " codes"), std::string::npos);
    rusage used{};
    getrusage(RUSAGE_CHILDREN, &used);
    return used.ru_maxrss;  // kB, the most of any child so far
  };
  const auto small = memory_after(10), large = memory_after(305);
  EXPECT_LT(large, 64 * 1024);
  EXPECT_LT(large - small, 12 * 1024) << "the first samples, which are kept, are 8 MB";
}

// Measured noise and INL go into the budget.
TEST(Record, WhatWasMeasuredIsReadAgain) {
  const Folder folder;
  const auto overlay = folder.path("measured.toml");
  expect_says(tamlo({"record", demo_board, demo("steady.raw"), "--layout", "int16", "--channel",
                     "pack_voltage", "--write", overlay}),
              0, {"written: "});
  EXPECT_NE(read(overlay).find("noise = \"0.60"), std::string::npos) << read(overlay);
  expect_says(tamlo({"budget", demo_board, overlay, "pack_voltage"}), 0,
              {"pack_voltage: TARGET MET"});
  const auto ramp = folder.path("ramp.csv");
  ASSERT_EQ(
      tamlo({"simulate", demo_board, "coolant_flow", "--input", "ramp", "--low", "-1.8 l/min",
             "--high", "13.8 l/min", "--samples", "200000", "--inl", "2 LSB", "--write", ramp})
          .status,
      0);
  expect_says(tamlo({"record", demo_board, ramp, "--input", "ramp", "--low", "-1.8 l/min", "--high",
                     "13.8 l/min", "--write", overlay}),
              1, {"IS NOT AS THE BOARD HAS IT", "it never falls", "expected of the channel"});
  EXPECT_NE(read(folder.path("measured_inl.csv")).find("code,inl [LSB]"), std::string::npos);
  EXPECT_NE(read(overlay).find("[channel.coolant_flow.correction]"), std::string::npos);
  // As built it misses its target; as measured and corrected it meets it.
  EXPECT_EQ(tamlo({"budget", demo_board, "coolant_flow"}).status, 1);
  expect_says(tamlo({"budget", demo_board, overlay, "coolant_flow"}), 0,
              {"coolant_flow: TARGET MET"});
}

TEST(Record, EveryPicture) {
  const Folder folder;
  const Arguments steady{"record", demo_board,  demo("steady.raw"), "--layout",
                         "int16",  "--channel", "pack_voltage"};
  const auto path = folder.path("p.svg");
  struct Picture {
    const char* name;
    std::vector<const char*> says;
  };
  for (const auto& [name, says] :
       {Picture{"histogram", {"NOISE AS PREDICTED", "as the board predicted", "code"}},
        Picture{"spectrum", {"blackman-harris window", "frequency [Hz]", "tones"}},
        Picture{"stability", {"averaged over [s]", "white noise alone", "lowest, at 4096 samples"}},
        Picture{"chart", {"lowest to highest", "time [s]"}}}) {
    EXPECT_EQ(with(steady, {"--plot", path, "--plot-kind", name}).status, 0);
    for (const auto* text : says)
      EXPECT_NE(read(path).find(text), std::string::npos) << name << text;
  }
  // Channels over each other; a scale and a window of one's own.
  const auto two = folder.path("two.csv");
  ASSERT_EQ(tamlo({"simulate", demo_board, "pack_voltage", "auxiliary_supply", "--low", "9 V",
                   "--samples", "300", "--write", two})
                .status,
            0);
  tamlo({"record", demo_board, two, "--plot", path, "--plot-kind", "chart", "--scale", "0..4000"});
  for (const char* text : {"pack_voltage", "auxiliary_supply", "samples", "4000"}) {
    EXPECT_NE(read(path).find(text), std::string::npos) << text;
  }
  EXPECT_EQ(
      with(steady, {"--plot", path, "--plot-kind", "spectrum", "--window", "flat-top"}).status, 0);
  EXPECT_NE(read(path).find("flat-top window"), std::string::npos);
  EXPECT_EQ(
      tamlo({"record", demo_board, demo("step.csv"), "--input", "step", "--plot", path}).status, 0);
  EXPECT_NE(read(path).find("settled to 1 %"), std::string::npos);
  EXPECT_EQ(tamlo({"record", demo_board, demo("sine.wav"), "--channel", "auxiliary_supply",
                   "--input", "sine", "--plot", path})
                .status,
            0);
  EXPECT_NE(read(path).find("dB of the sine"), std::string::npos);
}

}  // namespace
}  // namespace tamlo::testing
