// SPDX-License-Identifier: Apache-2.0
#include "tamlo/check/check.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::check {
namespace {

using chain::Chain;

// One channel under examination. Each examine_... is one entry of the catalogue, or two that
// exclude each other.
class Examination {
 public:
  explicit Examination(const Chain& chain) : chain_(chain), span_(chain.channel.span) {}

  std::vector<Finding> all() {
    examine_damage();
    for (const double x : {span_.high, span_.low}) {  // of a falling sensor the low end is on top
      examine_clipping(x, true);
      examine_clipping(x, false);
    }
    examine_used_range();
    examine_resolution();
    examine_convention();
    examine_attenuation();
    examine_supply();
    std::ranges::stable_sort(findings_, {}, &Finding::severity);
    return std::move(findings_);
  }

 private:
  const Chain& chain_;
  quantity::Range span_;
  std::vector<Finding> findings_;

  void report(std::string identifier, Severity severity, std::string found, std::string why,
              std::string remedy) {
    findings_.push_back({std::move(identifier), severity, chain_.channel.name, std::move(found),
                         std::move(why), std::move(remedy)});
  }

  std::string shown(double x) const { return quantity::engineering(x, span_.unit, 4); }
  static std::string volts(double v) { return quantity::engineering(v, quantity::unit("V"), 4); }

  // What the signal must be divided by, beyond what the front end does, said with parts.
  std::string divide_by(double factor) const {
    for (const auto& stage : chain_.stages) {
      if (const auto* divider = std::get_if<chain::DividerLaw>(&stage.law)) {
        const double top = chain_.nominal[divider->top];
        const double bottom = chain_.nominal[divider->bottom];
        const double needed = factor * (top + bottom) - bottom;
        return fmt::format(
            "raise the top of the {} from {} to at least {}", stage.name,
            quantity::engineering(top, quantity::unit("ohm"), 4),
            quantity::engineering(std::ceil(needed / 100.0) * 100.0, quantity::unit("ohm"), 6));
      }
    }
    return fmt::format("put a divider before the converter that divides by at least {:.3g}",
                       factor * 1.005);
  }

  void examine_damage() {
    if (!chain_.converter.input_limit) return;
    const auto& limit = *chain_.converter.input_limit;
    for (const double x : {span_.high, span_.low}) {
      const auto worst = chain::worst_case(chain_, x, chain::voltage);
      if (worst.high > limit.high) {
        report("input-damage", Severity::error,
               fmt::format("at {} the pin can reach {}; the part stands {}", shown(x),
                           volts(worst.high), volts(limit.high)),
               "beyond its input limit the converter is damaged, not just wrong",
               divide_by(worst.high / limit.high));
      }
      if (worst.low < limit.low) {
        report("input-damage", Severity::error,
               fmt::format("at {} the pin can fall to {}; the part stands {}", shown(x),
                           volts(worst.low), volts(limit.low)),
               "beyond its input limit the converter is damaged, not just wrong",
               fmt::format("lift the signal by at least {}, or clamp it",
                           volts(limit.low - worst.low)));
      }
    }
  }

  void examine_clipping(double x, bool upper) {
    const auto first = static_cast<double>(chain::first_code(chain_));
    const auto last = static_cast<double>(chain::last_code(chain_));
    const double nominal = chain::code(chain_, x, chain_.nominal);
    const auto clips = [&](double code) { return upper ? code > last + 0.5 : code < first - 0.5; };
    const auto worst = chain::worst_case(chain_, x, chain::code);
    const double reached = upper ? worst.high : worst.low;
    const auto end = fmt::format("code {:.0f}", upper ? last : first);
    const auto visible = shown(chain::quantity_at(chain_, upper ? last + 0.5 : first - 0.5));
    const auto remedy = upper ? divide_by(reached / (last + 0.5))
                              : fmt::format("lift the signal by at least {}",
                                            volts((first - reached) * chain::code_width(chain_)));
    if (clips(nominal)) {
      report("span-beyond-range", Severity::error,
             fmt::format("the span ends at {}, the converter at {}", shown(x), visible),
             fmt::format("all beyond it reads {} and looks valid", end), remedy);
    } else if (upper && clips(reached)) {
      report("clips-at-tolerance", Severity::warning,
             fmt::format("with tolerances at their worst {} becomes code {:.0f}, past {}", shown(x),
                         reached, end),
             "some units read the end of the span low, and calibration cannot mend it", remedy);
    }
  }

  void examine_used_range() {
    const double used = std::abs(chain::code(chain_, span_.high, chain_.nominal) -
                                 chain::code(chain_, span_.low, chain_.nominal)) /
                        chain_.conversion.codes;
    if (used >= 0.5) return;
    report("range-little-used", Severity::advice,
           fmt::format("the span uses {:.3g} % of the converter's codes", 100.0 * used),
           fmt::format("{:.2g} of {} bits are given away", -std::log2(used),
                       chain_.converter.resolution),
           fmt::format("attenuate less by up to {:.3g}, or use a smaller reference", 0.95 / used));
  }

