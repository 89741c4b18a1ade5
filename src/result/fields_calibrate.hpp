// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of calibrate.
namespace tamlo::result {

template <>
struct Fields<meter::Outlier> : FieldsOf<meter::Outlier> {
  static constexpr Field list[] = {field("row", TAMLO_GET(t.row), "counted from 0"),
                                   field("deviations", TAMLO_GET(t.deviations), "from the fit")};
};

template <>
struct Fields<meter::Candidate> : FieldsOf<meter::Candidate> {
  static constexpr Field list[] = {
      field("model", TAMLO_GET(t.model), ""), field("order", TAMLO_GET(t.order), ""),
      field("leave_one_out", TAMLO_GET(t.leave_one_out), difference, "rms error of rows left out"),
      field("corrected_aic", TAMLO_GET(t.corrected_aic), unbounded, "")};
};

template <>
struct Fields<meter::ResidualUncertainty> : FieldsOf<meter::ResidualUncertainty> {
  static constexpr Field list[] = {
      field("at", TAMLO_GET(t.at), quantity_value, ""),
      field("before", TAMLO_GET(t.before), difference,
            "|bias| and expanded uncertainty of the budget"),
      field("meter", TAMLO_GET(t.meter), difference, "of the meter"),
      field("fit", TAMLO_GET(t.fit), difference, "of the rows' own noise"),
      field("channel", TAMLO_GET(t.channel), difference,
            "noise, drift and what the model does not follow"),
      field("after", TAMLO_GET(t.after), difference, "all three"),
      field("limit", TAMLO_GET(t.limit), difference, "of the target")};
};

template <>
struct Fields<BeforeAfter> : FieldsOf<BeforeAfter> {
  static constexpr Field list[] = {
      field("readings", TAMLO_GET(t.readings), "the file"),
      field("before", TAMLO_GET(t.before), difference, "the largest difference from the meter"),
      field("after", TAMLO_GET(t.after), difference, "with the correction"),
      field("passed_before", TAMLO_GET(t.passed_before), "rows"),
      field("passed_after", TAMLO_GET(t.passed_after), "rows"),
      field("rows", TAMLO_GET(t.rows), "")};
};

/// A parameter in the unit of the quantity to a power: none of a gain, one of an offset, and one
/// less for each order of a coefficient.
struct InPower {
  std::string name;
  double value, standard_uncertainty;
};
template <>
struct Fields<InPower> : FieldsOf<InPower> {
  static constexpr Field list[] = {
      field("name", TAMLO_GET(t.name), "offset, gain, or c0, c1, ... of a polynomial"),
      field("value", TAMLO_GET(t.value),
            "in the unit of the channel to the power of the parameter"),
      field("standard_uncertainty", TAMLO_GET(t.standard_uncertainty), "in the same")};
};

struct Node {
  double reading, corrected;
};
template <>
struct Fields<Node> : FieldsOf<Node> {
  static constexpr Field list[] = {field("reading", TAMLO_GET(t.reading), quantity_value, ""),
                                   field("corrected", TAMLO_GET(t.corrected), quantity_value, "")};
};

template <>
struct Fields<ChannelCalibration> : FieldsOf<ChannelCalibration> {
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
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.calibration.channel), ""),
      field("unit", TAMLO_GET(t.calibration.unit), "of the quantity"),
      field("meter", TAMLO_GET(t.calibration.meter), ""),
      field("model", TAMLO_GET(t.calibration.model), "that was chosen"),
      field("order", TAMLO_GET(t.calibration.order), "of a polynomial"),
      field("coverage", TAMLO_GET(t.calibration.coverage), ""),
      field("coverage_factor", TAMLO_GET(t.calibration.coverage_factor), ""),
      field("parameters", TAMLO_GET(parameters(t.calibration)),
            "corrected = offset + gain reading, or a polynomial"),
      field("covariance", TAMLO_GET(covariance(t.calibration)), "of the parameters"),
      field("nodes", TAMLO_GET(nodes(t.calibration)),
            "of a correction that is straight between them"),
      field("residual_standard_deviation", TAMLO_GET(t.calibration.residual_standard_deviation),
            difference, ""),
      field("dof", TAMLO_GET(t.calibration.dof), ""),
      field("chi_squared", TAMLO_GET(t.calibration.chi_squared), ""),
      field("overdispersed", TAMLO_GET(t.calibration.overdispersed),
            "the rows spread more than their uncertainties say"),
      field("outliers", TAMLO_GET(t.calibration.outliers), ""),
      field("candidates", TAMLO_GET(t.calibration.candidates), "the chosen one first"),
      field("residual_uncertainty", TAMLO_GET(t.calibration.residual_uncertainty),
            "expanded, at places of the span"),
      field("before_after", TAMLO_GET(t.before_after),
            "rows of a file without and with the correction")};
};

template <>
struct Fields<Calibrations> : FieldsOf<Calibrations> {
  static constexpr Field list[] = {field("channels", TAMLO_GET(t.channels), "")};
};

}  // namespace tamlo::result
