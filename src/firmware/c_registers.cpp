// SPDX-License-Identifier: Apache-2.0
// A register map as C: addresses, masks, and the words of each channel in the order of the map.
#include <algorithm>
#include <cctype>

#include "tamlo/firmware/registers.hpp"
#include "writer.hpp"

namespace tamlo::firmware {
namespace {

int type_bits(std::uint64_t largest) {
  return largest < 256 ? 8 : largest < 65536 ? 16 : largest < 4294967296 ? 32 : 64;
}

// Writes the words, then holds what is read back against them.
void set_up_function(Writer& to, const std::string& name, const std::string& address,
                     const std::string& word) {
  to.line("");
  to.line(
      "/* Writes words in their order by your bus, with the bits of others as they are found; then "
      "reads");
  to.line(
      " * them back. Returns how many, from the first on, hold the bits that a register keeps: "
      "`count`");
  to.line(" * where all do, 0 where a write, or a read before it, fails. */");
  to.line("static inline unsigned int {0}_set_up(const struct {0}_word *words, unsigned int count,",
          name);
  to.line("    bool (*write)({0} address, {1} value), bool (*read)({0} address, {1} *value)) {{",
          address, word);
  to.line("unsigned int done = 0u;");
  to.line("bool well = true;");
  to.line("for (unsigned int i = 0u; well && (i < count); ++i) {{");
  to.line("{} value = 0u;", word);
  to.line("const {0} others = ({0})(~words[i].changes);", word);
  to.line("if (others != 0u) well = read(words[i].address, &value);");
  to.line("value = ({})((value & others) | words[i].value);", word);
  to.line("if (well) well = write(words[i].address, value);");
  to.line("}}");
  to.line("while (well && (done < count)) {{");
  to.line("{} value = 0u;", word);
  to.line("well = read(words[done].address, &value);");
  to.line("well = well && ((value & words[done].kept) == (words[done].value & words[done].kept));");
  to.line("if (well) ++done;");
  to.line("}}");
  to.line("return done;");
  to.line("}}");
}

}  // namespace

std::string c_registers(const RegisterMap& map, const std::vector<ChannelWords>& channels) {
  const auto prefix = upper(map.converter);
  Writer to;
  to.line("/* SPDX-License-Identifier: 0BSD */");
  to.line("/* Registers of the converter \"{}\". */", lower(map.converter));
  to.line("#ifndef {}_REGISTERS_H", prefix);
  to.line("#define {}_REGISTERS_H", prefix);
  to.line("");
  to.line("#include <stdbool.h>");
  to.line("#include <stdint.h>");
  std::uint64_t largest = 0;
  for (const auto& entry : map.registers) {
    const auto name = prefix + "_" + upper(entry.name);
    largest = std::max(largest, entry.address + static_cast<std::uint64_t>(entry.words) - 1);
    to.line("");
    to.line("#define {}_ADDRESS {:#x}u", name, entry.address);
    for (const auto& field : entry.fields) {
      to.line("#define {}_{}_SHIFT {}", name, upper(field.name), field.low);
      to.line("#define {}_{}_MASK {:#x}u", name, upper(field.name), field.largest() << field.low);
    }
  }
  const auto address = unsigned_type(type_bits(largest)), word = unsigned_type(map.word_bits);
  to.line("");
  to.line("struct {}_word {{", lower(map.converter));
  to.line("{} address;", address);
  to.line("{} value;", word);
  to.line("{} kept; /* bits that read back as they were written */", word);
  to.line("{} changes; /* bits that are written; the others stay as they are found */", word);
  to.line("}};");
  set_up_function(to, lower(map.converter), address, word);
  for (const auto& channel : channels) {
    std::vector<AddressedWord> words;
    for (const auto& entry : channel.registers) {
      for (const auto& one : words_of(entry)) words.push_back(one);
    }
    to.line("");
    to.line("/* Written in this order, they configure {} for {}. */", lower(map.converter),
            lower(channel.channel));
    to.line("static const struct {}_word {}_setup[{}] = {{", lower(map.converter),
            lower(channel.channel), words.size());
    for (const auto& [at, value, kept, changes] : words)
      to.line("{{{:#x}u, {:#x}u, {:#x}u, {:#x}u}},", at, value, kept, changes);
    to.line("}};");
  }
  to.line("");
  to.line("#endif");
  return to.text();
}

}  // namespace tamlo::firmware
