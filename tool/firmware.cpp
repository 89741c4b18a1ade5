// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "job.hpp"
#include "tamlo/firmware/c_code.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/log.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/detail/overlays.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/report/reports.hpp"
#include "tamlo/version.hpp"

namespace tamlo::tool {
namespace {

namespace fs = std::filesystem;

struct FirmwareArguments : BoardArguments {
  std::string write, count, error = "0.1 of target";
  bool text = false, check_program = false, units = false;
  std::string unit_data, unit_day;
  std::string style = "integer";
  Form format{};
};

constexpr const char* code_begins = "/* SPDX-License-Identifier: 0BSD */";
constexpr const char* unit_data_begins = "\x01\x14";

// "0.1 of target", or a value of the quantity.
void set_error(firmware::PlanRequest& request, const std::string& text,
               const quantity::Unit& unit) {
  constexpr std::string_view of_target = " of target";
  if (!text.ends_with(of_target)) {
    request.error = value_of("--arithmetic-error", text, quantity::difference_unit(unit));
    return;
  }
  const auto number = text.substr(0, text.size() - of_target.size());
  request.of_target = value_of("--arithmetic-error", number, {});
  if (!(request.of_target > 0.0 && request.of_target <= 1.0)) {
    refuse("--arithmetic-error", fmt::format("\"{}\"", text),
           "a part above 0, up to \"1 of target\"");
  }
}

firmware::PlanRequest request_of(const FirmwareArguments& arguments, const quantity::Unit& unit) {
  firmware::PlanRequest request;
  set_error(request, arguments.error, unit);
  if (request.error && !(*request.error > 0.0)) {
    refuse("--arithmetic-error", fmt::format("\"{}\"", arguments.error), "a value above 0");
  }
  if (!arguments.count.empty()) {
    request.count = value_of("--count", arguments.count, quantity::difference_unit(unit));
    if (!(*request.count > 0.0)) {
      refuse("--count", fmt::format("\"{}\"", arguments.count), "a value above 0");
    }
  }
  return request;
}

// The code of one channel, its overlay and its check, into the folder.
void write_channel(io::OutputFiles& outputs, const FirmwareArguments& arguments,
                   const model::Board& board, const std::string& hash,
                   firmware::ChannelFirmware& result) {
  const auto& plan = result.plan;
  const auto& channel = *model::find(board.channels, plan.channel);
  const auto code = firmware::c_code(plan, {.text = arguments.text,
                                            .floating = arguments.style == "float",
                                            .units = arguments.units || result.unit,
                                            .measures = channel.measures,
                                            .made_by = fmt::format("Tamlo {}", version),
                                            .description = hash});
  const auto add = [&](const char* end, const std::string& text, const char* begins) {
    const auto path = io::name_beside(arguments.write + "/", plan.identifier + end);
    outputs.add(path, begins);
    outputs.write(path, text);
    result.files.push_back(path);
  };
  add(".h", code.header, code_begins);
  add(".c", code.source, code_begins);
  if (result.unit) {
    const auto bytes = firmware::bytes_of(plan, *result.unit);
    add("_unit.h", firmware::c_unit_data(plan, *result.unit), code_begins);
    add("_unit.bin", {bytes.begin(), bytes.end()}, unit_data_begins);
  }
  if (arguments.check_program) {
    const auto expected = firmware::expected(chain::build(board, plan.channel), plan);
    add("_check.c", firmware::c_check(plan, expected), code_begins);
  }
  add(".toml", io::overlay_of(channel, firmware::with_integers(channel, plan)),
      io::firmware_overlay_begins);
}

// What is computed from the readings of channels that have code.
void add_quantities(const model::Board& board, const std::vector<model::Quantity>& quantities,
                    result::Firmwares& result) {
  std::vector<firmware::Plan> plans;
  for (const auto& channel : result.channels) plans.push_back(channel.plan);
  for (const auto& quantity : quantities) {
    auto& added = result.quantities.emplace_back();
    try {
      added.plan = firmware::plan(board, quantity, plans);
    } catch (const firmware::FirmwareError& error) {
      added.plan = {.quantity = quantity.name,
                    .expression = quantity.expression,
                    .unit = quantity.span.unit,
                    .channels = model::channels_of(board, quantity)};
      added.without_code = error.what();
    }
  }
}

void write_quantity(io::OutputFiles& outputs, const FirmwareArguments& arguments,
                    const std::string& hash, result::QuantityFirmware& quantity) {
  if (quantity.without_code) return;
  const auto code = firmware::c_code(
      quantity.plan, {.made_by = fmt::format("Tamlo {}", version), .description = hash});
  for (const auto& [end, text] : {std::pair{".h", code.header}, std::pair{".c", code.source}}) {
    const auto path = io::name_beside(arguments.write + "/", quantity.plan.identifier + end);
    outputs.add(path, code_begins);
    outputs.write(path, text);
    quantity.files.push_back(path);
  }
}

// Days from 2000-01-01 of a date such as 2026-11-30; 0 without one.
std::uint16_t day_of(const std::string& text) {
  if (text.empty()) return 0;
  constexpr double of_2000 = 10957.0;  // from 1970
  const auto moment = io::parse_moment(text);
  const double day = moment ? std::floor(*moment / 86400.0) - of_2000 : 0.0;
  if (!(day > 0.0 && day < 65536.0)) {
    refuse("--unit-day", fmt::format("\"{}\"", text), "a date such as 2026-11-30");
  }
  return static_cast<std::uint16_t>(day);
}

// The corrections of one unit beside the channels that have one.
void add_unit_data(const FirmwareArguments& arguments, result::Firmwares& result) {
  auto files = arguments.boards;
  files.push_back(arguments.unit_data);
  const auto measured = io::load_board(files);
  const auto day = day_of(arguments.unit_day);
  for (auto& channel : result.channels) {
    const auto& correction = model::find(measured.channels, channel.plan.channel)->correction;
    if (!correction) continue;
    try {
      channel.unit =
          firmware::unit_data(channel.plan, *correction, measured.conditions.specified_at, day);
    } catch (const firmware::FirmwareError& error) {
      throw io::BadInput({{.file = arguments.unit_data,
                           .path = "channel." + channel.plan.channel + ".correction",
                           .problem = fmt::format("cannot be data of a unit: {}", error.what())}});
    }
  }
  if (std::ranges::none_of(result.channels,
                           [](const auto& channel) { return channel.unit.has_value(); })) {
    refuse("--unit-data", fmt::format("{} without a correction", arguments.unit_data),
           "what \"tamlo calibrate --write\" wrote for a channel of the board");
  }
}

int run_firmware(const FirmwareArguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  result::Firmwares result;
  std::vector<std::string> identifiers;
  auto [chains, quantities] = requested(board, arguments);
  // A quantity that is asked for alone needs the code of its channels.
  for (const auto& quantity : quantities) {
    for (const auto& name : model::channels_of(board, quantity)) {
      const auto same = [&](const chain::Chain& chain) { return chain.channel.name == name; };
      if (std::ranges::none_of(chains, same))
        chains.push_back(*std::ranges::find_if(board.chains, same));
    }
  }
  for (const auto& chain : chains) {
    const auto& channel = chain.channel;
    try {
      result.channels.push_back(
          firmware::plan_with_budget(board, chain, request_of(arguments, channel.span.unit)));
    } catch (const firmware::FirmwareError& error) {
      throw io::BadInput({{.file = arguments.boards.front(),
                           .path = "channel." + channel.name,
                           .problem = fmt::format("cannot be generated: {}", error.what()),
                           .hint = "another --count, --arithmetic-error or filter"}});
    }
    const auto& name = result.channels.back().plan.identifier;
    if (std::ranges::find(identifiers, name) != identifiers.end()) {
      refuse("channel", fmt::format("two channels that are {} in C", name),
             "names that differ in letters and digits");
    }
    identifiers.push_back(name);
  }
  add_quantities(board, quantities, result);
  for (const auto& quantity : result.quantities) {
    if (std::ranges::find(identifiers, quantity.plan.identifier) != identifiers.end())
      refuse("quantity", fmt::format("a channel that is {} in C, too", quantity.plan.identifier),
             "names that differ in letters and digits");
    identifiers.push_back(quantity.plan.identifier);
  }
  if (!arguments.unit_data.empty()) add_unit_data(arguments, result);
  if (!arguments.write.empty()) {
    const auto hash = io::hash_of(board.files);
    make_folder(arguments.write);
    io::OutputFiles outputs({});
    for (auto& channel : result.channels) write_channel(outputs, arguments, board, hash, channel);
    for (auto& quantity : result.quantities) write_quantity(outputs, arguments, hash, quantity);
    outputs.finish();
  }
  std::vector<report::Report> reports;
  bool met = true;
  for (const auto& channel : result.channels) {
    reports.push_back(report::of(channel));
    met = met && channel.target_met.value_or(true);
  }
  for (const auto& quantity : result.quantities) reports.push_back(report::of(quantity));
  show(result, reports, arguments.format);
  return met ? done : missed;
}

void declare_firmware(Options& options, FirmwareArguments& a) {
  options.board(a);
  options.group("Arithmetic");
  options.option("--count", a.count,
                 {"VALUE", "what one count of the reading is worth, such as \"1 mV\"",
                  "a power of ten, by the error"});
  options.option("--arithmetic-error", a.error,
                 {"VALUE", "that the arithmetic may be off, such as \"5 mV\" or \"0.1 of target\"",
                  "0.1 of target; without a target half a code"});
  options.group("Output");
  options.option("--write", a.write,
                 {"FOLDER", "write NAME.h, NAME.c and NAME.toml of each channel"});
  options.choice("--style", a.style, {"integer", "float"},
                 {"STYLE", "float adds a function that gives the reading in its unit", "integer"});
  options.flag("--text", a.text, {"", "with a function that writes the reading as a text"});
  options.flag("--units", a.units,
               {"", "with functions that correct a reading by the data of a unit"});
  options.input("--unit-data", a.unit_data,
                {"FILE", "what calibrate wrote for one unit: as data, beside code for all units"});
  options.option("--unit-day", a.unit_day, {"DATE", "of that calibration, such as 2026-11-30"});
  options.flag("--check-program", a.check_program,
               {"", "with a program that runs every register value"});
  options.only_with("--unit-data", {"--unit-day"});
  options.only_with("--write", {"--style", "--text", "--units", "--check-program"});
  options.format(a.format);
}

}  // namespace

extern const Command firmware_command{
    .name = "firmware",
    .question = "which code turns codes into readings, and how large is its error at most?",
    .examples = {R"(firmware demo/board.toml)",
                 R"(firmware demo/board.toml --channel pack_voltage --count "10 mV")"},
    .describe = [](Options& options) {
      return described<FirmwareArguments>(options, declare_firmware, run_firmware);
    }};

}  // namespace tamlo::tool
