// SPDX-License-Identifier: Apache-2.0
// What a calibration hands on: [channel.NAME.correction], written and read again.
#include <fmt/format.h>

#include <algorithm>
#include <functional>
#include <vector>

#include "board_parts.hpp"
#include "tamlo/io/detail/correction.hpp"
#include "toml_text.hpp"

namespace tamlo::io {
namespace {

std::vector<double> all_digits(const std::vector<double>& si, const quantity::Unit& unit) {
  std::vector<double> result;
  for (const double x : si) result.push_back((x - unit.offset) / unit.scale());
  return result;
}

}  // namespace

std::optional<model::Correction> read_correction(Fields& fields, const quantity::Unit& unit) {
  auto of = fields.table("correction");
  if (!of) return {};
  model::Correction result;
  const auto difference = quantity::difference_unit(unit);
  const auto add = [](const std::vector<double>& numbers, const quantity::Unit& in) {
    std::vector<double> si;
    for (const double x : numbers) si.push_back(x * in.scale() + in.offset);
    return si;
  };
  result.coefficients = add(of->numbers("coefficients", {}), difference);
  if (auto v = of->plain("centre", unit)) result.centre = *v;
  if (auto v = of->difference("half_width", unit, above_zero())) result.half_width = *v;
  result.readings = add(of->numbers("readings", {}), unit);
  result.corrected = add(of->numbers("corrected", {}), unit);
  if (auto v = of->difference("uncertainty", unit, not_negative()))
    result.standard_uncertainty = *v;
  const double square = difference.scale() * difference.scale();
  for (const double x : of->numbers("covariance", {})) result.covariance.push_back(x * square);
  result.positions = add(of->numbers("positions", {}), unit);
  result.weights = of->numbers("weights", {});
  if (auto v = of->flag("at_pin")) result.at_pin = *v;
  if (auto v = of->flag("in_firmware")) result.in_firmware = *v;
  of->text("model");
  of->text("meter");
  if (result.coefficients.empty() == result.readings.empty()) {
    of->report(result.readings.empty() ? "coefficients" : "readings",
               result.readings.empty() ? "neither coefficients nor nodes" : "both",
               "coefficients = [...], or readings = [...] with corrected = [...]");
  }
  const bool rising =
      std::ranges::adjacent_find(result.readings, std::greater_equal<>{}) == result.readings.end();
  if (result.readings.size() != result.corrected.size() || !rising) {
    of->report("readings", "nodes that do not go together",
               "as many readings as corrected ones, each above the one before");
  }
  of->finish();
  return result;
}

std::string correction_text(const std::string& channel, const quantity::Unit& unit,
                            const model::Correction& c, const std::string& model,
                            const std::string& meter) {
  const auto difference = quantity::difference_unit(unit);
  const auto value = [](double si, const quantity::Unit& in) {
    return fmt::format("\"{} {}\"", (si - in.offset) / in.scale(), in.symbol);
  };
  std::string text = fmt::format(
      "[channel.{}.correction]\n"
      "model        = {}\n"
      "meter        = {}\n",
      key_of(channel), quoted(model), quoted(meter));
  if (c.readings.empty()) {
    text += fmt::format(
        "coefficients = {}   # of 1, z, z^2, ... with z = (reading - centre) / half_width\n"
        "centre       = {}\n"
        "half_width   = {}\n",
        listed(all_digits(c.coefficients, difference)), value(c.centre, unit),
        value(c.half_width, difference));
  } else {
    text +=
        fmt::format("readings     = {}\ncorrected    = {}   # straight between these\n",
                    listed(all_digits(c.readings, unit)), listed(all_digits(c.corrected, unit)));
  }
  text += fmt::format("uncertainty  = {}   # standard, at the worst place\n",
                      value(c.standard_uncertainty, difference));
  if (!c.positions.empty()) {
    auto covariance = c.covariance;
    for (double& x : covariance) x /= difference.scale() * difference.scale();
    text += fmt::format(
        "positions    = {}   # where it was calibrated\n"
        "covariance   = {}   # of the {}, row by row\n"
        "weights      = {}   # for each of them, of what a reading was off at each position\n",
        listed(all_digits(c.positions, unit)), listed(covariance),
        c.readings.empty() ? "coefficients" : "nodes", listed(c.weights));
    if (c.at_pin)
      text += "at_pin       = true   # the meter did not see the parts before the pin\n";
  }
  text +=
      "in_firmware  = false   # true once the firmware adds it: then readings have it already\n";
  return text;
}

std::string overlay_of(const meter::Calibration& calibration) {
  return "# Made by: tamlo calibrate. What is added to the readings of one unit of the board.\n" +
         correction_text(calibration.channel, calibration.unit, calibration.correction,
                         std::string(name(calibration.model)), calibration.meter);
}

}  // namespace tamlo::io
