// SPDX-License-Identifier: Apache-2.0
// Keys of the sections that all channels share: conditions, references, meters, links, sources.
#include <cmath>

#include "findings.hpp"
#include "key_rows.hpp"

namespace tamlo::model {
namespace {

const Keys& title_keys() {
  static const Keys keys{
      {text("title", at<&Board::title>).means("name of the board", "none"),
       texts("parts", at<&Board::part_folders>)
           .means("folders in which parts of `use` are looked for beside that of the board",
                  "none")}};
  return keys;
}

const Keys& meter_range_keys() {
  static const Keys keys{{
      value("full_scale", "", at<&MeterRange::full_scale>)
          .in(KeyUnit::any)
          .above_zero()
          .needed("the top of the range, such as \"6 V\"")
          .with_own_reader()
          .means("top of the range"),
      integer("digits", 1, 1'000'000'000, at<&MeterRange::digits>)
          .needed("the counts of the display at full scale, such as 6000")
          .means("counts of the display at full scale"),
      limits("accuracy", "", {Basis::absolute, Basis::relative, Basis::range, Basis::digit},
             at<&MeterRange::accuracy>)
          .in(KeyUnit::span_difference)
          .needed("limits, such as \"±0.05 % ±2 digits\"")
          .means("% of reading, `% of range`, digits or absolute; also per kelvin and per year"),
  }};
  return keys;
}

const Keys& quantity_target_keys() {
  static const Keys keys{{
      limits("accuracy", "", {Basis::absolute, Basis::relative, Basis::span}, at<&Target::accuracy>)
          .in(KeyUnit::span_difference)
          .needed("one limit, such as \"±1 % of span\"")
          .means("one limit: absolute, % of span or % of reading"),
      choice("by", names_of<JudgedBy>(), at<&Target::by>)
          .means("what is held against it: `\"uncertainty\"` (of 95 % or `--coverage`), "
                 "`\"worst case\"`, with every limit at its end, or `\"both\"`",
                 "`\"uncertainty\"`"),
  }};
  return keys;
}

void meter_relations(const Meter& meter, const Place& place) {
  if (meter.ranges.empty()) place.add("ranges", "no range", "one range or more");
  const bool volts = meter.ranges.empty() || meter.ranges.front().full_scale.unit.dimension ==
                                                 quantity::unit("V").dimension;
  if (meter.touches == Touches::pin && !volts) {
    place.add("touches", "\"pin\" of a meter that does not read volts",
              "\"quantity\", or ranges in V");
  }
}

void link_relations(const Link& link, const Place& place) {
  if (link.speaks != Speaks::frames) return;
  if (link.begins.size() >= std::max<std::size_t>(link.length, 1)) {
    place.add("begins", std::to_string(link.begins.size()) + " bytes",
              "fewer than the " + std::to_string(link.length) + " of the frame");
  }
  for (std::size_t i = 0; i < link.values.size(); ++i) {
    const auto& value = link.values[i];
    const auto last = value.at + static_cast<std::int64_t>(size_of(value.type)) - 1;
    if (last < static_cast<std::int64_t>(link.length)) continue;
    place.add("values[" + std::to_string(i) + "].at",
              "bytes " + std::to_string(value.at) + " to " + std::to_string(last),
              "inside the frame of " + std::to_string(link.length) + " bytes");
  }
}

}  // namespace

const Keys& board_keys() {
  static const Keys keys{{
      integer("format", 1, 1, nullptr).needed("format = 1").means("version of the format"),
      table("board", {.keys = title_keys,
                      .size = [](const void*) { return std::size_t{1}; },
                      .at = [](void* object, std::size_t) { return object; },
                      .add = [](void* object) { return object; }}),
      table("conditions", inner<&Board::conditions>(conditions_keys)).with_own_reader(),
      entries("reference", inner<&Board::references>(reference_keys)).with_own_reader(),
      entries("converter", inner<&Board::converters>(converter_keys)).with_own_reader(),
      entries("channel", inner<&Board::channels>(channel_keys))
          .needed("at least one [channel.NAME] section")
          .with_own_reader(),
      entries("quantity", inner<&Board::quantities>(quantity_keys)).with_own_reader(),
      entries("link", inner<&Board::links>(link_keys)).with_own_reader(),
      entries("meter", inner<&Board::meters>(meter_keys)).with_own_reader(),
      entries("source", inner<&Board::sources>(source_keys)).with_own_reader(),
  }};
  return keys;
}

const Keys& conditions_keys() {
  static const Keys keys{{
      range("temperature", "degC", at<&Conditions::temperature>)
          .or_one_value()
          .within(temperature_bounds)
          .means("range that the budget must cover, `\"15..45 degC\"`, or one temperature",
                 "`specified_at` only"),
      plain("specified_at", "degC", at<&Conditions::specified_at>)
          .within(temperature_bounds)
          .means("temperature at which the limits hold", "`\"23 degC\"`"),
      plain("age", "year", at<&Conditions::age>)
          .not_negative()
          .means("time since the limits were true", "none"),
      value("mains", "Hz", at<&Conditions::mains>)
          .above_zero()
          .means("`\"50 Hz ±0.5 Hz\"`: averages are compared with its periods; its limits are also "
                 "those of interference at a multiple of it",
                 "none"),
      plain("observation", "s", at<&Conditions::observation>)
          .above_zero()
          .means("time over which 1/f noise is watched", "`\"1 h\"`"),
  }};
  return keys;
}

const Keys& reference_keys() {
  static const Keys keys{
      {
          text("use", nullptr)
              .with_own_reader()
              .means("a file with keys of a reference, `\"parts/series_2v5.toml\"`; keys that "
                     "stand here win",
                     "none"),
          value("voltage", "V", at<&Reference::voltage>)
              .needed("a voltage, such as \"2.5 V ±0.05 % ±10 ppm/K\"")
              .means("above 0 V; a `negative_reference` may lie below"),
          noise("noise", "V", {Basis::absolute, Basis::relative}, at<&Reference::noise>)
              .means("`\"9 uV rms\"`", "none"),
          plain("output_resistance", "ohm", at<&Reference::output_resistance>)
              .above_zero()
              .means("`\"50 mohm\"`, beside `load_change`", "none"),
          limits("load_change", "A", {Basis::absolute}, at<&Reference::load_change>)
              .absent_is(0.0)
              .means("`\"±2 mA\"`: how far its load varies", "none"),
      },
      +[](const Reference& reference, const Place& place) {
        const bool changes = reference.load_change > 0.0;
        if (reference.output_resistance.has_value() == changes) return;
        place.add(changes ? "load_change" : "output_resistance", "one of two that go together",
                  "output_resistance = \"50 mohm\" and load_change = \"±2 mA\"");
      }};
  return keys;
}

const Keys& quantity_keys() {
  static const Keys keys{{
      text("is", at<&Quantity::expression>)
          .needed("a formula of channel names, such as \"pack_voltage * pack_current\"")
          .means("formula of the readings of channels, `\"pack_voltage * pack_current\"`: `+ - * / "
                 "^`, brackets, `min`, `max`, `abs`, `sqrt`, `exp`, `ln`; `junction_k(pair, "
                 "terminals)` is the "
                 "temperature of a thermocouple of type K (`_b` to `_t`) by its voltage and that "
                 "of its "
                 "terminals"),
      range("span", "", at<&Quantity::span>)
          .in(KeyUnit::any)
          .needed("the values that it may have, such as \"0..1200 W\"")
          .with_own_reader()
          .means("values that it may have; their unit must be that of the formula"),
      limits("error", "", {Basis::absolute, Basis::relative, Basis::span}, at<&Quantity::error>)
          .in(KeyUnit::span_difference)
          .means("limits of its own, beside those of its channels: `\"±1.5 K\"`", "none"),
      table("target", inner<&Quantity::target>(quantity_target_keys))
          .means("`{ accuracy = \"±1 % of span\" }`, and `by` as of a channel", "none"),
  }};
  return keys;
}

const Keys& meter_keys() {
  static const Keys keys{
      {
          text("use", nullptr)
              .with_own_reader()
              .means("a file with keys of a meter, `\"parts/handheld_6000.toml\"`; keys that stand "
                     "here win",
                     "none"),
          tables("ranges", inner<&Meter::ranges>(meter_range_keys))
              .with_own_reader()
              .needed("the ranges: [ { full_scale = \"6 V\", digits = 6000, accuracy = ... } ]")
              .means("an array of `{ full_scale = \"6 V\", digits = 6000, accuracy = \"±0.05 % "
                     "±2 digits\" }`; the lowest that holds the reading counts"),
          choice("touches", {"quantity", "pin"}, at<&Meter::touches>)
              .means("`\"quantity\"`, or `\"pin\"`: it measures volts at the converter's pin",
                     "`\"quantity\"`"),
          value("input_resistance", "ohm", at<&Meter::input_resistance>)
              .above_zero()
              .means("`\"10 Mohm ±1 %\"`; for `loaded_by` of a channel", "none"),
          range("temperature", "degC", at<&Meter::temperature>)
              .within(temperature_bounds)
              .means("`\"18..28 degC\"`: in which its accuracy holds; limits per kelvin count "
                     "outside",
                     "everywhere"),
          plain("age", "year", at<&Meter::age>)
              .not_negative()
              .means("`\"1 year\"`: since its accuracy was true; for limits per year",
                     "`\"0 years\"`"),
          name_in_section("link", "link", at<&Meter::link>)
              .means("link over which it is read", "none: by eye"),
      },
      +meter_relations};
  return keys;
}

const Keys& serial_keys() {
  static const Keys keys{{
      text("device", at<&SerialPort::device>)
          .needed("a device such as \"/dev/ttyUSB0\"")
          .means("device of the port"),
      integer("baud", 50, 4'000'000, at<&SerialPort::baud>).means("bits a second", "115200"),
      integer("data_bits", 5, 8, at<&SerialPort::data_bits>).means("bits of a character", "8"),
      choice("parity", names_of<Parity>(), at<&SerialPort::parity>)
          .means("parity bit", "`\"none\"`"),
      integer("stop_bits", 1, 2, at<&SerialPort::stop_bits>).means("stop bits", "1"),
  }};
  return keys;
}

const Keys& placed_number_keys() {
  static const Keys keys{
      {
          text("holds", at<&PlacedNumber::holds>)
              .needed("what the number is, such as \"pack_voltage.code\"")
              .means("what the number is, `\"pack_voltage.code\"`"),
          integer("at", 0, 65535, at<&PlacedNumber::at>)
              .needed("its register, or its first byte in the frame, from 0")
              .means("first byte of a frame, or register, from 0"),
          choice("type", names_of<NumberType>(), at<&PlacedNumber::type>)
              .means("how the number is stored", "`\"uint16\"`"),
          choice("order", names_of<Order>(), at<&PlacedNumber::order>)
              .means("which byte of a frame, or which word of registers, comes first",
                     "`\"big endian\"`"),
          number("scale", at<&PlacedNumber::scale>)
              .within({.text = "not 0"})
              .means("factor from the number to what it holds", "1"),
      },
      +[](const PlacedNumber& number, const Place& place) {
        if (number.scale == 0.0) place.add("scale", "0", "a factor that is not 0");
      }};
  return keys;
}

const Keys& link_keys() {
  static const Keys keys{
      {
          table("serial", {.keys = serial_keys})
              .with_own_reader()
              .means("`{ device = \"/dev/ttyUSB0\", baud = 115200, data_bits = 8, parity = "
                     "\"none\", stop_bits = 1 }`"),
          text("tcp", nullptr).with_own_reader().means("`\"host:port\"`"),
          text("file", nullptr)
              .with_own_reader()
              .means("a file beside the one that names it, a pipe, the device file of an "
                     "instrument, or `\"-\"`. One of serial, tcp and file is required"),
          flag("follow", nullptr)
              .with_own_reader()
              .means("of a file: waits at its end for more, for a log that grows", "false"),
          choice("speaks", names_of<Speaks>(), at<&Link::speaks>)
              .means("`\"lines\"` of text, `\"scpi\"` of an instrument, `\"modbus\"` (TCP, or RTU "
                     "on a serial port), `\"frames\"` of bytes",
                     "`\"lines\"`"),
          text("ask", at<&Link::ask>)
              .with_own_reader()
              .means("a text that is sent before each answer, line or frame",
                     "none: they come as they are; of SCPI `\"READ?\"`"),
          plain("every", "s", at<&Link::every>)
              .above_zero()
              .means("time between two questions", "`\"0.1 s\"`"),
          text("pattern", at<&Link::pattern>)
              .with_own_reader()
              .means("of lines: `\"raw {pack_voltage.code} flow {coolant_flow.reading}\"`; `{}` is "
                     "any word"),
          choice("form", names_of<LineForm>(), at<&Link::form>)
              .with_own_reader()
              .means("of lines without a pattern: `\"csv\"` (a heading of such names), `\"pairs\"` "
                     "(`pack_voltage.code=2048`), or `\"number\"`",
                     "`\"number\"`"),
          text("holds", nullptr)
              .with_own_reader()
              .means("what a bare number is, or the number of an answer: `\"pack_voltage.code\"`",
                     "that of the meter that names the link"),
          integer("length", 1, 4096, at<&Link::length>)
              .with_own_reader()
              .absent_is(0.0)
              .means("of frames: their bytes"),
          text("begins", nullptr)
              .with_own_reader()
              .means("of frames: the bytes that each begins with, in hexadecimal: `\"A5 5A\"`",
                     "none"),
          integer("station", 1, 247, at<&Link::station>)
              .with_own_reader()
              .means("of Modbus: address of the device", "1"),
          choice("bank", names_of<Bank>(), at<&Link::bank>)
              .with_own_reader()
              .means("of Modbus: registers of `\"input\"` or `\"holding\"`", "`\"input\"`"),
          tables("values", inner<&Link::values>(placed_number_keys))
              .with_own_reader()
              .means("of frames and of Modbus: `[ { holds = \"pack_voltage.code\", at = 2, type = "
                     "\"uint16\", order = \"big endian\", scale = 1 } ]`"),
      },
      +link_relations};
  return keys;
}

const Keys& source_keys() {
  static const Keys keys{
      {
          name_in_section("link", "link", at<&SourceInstrument::link>)
              .needed("the name of a [link.NAME] section")
              .means("link over which it is set"),
          text("sets", at<&SourceInstrument::sets>)
              .needed("what it is told, such as \"VOLT {value}\"")
              .means("text that sets it, such as `\"VOLT {value}\"`"),
          range("range", "", at<&SourceInstrument::range>)
              .in(KeyUnit::any)
              .needed("what it may be set to, such as \"0..60 V\": nothing else is sent")
              .means("`\"0..60 V\"`; nothing outside of it is ever sent, and values are in its "
                     "unit"),
      },
      +[](const SourceInstrument& source, const Place& place) {
        if (source.sets.find("{value}") != std::string::npos) return;
        place.add("sets", "\"" + source.sets + "\"", "a text with {value} in it");
      }};
  return keys;
}

}  // namespace tamlo::model
