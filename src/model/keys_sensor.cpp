// SPDX-License-Identifier: Apache-2.0
// Keys of the sensors: a new sensor is a struct (sensor.hpp), its kind here, and its part in the
// chain (chain/detail/parts).
#include "findings.hpp"
#include "key_rows.hpp"

namespace tamlo::model {
namespace {

const std::vector<Basis> of_quantity{Basis::absolute, Basis::span};

void thermal(const Place& place) {
  if (place.channel->span.unit.dimension == quantity::unit("K").dimension) return;
  place.add("", "a temperature sensor", "a span in degC or K");
}

const Keys& linear_keys() {
  static const Keys keys{
      {
          value("at_low", "V", at<&LinearSensor::at_low>)
              .needed("the output at the low end of the span, such as \"0.5 V ±0.5 %\"")
              .means("output at the low end of the span"),
          value("at_high", "V", at<&LinearSensor::at_high>)
              .needed("the output at the high end of the span, such as \"4.5 V ±0.5 %\"")
              .means("output at its high end"),
      },
      +[](const LinearSensor& sensor, const Place& place) {
        if (sensor.at_low.or_zero() != sensor.at_high.or_zero()) return;
        place.add("at_high", "the same output as at_low", "an output that follows the quantity");
      }};
  return keys;
}

const Keys& straight_keys() {
  constexpr auto all = "sensitivity, offset and at: \"8 mV/K ±1 %\", \"350 mV ±4 mV\", \"0 degC\"";
  static const Keys keys{
      {
          value("sensitivity", "", at<&StraightSensor::sensitivity>)
              .in(KeyUnit::volts_per_span)
              .needed(all)
              .means("output for one unit of the quantity"),
          value("offset", "V", at<&StraightSensor::offset>)
              .needed(all)
              .means("output at one point of the quantity"),
          of_span("at", at<&StraightSensor::at>).needed(all).means("that point"),
      },
      +[](const StraightSensor& sensor, const Place& place) {
        if (!quantity::difference_unit(place.channel->span.unit).dimension.label.empty()) {
          place.add("sensitivity", "a sensitivity for a unit of your own",
                    "at_low and at_high, the output at the ends of the span");
        } else if (sensor.sensitivity.or_zero() == 0.0) {
          place.add("sensitivity", "0", "an output that follows the quantity");
        }
      }};
  return keys;
}

// What both forms of a thermistor have.
std::vector<Key> with_thermistor_keys(std::vector<Key> law) {
  law.push_back(limits("accuracy", "K", {Basis::absolute}, at<&Ntc::accuracy>)
                    .means("error of the temperature itself", "none"));
  law.push_back(value("dissipation", "W/K", at<&Ntc::dissipation>)
                    .above_zero()
                    .means("`\"2 mW/K\"`: power that warms it by one kelvin. The firmware does not "
                           "correct for it, so it is a bias",
                           "none"));
  return law;
}

template <class Law, auto member>
Slot of_law(void* object) {
  return &(std::get<Law>(static_cast<Ntc*>(object)->law).*member);
}

const Keys& beta_keys() {
  static const Keys keys{
      with_thermistor_keys({value("r25", "ohm", of_law<Thermistor, &Thermistor::r25>)
                                .above_zero()
                                .needed("the resistance at 25 degC, such as \"10 kohm ±1 %\"")
                                .means("resistance at 25 degC"),
                            value("beta", "K", of_law<Thermistor, &Thermistor::beta>)
                                .above_zero()
                                .needed("a beta, such as \"3950 K ±1 %\"")
                                .means("beta of the thermistor")}),
      +[](const Ntc&, const Place& place) { thermal(place); }};
  return keys;
}

const Keys& thermistor_curve_keys() {
  const auto coefficient = [](std::string_view name, SlotOf slot) {
    return plain(name, "", slot)
        .above_zero()
        .needed("r25 and beta, or the three coefficients a, b and c")
        .means("coefficient of 1/T = a + b ln R + c (ln R)³");
  };
  static const Keys keys{
      with_thermistor_keys({coefficient("a", of_law<ThermistorCurve, &ThermistorCurve::a>),
                            coefficient("b", of_law<ThermistorCurve, &ThermistorCurve::b>),
                            coefficient("c", of_law<ThermistorCurve, &ThermistorCurve::c>)}),
      +[](const Ntc&, const Place& place) { thermal(place); }};
  return keys;
}

const Keys& platinum_keys() {
  static const Keys keys{
      {
          value("r0", "ohm", at<&Platinum::r0>)
              .above_zero()
              .needed("the resistance at 0 degC, such as \"100 ohm\"")
              .means("resistance at 0 degC"),
          choice("class", {"AA", "A", "B", "C"}, at<&Platinum::tolerance>, 1)
              .absent_is(0.0)
              .means("tolerance class of IEC 60751", "none"),
          integer("wires", 2, 4, at<&Platinum::wires>).means("wires to the sensor", "4"),
          flag("lead_compensated", at<&Platinum::lead_compensated>)
              .means("the firmware subtracts the nominal resistance of the leads that count (both "
                     "of two wires); otherwise it is a bias",
                     "true"),
          value("lead", "ohm", at<&Platinum::lead>)
              .not_negative()
              .means("resistance of one lead", "required below four wires"),
      },
      +[](const Platinum& sensor, const Place& place) {
        thermal(place);
        const auto& span = place.channel->span;
        if (sensor.wires < 4 && !sensor.lead.nominal) {
          place.add("lead", "missing key", "the resistance of one lead, \"0.4 ohm ±20 %\"",
                    "missing-key");
        } else if (span.low < 73.15 || span.high > 1123.15) {
          place.add("", "a span beyond the standard", "a span within -200 to 850 degC (IEC 60751)");
        }
      }};
  return keys;
}

const Keys& bridge_keys() {
  static const Keys keys{{
      value("rated_output", "", at<&Bridge::rated_output>)
          .above_zero()
          .needed("the output at the rated load, such as \"2 mV/V ±0.1 %\"")
          .means("output at the rated load"),
      of_span("rated_load", at<&Bridge::rated_load>)
          .above_zero()
          .needed("the load of the rated output, in the unit of the span")
          .means("load of the rated output"),
      limits("zero", "", {Basis::relative}, at<&Bridge::zero>)
          .means("zero balance, a part of the rated output, with its drift: `\"±1 % ±20 ppm/K\"`",
                 "none"),
      limits("combined_error", "", {Basis::relative}, at<&Bridge::combined_error>)
          .means("linearity, hysteresis and repeatability together, a part of the rated output. No "
                 "adjustment takes it away",
                 "none"),
      limits("creep", "", {Basis::relative}, at<&Bridge::creep>)
          .means("what the output changes while the load stays, a part of it: `\"±0.02 %\"`",
                 "none"),
      name_in_section("excitation", "reference", at<&Bridge::excitation>)
          .needed("the name of a [reference] of this board")
          .means("reference that feeds it"),
  }};
  return keys;
}

const Keys& loop_keys() {
  static const Keys keys{
      {
          plain("low", "A", at<&CurrentLoop::low>)
              .not_negative()
              .means("current at the low end of the span", "`\"4 mA\"`"),
          plain("high", "A", at<&CurrentLoop::high>)
              .above_zero()
              .means("current at its high end", "`\"20 mA\"`"),
          limits("accuracy", "", of_quantity, at<&CurrentLoop::accuracy>)
              .in(KeyUnit::span_difference)
              .means("accuracy of the transmitter, `\"±0.2 % of span\"`", "none"),
          plain("supply", "V", at<&CurrentLoop::supply>)
              .above_zero()
              .means("supply of the loop", "none"),
          plain("burden", "V", at<&CurrentLoop::burden>)
              .not_negative()
              .means("volts that the transmitter needs for itself", "none"),
      },
      +[](const CurrentLoop& loop, const Place& place) {
        if (!(loop.low < loop.high)) place.add("high", "a current not above low", "low < high");
        if (!loop.burden || loop.supply) return;
        place.add("burden", "a burden without a supply", "supply = \"24 V\" beside it");
      }};
  return keys;
}

const Keys& position_keys() {
  static const Keys keys{{
      value("resistance", "ohm", at<&Potentiometer::resistance>)
          .above_zero()
          .needed("the resistance of the whole track, such as \"10 kohm ±20 %\"")
          .means("resistance of the whole track"),
      name_in_section("supply", "reference", at<&Potentiometer::supply>)
          .needed("the name of a [reference] of this board")
          .means("reference that feeds it"),
  }};
  return keys;
}

const Keys& light_keys() {
  static const Keys keys{{
                             value("resistance", "ohm", at<&Photoresistor::resistance>)
                                 .above_zero()
                                 .needed("the resistance at one point, such as \"20 kohm\"")
                                 .means("resistance at one point"),
                             of_span("at", at<&Photoresistor::at>)
                                 .above_zero()
                                 .needed("the point of that resistance, in the unit of the span")
                                 .means("that point"),
                             value("exponent", "", at<&Photoresistor::exponent>)
                                 .above_zero()
                                 .needed("the exponent, such as \"0.7 ±10 %\"")
                                 .means("exponent of the power law"),
                         },
                         +[](const Photoresistor&, const Place& place) {
                           if (place.channel->span.low > 0.0) return;
                           place.add("", "a span that begins at or below 0",
                                     "a span above 0, for a power law");
                         }};
  return keys;
}

const Keys& curve_keys() {
  static const Keys keys{
      {
          text("table", nullptr)
              .with_own_reader()
              .means("a CSV file beside the board, `bend [%], resistance [kohm]`, the first column "
                     "rising; straight between its points"),
          limits("accuracy", "", of_quantity, at<&Curve::accuracy>)
              .in(KeyUnit::span_difference)
              .means("error of the quantity, `\"±3 % of span\"`", "none"),
      },
      +[](const Curve& curve, const Place& place) {
        for (const double x : curve.x) place.findings.finite(place.path + ".table", x);
        for (const double y : curve.y) place.findings.finite(place.path + ".table", y);
        if (curve.x.size() >= 2 && curve.x.size() == curve.y.size()) return;
        place.add("table", "a curve of less than two points",
                  "as many outputs as inputs, two or more");
      }};
  return keys;
}

// A thermistor of one of its two laws.
template <class Law>
Kind thermistor(const Keys& (*keys)(), std::string_view example, std::string_view meaning) {
  return {.name = "ntc",
          .keys = keys,
          .make = [](void* object) -> void* {
            auto& ntc = static_cast<Sensor*>(object)->emplace<Ntc>();
            ntc.law = Law{};
            return &ntc;
          },
          .held = [](const void* object) -> const void* {
            const auto* ntc = std::get_if<Ntc>(static_cast<const Sensor*>(object));
            return ntc != nullptr && std::holds_alternative<Law>(ntc->law) ? ntc : nullptr;
          },
          .example = example,
          .meaning = meaning};
}

}  // namespace

const std::vector<Kind>& sensor_kinds() {
  static const std::vector<Kind> kinds = [] {
    auto straight = kind_of<Sensor, StraightSensor>(
        "linear", straight_keys,
        "linear = { sensitivity = \"8 mV/K ±1 %\", offset = \"350 mV ±4 mV\", at = \"0 degC\" }",
        "volts; straight through the offset at one point");
    straight.when = {"sensitivity", "offset", "at"};
    auto beta = thermistor<Thermistor>(beta_keys,
                                       "ntc = { r25 = \"10 kohm ±1 %\", beta = \"3950 K ±1 %\" }",
                                       "ohms; thermistor by beta");
    beta.when = {"r25", "beta"};
    return std::vector<Kind>{
        kind_of<Sensor, LinearSensor>(
            "linear", linear_keys,
            "linear = { at_low = \"0.5 V ±10 mV\", at_high = \"4.5 V ±0.5 %\" }",
            "volts; output at the ends of the span, straight between"),
        straight,
        beta,
        thermistor<ThermistorCurve>(
            thermistor_curve_keys,
            "ntc = { a = \"1.129e-3\", b = \"2.341e-4\", c = \"8.775e-8\", accuracy = \"±0.2 K\" }",
            "ohms; thermistor by three coefficients, 1/T = a + b ln R + c (ln R)³"),
        kind_of<Sensor, Platinum>("platinum", platinum_keys,
                                  "platinum = { r0 = \"100 ohm\", class = \"B\", wires = 3, lead = "
                                  "\"0.4 ohm ±20 %\" }",
                                  "ohms; platinum resistor of IEC 60751. Two-wire leads of 0.3 ohm "
                                  "that are not compensated read 1.5 K high at 100 ohm"),
        kind_of<Sensor, Bridge>("bridge", bridge_keys,
                                "bridge = { rated_output = \"2 mV/V ±0.1 %\", rated_load = \"200 N "
                                "m\", excitation = \"REFERENCE\" }",
                                "volts; strain bridge"),
        kind_of<Sensor, CurrentLoop>("loop", loop_keys,
                                     "loop = { low = \"4 mA\", high = \"20 mA\", accuracy = \"±0.2 "
                                     "% of span\", supply = \"24 V\", burden = \"9 V\" }",
                                     "amperes; current loop"),
        kind_of<Sensor, Potentiometer>(
            "position", position_keys,
            "position = { resistance = \"10 kohm ±20 %\", supply = \"REFERENCE\" }",
            "volts; potentiometer"),
        kind_of<Sensor, Photoresistor>(
            "light", light_keys,
            "light = { resistance = \"20 kohm\", at = \"10 lx\", exponent = \"0.7 ±10 %\" }",
            "ohms; falls by a power law"),
        kind_of<Sensor, Curve>("table", curve_keys,
                               "table = \"curve.csv\", accuracy = \"±3 % of span\"",
                               "by its file; a curve through points"),
    };
  }();
  return kinds;
}

}  // namespace tamlo::model
