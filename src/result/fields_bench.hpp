// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of calibrate.
namespace tamlo::result {

template <>
struct Fields<meter::Outlier> : FieldsOf<meter::Outlier> {
  static constexpr Field list[] = {field("row", TAMLO_AT(row), "counted from 0"),
                                   field("deviations", TAMLO_AT(deviations), "from the fit")};
};

template <>
struct Fields<meter::TriedModel> : FieldsOf<meter::TriedModel> {
  static constexpr Field list[] = {
      field("model", TAMLO_AT(model), ""), field("order", TAMLO_AT(order), ""),
      field("leave_one_out", TAMLO_AT(leave_one_out), difference, "rms error of rows left out"),
      field("corrected_aic", TAMLO_AT(corrected_aic), unbounded, "")};
};

template <>
struct Fields<meter::ResidualUncertainty> : FieldsOf<meter::ResidualUncertainty> {
  static constexpr Field list[] = {
      field("at", TAMLO_AT(at), quantity_value, ""),
      field("before", TAMLO_AT(before), difference,
            "|bias| and expanded uncertainty of the budget"),
      field("meter", TAMLO_AT(meter), difference, "of the meter"),
      field("fit", TAMLO_AT(fit), difference, "of the rows' own noise"),
      field("channel", TAMLO_AT(channel), difference,
            "noise, drift and what the model does not follow"),
      field("after", TAMLO_AT(after), difference, "all three"),
      field("limit", TAMLO_AT(limit), difference, "of the target")};
};

template <>
struct Fields<meter::BeforeAfter> : FieldsOf<meter::BeforeAfter> {
  static constexpr Field list[] = {
      field("readings", TAMLO_AT(readings), "the file"),
      field("before", TAMLO_AT(before), difference, "the largest difference from the meter"),
      field("after", TAMLO_AT(after), difference, "with the correction"),
      field("passed_before", TAMLO_AT(passed_before), "rows"),
      field("passed_after", TAMLO_AT(passed_after), "rows"),
      field("rows", TAMLO_AT(rows), "")};
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
      field("name", TAMLO_AT(name), "offset, gain, or c0, c1, ... of a polynomial"),
      field("value", TAMLO_AT(value), "in the unit of the channel to the power of the parameter"),
      field("standard_uncertainty", TAMLO_AT(standard_uncertainty), "in the same")};
};

struct Node {
  double reading, corrected;
};
template <>
struct Fields<Node> : FieldsOf<Node> {
  static constexpr Field list[] = {field("reading", TAMLO_AT(reading), quantity_value, ""),
                                   field("corrected", TAMLO_AT(corrected), quantity_value, "")};
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
      field("channel", TAMLO_AT(calibration.channel), ""),
      field("unit", TAMLO_AT(calibration.unit), "of the quantity"),
      field("meter", TAMLO_AT(calibration.meter), ""),
      field("model", TAMLO_AT(calibration.model), "that was chosen"),
      field("order", TAMLO_AT(calibration.order), "of a polynomial"),
      field("coverage", TAMLO_AT(calibration.coverage), ""),
      field("coverage_factor", TAMLO_AT(calibration.coverage_factor), ""),
      field("parameters", TAMLO_GET(parameters(t.calibration)),
            "corrected = offset + gain reading, or a polynomial"),
      field("covariance", TAMLO_GET(covariance(t.calibration)), "of the parameters"),
      field("nodes", TAMLO_GET(nodes(t.calibration)),
            "of a correction that is straight between them"),
      field("residual_standard_deviation", TAMLO_AT(calibration.residual_standard_deviation),
            difference, ""),
      field("dof", TAMLO_AT(calibration.dof), ""),
      field("chi_squared", TAMLO_AT(calibration.chi_squared), ""),
      field("overdispersed", TAMLO_AT(calibration.overdispersed),
            "the rows spread more than their uncertainties say"),
      field("outliers", TAMLO_AT(calibration.outliers), ""),
      field("candidates", TAMLO_AT(calibration.candidates), "the chosen one first"),
      field("residual_uncertainty", TAMLO_AT(calibration.residual_uncertainty),
            "expanded, at places of the span"),
      field("before_after", TAMLO_AT(before_after),
            "rows of a file without and with the correction")};
};

template <>
struct Fields<Calibrations> : FieldsOf<Calibrations> {
  static constexpr const char* command = "calibrate";
  static constexpr Field list[] = {field("channels", TAMLO_AT(channels), "")};
};

// The fields of measure --plan; what measure itself ends with is compare's.

