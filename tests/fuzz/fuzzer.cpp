// SPDX-License-Identifier: Apache-2.0
// Readers, and paths through the core, for fuzzers that are led by coverage (scripts/prove fuzz):
// the name that the program is started by, fuzz_board, says which. What is wrong in the input may
// be refused by an Error; anything else that is thrown ends the run, and so does a figure that is
// none.
#include <fmt/format.h>
#include <sys/mman.h>
#include <unistd.h>

#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <functional>
#include <string>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/log.hpp"
#include "tamlo/io/detail/overlays.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/readings_file.hpp"
#include "tamlo/io/record_file.hpp"
#include "tamlo/io/register_map.hpp"
#include "tamlo/link/detail/line_parser.hpp"
#include "tamlo/link/detail/scpi.hpp"
#include "tamlo/meter/calibrate.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/diagnose.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/record/verdict.hpp"
#include "tamlo/result/results.hpp"
#include "tamlo/signal/capture.hpp"

namespace {

using namespace tamlo;

// A file that is only in memory, with a name that readers can open.
class MemoryFile {
 public:
  explicit MemoryFile(std::string_view text) : descriptor_(memfd_create("input", MFD_CLOEXEC)) {
    if (write(descriptor_, text.data(), text.size()) != static_cast<ssize_t>(text.size())) abort();
  }
  ~MemoryFile() { close(descriptor_); }
  MemoryFile(const MemoryFile&) = delete;
  MemoryFile& operator=(const MemoryFile&) = delete;
  std::string path() const { return fmt::format("/proc/self/fd/{}", descriptor_); }

