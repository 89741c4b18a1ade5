// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "tamlo/quantity/format.hpp"
#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

std::string bits_of(const firmware::FieldWord& field) {
  return field.low == field.high ? fmt::format("{}", field.low)
                                 : fmt::format("{}..{}", field.high, field.low);
}

Table words_table(const firmware::ChannelWords& words) {
  Table table{.title = words.channel + ": words",
              .columns = {{"register", false}, {"address"}, {"word"}, {"bits", false}}};
  for (const auto& entry : words.registers) {
    for (const auto& word : firmware::words_of(entry)) {
      table.rows.push_back({entry.name, firmware::in_hex(word.address, 8),
                            firmware::in_hex(word.value, words.word_bits),
                            firmware::in_binary(word.value, words.word_bits, word.changes)});
    }
  }
  return table;
}

Table fields_table(const firmware::ChannelWords& words) {
  Table table{
      .title = words.channel + ": fields",
      .columns = {{"register", false}, {"field", false}, {"bits"}, {"value"}, {"from", false}}};
  for (const auto& entry : words.registers) {
    for (const auto& field : entry.fields) {
      table.rows.push_back(
          {entry.name, field.name, bits_of(field), fmt::format("{}", field.value), field.from});
    }
  }
  return table;
}

Report of_found(const firmware::FoundSettings& found) {
  Report report;
  const auto differing = std::ranges::count(found.settings, true, &firmware::FoundSetting::differs);
  const auto all = found.settings.size();
  report.verdict.push_back(
      differing > 0
          ? Line{fmt::format("DIFFERS: {} of {} fields of {} differ from the board, for {}",
                             differing, all, found.converter, found.channel),
                 Tone::bad}
          : Line{fmt::format("AS DESCRIBED: all {} fields of {} match the board, for {}", all,
                             found.converter, found.channel),
                 Tone::good});
  Table table{
      .title = found.channel + ": as found",
      .columns = {
          {"field", false}, {"setting", false}, {"found", false}, {"wanted", false}, {"", false}}};
  for (const auto& each : found.settings) {
    const bool other = !each.channel.empty() && each.channel != found.channel;
    auto setting = each.key.empty() ? "constant" : each.key;
    if (other) setting += " of " + each.channel;
    table.rows.push_back({each.field, setting, each.found,
                          each.wanted.empty() ? "open" : each.wanted,
                          each.differs ? "differs" : ""});
  }
  report.tables.push_back(std::move(table));
  if (differing > 0) {
    report.remarks.push_back(
        {"for the budget of the device as it is: --write-board found.toml, then tamlo budget with "
         "that file"});
  }
  if (!found.missing.empty()) {
    say(report.remarks, Tone::doubtful, "not in the dump: {}", fmt::join(found.missing, ", "));
  }
  if (!found.unknown.empty()) {
    std::string addresses;
    for (const auto address : found.unknown)
      addresses += (addresses.empty() ? "" : ", ") + firmware::in_hex(address, 8);
    say(report.remarks, Tone::doubtful, "not in the map, so not looked at: {}", addresses);
  }
  return report;
}

}  // namespace

Report of(const result::ChannelRegisters& registers) {
  if (registers.found) return of_found(*registers.found);
  const auto& words = registers.words;
  Report report;
  report.verdict.push_back(
      words.problems.empty()
          ? Line{fmt::format("{}: {} register{} of {} configure{} it", words.channel,
                             words.registers.size(), quantity::plural(words.registers.size()),
                             words.converter, words.registers.size() == 1 ? "s" : ""),
                 Tone::good}
          : Line{fmt::format("{}: {} of its settings cannot be expressed", words.channel,
                             words.problems.size()),
                 Tone::bad});
  for (const auto& problem : words.problems) report.verdict.push_back({"  " + problem, Tone::bad});
  report.tables.push_back(words_table(words));
  report.tables.push_back(fields_table(words));
  if (!words.elsewhere.empty()) {
    report.remarks.push_back({"not in the map, so the firmware must do it:"});
    std::string line;
    for (const auto& setting : words.elsewhere) {
      const auto text = fmt::format("{} = {}", setting.key, setting.value);
      if (!line.empty() && line.size() + text.size() > 90) {
        report.remarks.push_back({"  " + line});
        line.clear();
      }
      line += (line.empty() ? "" : ", ") + text;
    }
    report.remarks.push_back({"  " + line});
  }
  return report;
}

}  // namespace tamlo::report
