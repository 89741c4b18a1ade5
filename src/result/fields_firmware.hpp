// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of firmware.
namespace tamlo::result {

template <>
struct Fields<firmware::FilterStage> : FieldsOf<firmware::FilterStage> {
  static constexpr Field list[] = {
      field("name", TAMLO_AT(name), "of the stage"),
      field("bits", TAMLO_AT(out_bits), in("bit"), "of the values that come out"),
      field("gain", TAMLO_AT(gain), "of those values"),
      field("rounding", TAMLO_AT(rounding), in("LSB"), "limit, in register values")};
};

template <>
struct Fields<firmware::UnitData> : FieldsOf<firmware::UnitData> {
  static constexpr Field list[] = {
      field("offset", TAMLO_GET(t.offset / 256.0), "counts that are added"),
      field("gain", TAMLO_GET(t.gain / 1073741824.0), "part of the reading that is added"),
      field("temperature", TAMLO_GET(t.temperature / 10.0), in("degC"), "where it holds"),
      field("day", TAMLO_GET(static_cast<int>(t.day)), "of it from 2000-01-01; 0: not known"),
      field("error", TAMLO_AT(error), "counts that it rounds at most")};
};

template <>
struct Fields<firmware::ChannelFirmware> : FieldsOf<firmware::ChannelFirmware> {
  static Units units(const T& t) { return {.quantity = t.plan.unit}; }
  static double covered(const T& t, std::int64_t number) {
    return static_cast<double>(number) / t.plan.filter.per_code;
  }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(plan.channel), ""),
      field("unit", TAMLO_AT(plan.unit), "of the quantity"),
      field("form", TAMLO_AT(plan.arithmetic.form), "how a register value becomes a reading"),
      field("formula", TAMLO_GET(firmware::in_words(t.plan.arithmetic)), "of the numbers"),
      field("first", TAMLO_GET(covered(t, t.plan.arithmetic.first)),
            "register value from which on it holds; the reading stays beyond"),
      field("last", TAMLO_GET(covered(t, t.plan.arithmetic.last)),
            "register value up to which it holds"),
      field("count", TAMLO_AT(plan.count), difference, "of the reading"),
      field("word", TAMLO_AT(plan.arithmetic.bits), in("bit"), "that holds every product"),
      field("pieces", TAMLO_GET(t.plan.arithmetic.lines.size()), "straight lines of a curve"),
      field("allowed", TAMLO_AT(plan.allowed), difference, "that the arithmetic may be off"),
      field("bound", TAMLO_AT(plan.bound), difference,
            "largest error of the arithmetic, over all register values"),
      field("bound_at", TAMLO_AT(plan.bound_at), "register value"),
      field("wrong_step", TAMLO_AT(plan.wrong_step),
            "counts: largest step of a reading against the quantity"),
      field("widest", TAMLO_GET(t.plan.arithmetic.widest()), "largest intermediate number"),
      field("table_bytes", TAMLO_GET(t.plan.arithmetic.table_bytes()), ""),
      field("operations", TAMLO_AT(plan.operations), "a reading"),
      field("float_operations", TAMLO_AT(float_operations),
            "of the plain formula in floating point, logarithms and powers as 100 each"),
      field("per_code", TAMLO_AT(plan.filter.per_code),
            "numbers that are scaled, to a register value"),
      field("filter_rounding", TAMLO_AT(plan.filter.rounding), in("LSB"),
            "limit of what integer filters round, in register values"),
      field("filter_transient", TAMLO_AT(plan.filter.transient), in("LSB"),
            "limit of what filters in integers add while the input moves"),
      field("first_valid", TAMLO_AT(plan.filter.settling),
            "number of the first valid reading after a start"),
      field("corrected", TAMLO_AT(plan.corrected), "a calibration's correction is in the numbers"),
      field("unit_data", TAMLO_AT(unit), "correction of one unit, as data for its code"),
      field("lowest_code", TAMLO_AT(plan.lowest_code), "register value that the span can give"),
      field("highest_code", TAMLO_AT(plan.highest_code), "register value that the span can give"),
      field("open_code", TAMLO_AT(plan.open_code), "register value of an open sensor"),
      field("shorted_code", TAMLO_AT(plan.shorted_code), "register value of a shorted sensor"),
      field("no_reference_code", TAMLO_AT(plan.no_reference_code),
            "register value without the reference voltage, wherever the quantity is"),
      field("tared", TAMLO_AT(plan.tared), "place of a tare, which the code does not subtract"),
      field("target_met", TAMLO_AT(target_met), "with these integers; none: it has no target"),
      field("error", TAMLO_AT(error), difference,
            "|bias| and expanded uncertainty at the worst place"),
      field("limit", TAMLO_AT(limit), difference, "that the target sets there"),
      field("filter", TAMLO_AT(plan.filter.stages), "stage by stage"),
      field("files", TAMLO_AT(files), "that were written")};
};