  void examine_resolution() {
    if (!chain_.channel.target.accuracy) return;
    const auto& accuracy = *chain_.channel.target.accuracy;
    const double half = chain::code_width_at(chain_, span_.high) / 2.0;
    const double limit = chain::allowed_at(chain_, accuracy, span_.high);
    if (half <= limit) return;
    report("target-below-resolution", Severity::error,
           fmt::format("half a code is {}, the target {}", shown(half), shown(limit)),
           "no part, however good, brings a single conversion to the target",
           fmt::format(
               "use at least {} bits",
               chain_.converter.resolution + static_cast<int>(std::ceil(std::log2(half / limit)))));
  }

  // Whether the voltages that the span puts on the pin lie inside what an attenuation serves.
  bool serves(const model::Attenuation& attenuation) const {
    const double low = chain::voltage(chain_, span_.low, chain_.nominal);
    const double high = chain::voltage(chain_, span_.high, chain_.nominal);
    return attenuation.usable.holds(std::min(low, high)) &&
           attenuation.usable.holds(std::max(low, high));
  }

  void examine_attenuation() {
    const model::Attenuation* chosen = nullptr;
    const model::Attenuation* finest = nullptr;
    for (const auto& attenuation : chain_.converter.attenuations) {
      if (attenuation.name == chain_.channel.attenuation) chosen = &attenuation;
      if (!serves(attenuation)) continue;
      if (finest == nullptr || attenuation.ratio.or_zero() > finest->ratio.or_zero()) {
        finest = &attenuation;
      }
    }
    if (chosen == nullptr || finest == chosen) return;
    const auto change =
        finest == nullptr ? std::string("no attenuation serves this span: divide it before the pin")
                          : fmt::format("attenuation = \"{}\"", finest->name);
    if (!serves(*chosen)) {
      report("attenuation-exceeded", Severity::error,
             fmt::format("the span puts up to {} on the pin; attenuation {} serves {}",
                         volts(chain::voltage(chain_, span_.high, chain_.nominal)), chosen->name,
                         quantity::to_string(chosen->usable)),
             "outside of it the converter is neither accurate nor linear", change);
    } else {
      report("attenuation-too-strong", Severity::advice,
             fmt::format("attenuation {} serves this span too", finest->name),
             fmt::format("its code width is {:.3g} times finer",
                         finest->ratio.or_zero() / chosen->ratio.or_zero()),
             change);
    }
  }

  // The parameter that feeds the sensor, where one does.
  std::optional<std::size_t> supply_of_sensor() const {
    for (const auto& stage : chain_.stages) {
      if (const auto* of = std::get_if<chain::PositionLaw>(&stage.law)) return of->supply;
      if (const auto* of = std::get_if<chain::BridgeLaw>(&stage.law)) return of->excitation;
      if (const auto* of = std::get_if<chain::SensorDividerLaw>(&stage.law)) return of->supply;
      if (const auto* of = std::get_if<chain::SelfHeatedLaw>(&stage.law)) {
        if (const auto* feed = std::get_if<chain::SensorDividerLaw>(&of->feed)) return feed->supply;
      }
    }
    return {};
  }

  void examine_supply() {
    const auto supply = supply_of_sensor();
    const auto reference = chain_.conversion.reference;
    if (!supply || *supply == reference) return;
    // What both voltages do to the reading at the middle of the span, all limits added.
    double cost = 0.0;
    for (const auto& source : chain_.sources) {
      if (source.parameter != *supply && source.parameter != reference) continue;
      auto p = chain_.nominal;
      p[source.parameter] += source.limit;
      cost += std::abs(chain::read(chain_, span_.middle(), p) -
                       chain::read(chain_, span_.middle(), chain_.nominal));
    }
    const auto difference = quantity::difference_unit(span_.unit);
    report("sensor-not-ratiometric", Severity::advice,
           fmt::format("the sensor is fed from {}, the converter measures against {}",
                       chain_.parameters[*supply].name, chain_.parameters[reference].name),
           fmt::format("their errors act on the reading, by up to {} at the middle of the span",
                       quantity::engineering(cost, difference, 3)),
           "feed both from one reference, and its errors cancel");
  }

  void examine_convention() {
    if (chain_.channel.scaling.convention == model::Convention::full_scale) return;
    const double codes = chain_.conversion.codes;
    report("count-convention", Severity::warning,
           fmt::format("the firmware divides by {:.0f}: its code widths are {:.3g} ppm too large",
                       codes - 1.0, 1e6 / (codes - 1.0)),
           "code k stands for k code widths, so the full-scale range belongs to one code more",
           fmt::format("divide by {:.0f}", codes));
  }
};

}  // namespace

std::string_view name(Severity severity) {
  switch (severity) {
    case Severity::error:
      return "error";
    case Severity::warning:
      return "warning";
    case Severity::advice:
      return "advice";
  }
  return "";
}

std::vector<Finding> check(const chain::Chain& chain) { return Examination(chain).all(); }

}  // namespace tamlo::check
