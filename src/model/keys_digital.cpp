// SPDX-License-Identifier: Apache-2.0
// Keys of the average, the filters and the scaling. A new filter is a struct (digital.hpp), its
// kind here, and its behaviour in the chain (chain/digital.cpp).
#include <algorithm>
#include <cmath>

#include "findings.hpp"
#include "key_rows.hpp"

namespace tamlo::model {
namespace {

constexpr std::int64_t longest = 1 << 20;  // of a mean
constexpr std::int64_t most_operand = std::int64_t{1} << 40;
// Half a step of a long shift, and more, in a word of 64 bits.
constexpr std::int64_t most_added = std::int64_t{1} << 62;

// "length = 16" or "time = "20 ms"" of the mean in a filter.
template <class Filter>
const Keys& mean_keys() {
  static const Keys keys{
      {integer("length", 1, longest,
               [](void* object) -> Slot { return &static_cast<Filter*>(object)->length.count; })
           .means("samples of the mean"),
       plain("time", "s",
             [](void* object) -> Slot { return &static_cast<Filter*>(object)->length.time; })
           .above_zero()
           .means("time that the mean covers, in place of length")}};
  return keys;
}

const Keys& exponential_keys() {
  static const Keys keys{
      {number("weight", at<&Exponential::weight>)
           .within({.low = 0.0, .high = 1.0, .without_low = true, .text = "above 0, up to 1"})
           .means("weight of the newest sample"),
       plain("time_constant", "s", at<&Exponential::time_constant>)
           .above_zero()
           .means("`\"50 ms\"`, in place of weight")}};
  return keys;
}

const Keys& sinc_keys() {
  static const Keys keys{{integer("order", 1, 5, at<&Sinc::order>)
                              .needed("an order from 1 to 5")
                              .means("moving averages in series"),
                          integer("decimation", 1, 4096, at<&Sinc::decimation>)
                              .needed("how many samples make one, such as 32")
                              .means("samples that make one value")}};
  return keys;
}

const Keys& median_keys() {
  static const Keys keys{{integer("length", 1, 255, at<&Median::length>)
                              .needed("an odd length, such as 5")
                              .means("samples of which it takes the middle one; odd")},
                         +[](const Median& filter, const Place& place) {
                           if (filter.length % 2 != 0) return;
                           place.add("length", "the integer " + std::to_string(filter.length),
                                     "an odd length, which has a middle");
                         }};
  return keys;
}

const Keys& butterworth_keys() {
  static const Keys keys{
      {integer("order", 1, 8, at<&Butterworth::order>).means("order of the filter", "2"),
       plain("cutoff", "Hz", at<&Butterworth::cutoff>)
           .above_zero()
           .needed("a frequency, such as \"10 Hz\"")
           .means("frequency of -3 dB")}};
  return keys;
}

const Keys& notch_keys() {
  static const Keys keys{{plain("frequency", "Hz", at<&Notch::frequency>)
                              .above_zero()
                              .needed("a frequency, such as \"50 Hz\"")
                              .means("frequency that it removes"),
                          plain("width", "Hz", at<&Notch::width>)
                              .above_zero()
                              .needed("the distance of its -3 dB points, such as \"4 Hz\"")
                              .means("distance of its -3 dB points")}};
  return keys;
}

const Keys& taps_keys() {
  static const Keys keys{
      {numbers("taps", at<&FirFilter::taps>)
           .at_most(1024)
           .needed("taps = [0.25, 0.5, 0.25]")
           .means("factors of the newest samples; they are divided by their sum")},
      +[](const FirFilter& filter, const Place& place) {
        double sum = 0.0;
        for (const double tap : filter.taps) sum += tap;
        if (std::abs(sum) > 1e-9) return;  // not of NaN either
        place.add("taps", "taps whose sum is 0", "taps that let a steady value through");
      }};
  return keys;
}

bool has_no_result(const IntegerStep& step) {
  switch (step.operation) {
    case Operation::divide:
      return step.operand == 0;
    case Operation::shift_right:
      return step.operand < 0 || step.operand > 63;
    case Operation::clamp:
      return step.operand > step.most;
    case Operation::lines:
      return step.lines.empty() ||
             std::ranges::adjacent_find(step.lines, std::greater_equal{}, &IntegerLine::from) !=
                 step.lines.end();
    case Operation::polynomial:
      return step.coefficients.empty() || step.operand < 0 || step.operand > 63;
    default:
      return false;
  }
}

void scaling_relations(const Scaling& scaling, const Place& place) {
  if (const auto& integer = scaling.integer) {
    place.findings.within(place.path + ".word", integer->bits, 2, 64);
    for (std::size_t i = 0; i < integer->steps.size(); ++i) {
      if (!has_no_result(integer->steps[i])) continue;
      place.add("steps[" + std::to_string(i) + "]", "a step that has no result",
                "a division by what is not 0, a shift of 0 to 63, a clamp from low to high, lines "
                "that rise");
    }
  }
  const auto& taught = scaling.taught;
  if (!taught) return;
  for (const double number :
       {taught->low_reading, taught->high_reading, taught->low_code, taught->high_code}) {
    place.findings.finite(place.path + ".taught", number);
  }
  if (taught->low_code == taught->high_code || taught->low_reading == taught->high_reading) {
    place.add("taught", "one point twice", "two codes and two readings that differ");
  }
}

// Slot of what only integer steps have.
template <auto member>
Slot of_integer(void* object) {
  auto& integer = static_cast<Scaling*>(object)->integer;
  if (!integer) return {};
  return &((*integer).*member);
}

const Keys& line_keys() {
  constexpr auto all = "{ from = 0, multiply = 3, add = 250 }";
  static const Keys keys{
      {integer("from", -most_operand, most_operand, at<&IntegerLine::from>)
           .needed(all)
           .means("number that the line begins at"),
       integer("multiply", -most_operand, most_operand, at<&IntegerLine::multiply>)
           .needed(all)
           .means("slope of the line"),
       integer("add", -most_added, most_added, at<&IntegerLine::add>)
           .needed(all)
           .means("value of the line at `from`")}};
  return keys;
}

const Keys& clamp_keys() {
  constexpr auto both = "{ least = 0, most = 20000 }";
  static const Keys keys{{integer("least", -most_operand, most_operand, at<&IntegerStep::operand>)
                              .needed(both)
                              .means("smallest result"),
                          integer("most", -most_operand, most_operand, at<&IntegerStep::most>)
                              .needed(both)
                              .means("largest result")}};
  return keys;
}

}  // namespace

const Keys& average_keys() {
  static const Keys keys{
      {integer("count", 1, longest, at<&Length::count>).means("conversions of the mean"),
       plain("time", "s", at<&Length::time>)
           .above_zero()
           .means("time that the mean covers, in place of count"),
       flag("running", nullptr)
           .with_own_reader()
           .means("a mean at every conversion, in place of one for each block", "false"),
       flag("truncated", at<&Length::truncated>)
           .means("the mean is a whole number, the rest of the sum dropped", "false")}};
  return keys;
}

const std::vector<Kind>& filter_kinds() {
  static const std::vector<Kind> kinds{
      kind_of<DigitalStage, MovingAverage>("moving average", mean_keys<MovingAverage>,
                                           "kind = \"moving average\", length = 4",
                                           "mean of the newest samples; or `time = \"80 ms\"`"),
      kind_of<DigitalStage, BlockAverage>("block average", mean_keys<BlockAverage>,
                                          "kind = \"block average\", length = 4",
                                          "one reading of each four; or `time`"),
      kind_of<DigitalStage, Exponential>("exponential", exponential_keys,
                                         "kind = \"exponential\", weight = 0.1",
                                         "or `time_constant = \"50 ms\"`"),
      kind_of<DigitalStage, Sinc>("sinc", sinc_keys, "kind = \"sinc\", order = 3, decimation = 20",
                                  "moving averages in series, then one value of each 20"),
      kind_of<DigitalStage, Median>("median", median_keys, "kind = \"median\", length = 5",
                                    "middle one of the newest samples by size"),
      kind_of<DigitalStage, Butterworth>("Butterworth", butterworth_keys,
                                         "kind = \"Butterworth\", order = 4, cutoff = \"1 kHz\"",
                                         "low-pass"),
      kind_of<DigitalStage, Notch>("notch", notch_keys,
                                   "kind = \"notch\", frequency = \"50 Hz\", width = \"4 Hz\"",
                                   "removes one frequency"),
      kind_of<DigitalStage, FirFilter>("taps", taps_keys,
                                       "kind = \"taps\", taps = [0.25, 0.5, 0.25]",
                                       "weighted mean of the newest samples"),
  };
  return kinds;
}

const Keys& step_keys() {
  const auto operand = [](std::string_view name, std::int64_t low, std::int64_t high) {
    return integer(name, low, high, at<&IntegerStep::operand>).with_own_reader();
  };
  static const Keys keys{
      {operand("multiply", -most_operand, most_operand).means("multiplies the number"),
       operand("add", -most_added, most_added).means("adds to the number"),
       operand("divide", -most_operand, most_operand)
           .means("divides the number, toward zero; with `round` to the nearest"),
       operand("shift_right", 0, 62).means("shifts the number, downward; with `round` upward"),
       table("clamp", {.keys = clamp_keys})
           .with_own_reader()
           .means("`{ least = 0, most = 60000 }`: holds the number between the two"),
       tables("lines", inner<&IntegerStep::lines>(line_keys))
           .with_own_reader()
           .means("`[ { from = 0, multiply = 3, add = 250 }, ... ]`: multiply * (number - from) + "
                  "add of the last line that begins at or before the number"),
       numbers("polynomial", at<&IntegerStep::coefficients>)
           .at_most(16)
           .within({.low = -static_cast<double>(most_operand),
                    .high = static_cast<double>(most_operand),
                    .text = "whole numbers",
                    .whole = true})
           .with_own_reader()
           .means("coefficients, from the constant on, beside `shift`"),
       integer("shift", 0, 62, nullptr)
           .with_own_reader()
           .means("bits that each product of the polynomial is shifted right"),
       flag("round", at<&IntegerStep::round>)
           .means("rounds, beside divide or shift_right", "false")}};
  return keys;
}

const Keys& taught_keys() {
  constexpr auto both = "{ code = 312, reading = ... }";
  static const Keys keys{
      {number("code", nullptr).with_own_reader().needed(both).means("code at the point"),
       of_span("reading", nullptr)
           .with_own_reader()
           .needed(both)
           .means("what the firmware shows for it")}};
  return keys;
}

const Keys& scaling_keys() {
  static const Keys keys{
      {
          choice("arithmetic", {"float", "integer"}, nullptr)
              .with_own_reader()
              .means("how the firmware computes", "`\"float\"`"),
          tables("steps", {.keys = step_keys})
              .with_own_reader()
              .means("integer steps: `[ { multiply = 15259 }, { divide = 1000 } ]`"),
          of_difference("count", of_integer<&IntegerScaling::count>)
              .above_zero()
              .with_own_reader()
              .means("what one count of the result is worth"),
          choice("word",
                 {"16 bit signed", "16 bit unsigned", "32 bit signed", "32 bit unsigned",
                  "64 bit signed"},
                 nullptr)
              .with_own_reader()
              .means("word that the steps compute in"),
          number("per_code", of_integer<&IntegerScaling::per_code>)
              .above_zero()
              .with_own_reader()
              .means("the steps take the register value, or the mean of average and filter, times "
                     "this",
                     "1"),
          of_difference("filter_rounding", of_integer<&IntegerScaling::filter_rounding>)
              .not_negative()
              .with_own_reader()
              .means("limit of what integer filters round, in the reading", "none"),
          flag("corrects", of_integer<&IntegerScaling::corrects>)
              .with_own_reader()
              .means("the steps hold the channel's correction already", "false"),
          tables("taught", {.keys = taught_keys})
              .with_own_reader()
              .means("`[ { code = 312, reading = \"0 %\" }, { code = 3810, reading = \"100 %\" } "
                     "]`: two points that the firmware was taught on the bench"),
          table("sensor", {})
              .with_own_reader()
              .means(
                  "sensor that the firmware computes with, such as `{ ntc = { r25 = \"10 kohm\", "
                  "beta = \"3950 K\" } }` or `{ table = \"curve.csv\" }`, without limits; integer "
                  "steps and taught points overrule it",
                  "that of the channel"),
          of_span("tare", at<&Scaling::tare>)
              .means("value that the reading is set to, at this value, before use", "none"),
          integer("decimals", 0, 12, at<&Scaling::decimals>)
              .means("decimals that the reading is rounded to, in the unit of the span", "none"),
          choice("convention", names_of<Convention>(), at<&Scaling::convention>)
              .means("what a code is taken for: `\"full scale\"` or `\"last code\"`",
                     "`\"full scale\"`"),
      },
      +scaling_relations};
  return keys;
}

}  // namespace tamlo::model
