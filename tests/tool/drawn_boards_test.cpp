// SPDX-License-Identifier: Apache-2.0
// Boards that are drawn: those of this tree with other limits, resolutions, noise, averages and
// spans. Whatever is drawn, every command ends with words, no figure is none, and the interval that
// a budget states holds the readings of virtual units. TAMLO_DRAWN_BOARDS and TAMLO_FIRST_BOARD
// draw others.
#include <gtest/gtest.h>

#include <cstdlib>
#include <filesystem>
#include <functional>
#include <nlohmann/json.hpp>
#include <random>
#include <regex>

#include "boards.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

using Json = nlohmann::json;

int setting(const char* name, int otherwise) {
  const char* const text = std::getenv(name);
  return text == nullptr ? otherwise : std::atoi(text);
}

class Draw {
 public:
  explicit Draw(int number) : random_(static_cast<unsigned>(number)) {}

  template <class T>
  T one_of(std::initializer_list<T> of) {
    return of.begin()[random_() % of.size()];
  }
  /// Every place of the text that fits, as `change` has it.
  std::string changed(const std::string& text, const char* pattern,
                      const std::function<std::string(const std::smatch&)>& change) {
    const std::regex regex(pattern);
    std::string result;
    auto at = text.begin();
    for (std::sregex_iterator found(text.begin(), text.end(), regex), end; found != end; ++found) {
      result.append(at, text.begin() + found->position()).append(change(*found));
      at = text.begin() + found->position() + found->length();
    }
    return result.append(at, text.end());
  }
  std::string times(const std::smatch& found, std::initializer_list<double> factors) {
    std::ostringstream text;
    text << std::stod(found[1]) * one_of(factors);
    return text.str();
  }

 private:
  std::mt19937 random_;
};

std::string drawn(int number, const std::vector<std::string>& boards) {
  Draw draw(number);
  auto text = read(boards[static_cast<std::size_t>(number) % boards.size()]);
  text = draw.changed(text, "±([0-9]+\\.?[0-9]*)", [&](const std::smatch& found) {
    return "±" + draw.times(found, {0.1, 0.3, 1.0, 1.0, 3.0, 6.0});
  });
  text = draw.changed(text, "\"[0-9]+ bit\"", [&](const std::smatch&) {
    return draw.one_of<const char*>(
        {"\"6 bit\"", "\"8 bit\"", "\"10 bit\"", "\"12 bit\"", "\"14 bit\"", "\"16 bit\""});
  });
  text = draw.changed(text, "([0-9]+\\.?[0-9]*) LSB rms", [&](const std::smatch& found) {
    return draw.times(found, {0.03, 0.3, 1.0, 1.0, 5.0}) + " LSB rms";
  });
  text = draw.changed(text, "\naverage *= *[0-9]+", [&](const std::smatch&) {
    return "\naverage = " + std::to_string(draw.one_of({1, 2, 4, 16, 64}));
  });
  return draw.changed(text, "\nspan *= *\"([-0-9.]+)\\.\\.([-0-9.]+)",
                      [&](const std::smatch& found) {
                        const double low = std::stod(found[1]), width = std::stod(found[2]) - low;
                        std::ostringstream span;
                        span << "\nspan = \"" << low + width * draw.one_of({0.0, 0.0, 0.05, 0.2})
                             << ".." << low + width * draw.one_of({0.5, 0.9, 1.0});
                        return span.str();
                      });
}

TEST(DrawnBoards, TheirBudgetsAreProvenByUnits) {
  const auto boards = boards_of_the_tree();
  const int count = setting("TAMLO_DRAWN_BOARDS", 15 / fewer);
  const int first = setting("TAMLO_FIRST_BOARD", 1);
  const std::regex no_figure("(^|[^a-z])(nan|inf)([^a-z]|$)");
  int places = 0;
  for (int number = first; number < first + count; ++number) {
    SCOPED_TRACE(number);
    // Beside what it names: tables of INL, curves.
    const auto& of = boards[static_cast<std::size_t>(number) % boards.size()];
    const Folder folder;
    std::filesystem::copy(std::filesystem::path(of).parent_path(), folder.path(""),
                          std::filesystem::copy_options::recursive);
    const auto board = folder.write("drawn.toml", drawn(number, boards));
    for (const char* command : {"check", "budget"}) {
      const auto result = tamlo({command, board, "--format", "json"});
      ASSERT_LE(result.status, 2) << command << result.errors;
      EXPECT_EQ(result.status == 2, !result.errors.empty()) << command << result.errors;
      EXPECT_FALSE(std::regex_search(result.output, no_figure)) << command;
    }
    const auto proof = tamlo({"prove", board, "--unit", "1..1000", "--format", "json"});
    ASSERT_LE(proof.status, 2) << proof.errors;
    if (proof.status == 2) continue;  // such a board cannot be
    const auto json = Json::parse(proof.output);
    for (const auto& channel : json["channels"]) {
      for (const auto& place : channel["places"]) {
        ++places;
        // Steps of a firmware's own are worth a hundredth or two.
        EXPECT_GE(place["part_high"].get<double>(), 0.935) << of << channel["channel"] << place;
      }
    }
  }
  EXPECT_GE(places, 2 * count);
}

// One of 256 corners of the limits, at which reading and tare round apart, is the lowest: found by
// an independent simulation of all of them.
TEST(DrawnBoards, AWorstCaseHoldsTheOneCornerThatRoundsFurther) {
  const Folder folder;
  const auto board = folder.write("board.toml", R"toml(format = 1
[reference.r]
voltage = "5 V ±0.0201 %"
[converter.a]
resolution = "12 bit"
reference = "r"
first_transition = "1 LSB"
offset = "±0.372 LSB (arcsine)"
gain = "±3.92 LSB (triangular)"
inl = "±2 LSB"
noise = "0.033 LSB rms"
attenuation = { third = { ratio = "0.33333333 ±0.3 %", usable = "0..16.5 V" } }
report = { counts = { at_low = 4000, at_high = 20000, least = 0, most = 22800 } }
[channel.c]
converter = "a"
attenuation = "third"
span = "-40..150 degC"
sensor = { platinum = { r0 = "1000 ohm", class = "C" } }
frontend = [ { excitation = { current = "3 mA ±0.0215 %" } } ]
average = 16
scaling = { tare = "36 degC" }
)toml");
  const auto result = tamlo({"budget", board, "--at", "149.598812 degC", "--format", "json"});
  const auto json = Json::parse(result.output);
  const auto& worst = json["channels"][0]["points"][0]["worst_case"];
  EXPECT_NEAR(worst["low"].get<double>(), -3.2300, 1e-4);
  EXPECT_NEAR(worst["high"].get<double>(), 3.0903, 1e-4);
}

}  // namespace
}  // namespace tamlo::testing
