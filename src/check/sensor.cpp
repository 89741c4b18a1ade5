// SPDX-License-Identifier: Apache-2.0
// What the connection of a sensor costs.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "examination.hpp"
#include "tamlo/chain/settings.hpp"

namespace tamlo::check {
namespace {

template <class Sensor>
const Sensor* sensor_of(const Examination& e) {
  const auto& sensor = e.chain.channel.sensor;
  return sensor ? std::get_if<Sensor>(&*sensor) : nullptr;
}

// The parameter that feeds the sensor, where one does.
std::optional<std::size_t> supply_of_sensor(const chain::Chain& chain) {
  for (const auto& stage : chain.path.stages) {
    if (const auto* potentiometer = std::get_if<chain::PotentiometerLaw>(&stage.law))
      return potentiometer->supply;
    if (const auto* bridge = std::get_if<chain::BridgeLaw>(&stage.law)) return bridge->excitation;
    if (const auto* sensor_divider = std::get_if<chain::SensorDividerLaw>(&stage.law))
      return sensor_divider->supply;
    if (const auto* self_heated = std::get_if<chain::SelfHeatedLaw>(&stage.law)) {
      if (const auto* feed = std::get_if<chain::SensorDividerLaw>(&self_heated->feed))
        return feed->supply;
    }
  }
  return {};
}

void feed_from_reference(model::Board& board, model::Channel& channel) {
  const auto& reference = converter_of(board, channel).reference;
  for (auto& part : channel.frontend) {
    if (auto* divider = std::get_if<model::SensorDivider>(&part)) divider->supply = reference;
  }
  if (!channel.sensor) return;
  if (auto* position = std::get_if<model::Potentiometer>(&*channel.sensor))
    position->supply = reference;
  if (auto* bridge = std::get_if<model::Bridge>(&*channel.sensor)) bridge->excitation = reference;
}

void examine_supply(const Examination& e) {
  const auto& chain = e.chain;
  const auto supply = supply_of_sensor(chain);
  const auto reference = chain.conversion.reference;
  if (!supply || *supply == reference) return;
  // What both voltages do to the reading at the middle of the span, all limits added.
  double cost = 0.0;
  for (const auto& source : chain.sources) {
    if (source.parameter != *supply && source.parameter != reference) continue;
    auto p = chain.nominal;
    p[source.parameter] += source.limit;
    cost += std::abs(chain::read(chain, e.span.middle(), p) -
                     chain::read(chain, e.span.middle(), chain.nominal));
  }
  e.report("sensor-not-ratiometric", "sensor", Severity::advice,
           fmt::format("the sensor is fed from {}, the converter measures against {}",
                       chain.parameters[*supply].name, chain.parameters[reference].name),
           fmt::format("their errors act on the reading, by up to {} at the middle of the span",
                       e.amount(cost)),
           {{"feed both from one reference, and its errors cancel", feed_from_reference},
            {"feed both from one reference, and its errors cancel: another span of the signal has "
             "to fit the converter's range then",
             {}}});
}

// The firmware takes the nominal leads off, so what is left of them is their limits; without any it
// takes them off as if the installer of the sensor could not choose another cable.
void examine_leads(const Examination& e) {
  const auto* platinum = sensor_of<model::Platinum>(e);
  if (platinum == nullptr || platinum->wires != 2 || platinum->lead.or_zero() == 0.0) return;
  double all = 0.0, left = 0.0;
  for (const auto& stage : e.chain.path.stages) {
    const auto* law = std::get_if<chain::PlatinumLaw>(&stage.law);
    if (law == nullptr) continue;
    auto p = e.chain.nominal;
    for (const auto lead : law->added) p[lead] = 0.0;
    all = std::abs(chain::read(e.chain, e.span.middle(), p) - e.span.middle());
    p = e.chain.nominal;
    if (!law->compensated) all = std::abs(chain::bias(e.chain, e.span.middle()));
    for (const auto& source : e.chain.sources) {
      if (std::ranges::find(law->added, source.parameter) == law->added.end()) continue;
      left += std::abs(chain::effect(e.chain, e.span.middle(), source, source.limit, p));
    }
  }
  const auto& accuracy = e.chain.channel.target.accuracy;
  const double allowed = accuracy ? chain::allowed_at(e.chain, *accuracy, e.span.middle()) / 4.0
                                  : chain::step_at(e.chain, e.span.middle());
  const auto leads = in_unit(platinum->lead.or_zero(), "ohm");
  if (!platinum->lead_compensated && all > allowed) {
    e.report("lead-resistance", "sensor", Severity::warning,
             fmt::format("two wires: the leads of {} each read {} too high", leads, e.amount(all)),
             "the firmware does not subtract them",
             {{"subtract the nominal leads in the firmware: lead_compensated = true",
               [](model::Board&, model::Channel& edited) {
                 std::get<model::Platinum>(*edited.sensor).lead_compensated = true;
               }},
              {"connect three wires, and only the difference of two leads is left, or four",
               [](model::Board&, model::Channel& edited) {
                 std::get<model::Platinum>(*edited.sensor).wires = 3;
               }}});
    return;
  }
  const bool limits = !platinum->lead.limits.empty();
  if ((limits ? left : all) <= allowed) return;
  e.report("lead-resistance", "sensor", Severity::warning,
           limits
               ? fmt::format("two wires: the limits of the leads of {} each are {} of the reading",
                             leads, e.amount(left))
               : fmt::format("two wires: the firmware takes off leads of {} each, {} of the "
                             "reading, and no limit says how far they may be others",
                             leads, e.amount(all)),
           "another length of cable, or another temperature of it, reads as a temperature",
           {{"connect three wires, and only the difference of two leads is left, or four",
             [](model::Board&, model::Channel& edited) {
               std::get<model::Platinum>(*edited.sensor).wires = 3;
             }}});
}

void examine_loop(const Examination& e) {
  const auto* loop = sensor_of<model::CurrentLoop>(e);
  if (loop == nullptr) return;
  if (loop->low == 0.0) {
    e.report("live-zero", "sensor", Severity::advice,
             fmt::format("the loop begins at 0 mA, which reads {}", e.shown(e.span.low)),
             "a broken wire reads the low end of the span and looks valid",
             {{"use a transmitter of 4 to 20 mA: a live zero tells a broken wire apart", {}}});
  }
  for (const auto& level : chain::settings(e.chain).loop) {
    const bool failure = level.current < 0.0037 || level.current > 0.0206;
    if (!failure || !level.clipped) continue;
    const double smaller = level.current / loop->high * 1.02;
    e.report(
        "loop-failure-unseen", "sensor", Severity::warning,
        fmt::format("{} of the loop is beyond the converter", in_unit(level.current, "A")),
        "the transmitter's failure signal (NAMUR NE 43) cannot be told from the end of the span",
        {{fmt::format("make the shunt smaller by a factor of {:.3g}", smaller),
          [smaller](model::Board&, model::Channel& channel) {
            for (auto& part : channel.frontend) {
              auto* shunt = std::get_if<model::Shunt>(&part);
              if (shunt != nullptr) *shunt->resistance.nominal /= smaller;
            }
          }}});
  }
  const auto left = chain::loop_left(e.chain);
  if (left && *left < 0.0) {
    e.report(
        "loop-compliance", "sensor", Severity::error,
        fmt::format("at 21 mA the supply of {} is short by {}", in_unit(*loop->supply, "V"),
                    in_unit(-*left, "V")),
        "the transmitter cannot drive its current, and the reading stops short of the span",
        {{fmt::format("supply at least {}, or make the shunt smaller by {}",
                      in_unit(*loop->supply - *left, "V"), in_unit(-*left / 0.021, "ohm")),
          [volts = *loop->supply - *left * (1.0 + 1e-9)](model::Board&, model::Channel& edited) {
            std::get<model::CurrentLoop>(*edited.sensor).supply = volts;
          }}});
  }
}

// A firmware with its own scaling that takes the loop's low current for nothing.
void examine_live_zero(const Examination& e) {
  const auto& scaling = e.chain.channel.scaling;
  const auto* loop = sensor_of<model::CurrentLoop>(e);
  if (loop == nullptr || loop->low == 0.0 || !(scaling.integer || scaling.taught)) return;
  const double off = chain::bias(e.chain, e.span.low);
  if (std::abs(off) < 0.05 * e.span.width()) return;
  e.report(
      "live-zero-ignored", "scaling", Severity::error,
      fmt::format("{} reads {} at the loop's {}", e.shown(e.span.low), e.shown(e.span.low + off),
                  in_unit(loop->low, "A")),
      "the scaling begins at 0 mA, the loop does not",
      {{fmt::format("take off {:.0f} counts before scaling, and scale the rest to the whole span",
                    e.chain.report.offset +
                        e.chain.report.gain * chain::code(e.chain, e.span.low, e.chain.nominal)),
        {}}});
}

// The bias resistor that makes the sensor move the pin most may heat it beyond all use, or make a
// reading less certain in other ways: it is advised only where it does not.
void examine_bias_resistor(const Examination& e) {
  const auto bias_resistor = chain::bias_resistor(e.chain);
  if (!bias_resistor || bias_resistor->output_span >= 0.9 * bias_resistor->best_output_span) return;
  e.report("bias-resistor", "frontend", Severity::advice,
           fmt::format("beside {} the sensor moves the pin by {} over the span",
                       in_unit(bias_resistor->resistance, "ohm"),
                       in_unit(bias_resistor->output_span, "V")),
           fmt::format("it could be {}, with as many more codes",
                       in_unit(bias_resistor->best_output_span, "V")),
           {{fmt::format("use a bias resistor of about {}", in_unit(bias_resistor->best, "ohm", 3)),
             [to = bias_resistor->best](model::Board&, model::Channel& channel) {
               for (auto& part : channel.frontend) {
                 auto* divider = std::get_if<model::SensorDivider>(&part);
                 if (divider != nullptr) divider->bias_resistor.nominal = to;
               }
             }}});
}

}  // namespace

void examine_sensor(const Examination& e) {
  examine_supply(e);
  examine_leads(e);
  examine_loop(e);
  examine_live_zero(e);
  examine_bias_resistor(e);
}

}  // namespace tamlo::check
