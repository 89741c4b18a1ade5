// SPDX-License-Identifier: Apache-2.0
// Settings that were found in a device, as a board file.
#include <fmt/format.h>

#include "tamlo/io/register_map.hpp"
#include "toml_text.hpp"

namespace tamlo::io {
namespace {

// The key and value of a setting below [channel.NAME] or [converter.NAME]; empty for what a board
// file has no single key for.
std::string line_of(const firmware::FoundSetting& of, const model::Channel* channel) {
  const auto text = [](const char* key, const std::string& value, const char* unit) {
    return fmt::format("{} = {}", key, quoted(value + unit));
  };
  const auto bare = [](const char* key, const std::string& value) {
    return fmt::format("{} = {}", key, value);
  };
  if (of.key == "channel.input") return bare("input", of.found);
  if (of.key == "channel.average") return bare("average", of.found);
  if (of.key == "channel.attenuation") return text("attenuation", of.found, "");
  if (of.key == "channel.sampling") return text("sampling", of.found, " cycles");
  if (of.key == "channel.rate") return text("rate", of.found, " Sa/s");
  if (of.key == "channel.filter" && of.found == "none") return "filter = []";
  if (of.key == "channel.filter.length") return bare("filter.length", of.found);
  if (of.key == "converter.reference") return text("reference", of.found, "");
  if (of.key == "converter.resolution") return text("resolution", of.found, " bit");
  if (of.key == "converter.clock.divider") return bare("clock.divider", of.found);
  if (of.key == "converter.data_rate") return text("data_rate", of.found, " Sa/s");
  if (of.key == "converter.sinc_order") return bare("sinc_order", of.found);
  if (of.key == "converter.coding") return text("coding", of.found, "");
  if (of.key == "converter.report.align") return text("report.align", of.found, "");
  if (of.key == "channel.gain" && channel != nullptr) {
    for (std::size_t i = 0; i < channel->frontend.size(); ++i) {
      const auto* amplifier = std::get_if<model::Amplifier>(&channel->frontend[i]);
      if (amplifier == nullptr || amplifier->use.empty()) continue;
      return fmt::format("frontend.{}.amplifier.use = {}", i, quoted(of.found));
    }
  }
  return "";
}

}  // namespace

std::string overlay_of(const firmware::FoundSettings& found, const model::Board& board) {
  auto text = fmt::format("{}, from the words of a device. Settings that differ from the board.\n",
                          found_overlay_begins);
  std::string section;
  for (const auto& of : found.settings) {
    if (!of.differs || of.key.empty()) continue;
    const auto& channel = of.channel.empty() ? found.channel : of.channel;
    const auto line = of.known ? line_of(of, model::find(board.channels, channel)) : "";
    const auto next = of.key.starts_with("channel.")
                          ? fmt::format("[channel.{}]", key_of(channel))
                          : fmt::format("[converter.{}]", key_of(found.converter));
    if (line.empty()) {
      text += fmt::format("# {} {}: {} found in place of {}: no single key says it\n", channel,
                          of.key, of.found, of.wanted);
      continue;
    }
    if (next != section) text += "\n" + next + "\n";
    section = next;
    text += fmt::format("{}   # {} = {} on the board\n", line, of.field,
                        of.wanted.empty() ? "not said" : of.wanted);
  }
  return text;
}

}  // namespace tamlo::io
