// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of firmware.
namespace tamlo::result {

template <>
struct Fields<firmware::FilterStage> {
  using T = firmware::FilterStage;
  static constexpr auto list =
      std::make_tuple(field("name", &T::name, "of the stage"),
                      field("bits", &T::out_bits, in("bit"), "of the values that come out"),
                      field("gain", &T::gain, "of those values"),
                      field("rounding", &T::rounding, in("LSB"), "limit, in register values"));
};

template <>
struct Fields<ChannelFirmware> {
  using T = ChannelFirmware;
  static Units units(const T& t) { return {.quantity = t.plan.unit}; }
  static double covered(const T& t, std::int64_t number) {
    return static_cast<double>(number) / t.plan.filter.per_code;
  }
  static constexpr auto list = std::make_tuple(
      field(
          "channel", [](const T& t) { return t.plan.channel; }, ""),
      field(
          "unit", [](const T& t) { return t.plan.unit; }, "of the quantity"),
      field(
          "form", [](const T& t) { return t.plan.arithmetic.form; },
          "how a register value becomes a reading"),
      field(
          "formula", [](const T& t) { return firmware::in_words(t.plan.arithmetic); },
          "of the numbers"),
      field(
          "first", [](const T& t) { return covered(t, t.plan.arithmetic.first); },
          "register value from which on it holds; the reading stays beyond"),
      field(
          "last", [](const T& t) { return covered(t, t.plan.arithmetic.last); },
          "register value up to which it holds"),
      field(
          "count", [](const T& t) { return t.plan.count; }, difference, "of the reading"),
      field(
          "word", [](const T& t) { return t.plan.arithmetic.bits; }, in("bit"),
          "that holds every product"),
      field(
          "pieces", [](const T& t) { return t.plan.arithmetic.lines.size(); },
          "straight lines of a curve"),
      field(
          "allowed", [](const T& t) { return t.plan.allowed; }, difference,
          "that the arithmetic may be off"),
      field(
          "bound", [](const T& t) { return t.plan.bound; }, difference,
          "largest error of the arithmetic, over all register values"),
      field(
          "bound_at", [](const T& t) { return t.plan.bound_at; }, "register value"),
      field(
          "widest", [](const T& t) { return t.plan.arithmetic.widest(); },
          "largest intermediate number"),
      field(
          "table_bytes", [](const T& t) { return t.plan.arithmetic.table_bytes(); }, ""),
      field(
          "operations", [](const T& t) { return t.plan.operations; }, "a reading"),
      field("float_operations", &T::float_operations,
            "of the plain formula in floating point, logarithms and powers as 100 each"),
      field(
          "per_code", [](const T& t) { return t.plan.filter.per_code; },
          "numbers that are scaled, to a register value"),
      field(
          "filter_rounding", [](const T& t) { return t.plan.filter.rounding; }, in("LSB"),
          "limit of what integer filters round, in register values"),
      field(
          "first_valid", [](const T& t) { return t.plan.filter.settling; },
          "number of the first valid reading after a start"),
      field(
          "corrected", [](const T& t) { return t.plan.corrected; },
          "a calibration's correction is in the numbers"),
      field("target_met", &T::target_met, "with these integers; none: it has no target"),
      field("error", &T::error, difference, "|bias| and expanded uncertainty at the worst place"),
      field("limit", &T::limit, difference, "that the target sets there"),
      field(
          "filter", [](const T& t) { return t.plan.filter.stages; }, "stage by stage"),
      field("files", &T::files, "that were written"));
};

template <>
struct Fields<Firmwares> {
  static constexpr auto list = std::make_tuple(field("channels", &Firmwares::channels, ""));
};

template <>
struct Fields<firmware::FieldWord> {
  using T = firmware::FieldWord;
  static constexpr auto list =
      std::make_tuple(field("name", &T::name, ""), field("low", &T::low, "lowest bit"),
                      field("high", &T::high, "highest bit"), field("value", &T::value, ""),
                      field("from", &T::from, "the setting that it expresses"));
};

template <>
struct Fields<firmware::RegisterWord> {
  using T = firmware::RegisterWord;
  static std::vector<std::string> each(const T& t, std::string (*text)(std::uint64_t, int)) {
    std::vector<std::string> result;
    for (const auto& [address, value] : firmware::words_of(t)) {
      result.push_back(text(value, t.word_bits));
    }
    return result;
  }
  static constexpr auto list = std::make_tuple(
      field("name", &T::name, ""), field("address", &T::address, "of its first word"),
      field("words", &T::words, "at consecutive addresses"),
      field("high_first", &T::high_first, "the first address has the high bits"),
      field("value", &T::value, ""),
      field(
          "hex", [](const T& t) { return each(t, firmware::in_hex); },
          "its words, by rising address"),
      field(
          "binary", [](const T& t) { return each(t, firmware::in_binary); }, "the same"),
      field("fields", &T::fields, ""));
};

template <>
struct Fields<firmware::Setting> {
  using T = firmware::Setting;
  static constexpr auto list =
      std::make_tuple(field("key", &T::key, "of the board file"), field("value", &T::value, ""));
};

template <>
struct Fields<firmware::FoundSetting> {
  using T = firmware::FoundSetting;
  static constexpr auto list = std::make_tuple(
      field("field", &T::field, "register and field"),
      field("key", &T::key, "of the setting; empty for a constant and for reserved bits"),
      field("channel", &T::channel, "that it is about; empty for the converter"),
      field("wanted", &T::wanted, "by the board; empty where it leaves it open"),
      field("found", &T::found, "by the dump"), field("differs", &T::differs, ""),
      field("known", &T::known, "the map has a setting for what was found"));
};

template <>
struct Fields<firmware::FoundSettings> {
  using T = firmware::FoundSettings;
  static constexpr auto list = std::make_tuple(
      field("channel", &T::channel, "whose words they are"),
      field("settings", &T::settings, "field by field"),
      field("missing", &T::missing, "registers of which the dump has not all words"));
};

template <>
struct Fields<ChannelRegisters> {
  using T = ChannelRegisters;
  static constexpr auto list = std::make_tuple(
      field(
          "channel", [](const T& t) { return t.words.channel; }, ""),
      field(
          "converter", [](const T& t) { return t.words.converter; }, ""),
      field(
          "word_bits", [](const T& t) { return t.words.word_bits; }, in("bit"), "of one word"),
      field(
          "registers", [](const T& t) { return t.words.registers; }, "with their words"),
      field(
          "problems", [](const T& t) { return t.words.problems; },
          "settings that the map cannot express, and what it can"),
      field(
          "elsewhere", [](const T& t) { return t.words.elsewhere; },
          "settings of the board that the map has no field for"),
      field("found", &T::found, "what the words of a dump mean; none without a dump"));
};

template <>
struct Fields<Registers> {
  static constexpr auto list = std::make_tuple(field("channels", &Registers::channels, ""));
};

}  // namespace tamlo::result