 private:
  int descriptor_;
};

void must(bool holds) {
  if (!holds) abort();
}

// What is read prints so that it is read back the same.
void fuzz_notation(std::string_view text) {
  for (const char* name : {"V", "degC", "ohm", "", static_cast<const char*>(nullptr)}) {
    quantity::Expected expected;
    if (name != nullptr) expected.unit = quantity::unit(name);
    try {
      const auto value = quantity::parse_value(text, expected);
      const auto again = quantity::to_string(value);
      must(quantity::to_string(quantity::parse_value(again, expected)) == again);
    } catch (const Error&) {
    }
    try {
      const auto range = quantity::parse_range(text, expected);
      must(std::isfinite(range.low) && std::isfinite(range.high));
    } catch (const Error&) {
    }
  }
}

constexpr auto json = result::Format::json;

// A channel through check, budget, the way to a code and back, and JSON.
void through_the_core(const model::Board& board, const std::string& channel) {
  const auto chain = chain::build(board, channel);
  const auto& span = chain.channel.span;
  result::write(check::examine(board, {channel}), json);
  const auto budget =
      budget::evaluate(chain, {.at = {span.low, span.high}, .search = false, .rough_units = 50});
  must(std::isfinite(budget.points.front().expanded));
  result::write(result::Budgets{{{.budget = budget}}}, json);
  const auto trace = chain::trace(chain, span.middle());
  result::write(
      result::Traces{{{.channel = channel,
                       .unit = span.unit,
                       .forward = {trace},
                       .back = {chain::inverse_trace(chain, chain.report.first_reported)}}}},
      json);
}

void through_the_core(const model::Board& board) {
  for (const auto& channel : board.channels) through_the_core(board, channel.name);
}

// Reading is what is fuzzed first: one input in 64 goes on through the core.
bool goes_on(std::string_view text) { return std::hash<std::string_view>{}(text) % 64 == 0; }

void fuzz_board(std::string_view text) {
  const MemoryFile file(text);
  const auto board = io::load_board({file.path()});
  if (goes_on(text)) through_the_core(board);
}

void fuzz_setting(std::string_view text) {
  const auto board =
      io::load_board({TAMLO_SOURCE "/examples/boards/coolant_pressure.toml"}, {std::string(text)});
  if (goes_on(text)) through_the_core(board);
}

// A file after that of a board.
void fuzz_overlay(std::string_view text) {
  const MemoryFile file(text);
  const auto board =
      io::load_board({TAMLO_SOURCE "/examples/boards/coolant_pressure.toml", file.path()});
  if (goes_on(text)) through_the_core(board);
}

// Lines of a link in one of its forms, and each as the answer of an instrument.
void fuzz_line(std::string_view text) {
  static const auto board = io::load_board({TAMLO_SOURCE "/demo/board.toml"});
  if (text.empty()) return;
  const auto form = static_cast<model::LineForm>(static_cast<unsigned char>(text.front()) % 4);
  const bool pattern = form == model::LineForm::pattern;
  link::LineParser parser({.form = form,
                           .pattern = pattern ? "v {pack_voltage.code} flow {coolant_flow.reading}"
                                              : "pack_voltage.code"},
                          board);
  for (text.remove_prefix(1); !text.empty();) {
    const auto line = text.substr(0, text.find('\n'));
    text.remove_prefix(std::min(text.size(), line.size() + 1));
    std::vector<link::Value> values;
    must(parser.parse(line, values) || !parser.problem().empty());
    for (const auto& value : values) must(value.overload() || link::may_be_measured(*value.value));
    const auto number = link::parse_scpi_number(line, quantity::unit("mV"));
    must(!number || !number->value || link::may_be_measured(*number->value));
    link::scpi_error(line);
    must(std::isfinite(link::last_place(line)));
  }
}

// Rows that a long work left: those that are believed have their check word.
void fuzz_progress(std::string_view text) {
  const std::string heading = "block,figures,check of fuzz\n";
  const MemoryFile file(heading + std::string(text));
  const auto all_done = [](const math::Blocks& blocks) {
    must(blocks.known.size() == blocks.count);
    return true;
  };
  math::Blocks blocks{.count = 100};
  blocks.take = [](std::uint64_t block, const std::vector<double>&) { must(block < 100); };
  io::kept_in(file.path(), "fuzz", all_done)(blocks);
}

// A register map to words and back, and the words as a board again.
void fuzz_map(std::string_view text) {
  static const auto board = io::load_board({TAMLO_SOURCE "/examples/boards/eight_channels.toml"});
  const MemoryFile file(text);
  for (const auto& map : io::load_register_maps(file.path(), board)) {
    const auto words = firmware::words_of(map, board, "winding");
    firmware::Dump dump;
    for (const auto& of : words.registers) {
      for (const auto& one : firmware::words_of(of)) dump[one.address] = one.value;
    }
    const auto found = firmware::settings_found(map, dump, board, "winding");
    // What the board says, and the map can express, comes back.
    if (words.problems.empty()) {
      for (const auto& of : found.settings) must(!of.differs);
    }
    io::overlay_of(found, board);
    firmware::c_registers(map, {words});
    result::write(result::Registers{{{.words = words, .found = found}}}, json);
  }
}

void fuzz_readings(std::string_view text) {
  static const std::string path = TAMLO_SOURCE "/demo/board.toml";
  static const auto board = io::load_board({path});
  const MemoryFile file(text);
  const auto all = io::load_readings(file.path(), board);
  for (const auto& of : all.channels) {
    const auto& meter = io::choose_meter(board, path, "", all, of);
    const auto chain = meter::chain_as_metered(board, of.channel, meter);
    const auto rows = io::rows_of(of, meter);
    if (!goes_on(text)) continue;
    const result::ChannelComparison comparison{
        .comparison = meter::compare(chain, meter, rows),
        .diagnosis = meter::diagnose(board, of.channel, meter, rows)};
    result::write(result::Comparisons{.channels = {comparison}}, json);
    const auto calibration = meter::calibrate(chain, meter, rows);
    const MemoryFile overlay(io::overlay_of(calibration));
    through_the_core(io::load_board({path, overlay.path()}), of.channel);
  }
}

// The first byte says how the samples lie, what they are and what the channel was fed with.
void fuzz_record(std::string_view text) {
  static const auto board = io::load_board({TAMLO_SOURCE "/demo/board.toml"});
  static const auto chain = chain::build(board, "pack_voltage");
  if (text.empty()) return;
  const char* const layouts[] = {"csv",   "wav",   "int8",   "int16",       "int24 big",
                                 "int32", "uint8", "uint16", "float32 big", "float64"};
  const record::Input inputs[] = {record::Input::steady, record::Input::ramp, record::Input::sine,
                                  record::Input::step};
  const auto choice = static_cast<unsigned char>(text.front());
  const auto input = inputs[choice / std::size(layouts) % std::size(inputs)];
  const auto shows = choice < 128 ? record::Shows::readings : record::Shows::codes;
  io::RecordLayout layout;
  must(io::parse_layout(layouts[choice % std::size(layouts)], layout));
  const MemoryFile file(text.substr(1));
  io::RecordFile of(file.path(), layout, {"pack_voltage"});
  signal::Capture capture(record::capture_options(chain, shows, input));
  bool sound = true;
  of.read([&](std::size_t, std::span<const double> samples) {
    for (const double x : samples) sound = sound && std::isfinite(x);
    capture.add(samples);
  });
  must(sound);
  const auto verdict = record::judge(chain, shows, {.input = input, .low = 1.0, .high = 59.0},
                                     capture, 1000.0, 0.95);
  result::write(result::Records{{{.verdict = verdict, .unit = chain.channel.span.unit}}}, json);
}

using Target = void (*)(std::string_view);
const std::pair<std::string_view, Target> targets[] = {
    {"notation", fuzz_notation}, {"setting", fuzz_setting}, {"overlay", fuzz_overlay},
    {"board", fuzz_board},       {"map", fuzz_map},         {"readings", fuzz_readings},
    {"record", fuzz_record},     {"line", fuzz_line},       {"progress", fuzz_progress}};
Target target = nullptr;

}  // namespace

extern "C" int LLVMFuzzerInitialize(int*, char*** arguments) {
  const std::string_view program = **arguments;
  for (const auto& [name, function] : targets) {
    if (program.ends_with(name)) target = function;
  }
  must(target != nullptr);
  return 0;
}

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  try {
    target(std::string_view(reinterpret_cast<const char*>(data), size));
  } catch (const tamlo::Error&) {
    // Refused, with words.
  }
  return 0;
}
