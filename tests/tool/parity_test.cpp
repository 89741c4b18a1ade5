// SPDX-License-Identifier: Apache-2.0
// What one form of a result shows, all forms show: every number of the text is one of the JSON,
// rounded, and JSON, CSV and Markdown have the same numbers.
#include <gtest/gtest.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <set>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

using Json = nlohmann::json;
using Call = std::vector<std::string>;

std::string shown(Call call, const char* format) {
  call.insert(call.end(), {"--format", format});
  return tamlo(call).output;
}

struct Figures {
  std::vector<double> numbers;  // absolute values, rising
  std::string texts;
};

void collect(const Json& json, Figures& into) {
  if (json.is_number()) into.numbers.push_back(std::abs(json.get<double>()));
  if (json.is_string()) into.texts += " " + json.get<std::string>();
  if (!json.is_structured()) return;
  for (const auto& part : json) collect(part, into);
}

Figures figures_of(const std::string& document) {
  auto json = Json::parse(document);
  json.erase("format");
  json.erase("tamlo");
  Figures result;
  collect(json, result);
  std::ranges::sort(result.numbers);
  return result;
}

// Numbers without their signs; a digit behind a letter, as in "INL2", is a part of a name.
std::vector<std::string> numbers_in(const std::string& text) {
  const auto digit = [&](std::size_t i) {
    return i < text.size() && std::isdigit(static_cast<unsigned char>(text[i])) != 0;
  };
  const auto in_name = [&](std::size_t i) {
    return i > 0 && (std::isalnum(static_cast<unsigned char>(text[i - 1])) != 0 ||
                     text[i - 1] == '_' || text[i - 1] == '.');
  };
  std::vector<std::string> result;
  for (std::size_t i = 0; i < text.size();) {
    if (!digit(i)) {
      ++i;
      continue;
    }
    auto end = i;
    while (digit(end)) ++end;
    if (end < text.size() && text[end] == '.') ++end;
    while (digit(end)) ++end;
    if (end < text.size() && (text[end] == 'e' || text[end] == 'E')) {
      const bool sign = end + 1 < text.size() && (text[end + 1] == '-' || text[end + 1] == '+');
      if (auto exponent = end + (sign ? 2 : 1); digit(exponent)) {
        for (end = exponent; digit(end);) ++end;
      }
    }
    if (!in_name(i)) result.push_back(text.substr(i, end - i));
    i = end;
  }
  return result;
}

// True if some figure, in some multiple of its unit, rounds to what is printed, or is rounded up to
// it, as bounds are.
bool stands_in(const std::string& printed, const Figures& figures) {
  const double value = std::stod(printed);
  if (value == 0.0) return true;
  const auto mantissa = printed.substr(0, printed.find_first_of("eE"));
  const auto point = std::min(mantissa.find('.'), mantissa.size());
  double half = 0.5000001;
  for (auto i = mantissa.size(); point < i - 1; --i) half /= 10.0;
  if (mantissa.size() < printed.size()) {
    half *= std::pow(10.0, std::stod(printed.substr(mantissa.size() + 1)));
  }
  constexpr double multiples[] = {1.0,  1e2,  1e3,  1e6,        1e9,         1e12,
                                  1e-3, 1e-6, 1e-9, 1.0 / 3600, 1.0 / 86400, 1.0 / 31557600.0};
  return std::ranges::any_of(multiples, [&](double multiple) {
    const auto from = std::ranges::lower_bound(figures.numbers, (value - 2.0 * half) / multiple);
    return from != figures.numbers.end() && *from <= (value + half) / multiple;
  });
}

// Labels with numbers in them.
std::string without_labels(std::string text) {
  for (const std::string label : {"JCGM 101", "from 10 to 90 %", "50 Hz [dB]", "60 Hz [dB]",
                                  "NAMUR NE 43", "settles to 0.1 %", "settles to 1 LSB"}) {
    for (auto at = text.find(label); at != std::string::npos; at = text.find(label)) {
      text.erase(at, label.size());
    }
  }
  return text;
}

void expect_parity(const Call& call) {
  const auto figures = figures_of(shown(call, "json"));
  const auto as_texts = numbers_in(figures.texts);
  const std::set<std::string> in_texts(as_texts.begin(), as_texts.end());
  const auto text = shown(call, "text");
  for (const auto& printed : numbers_in(without_labels(text))) {
    EXPECT_TRUE(in_texts.contains(printed) || stands_in(printed, figures)) << printed;
  }
  const auto csv = numbers_in(shown(call, "csv"));
  std::set<double> in_csv;
  for (const auto& cell : csv) in_csv.insert(std::stod(cell));
  const auto markdown = numbers_in(shown(call, "markdown"));
  const std::set<std::string> in_markdown(markdown.begin(), markdown.end());
  for (const double number : figures.numbers) {
    EXPECT_TRUE(in_csv.contains(number)) << number;
    char rounded[32];
    const auto end =
        std::to_chars(rounded, rounded + 32, number, std::chars_format::general, 6).ptr;
    EXPECT_TRUE(in_markdown.contains(std::string(rounded, end)) ||
                in_markdown.contains(std::to_string(std::llround(number))))
        << number;
  }
}

TEST(Parity, EveryFormShowsTheSameFigures) {
  const std::string readings = demo_readings, pack = "pack_voltage";
  const std::string maps = std::string(TAMLO_SOURCE) + "/examples/maps/";
  std::vector<Call> calls{
      {"check", demo_board},
      {"channel", demo_board},
      {"channel", demo_board, "coolant_flow", "--ramp", "1 l/min/s"},
      {"convert", demo_board, pack, "--at", "48 V", "--code", "100"},
      {"firmware", demo_board},
      {"firmware", example("temperatures.toml"), "--channel", "winding", "--channel",
       "oil_four_wires", "--count", "0.02 K"},
      {"registers", example("weighing.toml"), maps + "delta_sigma.toml", "--channel", "load"},
      {"registers", example("eight_channels.toml"), maps + "controller.toml", "--found",
       maps + "controller_dump.csv"},
      {"budget", demo_board, "coolant_flow", "--over", "age", "--over", "temperature"},
      {"budget", demo_board, "coolant_flow", "--trials", "5000"},
      {"compare", demo_board, readings},
      {"compare", demo_board, demo("readings_units.csv")},
      {"compare", demo_board, demo("readings_later.csv"), "--since", readings, "--elapsed",
       "1 year"},
      {"calibrate", demo_board, readings, "--channel", pack},
      {"calibrate", demo_board, readings, "--channel", pack, "--model", "piecewise"},
      {"record", demo_board, demo("steady.raw"), "--layout", "int16", "--channel", pack},
      {"record", demo_board, demo("step.csv"), "--input", "step"},
      {"record", demo_board, demo("sine.wav"), "--channel", "auxiliary_supply", "--input", "sine"},
  };
  for (const auto& of : std::filesystem::directory_iterator(example("."))) {
    if (of.path().extension() != ".toml") continue;
    // Those with the most channels show no form that the others do not.
    if (of.path().stem() == "eight_channels" || of.path().stem() == "process_inputs") continue;
    for (const char* command : {"check", "channel", "budget"}) {
      calls.push_back({command, of.path().string()});
    }
  }
  EXPECT_GT(calls.size(), 18U);
  for (const auto& call : calls) {
    std::string words;
    for (const auto& word : call) words += word + " ";
    SCOPED_TRACE(words);
    expect_parity(call);
  }
}

}  // namespace
}  // namespace tamlo::testing
