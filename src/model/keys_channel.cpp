// SPDX-License-Identifier: Apache-2.0
// Keys of a channel but for its sensor, parts, filters and scaling.
#include <algorithm>
#include <functional>

#include "findings.hpp"
#include "key_rows.hpp"
#include "tamlo/quantity/detail/number.hpp"

namespace tamlo::model {
namespace {

const Keys& interference_keys() {
  static const Keys keys{{
      value("frequency", "Hz", at<&Interference::frequency>)
          .above_zero()
          .needed("a frequency, such as \"50 Hz\"")
          .means("frequency of the sine; of `\"50 Hz ±0.5 Hz\"` the one that passes most counts"),
      plain("amplitude", "V", at<&Interference::amplitude>)
          .above_zero()
          .needed("an amplitude at the pin without the low-pass, such as \"5 mV\"")
          .means("half of peak to peak, at the pin without the low-pass"),
  }};
  return keys;
}

Key hysteresis_side(SlotOf slot) {
  return choice("side", names_of<HysteresisSide>(), std::move(slot))
      .means(
          "where the hysteresis lies: `\"below\"` the edge, `\"above\"` it, as of an alarm that "
          "comes "
          "at it downward, or half on either side, `\"about\"`",
          "`\"below\"`");
}

Key debounce(SlotOf slot) {
  return integer("debounce", 1, 255, std::move(slot))
      .means("readings in a row that must say so before it switches", "1");
}

const Keys& threshold_keys() {
  static const Keys keys{{
                             of_span("at", at<&Threshold::at>)
                                 .needed("the value of the quantity at which it switches on")
                                 .means("value of the quantity at which it switches on"),
                             of_difference("hysteresis", at<&Threshold::hysteresis>)
                                 .not_negative()
                                 .means("how far below that it switches off", "none"),
                             hysteresis_side(at<&Threshold::side>),
                             debounce(at<&Threshold::debounce>),
                             plain("false_trip_every", "s", at<&Threshold::false_trip_every>)
                                 .above_zero()
                                 .means("mean time between false trips that is allowed", "none"),
                         },
                         +[](const Threshold& threshold, const Place& place) {
                           const auto& span = place.channel->span;
                           if (span.holds(threshold.at)) return;
                           place.add("at", "a value outside of the span",
                                     "a value in " + quantity::to_string(span));
                         }};
  return keys;
}

const Keys& target_keys() {
  static const Keys keys{
      {
          limits("accuracy", "", {Basis::absolute, Basis::relative, Basis::span, Basis::code},
                 at<&Target::accuracy>)
              .in(KeyUnit::span_difference)
              .means("one limit: absolute, in LSB, % of span or % of reading", "none"),
          choice("by", names_of<JudgedBy>(), at<&Target::by>)
              .means("what is held against it: `\"uncertainty\"` (of 95 % or `--coverage`), "
                     "`\"worst case\"`, with every limit at its end, or `\"both\"`",
                     "`\"uncertainty\"`"),
          plain("noise_free", "bit", at<&Target::noise_free>)
              .above_zero()
              .means("noise-free bits, `\"10 bit\"`", "none"),
          plain("latency", "s", at<&Target::latency>)
              .above_zero()
              .means("delay from the quantity to the reading, `\"100 ms\"`", "none"),
      },
      +[](const Target& target, const Place& place) {
        if (!target.accuracy) return;
        const auto& limit = *target.accuracy;
        if (limit.drift == quantity::Drift::none && limit.size > 0.0) return;
        place.add("accuracy", "a limit of 0, or one with a drift",
                  "one limit above 0 without a drift, such as \"±0.5 % of span\"");
      }};
  return keys;
}

void truncated_mean_is_last(const Channel& c, const Place& place) {
  const bool filter_truncates = std::ranges::any_of(c.filter, [](const DigitalStage& stage) {
    const auto* mean = std::get_if<MovingAverage>(&stage);
    return mean != nullptr && mean->length.truncated;
  });
  if (!filter_truncates && (!c.average.truncated || c.filter.empty())) return;
  place.add("average.truncated", "a truncated mean that goes through more filters",
            "truncated beside count or time alone, without running and without a filter");
}

}  // namespace

const Keys& correlation_keys() {
  static const Keys keys{{
      texts("between", nullptr)
          .with_own_reader()
          .needed("the names of two sources of the budget")
          .means("names of two sources of the budget"),
      number("coefficient", at<&SourceCorrelation::coefficient>)
          .within({.low = -1.0, .high = 1.0, .text = "from -1 to 1"})
          .needed("a number from -1 to 1")
          .means("coefficient of correlation"),
  }};
  return keys;
}

const Keys& adjustment_keys() {
  static const Keys keys{
      {
          row("at", KeyForm::values, "", at<&Adjustment::at>)
              .in(KeyUnit::span)
              .needed("one place or two, such as [\"5 V\", \"55 V\"]")
              .means(
                  "places of the quantity at which it is made: one for an offset, two for offset "
                  "and gain"),
          name_in_section("with", "meter", at<&Adjustment::with>)
              .means("the meter beside which it is made; its uncertainty and the noise of the "
                     "reading come in",
                     "an ideal one"),
          plain("temperature", "degC", at<&Adjustment::temperature>)
              .within(temperature_bounds)
              .means("temperature at which it is made: drift counts from there",
                     "`specified_at` of the conditions"),
          plain("age", "year", at<&Adjustment::age>)
              .not_negative()
              .means("time since it was made: ageing counts from then", "`age` of the conditions"),
      },
      +[](const Adjustment& adjustment, const Place& place) {
        const auto n = adjustment.at.size();
        if (n != 1 && n != 2) {
          place.add("at", std::to_string(n) + " places", "one, or two");
        } else if (!std::ranges::all_of(adjustment.at,
                                        [&](double x) { return place.channel->span.holds(x); })) {
          place.add("at", "a place outside of the span", "places in the span of the channel");
        } else if (n == 2 &&
                   !(adjustment.at[1] - adjustment.at[0] > 0.01 * place.channel->span.width())) {
          place.add("at", "places that do not rise",
                    "two places, the lower first, 1 % of the span apart");
        }
        if (place.channel->correction)
          place.add("", "an adjustment beside a correction", "one of them");
      }};
  return keys;
}

const Keys& zone_keys() {
  static const Keys keys{
      {
          row("edges", KeyForm::values, "", at<&Zones::edges>)
              .in(KeyUnit::span)
              .with_own_reader()
              .means("`[\"8 %\", \"30 %\"]`: values that part the zones, rising"),
          texts("names", at<&Zones::names>)
              .with_own_reader()
              .means("names of the zones, one more than edges", "zone 0, zone 1, ..."),
          integer("bars", 2, 255, nullptr)
              .with_own_reader()
              .means("number of zones of equal width, in place of edges"),
          of_span("from", nullptr).with_own_reader().means("low end of the bars"),
          of_span("to", nullptr).with_own_reader().means("high end of the bars"),
          of_difference("hysteresis", at<&Zones::hysteresis>)
              .not_negative()
              .means("how far below the edge that it was entered at a zone is left", "none"),
          hysteresis_side(at<&Zones::side>),
          debounce(at<&Zones::debounce>),
      },
      +[](const Zones& zones, const Place& place) {
        constexpr std::size_t most_zones = 255;
        place.findings.at_most(place.path + ".edges", zones.edges.size(), most_zones - 1);
        const bool rising =
            std::ranges::adjacent_find(zones.edges, std::greater_equal{}) == zones.edges.end();
        if (zones.edges.empty() || !rising) {
          place.add("edges", "edges that do not rise", "each edge above the one before");
        } else if (zones.names.size() != zones.edges.size() + 1) {
          place.add("names",
                    std::to_string(zones.names.size()) + " names of " +
                        std::to_string(zones.edges.size() + 1) + " zones",
                    "one name more than edges");
        } else if (const auto& span = place.channel->span;
                   !std::ranges::all_of(zones.edges, [&](double x) { return span.holds(x); })) {
          place.add("edges", "an edge outside of the span",
                    "edges in " + quantity::to_string(span));
        }
      }};
  return keys;
}

const Keys& correction_keys() {
  static const Keys keys{
      {
          numbers("coefficients", at<&Correction::coefficients>)
              .at_most(32)
              .in(KeyUnit::span_difference)
              .means("of 1, z, z², ... with z = (reading - centre) / half_width, in the unit of "
                     "the span; added to the reading"),
          of_span("centre", at<&Correction::centre>).means("`\"30 V\"`", "0 of the unit"),
          of_difference("half_width", at<&Correction::half_width>)
              .above_zero()
              .means("`\"30 V\"`", "1 of the unit"),
          numbers("readings", at<&Correction::readings>)
              .at_most(1000)
              .in(KeyUnit::span)
              .means("instead: nodes, straight between them"),
          numbers("corrected", at<&Correction::corrected>)
              .at_most(1000)
              .in(KeyUnit::span)
              .means("what the readings at the nodes become"),
          of_difference("uncertainty", at<&Correction::standard_uncertainty>)
              .not_negative()
              .means("`\"20 mV\"`, standard: meter and fit", "0 of the unit"),
          numbers("covariance", at<&Correction::covariance>)
              .at_most(1'000'000)
              .in(KeyUnit::span_square)
              .means("of the coefficients or nodes, row by row: numbers in the square of that "
                     "unit",
                     "none"),
          numbers("positions", at<&Correction::positions>)
              .at_most(1000)
              .in(KeyUnit::span)
              .means("where it was calibrated: numbers in the unit of the span", "none"),
          numbers("weights", at<&Correction::weights>)
              .at_most(1'000'000)
              .means("for each coefficient or node, by how much a reading that is off at each "
                     "position lowers it",
                     "none"),
          flag("at_pin", at<&Correction::at_pin>)
              .means("the meter touched the pin, and has not seen the parts before it", "false"),
          flag("in_firmware", at<&Correction::in_firmware>)
              .means("true once the firmware adds it: `reading` columns then have it already",
                     "false"),
          text("model", nullptr).means("a note"),
          text("meter", nullptr).means("a note"),
      },
      +[](const Correction& correction, const Place& place) {
        const bool both = !correction.readings.empty() && !correction.coefficients.empty();
        if (both || (correction.readings.empty() && correction.coefficients.empty())) {
          place.add(both ? "readings" : "coefficients",
                    both ? "both" : "neither coefficients nor nodes",
                    "coefficients = [...], or readings = [...] with corrected = [...]");
          return;
        }
        const bool rising =
            std::ranges::adjacent_find(correction.readings, std::greater_equal<>{}) ==
            correction.readings.end();
        if (correction.readings.size() != correction.corrected.size() || !rising) {
          place.add("readings", "nodes that do not go together",
                    "as many readings as corrected ones, each above the one before");
        }
        const auto k = correction.readings.empty() ? correction.coefficients.size()
                                                   : correction.readings.size();
        const auto counted = [&](const char* key, std::size_t size, std::size_t wanted,
                                 const std::string& hint) {
          if (size != wanted) {
            place.add(key, std::to_string(size) + " numbers", std::to_string(wanted) + hint);
          }
        };
        const auto each = " of the " + std::to_string(k) + " coefficients or nodes";
        if (!correction.covariance.empty()) {
          counted("covariance", correction.covariance.size(), k * k, ": a row for each" + each);
        }
        counted("weights", correction.weights.size(), k * correction.positions.size(),
                ": for each" + each + " one for each position");
        if (correction.positions.empty() != correction.covariance.empty()) {
          place.add("", "only one of positions and covariance", "both, or neither");
        }
      }};
  return keys;
}

const Keys& channel_keys() {
  static const Keys keys{
      {
          text("measures", at<&Channel::measures>)
              .with_own_reader()
              .means("what it is, for people", "the channel's name"),
          range("span", "V", at<&Channel::span>)
              .in(KeyUnit::any)
              .needed("what the channel must measure, such as \"0..60 V\"")
              .with_own_reader()
              .means(
                  "what it must measure. Volts without a sensor; with one any unit, your own too "
                  "(`\"0..12 l/min\"`)"),
          name_in_section("converter", "converter", at<&Channel::converter>)
              .needed("the name of a [converter] of this board")
              .means("converter that it is connected to"),
          name_in_section("loaded_by", "meter", at<&Channel::loaded_by>)
              .means("a meter with an `input_resistance` that stays on the converter's pin",
                     "none"),
          name_in_section("adjusted_with", "meter", at<&Channel::adjusted_with>)
              .means("the meter that the zero, or both ends, are adjusted to: `budget` then counts "
                     "its uncertainty and that of the readings in the adjusted columns",
                     "none: ideal"),
          integer("input", 0, 1023, at<&Channel::input>)
              .absent_is(-1.0)
              .means("number of the converter's input, for people", "none"),
          table("sensor", {})
              .with_own_reader()
              .means("see below", "none: the quantity is the voltage"),
          tables("frontend", {})
              .with_own_reader()
              .means("parts between the source and the pin, in order", "none"),
          text("attenuation", at<&Channel::attenuation>)
              .with_own_reader()
              .means("one of the converter's", "required where it has them"),
          plain("sampling", "cycles", at<&Channel::sampling>)
              .above_zero()
              .means("cycles of the converter's clock, `\"48 cycles\"`", "none"),
          plain("rate", "Sa/s", at<&Channel::rate>)
              .above_zero()
              .means("conversions a second, `\"1 kSa/s\"`", "what the scan leaves"),
          table("average", inner<&Channel::average>(average_keys))
              .with_own_reader()
              .means(
                  "conversions to one reading: `16`, `{ count = 16 }` or `{ time = \"20 ms\" }`; "
                  "with `running = true` at every conversion; with `truncated = true` a whole "
                  "number, the rest of the sum dropped (`sum >> 4`)",
                  "1"),
          tables("filter", {})
              .with_own_reader()
              .means("a filter behind the average, or an array of them in series; see below",
                     "none"),
          noise("dither", "V", {Basis::absolute}, at<&Channel::dither>)
              .means(
                  "noise that is injected at the pin on purpose, `\"400 uV rms\"`, and not taken "
                  "off again: averages tell more than the codes apart",
                  "none"),
          tables("interference", inner<&Channel::interference>(interference_keys))
              .means(
                  "sines that get in: `[ { frequency = \"50 Hz\", amplitude = \"5 mV\" } ]`, half "
                  "of peak to peak at the pin without the low-pass",
                  "none"),
          tables("correlation", inner<&Channel::correlations>(correlation_keys))
              .with_own_reader()
              .means(
                  "sources that go together, named as `tamlo budget` names them: `[ { between = "
                  "[\"divider top tolerance\", \"divider bottom tolerance\"], coefficient = 0.9 } "
                  "]`; each source in one pair at most",
                  "none"),
          plain("fastest", "Hz", at<&Channel::fastest>)
              .above_zero()
              .means("`\"800 Hz\"`: a sine over the whole span that must be followed; with the "
                     "converter's `jitter` it makes noise",
                     "none"),
          table("adjustment", inner<&Channel::adjustment>(adjustment_keys))
              .means("`{ at = [\"5 V\", \"55 V\"], with = \"bench\" }`: made on each unit, and "
                     "counted "
                     "by all commands",
                     "none"),
          table("zones", inner<&Channel::zones>(zone_keys))
              .with_own_reader()
              .means(
                  "`{ edges = [\"8 %\", \"30 %\"], names = [\"rest\", \"walk\", \"ride\"], "
                  "hysteresis = \"2 %\" }`, or `{ bars = 16, from = \"0 V\", to = \"60 V\" }`: "
                  "stretches of the quantity that the firmware tells apart. A zone is entered at "
                  "its edge, and left below it by the hysteresis, or the hysteresis lies `above` "
                  "it or `about` it (`side`); with `debounce = 3` as many readings in a row must "
                  "say so",
                  "none"),
          table("threshold", inner<&Channel::threshold>(threshold_keys))
              .means(
                  "`{ at = \"80 lx\", hysteresis = \"10 lx\", false_trip_every = \"30 days\" }`: "
                  "on at `at`, off below it by the hysteresis; `side` and `debounce` as of zones",
                  "none"),
          table("scaling", inner<&Channel::scaling>(scaling_keys))
              .with_own_reader()
              .means("`{ convention = ... }`, integer steps or taught points; see below",
                     "full scale"),
          table("correction", inner<&Channel::correction>(correction_keys))
              .means("what `tamlo calibrate` writes for one unit; see below", "none"),
          table("target", inner<&Channel::target>(target_keys))
              .means(
                  "`{ accuracy = \"±0.5 % of span\", noise_free = \"10 bit\", latency = \"100 ms\" "
                  "}`; accuracy is one limit: absolute, in LSB, % of span or % of reading; `by = "
                  "\"uncertainty\"` (default), `\"worst case\"` or `\"both\"` says what is held "
                  "against it",
                  "none"),
      },
      +truncated_mean_is_last};
  return keys;
}

}  // namespace tamlo::model
