// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/record_file.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>

#include "tamlo/io/diagnostics.hpp"
#include "tool/process.hpp"

namespace tamlo::io {
namespace {

using tamlo::testing::Folder;
using Samples = std::vector<std::vector<double>>;

struct Read {
  Samples samples{};
  RecordRead read{};
  std::vector<std::string> names{}, units{}, notes{};
};

Read read_all(const std::string& path, const std::string& layout, std::vector<std::string> wanted) {
  RecordLayout of;
  EXPECT_TRUE(parse_layout(layout, of)) << layout;
  RecordFile file(path, of, std::move(wanted));
  Read result{.names = file.names(), .units = file.units(), .notes = file.notes()};
  result.samples.resize(file.names().size());
  result.read = file.read([&](std::size_t which, std::span<const double> block) {
    auto& into = result.samples[which];
    into.insert(into.end(), block.begin(), block.end());
  });
  return result;
}

Read read_text(const std::string& text, std::vector<std::string> wanted) {
  const Folder folder;
  return read_all(folder.write("r.csv", text), "csv", std::move(wanted));
}

std::string message(const std::string& text, std::vector<std::string> wanted) {
  try {
    read_text(text, std::move(wanted));
  } catch (const BadInput& error) {
    return error.what();
  }
  return "";
}

// Every layout gives back what was written, the ends of its range included, over more than a block.
TEST(RecordFile, EveryLayoutThereAndBack) {
  struct Case {
    const char* layout;
    double low, high;
  };
  const Folder folder;
  for (const auto& [layout, low, high] :
       {Case{"csv", -5e5, 5e5}, Case{"wav", -32768, 32767}, Case{"int8", -128, 127},
        Case{"uint8", 0, 255}, Case{"int16", -32768, 32767}, Case{"int16 big", -32768, 32767},
        Case{"uint16", 0, 65535}, Case{"uint16 big", 0, 65535}, Case{"int24", -8388608, 8388607},
        Case{"int24 big", -8388608, 8388607}, Case{"uint24", 0, 16777215},
        Case{"int32", -2147483648.0, 2147483647.0}, Case{"uint32 big", 0, 4294967295.0},
        Case{"float32", -1e6, 1e6}, Case{"float64 big", -1e9, 1e9}}) {
    const std::string name = std::string(layout) == "wav" ? "r.wav" : "r.bin";
    Samples written(2);
    for (int i = 0; i < 40000; ++i) {
      const double x = std::floor(low + (high - low) * (i % 1001) / 1000.0);
      written[0].push_back(i == 0 ? low : i == 1 ? high : x);
      written[1].push_back(written[0].back() == low ? high : low);
    }
    RecordLayout of;
    ASSERT_TRUE(parse_layout(layout, of));
    RecordWriter writer(folder.path(name), of, {{"a", "code"}, {"b", "code"}}, 1000.0);
    writer.add(written);
    EXPECT_FALSE(std::filesystem::exists(folder.path(name))) << "nothing half-written";
    writer.finish();
    const auto back = read_all(folder.path(name), layout, {"a", "b"});
    EXPECT_EQ(back.samples, written) << layout;
    EXPECT_EQ(back.read.samples, 40000U);
    EXPECT_EQ(back.read.damage, "") << layout;
    if (std::string(layout) == "csv") {
      EXPECT_EQ(back.units[0], "code");
    }
    const bool tells = std::string(layout) == "csv" || std::string(layout) == "wav";
    EXPECT_EQ(back.read.rate.has_value(), tells) << layout;
    if (tells) {
      EXPECT_NEAR(*back.read.rate, 1000.0, 1e-6);
    }
    std::filesystem::remove(folder.path(name));
  }
}

TEST(RecordFile, LayoutsAreKnownByTheirNames) {
  RecordLayout of;
  for (const char* wrong :
       {"", "int", "int12", "float16", "int8 big", "CSV", "int16 little", "wav big"}) {
    EXPECT_FALSE(parse_layout(wrong, of)) << wrong;
  }
  EXPECT_TRUE(layout_of_name("x.wav", of));
  EXPECT_EQ(of.kind, RecordLayout::Kind::wav);
  EXPECT_FALSE(layout_of_name("x.bin", of));
}

TEST(RecordFile, ColumnsByHeadingOrByPlace) {
  EXPECT_EQ(read_text("1\n2\r\n\n# a note\n 3 \n", {"v"}).samples, (Samples{{1, 2, 3}}));
  EXPECT_EQ(read_text("1,2\n3,4", {"v", "w"}).samples, (Samples{{1, 3}, {2, 4}}));
  EXPECT_EQ(read_text("\xef\xbb\xbfv [code]\n7\n", {"other"}).samples, (Samples{{7}}));
  const auto two = read_text("time [ms],w [V],note,v [code]\n0,1.5,9,4\n1,2.5,9,5\n", {"v", "w"});
  EXPECT_EQ(two.samples, (Samples{{4, 5}, {1.5, 2.5}}));
  EXPECT_EQ(two.units, (std::vector<std::string>{"code", "V"}));
  EXPECT_NEAR(*two.read.rate, 1000.0, 1e-9);
  EXPECT_EQ(read_text("time [s],v,w\n0,1,2\n", {}).names, (std::vector<std::string>{"v", "w"}));
  EXPECT_EQ(read_text("a,b\n1,2\n", {"v", "w"}).samples, (Samples{{1}, {2}}));  // in their order
}

// What instruments and spreadsheets export is read, and what is not as in our own files is said.
TEST(RecordFile, TablesOfOtherProgramsAreRead) {
  const Samples both{{16.5, -0.25, 3}};
  const struct {
    const char* text;
    std::size_t notes;
  } tables[] = {
      {"Time (s);CH1 (V)\n0,000;16,5\n0,001;-0,25\n0,002;3\n", 1},
      {"Scope;7\nDate;2026-11-30\n\nTime (s);CH1 (V)\n0,0;16,5\n1e-3;-0.25\n2e-3;3\n", 2},
      {"time [s]\tCH1 [V]\n0\t16.5\n0.001\t-0.25\n0.002\t3\n", 1},
      {"Model,A7\nGain,2\nCH1 [V]\n16.5\n-0.25\n3\n", 1},
      {"\xef\xbb\xbfSerial number 12\r\nTime [s],CH1 [V]\r\n0,16.5\r\n0.001,-0.25\r\n0.002,3\r\n",
       1},
  };
  for (const auto& [text, notes] : tables) {
    const auto result = read_text(text, {"v"});
    EXPECT_EQ(result.samples, both) << text;
    EXPECT_EQ(result.units, (std::vector<std::string>{"V"})) << text;
    EXPECT_EQ(result.notes.size(), notes) << text;
    EXPECT_EQ(result.read.damage, "") << text;
  }
  EXPECT_NE(message("Scope\nDate\nno numbers\n", {"v"}).find("no heading with lines of numbers"),
            std::string::npos);
  // A first sample of our own table that is none is damage, and no line before another table.
  EXPECT_NE(read_text("time [s],v\n0,x\n1,2\n2,3\n", {"v"}).read.damage.find(":2: found \"x\""),
            std::string::npos);
}

TEST(RecordFile, WrongHeadsAreRefused) {
  EXPECT_NE(message("", {"v"}).find("no samples"), std::string::npos);
  EXPECT_NE(message("# only a note\n", {"v"}).find("no samples"), std::string::npos);
  EXPECT_NE(message("1,2\n", {"v"}).find("2 columns without a heading"), std::string::npos);
  EXPECT_NE(message("1,2\n", {}).find("--channel"), std::string::npos);
  EXPECT_NE(message("a,b\n1,2\n", {"v"}).find("one called \"v\", or --column"), std::string::npos);
  EXPECT_NE(message("time [s]\n1\n", {}).find("no column but the time"), std::string::npos);
  EXPECT_NE(message("time [days],v\n1,2\n", {"v"}).find("time [s], [ms]"), std::string::npos);
  EXPECT_NE(message(std::string(300000, '1'), {"v"}).find("more than 65536"), std::string::npos);
  RecordLayout raw{.kind = RecordLayout::Kind::raw};
  EXPECT_THROW(RecordFile("none.bin", raw, {"v"}), BadInput);
  EXPECT_THROW(RecordFile("/", raw, {"v"}), BadInput);
  EXPECT_THROW(RecordFile("none.bin", raw, {}), BadInput);
  const Folder folder;
  RecordLayout wav{.kind = RecordLayout::Kind::wav};
  EXPECT_THROW(RecordFile(folder.write("x.wav", "no wave at all"), wav, {"v"}), BadInput);
}

// What stands before the first flaw is handed on, and the flaw is named with its place.
TEST(RecordFile, DamageLeavesWhatCameBefore) {
  struct Case {
    std::string text;
    std::size_t samples;
    const char* says;
  };
  for (const auto& [text, samples, says] :
       {Case{"1\n2\nx\n4\n", 2, ":3: found \"x\""}, Case{"v\n1\nnan\n", 1, ":3: found \"nan\""},
        Case{"1\n2\n1e999\n", 2, ":3: found \"1e999\""},
        Case{"1,2\n3\n", 1, ":2: found 1 cells, expected 2"}, Case{"1\n2,\n3\n", 3, ""},
        Case{"1\n" + std::string(400000, '7') + "\n", 1, "more than 65536"}}) {
    const auto read = read_text(text, text.starts_with("1,2") ? std::vector<std::string>{"v", "w"}
                                                              : std::vector<std::string>{"v"});
    EXPECT_EQ(read.read.samples, samples) << says;
    EXPECT_EQ(read.samples[0].size(), samples) << says;
    EXPECT_NE(read.read.damage.find(says), std::string::npos) << read.read.damage;
    EXPECT_EQ(read.read.damage.empty(), std::string(says).empty());
  }
  const Folder folder;
  const auto raw = read_all(folder.write("r.bin", std::string("\1\0\2\0\3", 5)), "int16", {"v"});
  EXPECT_EQ(raw.samples, (Samples{{1, 2}}));
  EXPECT_NE(raw.read.damage.find("cut within sample 3: 1 of its 2 bytes"), std::string::npos);
  const auto real =
      read_all(folder.write("f.bin", std::string("\0\0\200\77\0\0\200\177\0\0\200\77", 12)),
               "float32", {"v"});
  EXPECT_EQ(real.samples, (Samples{{1.0}}));
  EXPECT_NE(real.read.damage.find("sample 2 is not a number"), std::string::npos);
  RecordLayout wav;
  parse_layout("wav", wav);
  RecordWriter writer(folder.path("w.wav"), wav, {{"v", "code"}}, 100.0);
  writer.add(Samples{std::vector<double>(1000, 5.0)});
  writer.finish();
  std::filesystem::resize_file(folder.path("w.wav"), 1044);
  const auto cut = read_all(folder.path("w.wav"), "wav", {"v"});
  EXPECT_EQ(cut.samples[0], std::vector<double>(500, 5.0));
  EXPECT_NE(cut.read.damage.find("its head promises 2044 bytes, and 1044 are there"),
            std::string::npos);
}

TEST(RecordFile, TimesAreChecked) {
  std::string text = "time [s],v\n";
  double t = 0.0;
  for (int i = 0; i < 1000; ++i) {
    text += std::to_string(t) + ",1\n";
    const bool waited = i > 500 && i < 505;  // for what the gap lacks
    t += i == 500 ? 0.05 : waited ? 0.001 : i == 700 ? -0.002 : i % 2 == 0 ? 0.0098 : 0.0102;
  }
  const auto times = *read_text(text, {"v"}).read.times;
  EXPECT_NEAR(times.period, 0.01, 1e-5);
  EXPECT_NEAR(times.jitter, 0.0002, 1e-5);
  EXPECT_EQ(times.gaps, 1U);
  EXPECT_NEAR(times.longest, 0.05, 1e-9);
  EXPECT_EQ(times.backwards, 1U);
  EXPECT_EQ(times.held_back, 4U);
  EXPECT_EQ(times.backlog, 4U);
  EXPECT_EQ(times.first_odd, 502U);
}

TEST(RecordWriter, RefusesWhatTheLayoutCannotHold) {
  const Folder folder;
  for (const char* layout : {"int8", "uint16", "wav"}) {
    for (const double wrong : {70000.0, -32769.0, 0.5}) {
      RecordLayout of;
      parse_layout(layout, of);
      RecordWriter writer(folder.path("r"), of, {{"v", "code"}}, 100.0);
      EXPECT_THROW(writer.add(Samples{{wrong}}), BadInput) << layout << " " << wrong;
    }
  }
  EXPECT_FALSE(std::filesystem::exists(folder.path("r")));
  RecordLayout csv;
  EXPECT_THROW(RecordWriter("/nowhere/r.csv", csv, {{"v", "code"}}, 1.0), EnvironmentError);
}

}  // namespace
}  // namespace tamlo::io