template <>
struct Fields<meter::PlannedPosition> : FieldsOf<meter::PlannedPosition> {
  static constexpr Field list[] = {
      field("at", TAMLO_AT(at), quantity_value, "of the knob"),
      field("limit", TAMLO_AT(limit), difference,
            "that the target allows, or the budget without one"),
      field("guard_band", TAMLO_AT(guard_band), difference,
            "expanded uncertainty of the difference"),
      field("decided", TAMLO_AT(decided),
            "probability that the row passes or fails, of a unit drawn"),
      field("decided_at_limit", TAMLO_AT(decided_at_limit),
            "of a unit that is off by the whole of its budget")};
};

template <>
struct Fields<meter::FaultSeen> : FieldsOf<meter::FaultSeen> {
  static constexpr Field list[] = {
      field("fault", TAMLO_AT(fault), "a source, a limit of the meter, or a known fault"),
      field("limits", TAMLO_AT(limits),
            "that a source must be off to be seen at 95 %, in its own limits"),
      field("probability", TAMLO_AT(probability), "that a known fault is seen"),
      field("like", TAMLO_AT(like), "those that it could be taken for")};
};

template <>
struct Fields<meter::BenchPlan> : FieldsOf<meter::BenchPlan> {
  static constexpr const char* command = "measure";
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(channel), ""),
      field("meter", TAMLO_AT(meter), "of the board"),
      field("unit", TAMLO_AT(unit), "of the quantity"),
      field("has_target", TAMLO_AT(has_target), "else the budget stands in for it"),
      field("coverage", TAMLO_AT(coverage), "probability"),
      field("repeats", TAMLO_AT(repeats), "readings at each position"),
      field("decided", TAMLO_AT(decided), "probability that the least decided row passes or fails"),
      field("least_decided_at", TAMLO_AT(least_decided_at), quantity_value, "that row"),
      field("span_decided", TAMLO_AT(span_decided),
            "the same of the least decided place of the span, from budget and rows together"),
      field("least_decided_of_span", TAMLO_AT(least_decided_of_span), quantity_value, "that place"),
      field("decided_by_better_meter", TAMLO_AT(decided_by_better_meter),
            "of the least decided row, beside a meter of a quarter of the uncertainty"),
      field("positions", TAMLO_AT(positions), "rising"),
      field("faults", TAMLO_AT(faults), "what these rows show")};
};

// The fields of watch.

template <>
struct Fields<meter::Settled> : FieldsOf<meter::Settled> {
  static constexpr Field list[] = {
      field("value", TAMLO_AT(value), quantity_value, "mean of the last window"),
      field("standard_deviation", TAMLO_AT(standard_deviation), difference, "of its readings"),
      field("rest", TAMLO_AT(rest), difference, "that is expected to be left of an exponential"),
      field("readings", TAMLO_AT(readings), "of the window")};
};

template <>
struct Fields<meter::LiveView> : FieldsOf<meter::LiveView> {
  static Units units(const T& t) { return {.quantity = t.state.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(state.channel), ""),
      field("unit", TAMLO_AT(state.unit), "of the quantity"),
      field("readings", TAMLO_AT(state.readings), "that came"),
      field("elapsed", TAMLO_AT(state.elapsed), in("s"), "from the first reading to the last"),
      field("rate", TAMLO_GET(t.state.rate()), in("1/s"), "of the readings"),
      field("last", TAMLO_AT(state.last), quantity_value, "reading"),
      field("code", TAMLO_AT(state.code), "the last register value; none where readings come"),
      field("min", TAMLO_AT(state.min), quantity_value, "since the start"),
      field("max", TAMLO_AT(state.max), quantity_value, "since the start"),
      field("noise", TAMLO_AT(state.noise), difference, "standard deviation of the last window"),
      field("predicted_noise", TAMLO_AT(state.predicted_noise), difference,
            "of a reading, by the budget"),
      field("at_end", TAMLO_AT(state.at_end),
            "the last register value is the first or the last there is: it may lie beyond"),
      field("settled", TAMLO_AT(state.settled), "none: it moves, or it is too early to tell"),
      field("old", TAMLO_AT(old), "more should have come since: it is not what is there now"),
      field("zone", TAMLO_AT(zone), "that the last reading lies in"),
      field("shown", TAMLO_AT(shown), quantity_value, "by a meter beside it"),
      field("row", TAMLO_AT(row), "of both sides, once they are at rest")};
};

template <>
struct Fields<WatchedLink> : FieldsOf<WatchedLink> {
  static constexpr Field list[] = {
      field("name", TAMLO_AT(name), "of the link"), field("lines", TAMLO_AT(lines), "that came"),
      field("malformed", TAMLO_AT(malformed), "lines that did not fit"),
      field("lost", TAMLO_AT(lost), "times that the link was lost"),
      field("problem", TAMLO_AT(problem), "of the last of them")};
};

template <>
struct Fields<Watched> : FieldsOf<Watched> {
  static constexpr const char* command = "watch";
  static constexpr Field list[] = {field("links", TAMLO_AT(links), ""),
                                   field("channels", TAMLO_AT(channels), "")};
};

}  // namespace tamlo::result
