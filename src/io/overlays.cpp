// SPDX-License-Identifier: Apache-2.0
// What commands found, as files that go over a board: integers of a plan, a correction, what a
// record measured, and the settings of a device.
#include "tamlo/io/detail/overlays.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <array>
#include <cstdint>
#include <filesystem>
#include <vector>

#include "input_file.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/error.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/register_map.hpp"
#include "tamlo/math/detail/hash.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "toml_text.hpp"

namespace tamlo::io {
namespace {

std::string step_text(const model::IntegerStep& step) {
  using model::Operation;
  if (step.operation == Operation::clamp) {
    return fmt::format("{{ clamp = {{ least = {}, most = {} }} }}", step.operand, step.most);
  }
  if (step.operation == Operation::lines) {
    std::string result = "{ lines = [\n";
    for (const auto& line : step.lines) {
      result += fmt::format("    {{ from = {}, multiply = {}, add = {} }},\n", line.from,
                            line.multiply, line.add);
    }
    return result + "  ] }";
  }
  if (step.operation == Operation::polynomial) {
    return fmt::format("{{ polynomial = [{}], shift = {} }}", fmt::join(step.coefficients, ", "),
                       step.operand);
  }
  return fmt::format("{{ {} = {}{} }}", name(step.operation), step.operand,
                     step.round ? ", round = true" : "");
}

std::string number_text(double si, const quantity::Unit& unit) {
  const auto text = quantity::format_number(si, unit);
  return text.empty() ? fmt::format("{:.17g}", (si - unit.offset) / unit.scale()) : text;
}

// A value of the quantity, or a difference of two, so that it reads back the same.
std::string value_text(double si, const quantity::Unit& unit) {
  return toml_quoted(fmt::format("{} {}", number_text(si, unit), unit.symbol));
}

}  // namespace

std::string overlay_of(const model::Channel& before, const model::Channel& channel) {
  require(channel.scaling.integer.has_value(), "a channel that scales in integers");
  const auto& integer = *channel.scaling.integer;
  const auto difference = quantity::difference_unit(channel.span.unit);
  auto result = fmt::format("{}, the arithmetic of its code.\n[channel.{}]\n",
                            firmware_overlay_begins, toml_key(channel.name));
  if (before.average.truncated) {
    const auto& average = before.average;
    result += average.time ? fmt::format("average = {{ time = {} }}\n",
                                         value_text(*average.time, quantity::unit("s")))
                           : fmt::format("average = {}\n", average.count);
  }
  result +=
      fmt::format("scaling = {{ arithmetic = \"integer\", word = \"{} bit signed\", count = {}",
                  integer.bits, value_text(integer.count, difference));
  if (integer.per_code != 1.0)
    result += fmt::format(", per_code = {}", number_text(integer.per_code, {}));
  if (integer.filter_rounding > 0.0) {
    result +=
        fmt::format(", filter_rounding = {}", value_text(integer.filter_rounding, difference));
  }
  if (integer.corrects) result += ", corrects = true";
  if (channel.scaling.tare) {
    result += fmt::format(", tare = {}", value_text(*channel.scaling.tare, channel.span.unit));
  }
  result += ", steps = [\n";
  for (const auto& step : integer.steps) result += fmt::format("  {},\n", step_text(step));
  return result + "] }\n";
}

std::string hash_of(const std::vector<std::string>& paths,
                    const std::vector<std::string>& settings) {
  auto hash = math::hash_of({});
  for (const auto& path : paths) {
    if (is_read_once(path)) {
      hash = math::hash_of(read_file(path), hash);
      continue;
    }
    const auto file = open_input(path);
    std::array<char, 4096> bytes{};
    for (std::size_t n = 1; n > 0;) {
      n = std::fread(bytes.data(), 1, bytes.size(), file.get());
      hash = math::hash_of({bytes.data(), n}, hash);
    }
    if (std::ferror(file.get()) != 0) throw EnvironmentError(path + ": it cannot be read");
  }
  for (const auto& setting : settings) hash = math::hash_of(setting, hash);
  return fmt::format("{:016x}", hash);
}

namespace {

std::vector<double> all_digits(const std::vector<double>& si, const quantity::Unit& unit) {
  std::vector<double> result;
  for (const double x : si) result.push_back((x - unit.offset) / unit.scale());
  return result;
}

}  // namespace

std::string correction_text(const std::string& channel, const quantity::Unit& unit,
                            const model::Correction& c, const std::string& model,
                            const std::string& meter) {
  const auto difference = quantity::difference_unit(unit);
  const auto value = [](double si, const quantity::Unit& in) {
    return fmt::format("\"{} {}\"", (si - in.offset) / in.scale(), in.symbol);
  };
  std::string text = fmt::format(
      "[channel.{}.correction]\n"
      "model        = {}\n"
      "meter        = {}\n",
      toml_key(channel), toml_quoted(model), toml_quoted(meter));
  if (c.readings.empty()) {
    text += fmt::format(
        "coefficients = {}   # of 1, z, z^2, ... with z = (reading - centre) / half_width\n"
        "centre       = {}\n"
        "half_width   = {}\n",
        listed(all_digits(c.coefficients, difference)), value(c.centre, unit),
        value(c.half_width, difference));
  } else {
    text +=
        fmt::format("readings     = {}\ncorrected    = {}   # straight between these\n",
                    listed(all_digits(c.readings, unit)), listed(all_digits(c.corrected, unit)));
  }
  text += fmt::format("uncertainty  = {}   # standard, at the worst place\n",
                      value(c.standard_uncertainty, difference));
  if (!c.positions.empty()) {
    auto covariance = c.covariance;
    for (double& x : covariance) x /= difference.scale() * difference.scale();
    text += fmt::format(
        "positions    = {}   # where it was calibrated\n"
        "covariance   = {}   # of the {}, row by row\n"
        "weights      = {}   # for each of them, of what a reading was off at each position\n",
        listed(all_digits(c.positions, unit)), listed(covariance),
        c.readings.empty() ? "coefficients" : "nodes", listed(c.weights));
    if (c.at_pin)
      text += "at_pin       = true   # the meter did not see the parts before the pin\n";
  }
  text +=
      "in_firmware  = false   # true once the firmware adds it: then readings have it already\n";
  return text;
}

std::string overlay_of(const meter::Calibration& calibration) {
  return "# Made by: tamlo calibrate. What is added to the readings of one unit of the board.\n" +
         correction_text(calibration.channel, calibration.unit, calibration.correction,
                         std::string(name(calibration.model)), calibration.meter);
}

MeasuredFiles overlay_of(const record::Verdict& verdict, const chain::Chain& chain,
                         const std::string& path) {
  const auto measured = record::measured(chain, verdict);
  if (!measured.reason.empty()) {
    refuse("--write", "nothing to write", measured.reason);
  }
  MeasuredFiles result;
  result.overlay = fmt::format("# Made by: tamlo record, {} samples of {}.\n[converter.{}]\n",
                               verdict.samples, chain.channel.name, toml_key(chain.converter.name));
  if (const auto& noise = measured.noise) {
    result.overlay += fmt::format("noise = \"{:.4g} LSB rms\"   # {:.4g} to {:.4g} LSB\n",
                                  noise->value, noise->low, noise->high);
    return result;
  }
  const auto name = name_of(path_of(path).stem()) + "_inl.csv";
  result.table_path = name_beside(path, name);
  result.table = fmt::format("{}code,inl [LSB]\n", MeasuredFiles::table_begins);
  for (const auto& point : measured.inl) {
    result.table += fmt::format("{:.0f},{:.4f}\n", point.code, point.inl);
  }
  result.overlay += fmt::format(
      "inl_table = {}\ninl = \"±{:.3g} LSB (k=1)\"   # what the samples leave open\ndnl = "
      "\"±{:.3g} "
      "LSB\"\n",
      toml_quoted(name), measured.inl_uncertainty, measured.dnl);
  if (measured.correction) {
    result.overlay += "\n" + correction_text(chain.channel.name, chain.channel.span.unit,
                                             *measured.correction, "offset and gain", "the record");
  }
  return result;
}

namespace {

// The key and value of a setting below [channel.NAME] or [converter.NAME]; empty for what a board
// file has no single key for.
std::string line_of(const firmware::FoundSetting& setting, const model::Channel* channel) {
  const auto text = [](const char* key, const std::string& value, const char* unit) {
    return fmt::format("{} = {}", key, toml_quoted(value + unit));
  };
  const auto bare = [](const char* key, const std::string& value) {
    return fmt::format("{} = {}", key, value);
  };
  if (setting.key == "channel.input") return bare("input", setting.found);
  if (setting.key == "channel.average") return bare("average", setting.found);
  if (setting.key == "channel.attenuation") return text("attenuation", setting.found, "");
  if (setting.key == "channel.sampling") return text("sampling", setting.found, " cycles");
  if (setting.key == "channel.rate") return text("rate", setting.found, " Sa/s");
  if (setting.key == "channel.filter" && setting.found == "none") return "filter = []";
  if (setting.key == "channel.filter.length") return bare("filter.length", setting.found);
  if (setting.key == "converter.reference") return text("reference", setting.found, "");
  if (setting.key == "converter.resolution") return text("resolution", setting.found, " bit");
  if (setting.key == "converter.clock.divider") return bare("clock.divider", setting.found);
  if (setting.key == "converter.data_rate") return text("data_rate", setting.found, " Sa/s");
  if (setting.key == "converter.sinc_order") return bare("sinc_order", setting.found);
  if (setting.key == "converter.coding") return text("coding", setting.found, "");
  if (setting.key == "converter.report.align") return text("report.align", setting.found, "");
  if (setting.key == "channel.gain" && channel != nullptr) {
    for (std::size_t i = 0; i < channel->frontend.size(); ++i) {
      const auto* amplifier = std::get_if<model::Amplifier>(&channel->frontend[i]);
      if (amplifier == nullptr || amplifier->use.empty()) continue;
      return fmt::format("frontend.{}.amplifier.use = {}", i, toml_quoted(setting.found));
    }
  }
  return "";
}

}  // namespace

std::string overlay_of(const firmware::FoundSettings& found, const model::Board& board) {
  auto text = fmt::format("{}, from the words of a device. Settings that differ from the board.\n",
                          found_overlay_begins);
  std::string section;
  for (const auto& setting : found.settings) {
    if (!setting.differs || setting.key.empty()) continue;
    const auto& channel = setting.channel.empty() ? found.channel : setting.channel;
    const auto line = setting.known ? line_of(setting, model::find(board.channels, channel)) : "";
    const auto next = setting.key.starts_with("channel.")
                          ? fmt::format("[channel.{}]", toml_key(channel))
                          : fmt::format("[converter.{}]", toml_key(found.converter));
    if (line.empty()) {
      text += fmt::format("# {} {}: {} found in place of {}: no single key says it\n", channel,
                          setting.key, setting.found, setting.wanted);
      continue;
    }
    if (next != section) text += "\n" + next + "\n";
    section = next;
    text += fmt::format("{}   # {} = {} on the board\n", line, setting.field,
                        setting.wanted.empty() ? "not said" : setting.wanted);
  }
  return text;
}

}  // namespace tamlo::io
