// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of calibrate.
namespace tamlo::result {

template <>
struct Fields<meter::Outlier> {
  using T = meter::Outlier;
  static constexpr auto list = std::make_tuple(field("row", &T::row, "counted from 0"),
                                               field("deviations", &T::deviations, "from the fit"));
};

template <>
struct Fields<meter::Candidate> {
  using T = meter::Candidate;
  static constexpr auto list = std::make_tuple(
      field("model", &T::model, ""), field("order", &T::order, ""),
      field("leave_one_out", &T::leave_one_out, difference, "rms error of rows left out"),
      field("corrected_aic", &T::corrected_aic, unbounded, ""));
};

template <>
struct Fields<meter::ResidualUncertainty> {
  using T = meter::ResidualUncertainty;
  static constexpr auto list = std::make_tuple(
      field("at", &T::at, quantity_value, ""),
      field("before", &T::before, difference, "|bias| and expanded uncertainty of the budget"),
      field("meter", &T::meter, difference, "of the meter"),
      field("fit", &T::fit, difference, "of the rows' own noise"),
      field("channel", &T::channel, difference, "noise, drift and what the model does not follow"),
      field("after", &T::after, difference, "all three"),
      field("limit", &T::limit, difference, "of the target"));
};

template <>
struct Fields<BeforeAfter> {
  using T = BeforeAfter;
  static constexpr auto list = std::make_tuple(
      field("readings", &T::readings, "the file"),
      field("before", &T::before, difference, "the largest difference from the meter"),
      field("after", &T::after, difference, "with the correction"),
      field("passed_before", &T::passed_before, "rows"),
      field("passed_after", &T::passed_after, "rows"), field("rows", &T::rows, ""));
};

/// A parameter in the unit of the quantity to a power: none of a gain, one of an offset, and one
/// less for each order of a coefficient.
struct InPower {
  std::string name;
  double value, standard_uncertainty;
};
template <>
struct Fields<InPower> {
  using T = InPower;
  static constexpr auto list = std::make_tuple(
      field("name", &T::name, "offset, gain, or c0, c1, ... of a polynomial"),
      field("value", &T::value, "in the unit of the channel to the power of the parameter"),
      field("standard_uncertainty", &T::standard_uncertainty, "in the same"));
};

struct Node {
  double reading, corrected;
};
template <>
struct Fields<Node> {
  static constexpr auto list =
      std::make_tuple(field("reading", &Node::reading, quantity_value, ""),
                      field("corrected", &Node::corrected, quantity_value, ""));
};

template <>
struct Fields<ChannelCalibration> {
  using T = ChannelCalibration;
  static Units units(const T& t) { return {.quantity = t.calibration.unit}; }
  static double power(const meter::Calibration& c, std::size_t i) {
    const auto& name = c.parameters[i].name;
    const int to = name == "gain" ? 0 : name == "offset" ? 1 : 1 - static_cast<int>(i);
    return std::pow(quantity::difference_unit(c.unit).scale(), to);
  }
  static std::vector<InPower> parameters(const meter::Calibration& c) {
    std::vector<InPower> result;
    for (std::size_t i = 0; i < c.parameters.size(); ++i) {
      const auto& p = c.parameters[i];
      result.push_back({p.name, p.value / power(c, i), p.standard_uncertainty / power(c, i)});
    }
    return result;
  }
  static std::vector<std::vector<double>> covariance(const meter::Calibration& c) {
    const auto k = c.parameters.size();
    std::vector<std::vector<double>> result(k);
    for (std::size_t i = 0; i < k; ++i) {
      for (std::size_t j = 0; j < k; ++j) {
        result[i].push_back(c.covariance[i * k + j] / power(c, i) / power(c, j));
      }
    }
    return result;
  }
  static std::vector<Node> nodes(const meter::Calibration& c) {
    std::vector<Node> result;
    for (std::size_t i = 0; i < c.correction.readings.size(); ++i) {
      result.push_back({c.correction.readings[i], c.correction.corrected[i]});
    }
    return result;
  }
  static constexpr auto list = std::make_tuple(
      field(
          "channel", [](const T& t) { return t.calibration.channel; }, ""),
      field(
          "unit", [](const T& t) { return t.calibration.unit; }, "of the quantity"),
      field(
          "meter", [](const T& t) { return t.calibration.meter; }, ""),
      field(
          "model", [](const T& t) { return t.calibration.model; }, "that was chosen"),
      field(
          "order", [](const T& t) { return t.calibration.order; }, "of a polynomial"),
      field(
          "coverage", [](const T& t) { return t.calibration.coverage; }, ""),
      field(
          "coverage_factor", [](const T& t) { return t.calibration.coverage_factor; }, ""),
      field(
          "parameters", [](const T& t) { return parameters(t.calibration); },
          "corrected = offset + gain reading, or a polynomial"),
      field(
          "covariance", [](const T& t) { return covariance(t.calibration); }, "of the parameters"),
      field(
          "nodes", [](const T& t) { return nodes(t.calibration); },
          "of a correction that is straight between them"),
      field(
          "residual_standard_deviation",
          [](const T& t) { return t.calibration.residual_standard_deviation; }, difference, ""),
      field(
          "dof", [](const T& t) { return t.calibration.dof; }, ""),
      field(
          "chi_squared", [](const T& t) { return t.calibration.chi_squared; }, ""),
      field(
          "overdispersed", [](const T& t) { return t.calibration.overdispersed; },
          "the rows spread more than their uncertainties say"),
      field(
          "outliers", [](const T& t) { return t.calibration.outliers; }, ""),
      field(
          "candidates", [](const T& t) { return t.calibration.candidates; },
          "the chosen one first"),
      field(
          "residual_uncertainty", [](const T& t) { return t.calibration.residual_uncertainty; },
          "expanded, at places of the span"),
      field("before_after", &T::before_after, "rows of a file without and with the correction"));
};

template <>
struct Fields<Calibrations> {
  static constexpr auto list = std::make_tuple(field("channels", &Calibrations::channels, ""));
};

}  // namespace tamlo::result
