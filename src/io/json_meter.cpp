// SPDX-License-Identifier: Apache-2.0
#include <functional>

#include "json_parts.hpp"
#include "tamlo/io/json.hpp"

namespace tamlo::io {
namespace {

using Convert = std::function<Json(double)>;

Json figure(const std::optional<meter::Figure>& f, const Convert& in) {
  if (!f) return nullptr;
  return {{"value", in(f->value)},
          {"standard_uncertainty", in(f->standard_uncertainty)},
          {"budgeted", in(f->budgeted)},
          {"expected", in(f->expected)},
          {"deviation", f->deviation()}};
}

Json agreement(const meter::Agreement& a) {
  return {{"chi_squared", a.chi_squared},
          {"dof", a.dof},
          {"probability", a.probability},
          {"agrees", a.agrees}};
}

Json row(const meter::Row& r, const InUnit& in) {
  return {{"meter", in.value(r.meter)},
          {"reading", in.value(r.reading)},
          {"difference", in.difference(r.difference)},
          {"expected", in.difference(r.expected)},
          {"expanded_channel", in.difference(r.expanded_channel)},
          {"expanded_meter", in.difference(r.expanded_meter)},
          {"normalised_error", r.normalised_error},
          {"limit", in.difference(r.limit)},
          {"guard_band", in.difference(r.guard_band)},
          {"verdict", name(r.verdict)},
          {"accuracy_ratio", finite(r.accuracy_ratio)},
          {"channel_part", r.channel_part},
          {"repeats", r.repeats},
          {"repeats_needed", or_null(r.repeats_needed)}};
}

Json summary(const meter::Summary& s, const InUnit& in) {
  const Convert difference = [&](double si) { return in.difference(si); };
  Json result{{"verdict", name(s.verdict)},
              {"passed", s.passed},
              {"failed", s.failed},
              {"undecided", s.undecided},
              {"offset", figure(s.offset, difference)},
              {"gain", figure(s.gain, finite)},
              {"hysteresis", figure(s.hysteresis, difference)},
              {"drift", figure(s.drift, difference)},
              {"shape", nullptr},
              {"noise", nullptr},
              {"accuracy_ratio", finite(s.accuracy_ratio)},
              {"side", name(s.side)},
              {"agreement", agreement(s.agreement)}};
  if (const auto& shape = s.shape) {
    result["shape"] = {{"end_point", difference(shape->end_point)},
                       {"end_point_at", in.value(shape->end_point_at)},
                       {"best_fit", difference(shape->best_fit)},
                       {"best_fit_at", in.value(shape->best_fit_at)},
                       {"standard_uncertainty", difference(shape->standard_uncertainty)}};
  }
  if (const auto& noise = s.noise) {
    result["noise"] = {{"observed", difference(noise->observed)},
                       {"predicted", difference(noise->predicted)},
                       {"dof", noise->dof},
                       {"low", difference(noise->low)},
                       {"high", difference(noise->high)},
                       {"differs", noise->differs}};
  }
  return result;
}

Json diagnosis(const meter::Diagnosis& d) {
  const auto source = [](const meter::Suspect::Source& s) -> Json {
    return {{"source", s.name},
            {"moved", s.moved},
            {"limits", s.limits},
            {"before_pin", s.before_pin},
            {"of_meter", s.of_meter}};
  };
  const auto suspect = [&](const meter::Suspect& s) -> Json {
    return {{"sources", each(s.sources, source)},
            {"chi_squared_reduction", s.chi_squared_reduction},
            {"probability", s.probability}};
  };
  const auto signature = [](const meter::Signature& s) -> Json {
    return {{"fault", s.fault},
            {"evidence", s.evidence},
            {"chi_squared", finite(s.chi_squared)},
            {"probability", s.probability}};
  };
  return {{"fault", d.fault},
          {"agreement", agreement(d.agreement)},
          {"suspects", each(d.suspects, suspect)},
          {"signatures", each(d.signatures, signature)}};
}

Json drift(const meter::Drift& d, const InUnit& in) {
  const auto place = [&](const meter::Change& c) -> Json {
    return {{"at", in.value(c.at)},
            {"earlier", in.difference(c.earlier)},
            {"later", in.difference(c.later)},
            {"change", in.difference(c.change)},
            {"expanded", in.difference(c.expanded)},
            {"ageing", in.difference(c.ageing)},
            {"limit", c.limit ? in.difference(*c.limit) : Json(nullptr)}};
  };
  return {{"elapsed", d.elapsed},
          {"places", each(d.places, place)},
          {"significant", d.significant},
          {"within_ageing", d.within_ageing},
          {"until_missed", or_null(d.until_missed)},
          {"missed_at", d.until_missed ? in.value(d.missed_at) : Json(nullptr)}};
}

Json channel(const CompareResult& result) {
  const auto& c = result.comparison;
  const InUnit in(c.unit);
  return {{"channel", c.channel},
          {"board_unit", result.unit},
          {"unit", in.symbol()},
          {"meter", c.meter},
          {"coverage", c.coverage},
          {"rows", each(c.rows, [&](const auto& r) { return row(r, in); })},
          {"summary", summary(c.summary, in)},
          {"diagnosis", diagnosis(result.diagnosis)},
          {"since", result.drift ? drift(*result.drift, in) : Json(nullptr)}};
}

Json spread(const meter::Spread& s, const Convert& in) {
  return {{"mean", in(s.mean)},
          {"deviation", in(s.deviation)},
          {"low", in(s.low)},
          {"high", in(s.high)},
          {"predicted", in(s.predicted)},
          {"tolerance_low", in(s.tolerance_low)},
          {"tolerance_high", in(s.tolerance_high)},
          {"differs", s.differs}};
}

Json units(const UnitsResult& result) {
  const InUnit in(result.unit);
  const Convert difference = [&](double si) { return in.difference(si); };
  const auto& u = result.units;
  const auto of_unit = [&](const meter::UnitResult& of) -> Json {
    return {{"board_unit", of.unit}, {"offset", difference(of.offset)}, {"gain", of.gain}};
  };
  const auto share = [&](const meter::Share& s) -> Json {
    if (!u.has_target) return nullptr;
    return {{"expected", s.expected}, {"met", s.met}};
  };
  return {{"channel", result.channel},         {"unit", in.symbol()},
          {"units", each(u.units, of_unit)},   {"offset", spread(u.offset, difference)},
          {"gain", spread(u.gain, finite)},    {"as_built", share(u.as_built)},
          {"after_zero", share(u.after_zero)}, {"after_two_point", share(u.after_two_point)}};
}

}  // namespace

std::string to_json(const std::vector<CompareResult>& results,
                    const std::vector<UnitsResult>& over_units) {
  auto result =
      Json::parse(document("compare", each(results, [](const auto& r) { return channel(r); })));
  if (!over_units.empty()) result["units"] = each(over_units, units);
  return document(result);
}

std::string to_json(const meter::Calibration& c, const std::vector<BeforeAfter>& before_after) {
  const InUnit in(c.unit);
  Json result = head("calibrate");
  result["channel"] = c.channel;
  result["unit"] = in.symbol();
  result["meter"] = c.meter;
  result["model"] = name(c.model);
  result["order"] = c.order;
  // Of a polynomial's coefficients the unit is that of the quantity, to a power.
  const double scale = quantity::difference_unit(c.unit).scale();
  const auto power = [&](std::size_t i) {
    const bool gain = c.parameters[i].name == "gain";
    const int to = gain ? 0 : c.parameters[i].name == "offset" ? 1 : 1 - static_cast<int>(i);
    return std::pow(scale, to);
  };
  std::vector<Json> parameters, covariance;
  const auto k = c.parameters.size();
  for (std::size_t i = 0; i < k; ++i) {
    const auto& p = c.parameters[i];
    parameters.push_back({{"name", p.name},
                          {"value", p.value / power(i)},
                          {"standard_uncertainty", p.standard_uncertainty / power(i)}});
    std::vector<double> row;
    for (std::size_t j = 0; j < k; ++j) {
      row.push_back(c.covariance[i * k + j] / power(i) / power(j));
    }
    covariance.push_back(row);
  }
  result["parameters"] = parameters;
  result["covariance"] = covariance;
  result["nodes"] = Json::array();
  for (std::size_t i = 0; i < c.correction.readings.size(); ++i) {
    result["nodes"].push_back({{"reading", in.value(c.correction.readings[i])},
                               {"corrected", in.value(c.correction.corrected[i])}});
  }
  result["residual_standard_deviation"] = in.difference(c.residual_standard_deviation);
  result["dof"] = c.dof;
  result["chi_squared"] = c.chi_squared;
  result["overdispersed"] = c.overdispersed;
  result["outliers"] = each(c.outliers, [](const meter::Outlier& o) -> Json {
    return {{"row", o.row}, {"deviations", o.deviations}};
  });
  result["candidates"] = each(c.candidates, [&](const meter::Candidate& r) -> Json {
    return {{"model", name(r.model)},
            {"order", r.order},
            {"leave_one_out", in.difference(r.leave_one_out)},
            {"corrected_aic", finite(r.corrected_aic)}};
  });
  result["residual_uncertainty"] =
      each(c.residual_uncertainty, [&](const meter::ResidualUncertainty& r) -> Json {
        return {{"at", in.value(r.at)},
                {"before", in.difference(r.before)},
                {"meter", in.difference(r.meter)},
                {"fit", in.difference(r.fit)},
                {"channel", in.difference(r.channel)},
                {"after", in.difference(r.after)},
                {"limit", r.limit ? in.difference(*r.limit) : Json(nullptr)}};
      });
  result["before_after"] = each(before_after, [&](const BeforeAfter& b) -> Json {
    return {{"readings", b.readings},          {"before", in.difference(b.before)},
            {"after", in.difference(b.after)}, {"passed_before", b.passed_before},
            {"passed_after", b.passed_after},  {"rows", b.rows}};
  });
  return document(result);
}

}  // namespace tamlo::io
