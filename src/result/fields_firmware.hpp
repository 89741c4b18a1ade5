// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of firmware.
namespace tamlo::result {

template <>
struct Fields<firmware::FilterStage> : FieldsOf<firmware::FilterStage> {
  static constexpr Field list[] = {
      field("name", TAMLO_GET(t.name), "of the stage"),
      field("bits", TAMLO_GET(t.out_bits), in("bit"), "of the values that come out"),
      field("gain", TAMLO_GET(t.gain), "of those values"),
      field("rounding", TAMLO_GET(t.rounding), in("LSB"), "limit, in register values")};
};

template <>
struct Fields<ChannelFirmware> : FieldsOf<ChannelFirmware> {
  static Units units(const T& t) { return {.quantity = t.plan.unit}; }
  static double covered(const T& t, std::int64_t number) {
    return static_cast<double>(number) / t.plan.filter.per_code;
  }
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.plan.channel), ""),
      field("unit", TAMLO_GET(t.plan.unit), "of the quantity"),
      field("form", TAMLO_GET(t.plan.arithmetic.form), "how a register value becomes a reading"),
      field("formula", TAMLO_GET(firmware::in_words(t.plan.arithmetic)), "of the numbers"),
      field("first", TAMLO_GET(covered(t, t.plan.arithmetic.first)),
            "register value from which on it holds; the reading stays beyond"),
      field("last", TAMLO_GET(covered(t, t.plan.arithmetic.last)),
            "register value up to which it holds"),
      field("count", TAMLO_GET(t.plan.count), difference, "of the reading"),
      field("word", TAMLO_GET(t.plan.arithmetic.bits), in("bit"), "that holds every product"),
      field("pieces", TAMLO_GET(t.plan.arithmetic.lines.size()), "straight lines of a curve"),
      field("allowed", TAMLO_GET(t.plan.allowed), difference, "that the arithmetic may be off"),
      field("bound", TAMLO_GET(t.plan.bound), difference,
            "largest error of the arithmetic, over all register values"),
      field("bound_at", TAMLO_GET(t.plan.bound_at), "register value"),
      field("widest", TAMLO_GET(t.plan.arithmetic.widest()), "largest intermediate number"),
      field("table_bytes", TAMLO_GET(t.plan.arithmetic.table_bytes()), ""),
      field("operations", TAMLO_GET(t.plan.operations), "a reading"),
      field("float_operations", TAMLO_GET(t.float_operations),
            "of the plain formula in floating point, logarithms and powers as 100 each"),
      field("per_code", TAMLO_GET(t.plan.filter.per_code),
            "numbers that are scaled, to a register value"),
      field("filter_rounding", TAMLO_GET(t.plan.filter.rounding), in("LSB"),
            "limit of what integer filters round, in register values"),
      field("first_valid", TAMLO_GET(t.plan.filter.settling),
            "number of the first valid reading after a start"),
      field("corrected", TAMLO_GET(t.plan.corrected),
            "a calibration's correction is in the numbers"),
      field("target_met", TAMLO_GET(t.target_met), "with these integers; none: it has no target"),
      field("error", TAMLO_GET(t.error), difference,
            "|bias| and expanded uncertainty at the worst place"),
      field("limit", TAMLO_GET(t.limit), difference, "that the target sets there"),
      field("filter", TAMLO_GET(t.plan.filter.stages), "stage by stage"),
      field("files", TAMLO_GET(t.files), "that were written")};
};

template <>
struct Fields<Firmwares> : FieldsOf<Firmwares> {
  static constexpr Field list[] = {field("channels", TAMLO_GET(t.channels), "")};
};

template <>
struct Fields<firmware::FieldWord> : FieldsOf<firmware::FieldWord> {
  static constexpr Field list[] = {
      field("name", TAMLO_GET(t.name), ""), field("low", TAMLO_GET(t.low), "lowest bit"),
      field("high", TAMLO_GET(t.high), "highest bit"), field("value", TAMLO_GET(t.value), ""),
      field("from", TAMLO_GET(t.from), "the setting that it expresses")};
};

template <>
struct Fields<firmware::RegisterWord> : FieldsOf<firmware::RegisterWord> {
  static std::vector<std::string> each(const T& t, std::string (*text)(std::uint64_t, int)) {
    std::vector<std::string> result;
    for (const auto& [address, value] : firmware::words_of(t)) {
      result.push_back(text(value, t.word_bits));
    }
    return result;
  }
  static constexpr Field list[] = {
      field("name", TAMLO_GET(t.name), ""),
      field("address", TAMLO_GET(t.address), "of its first word"),
      field("words", TAMLO_GET(t.words), "at consecutive addresses"),
      field("high_first", TAMLO_GET(t.high_first), "the first address has the high bits"),
      field("value", TAMLO_GET(t.value), ""),
      field("hex", TAMLO_GET(each(t, firmware::in_hex)), "its words, by rising address"),
      field("binary", TAMLO_GET(each(t, firmware::in_binary)), "the same"),
      field("fields", TAMLO_GET(t.fields), "")};
};

template <>
struct Fields<firmware::Setting> : FieldsOf<firmware::Setting> {
  static constexpr Field list[] = {field("key", TAMLO_GET(t.key), "of the board file"),
                                   field("value", TAMLO_GET(t.value), "")};
};

template <>
struct Fields<firmware::FoundSetting> : FieldsOf<firmware::FoundSetting> {
  static constexpr Field list[] = {
      field("field", TAMLO_GET(t.field), "register and field"),
      field("key", TAMLO_GET(t.key), "of the setting; empty for a constant and for reserved bits"),
      field("channel", TAMLO_GET(t.channel), "that it is about; empty for the converter"),
      field("wanted", TAMLO_GET(t.wanted), "by the board; empty where it leaves it open"),
      field("found", TAMLO_GET(t.found), "by the dump"),
      field("differs", TAMLO_GET(t.differs), ""),
      field("known", TAMLO_GET(t.known), "the map has a setting for what was found")};
};

template <>
struct Fields<firmware::FoundSettings> : FieldsOf<firmware::FoundSettings> {
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.channel), "whose words they are"),
      field("settings", TAMLO_GET(t.settings), "field by field"),
      field("missing", TAMLO_GET(t.missing), "registers of which the dump has not all words")};
};

template <>
struct Fields<ChannelRegisters> : FieldsOf<ChannelRegisters> {
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.words.channel), ""),
      field("converter", TAMLO_GET(t.words.converter), ""),
      field("word_bits", TAMLO_GET(t.words.word_bits), in("bit"), "of one word"),
      field("registers", TAMLO_GET(t.words.registers), "with their words"),
      field("problems", TAMLO_GET(t.words.problems),
            "settings that the map cannot express, and what it can"),
      field("elsewhere", TAMLO_GET(t.words.elsewhere),
            "settings of the board that the map has no field for"),
      field("found", TAMLO_GET(t.found), "what the words of a dump mean; none without a dump")};
};

template <>
struct Fields<Registers> : FieldsOf<Registers> {
  static constexpr Field list[] = {field("channels", TAMLO_GET(t.channels), "")};
};

}  // namespace tamlo::result