template <>
struct Fields<QuantityFirmware> : FieldsOf<QuantityFirmware> {
  static Units units(const T& t) { return {.quantity = t.plan.unit}; }
  static constexpr Field list[] = {
      field("quantity", TAMLO_AT(plan.quantity), ""),
      field("unit", TAMLO_AT(plan.unit), "of the quantity"),
      field("expression", TAMLO_AT(plan.expression), "of its channels"),
      field("channels", TAMLO_AT(plan.channels), "whose readings its function takes, in order"),
      field("bound", TAMLO_AT(plan.bound), difference,
            "largest error of the arithmetic, while each reading lies in its span"),
      field("operations", TAMLO_AT(plan.operations), "in single precision"),
      field("without_code", TAMLO_AT(without_code), "why it has none"),
      field("files", TAMLO_AT(files), "that were written")};
};

template <>
struct Fields<Firmwares> : FieldsOf<Firmwares> {
  static constexpr const char* command = "firmware";
  static constexpr Field list[] = {
      field("channels", TAMLO_AT(channels), ""),
      field("quantities", TAMLO_AT(quantities), "of several channels")};
};

template <>
struct Fields<firmware::FieldWord> : FieldsOf<firmware::FieldWord> {
  static constexpr Field list[] = {
      field("name", TAMLO_AT(name), ""), field("low", TAMLO_AT(low), "lowest bit"),
      field("high", TAMLO_AT(high), "highest bit"), field("value", TAMLO_AT(value), ""),
      field("from", TAMLO_AT(from), "the setting that it expresses")};
};

template <>
struct Fields<firmware::RegisterWord> : FieldsOf<firmware::RegisterWord> {
  static std::vector<std::string> each(const T& t, bool binary) {
    std::vector<std::string> result;
    for (const auto& word : firmware::words_of(t)) {
      result.push_back(binary ? firmware::in_binary(word.value, t.word_bits, word.changes)
                              : firmware::in_hex(word.value, t.word_bits));
    }
    return result;
  }
  static constexpr Field list[] = {
      field("name", TAMLO_AT(name), ""),
      field("address", TAMLO_AT(address), "of its first word"),
      field("words", TAMLO_AT(words), "at consecutive addresses"),
      field("high_first", TAMLO_AT(high_first), "the first address has the high bits"),
      field("value", TAMLO_AT(value), ""),
      field("hex", TAMLO_GET(each(t, false)), "its words in the order in which they are written"),
      field("binary", TAMLO_GET(each(t, true)),
            "the same, with a dash for each bit that is not written"),
      field("fields", TAMLO_AT(fields), "")};
};

template <>
struct Fields<firmware::Setting> : FieldsOf<firmware::Setting> {
  static constexpr Field list[] = {field("key", TAMLO_AT(key), "of the board file"),
                                   field("value", TAMLO_AT(value), "")};
};

template <>
struct Fields<firmware::FoundSetting> : FieldsOf<firmware::FoundSetting> {
  static constexpr Field list[] = {
      field("field", TAMLO_AT(field), "register and field"),
      field("key", TAMLO_AT(key), "of the setting; empty for a constant and for reserved bits"),
      field("channel", TAMLO_AT(channel), "that it is about; empty for the converter"),
      field("wanted", TAMLO_AT(wanted), "by the board; empty where it leaves it open"),
      field("found", TAMLO_AT(found), "by the dump"),
      field("differs", TAMLO_AT(differs), ""),
      field("known", TAMLO_AT(known), "the map has a setting for what was found")};
};

template <>
struct Fields<firmware::FoundSettings> : FieldsOf<firmware::FoundSettings> {
  static std::vector<std::string> in_hex(const T& t) {
    std::vector<std::string> result;
    for (const auto address : t.unknown) result.push_back(firmware::in_hex(address, 8));
    return result;
  }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(channel), "whose words they are"),
      field("settings", TAMLO_AT(settings), "field by field"),
      field("missing", TAMLO_AT(missing), "registers of which the dump has not all words"),
      field("unknown", TAMLO_GET(in_hex(t)), "addresses of the dump that the map does not have")};
};

template <>
struct Fields<ChannelRegisters> : FieldsOf<ChannelRegisters> {
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(words.channel), ""),
      field("converter", TAMLO_AT(words.converter), ""),
      field("word_bits", TAMLO_AT(words.word_bits), in("bit"), "of one word"),
      field("registers", TAMLO_AT(words.registers), "with their words"),
      field("problems", TAMLO_AT(words.problems),
            "settings that the map cannot express, and what it can"),
      field("elsewhere", TAMLO_AT(words.elsewhere),
            "settings of the board that the map has no field for"),
      field("found", TAMLO_AT(found), "what the words of a dump mean; none without a dump")};
};

template <>
struct Fields<Registers> : FieldsOf<Registers> {
  static constexpr const char* command = "registers";
  static constexpr Field list[] = {field("channels", TAMLO_AT(channels), "")};
};

}  // namespace tamlo::result
