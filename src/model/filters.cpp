// SPDX-License-Identifier: Apache-2.0
// The average and the filters: their keys, and what each is made of at a rate. A new filter is a
// struct (digital.hpp), and here its keys, its `set` and its kind.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "findings.hpp"
#include "key_rows.hpp"
#include "tamlo/error.hpp"
#include "tamlo/model/detail/prepared_filter.hpp"

namespace tamlo::model {
namespace {

using std::numbers::pi;

constexpr std::int64_t longest = 1 << 20;  // of a mean

double needed(double rate, const char* what) {
  if (rate > 0.0) return rate;
  throw ArgumentError(fmt::format("{}, and no rate that it refers to", what));
}

double below_half(double frequency, double rate, const char* what) {
  needed(rate, what);
  if (frequency > 0.0 && frequency < rate / 2.0) return frequency / rate;
  throw ArgumentError(
      fmt::format("{} of {:.6g} Hz, and the samples come at {:.6g} Hz", what, frequency, rate));
}

int samples(const Length& length, double rate) {
  if (!length.time) {
    require(length.count >= 1, "an average of one sample or more");
    return length.count;
  }
  const double count = std::round(*length.time * needed(rate, "a time"));
  return static_cast<int>(std::clamp(count, 1.0, static_cast<double>(longest)));
}

void set(PreparedFilter& stage, const BlockAverage& average) {
  const int length = samples(average.length, stage.rate);
  stage.name =
      fmt::format("average of {}{}", length, average.length.truncated ? ", truncated" : "");
  stage.averages = {length};
  stage.decimation = length;
}

void set(PreparedFilter& stage, const MovingAverage& average) {
  const int length = samples(average.length, stage.rate);
  stage.name = fmt::format("moving average of {}", length);
  stage.averages = {length};
}

void set(PreparedFilter& stage, const Exponential& filter) {
  const double weight =
      filter.time_constant
          ? -std::expm1(-1.0 / (*filter.time_constant * needed(stage.rate, "a time constant")))
          : filter.weight;
  stage.name = fmt::format("exponential of weight {:.4g}", weight);
  stage.sections = {{.b0 = weight, .a1 = weight - 1.0}};
}

void set(PreparedFilter& stage, const Sinc& filter) {
  stage.name = fmt::format("sinc of order {}, one in {}", filter.order, filter.decimation);
  stage.averages.assign(static_cast<std::size_t>(filter.order), filter.decimation);
  stage.decimation = filter.decimation;
}

void set(PreparedFilter& stage, const Median& filter) {
  stage.name = fmt::format("median of {}", filter.length);
  stage.median = filter.length;
  stage.taps.assign(static_cast<std::size_t>(filter.length / 2) + 1, 0.0);
  stage.taps.back() = 1.0;
}

// Poles of the analog prototype by the bilinear transform, the cutoff in its place
// (Oppenheim and Schafer, 2010, 7.2).
void set(PreparedFilter& stage, const Butterworth& filter) {
  const double k = std::tan(pi * below_half(filter.cutoff, stage.rate, "a cutoff"));
  stage.name = fmt::format("Butterworth of order {}, {:.4g} Hz", filter.order, filter.cutoff);
  for (int pair = 0; pair < filter.order / 2; ++pair) {
    const double damping = 2.0 * std::sin(pi * (2 * pair + 1) / (2.0 * filter.order));
    const double scale = 1.0 / (1.0 + damping * k + k * k);
    stage.sections.push_back({.b0 = k * k * scale,
                              .b1 = 2.0 * k * k * scale,
                              .b2 = k * k * scale,
                              .a1 = 2.0 * (k * k - 1.0) * scale,
                              .a2 = (1.0 - damping * k + k * k) * scale});
  }
  if (filter.order % 2 == 1) {
    stage.sections.push_back(
        {.b0 = k / (1.0 + k), .b1 = k / (1.0 + k), .a1 = (k - 1.0) / (k + 1.0)});
  }
}

void set(PreparedFilter& stage, const Notch& filter) {
  const double centre = std::cos(2.0 * pi * below_half(filter.frequency, stage.rate, "a notch"));
  const double t = std::tan(pi * below_half(filter.width, stage.rate, "a width"));
  stage.name = fmt::format("notch at {:.4g} Hz", filter.frequency);
  const double scale = 1.0 / (1.0 + t);
  stage.sections = {{.b0 = scale,
                     .b1 = -2.0 * centre * scale,
                     .b2 = scale,
                     .a1 = -2.0 * centre * scale,
                     .a2 = (1.0 - t) * scale}};
}

void set(PreparedFilter& stage, const FirFilter& filter) {
  double sum = 0.0;
  for (const double tap : filter.taps) sum += tap;
  stage.name = fmt::format("{} taps", filter.taps.size());
  stage.taps.clear();
  for (const double tap : filter.taps) stage.taps.push_back(tap / sum);
}

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

}  // namespace

PreparedFilter prepared(const DigitalStage& filter, double rate) {
  PreparedFilter result{.rate = rate};
  std::visit([&](const auto& kind) { set(result, kind); }, filter);
  return result;
}

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

}  // namespace tamlo::model
