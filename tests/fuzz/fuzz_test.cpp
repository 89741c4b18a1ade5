// SPDX-License-Identifier: Apache-2.0
// Every reader against files that are wrong in ways that nobody thought of: sound files, bent at
// random so many times. A reader may refuse a file with BadInput; anything else is a defect,
// and under the sanitizers every stray access is one. Mutants follow from their numbers alone, so
// that one that fails is found again: its number and its text are printed.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <functional>

#include "tamlo/chain/chain.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/log.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/readings_file.hpp"
#include "tamlo/io/record_file.hpp"
#include "tamlo/io/register_map.hpp"
#include "tamlo/link/detail/line_parser.hpp"
#include "tamlo/link/detail/scpi.hpp"
#include "tamlo/math/detail/blocks.hpp"
#include "tamlo/math/random.hpp"
#include "tamlo/model/board.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

namespace fs = std::filesystem;
using Texts = std::vector<std::string>;

Texts files_in(const fs::path& folder, const std::string& ending) {
  std::vector<fs::path> found;
  for (const auto& entry : fs::directory_iterator(folder)) {
    if (entry.path().extension() == ending) found.push_back(entry.path());
  }
  std::ranges::sort(found);
  Texts result;
  for (const auto& path : found) result.push_back(read(path.string()));
  return result;
}

Texts corpus(const std::string& ending) {
  return files_in(fs::path(TAMLO_SOURCE) / "tests/fuzz/corpus", ending);
}

void append(Texts& to, const Texts& more) { to.insert(to.end(), more.begin(), more.end()); }

// Pieces that readers take notice of.
const Texts pieces{"\"",
                   "'",
                   "[",
                   "]",
                   "{",
                   "}",
                   "=",
                   ",",
                   "\n",
                   "\r\n",
                   "#",
                   "±",
                   "..",
                   "1e999",
                   "-",
                   "0",
                   "nan",
                   "inf",
                   "\xff",
                   "\xef\xbb\xbf",
                   " ",
                   "% of span",
                   " LSB",
                   " kohm",
                   "1e-320",
                   "9999999999999999999",
                   std::string(1, '\0')};

// A few changes to a text, or a part of another one in it.
std::string mutant(const Texts& seeds, std::uint64_t number) {
  math::RandomStream stream(77, number);
  const auto below = [&](std::size_t n) {
    return static_cast<std::size_t>(stream.uniform() * static_cast<double>(n));
  };
  auto text = seeds[below(seeds.size())];
  for (auto changes = 1 + below(6); changes > 0; --changes) {
    const auto at = below(text.size() + 1);
    const auto length = std::min(text.size() - at, below(40));
    switch (below(6)) {
      case 0:
        if (at < text.size()) text[at] = static_cast<char>(text[at] ^ (1 << below(8)));
        break;
      case 1:
        text.erase(at, length);
        break;
      case 2:
        text.insert(at, pieces[below(pieces.size())]);
        break;
      case 3:
        text.insert(at, text.substr(below(text.size() + 1), length));
        break;
      case 4: {
        const auto& other = seeds[below(seeds.size())];
        text.replace(at, length, other.substr(below(other.size() + 1), below(200)));
        break;
      }
      default:
        text.resize(at);
    }
  }
  return text;
}

void fuzz(const Texts& seeds, const std::string& name,
          const std::function<void(const std::string&)>& reads, std::uint64_t executions = 2000) {
  ASSERT_FALSE(seeds.empty());
  const Folder folder;
  int refused = 0;
  for (std::uint64_t number = 0; number < executions; ++number) {
    const auto text = number < seeds.size() ? seeds[number] : mutant(seeds, number);
    const auto path = folder.write(name, text);
    try {
      reads(path);
    } catch (const io::BadInput& error) {
      ++refused;
      ASSERT_FALSE(error.problems.empty());
    } catch (const std::exception& error) {
      FAIL() << "mutant " << number << ": " << error.what() << "\n" << text;
    }
  }
  EXPECT_GT(refused, 0);
}

TEST(Fuzz, Boards) {
  auto seeds = files_in(fs::path(TAMLO_SOURCE) / "examples/boards", ".toml");
  append(seeds, corpus(".toml"));
  seeds.push_back(read(demo("board.toml")));
  seeds.emplace_back(small_board);
  fuzz(seeds, "board.toml", [](const std::string& path) {
    const auto board = io::load_board({path});
    for (const auto& channel : board.channels) chain::build(board, channel.name);
  });
}

TEST(Fuzz, Readings) {
  auto seeds = files_in(demo(""), ".csv");
  append(seeds, corpus(".csv"));
  const auto board = io::load_board({demo("board.toml")});
  fuzz(seeds, "readings.csv", [&](const std::string& path) { io::load_readings(path, board); });
}

// A file of some keys behind a board.
TEST(Fuzz, Overlays) {
  Texts seeds;
  for (const auto& text : corpus(".toml")) {
    if (text.find("# overlay") != std::string::npos) seeds.push_back(text);
  }
  fuzz(seeds, "overlay.toml", [](const std::string& path) {
    const auto board = io::load_board({example("coolant_pressure.toml"), path});
    for (const auto& channel : board.channels) chain::build(board, channel.name);
  });
}

