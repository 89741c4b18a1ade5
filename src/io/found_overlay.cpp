// SPDX-License-Identifier: Apache-2.0
// Settings that were found in a device, as a board file.
#include <fmt/format.h>

#include "tamlo/io/register_map.hpp"
#include "toml_text.hpp"

namespace tamlo::io {
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
