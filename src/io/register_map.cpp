// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/register_map.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "board_parts.hpp"
#include "csv.hpp"
#include "tamlo/error.hpp"
#include "tamlo/quantity/detail/number.hpp"

namespace tamlo::io {
namespace {

using firmware::Register, firmware::RegisterField, firmware::RegisterMap;

// 31, 0x1F, 0b11111.
std::optional<std::uint64_t> whole(std::string_view text) {
  return quantity::parse_whole(text, "xb");
}

constexpr const char* numbers = "a whole number of 0 or more: 31, \"0x1F\" or \"0b11111\"";

// Written as an integer, or as a text with its base.
std::optional<std::uint64_t> read_whole(Fields& fields, const std::string& key) {
  if (!fields.has(key)) return {};
  if (fields.is_integer(key)) {
    const auto value = fields.integer(key, 0, std::int64_t{1} << 62);
    return value ? std::optional(static_cast<std::uint64_t>(*value)) : std::nullopt;
  }
  const auto text = fields.text(key);
  if (!text) return {};
  const auto value = whole(*text);
  if (!value) fields.report(key, fmt::format("\"{}\"", *text), numbers);
  return value;
}

// "5..2", or "7".
void read_bits(Fields& fields, int most, RegisterField& field) {
  constexpr const char* hint = "bits from high to low: \"5..2\", or one: \"7\"";
  fields.require("bits", hint);
  const auto text = fields.text("bits");
  if (!text) return;
  const auto dots = text->find("..");
  const auto high = whole(text->substr(0, dots));
  const auto low = dots == std::string::npos ? high : whole(text->substr(dots + 2));
  if (!high || !low || *high < *low) {
    fields.report("bits", fmt::format("\"{}\"", *text), hint);
  } else if (*high >= static_cast<std::uint64_t>(most)) {
    fields.report("bits", fmt::format("\"{}\" of a register of {} bits", *text, most),
                  fmt::format("bits from {} to 0", most - 1));
  } else {
    field.low = static_cast<int>(*low);
    field.high = static_cast<int>(*high);
  }
}

void read_meaning(Fields& fields, RegisterField& field) {
  field.value = read_whole(fields, "value");
  if (auto setting = fields.text("of")) {
    field.of = *setting;
    const auto keys = firmware::setting_keys();
    if (std::ranges::find(keys, *setting) == keys.end()) {
      fields.report("of", fmt::format("\"{}\"", *setting), one_of(*setting, keys));
    }
  }
  if (field.value.has_value() == fields.has("of")) {
    fields.report("", "a field without a meaning, or with two",
                  "value = 1, or of = \"channel.input\"");
  }
  if (auto when = fields.table("when")) {
    for (const auto& key : when->keys()) {
      if (auto value = read_whole(*when, key)) field.when.emplace_back(key, *value);
    }
    when->finish();
  }
  if (auto text = fields.text("formula")) {
    try {
      field.formula = firmware::parse_formula(*text);
    } catch (const ArgumentError& error) {
      fields.report("formula", fmt::format("cannot be read: {}", error.what()),
                    "\"(setting - 2) / 2\"");
    }
    if (!field.when.empty()) fields.report("formula", "a formula beside a table", "one of them");
  }
  if (auto v = fields.integer("input", 0, 1023)) field.input = static_cast<int>(*v);
  if (field.input && !field.of.starts_with("channel.")) {
    fields.report("input", "an input, and no setting of a channel", "of = \"channel...\"");
  }
  field.otherwise = read_whole(fields, "otherwise");
  if (auto v = fields.flag("clears_itself")) field.clears_itself = *v;
}

// Every number that the map itself writes into the field.
void check_fits(Fields& fields, const RegisterField& field) {
  const auto most = field.largest();
  const auto check = [&](const std::string& key, std::uint64_t value) {
    if (value <= most) return;
    fields.report(key, fmt::format("{} in {} bits", value, field.bits()),
                  fmt::format("values from 0 to {}", most));
  };
  if (field.value) check("value", *field.value);
  if (field.otherwise) check("otherwise", *field.otherwise);
  for (std::size_t i = 0; i < field.when.size(); ++i) {
    check("when", field.when[i].second);
    for (std::size_t k = 0; k < i; ++k) {
      if (field.when[k].second != field.when[i].second) continue;
      fields.report("when",
                    fmt::format("{} for {} and {}", field.when[i].second, field.when[k].first,
                                field.when[i].first),
                    "a number of its own for each, so that it can be read back");
    }
  }
}

RegisterField read_field(Fields fields, int most, const std::vector<RegisterField>& before) {
  RegisterField field;
  fields.require("name", "a name, such as \"input\"");
  if (auto name = fields.text("name")) field.name = *name;
  read_bits(fields, most, field);
  read_meaning(fields, field);
  check_fits(fields, field);
  for (const auto& other : before) {
    if (other.name == field.name) {
      fields.report("name", fmt::format("\"{}\" twice", field.name), "names that differ");
    }
    if (other.low <= field.high && field.low <= other.high) {
      fields.report("bits", fmt::format("bits that \"{}\" has already", other.name),
                    "fields that do not overlap");
    }
  }
  fields.finish();
  return field;
}

Register read_register(const std::string& name, Fields fields, int word_bits) {
  Register result{.name = name};
  fields.require("address", numbers);
  if (auto v = read_whole(fields, "address")) result.address = *v;
  if (auto v = fields.integer("words", 1, 64 / word_bits)) result.words = static_cast<int>(*v);
  if (auto v = fields.choice("order", {"high first", "low first"})) result.high_first = *v == 0;
  if (auto v = read_whole(fields, "reset")) result.reset = *v;
  if (auto v = fields.choice("others", {"reset", "as found"})) result.as_found = *v == 1;
  if (result.as_found && fields.has("reset")) {
    fields.report("reset", "a reset value of bits that stay as they are found", "one of them");
  }
  for (const auto& text : fields.texts("first")) {
    const auto value = whole(text);
    if (!value || (word_bits < 64 && *value >> word_bits != 0)) {
      fields.report("first", fmt::format("\"{}\"", text),
                    fmt::format("words of {} bits, such as [\"0x55\", \"0xAA\"]", word_bits));
    }
    result.first.push_back(value.value_or(0));
  }
  const int bits = word_bits * result.words;
  if (bits < 64 && result.reset >> bits != 0) {
    fields.report("reset", fmt::format("{:#x} in {} bits", result.reset, bits),
                  "a value that fits the register");
  }
  fields.require("fields",
                 "fields = [ { name = \"input\", bits = \"5..2\", of = \"channel.input\" } ]");
  for (auto& table : fields.tables("fields")) {
    result.fields.push_back(read_field(std::move(table), bits, result.fields));
  }
  fields.finish();
  return result;
}

RegisterMap read_map(const std::string& converter, Fields fields, const model::Board& board) {
  RegisterMap map{.converter = converter};
  std::vector<std::string> names;
  for (const auto& known : board.converters) names.push_back(known.name);
  if (std::ranges::find(names, converter) == names.end()) {
    fields.report("", fmt::format("no converter \"{}\" on the board", converter),
                  one_of(converter, names));
  }
  const std::vector<std::string> words{"8 bit", "16 bit", "32 bit"};
  fields.require("word", one_of("", words));
  if (auto v = fields.choice("word", words)) map.word_bits = 8 << *v;
  for (const auto& key : fields.keys()) {
    if (!fields.is_table(key)) continue;
    map.registers.push_back(read_register(key, *fields.table(key), map.word_bits));
    const auto& last = map.registers.back();
    for (std::size_t i = 0; i + 1 < map.registers.size(); ++i) {
      const auto& other = map.registers[i];
      if (last.address < other.address + static_cast<std::uint64_t>(other.words) &&
          other.address < last.address + static_cast<std::uint64_t>(last.words)) {
        fields.report(key, fmt::format("an address that \"{}\" has already", other.name),
                      "registers that do not overlap");
      }
    }
  }
  if (map.registers.empty()) {
    fields.report("", "no register", "a section such as [registers.main.control]");
  }
  fields.finish();
  return map;
}

}  // namespace

std::vector<RegisterMap> load_register_maps(const std::string& path, const model::Board& board) {
  const auto table = parse_toml(path);
  std::vector<Problem> problems;
  std::vector<RegisterMap> maps;
  FileTexts texts(path);
  Fields fields(table, "", problems, texts);
  fields.require("format", "format = 1");
  fields.integer("format", 1, 1);
  fields.require("registers", "a section [registers.NAME] of a converter");
  for (const auto& [name, of] : fields.entries("registers")) {
    maps.push_back(read_map(name, of, board));
  }
  fields.finish();
  refuse_all(std::move(problems), {path});
  return maps;
}

firmware::Dump load_dump(const std::string& path, const firmware::RegisterMap* map) {
  const auto text = read_file(path);
  firmware::Dump dump;
  FileProblems problems(path);
  const auto refuse = [&](std::size_t line, std::size_t column, std::string found,
                          std::string allowed) {
    problems.add({line, column}, "", std::move(found), std::move(allowed));
  };
  TextLines lines(text);
  bool heading = true;
  for (std::string_view line; lines.next(line);) {
    const auto cells = split(line);
    if (cells.size() != 2) {
      refuse(lines.number(), 1, fmt::format("{} cells", cells.size()), "address,value");
      continue;
    }
    if (std::exchange(heading, false)) {
      if (trimmed(cells[0].text) == "address" && trimmed(cells[1].text) == "value") continue;
      refuse(lines.number(), 1, fmt::format("\"{}\"", line), "the heading address,value");
      continue;
    }
    const auto address = whole(trimmed(cells[0].text)), value = whole(trimmed(cells[1].text));
    for (const auto& [cell, number] : {std::pair{cells[0], address}, std::pair{cells[1], value}}) {
      if (!number) refuse(lines.number(), cell.column, fmt::format("\"{}\"", cell.text), numbers);
    }
    if (!address || !value) continue;
    const int bits = map != nullptr ? map->word_bits : 64;
    if (bits < 64 && (*value >> bits) != 0) {
      refuse(lines.number(), cells[1].column, fmt::format("{:#x}", *value),
             fmt::format("a word of {} bits", bits));
      continue;
    }
    if (!dump.emplace(*address, *value).second) {
      refuse(lines.number(), 1, fmt::format("address {:#x} twice", *address), "each address once");
    }
  }
  if (problems.count() == 0 && dump.empty()) refuse(1, 1, "no words", "rows of address,value");
  const auto is_known = [&](const auto& word) { return firmware::has_address(*map, word.first); };
  if (problems.count() == 0 && map != nullptr && std::ranges::none_of(dump, is_known)) {
    refuse(1, 1, "no address of the map",
           fmt::format("words of its registers, such as {:#x}", map->registers.front().address));
  }
  problems.refuse_any();
  return dump;
}

}  // namespace tamlo::io
