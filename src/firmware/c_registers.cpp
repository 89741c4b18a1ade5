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

}  // namespace

std::string c_registers(const RegisterMap& map, const std::vector<ChannelWords>& channels) {
  const auto prefix = upper(map.converter);
  Writer to;
  to.line("/* SPDX-License-Identifier: 0BSD */");
  to.line("/* Registers of the converter \"{}\". */", lower(map.converter));
  to.line("#ifndef {}_REGISTERS_H", prefix);
  to.line("#define {}_REGISTERS_H", prefix);
  to.line("");
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
  to.line("}};");
  for (const auto& channel : channels) {
    std::vector<std::pair<std::uint64_t, std::uint64_t>> words;
    for (const auto& entry : channel.registers) {
      for (const auto& one : words_of(entry)) words.push_back(one);
    }
    to.line("");
    to.line("/* Written in this order, they configure {} for {}. */", lower(map.converter),
            lower(channel.channel));
    to.line("static const struct {}_word {}_setup[{}] = {{", lower(map.converter),
            lower(channel.channel), words.size());
    for (const auto& [at, value] : words) to.line("{{{:#x}u, {:#x}u}},", at, value);
    to.line("}};");
  }
  to.line("");
  to.line("#endif");
  return to.text();
}

}  // namespace tamlo::firmware
