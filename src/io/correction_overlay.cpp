// SPDX-License-Identifier: Apache-2.0
// Writes what a calibration found: [channel.NAME.correction].
#include <fmt/format.h>

#include <vector>

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
      toml_key(channel), toml_quoted(model), toml_quoted(meter));
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