// Rows of progress are those that were written, or refused.
TEST(Fuzz, RowsOfProgress) {
  const Folder folder;
  const std::uint64_t count = 20;
  const auto figures_of = [](std::uint64_t block) {
    return std::vector<double>{static_cast<double>(block) / 3.0, -1e-300};
  };
  math::Blocks blocks{.count = count, .work = figures_of};
  blocks.take = [](std::uint64_t, const std::vector<double>&) {};
  const auto whole = folder.path("whole");
  ASSERT_TRUE(io::kept_in(whole, "rows", math::by_threads(1))(blocks));
  fuzz({read(whole)}, "progress", [&](const std::string& path) {
    try {
      blocks.take = [&](std::uint64_t block, const std::vector<double>& figures) {
        ASSERT_LT(block, count);
        ASSERT_EQ(figures, figures_of(block));
      };
      io::kept_in(path, "rows", math::by_threads(1))(blocks);
    } catch (const io::EnvironmentError&) {
      throw io::BadInput({{.file = path, .problem = "another heading", .hint = "its own"}});
    }
  });
}

// Lines of links and answers of instruments bring numbers that may be measured, or nothing.
TEST(Fuzz, LinesAndAnswers) {
  const auto board = io::load_board({demo_board});
  const Texts seeds{"pack_voltage.code=2048, coolant_flow.reading=3.5",
                    "2048",
                    "0x800",
                    "v 2048 flow 3.5",
                    "+1.234567E+01",
                    "12.5 mV",
                    "9.9E37",
                    "0,\"No error\"",
                    "pack_voltage.code,coolant_flow.reading"};
  std::vector<link::LineParser> parsers;
  for (const auto form : {model::LineForm::pattern, model::LineForm::csv, model::LineForm::pairs,
                          model::LineForm::number}) {
    const bool pattern = form == model::LineForm::pattern;
    parsers.emplace_back(
        model::Link{.form = form,
                    .pattern = pattern ? "v {pack_voltage.code} flow {coolant_flow.reading}"
                                       : "pack_voltage.code"},
        board);
  }
  int taken = 0, refused = 0;
  for (std::uint64_t number = 0; number < 20'000; ++number) {
    const auto line = number < seeds.size() ? seeds[number] : mutant(seeds, number);
    for (auto& parser : parsers) {
      std::vector<link::Value> values;
      ++(parser.parse(line, values) ? taken : refused);
      for (const auto& value : values) {
        ASSERT_TRUE(value.overload() || link::may_be_measured(*value.value)) << line;
      }
    }
    const auto answer = link::parse_scpi_number(line, quantity::unit("mV"));
    ASSERT_TRUE(!answer || !answer->value || link::may_be_measured(*answer->value)) << line;
    link::scpi_error(line);
  }
  EXPECT_GT(taken, 1000);
  EXPECT_GT(refused, 1000);
}

// Maps to words and, by those words, back; dumps of them.
TEST(Fuzz, RegisterMaps) {
  const auto board = io::load_board({example("eight_channels.toml")});
  const auto folder = fs::path(TAMLO_SOURCE) / "examples/maps";
  fuzz(
      files_in(folder, ".toml"), "map.toml",
      [&](const std::string& path) {
        for (const auto& map : io::load_register_maps(path, board)) {
          const auto words = firmware::words_of(map, board, "winding");
          firmware::Dump dump;
          for (const auto& of : words.registers) {
            for (const auto& one : firmware::words_of(of)) dump[one.address] = one.value;
          }
          io::overlay_of(firmware::settings_found(map, dump, board, "winding"), board);
          firmware::c_registers(map, {words});
        }
      },
      1000);
  fuzz(files_in(folder, ".csv"), "dump.csv", [](const std::string& path) { io::load_dump(path); });
}

void fuzz_records(const Texts& seeds, const std::string& layout, const Texts& wanted) {
  io::RecordLayout of;
  ASSERT_TRUE(io::parse_layout(layout, of));
  fuzz(seeds, "record", [&](const std::string& path) {
    io::RecordFile file(path, of, wanted);
    std::uint64_t samples = 0;
    const auto result = file.read([&](std::size_t which, std::span<const double> block) {
      if (which == 0) samples += block.size();
      for (const double x : block) ASSERT_TRUE(std::isfinite(x));
    });
    ASSERT_EQ(result.samples, samples);
    if (samples == 0) throw io::BadInput({{.file = path, .problem = "no samples", .hint = "some"}});
  });
}

TEST(Fuzz, RecordsAsText) {
  auto seeds = corpus(".csv");
  seeds.push_back(read(demo("step.csv")));
  fuzz_records(seeds, "csv", {"pack_voltage"});
}

TEST(Fuzz, RecordsAsWav) {
  auto seeds = corpus(".wav");
  seeds.push_back(read(demo("sine.wav")).substr(0, 4000));
  fuzz_records(seeds, "wav", {"v"});
}

TEST(Fuzz, RecordsAsNumbers) {
  const auto whole = read(demo("steady.raw")).substr(0, 3000);
  fuzz_records({whole, "", std::string(7, '\xff')}, "float32 big", {"v", "w"});
}

}  // namespace
}  // namespace tamlo::testing
