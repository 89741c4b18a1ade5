// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/budget.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <utility>

#include "point.hpp"
#include "tamlo/budget/channel_trials.hpp"
#include "tamlo/budget/propagate.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/bias_parts.hpp"
#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/detail/search.hpp"
#include "tamlo/quantity/format.hpp"

namespace tamlo::budget {

using chain::Chain;
using chain::Kind;
using chain::Source;

double combined_variance(const Chain& chain, const std::vector<double>& contributions) {
  double sum = 0.0;
  for (const double c : contributions) sum += c * c;
  for (const auto& [i, j, r] : chain.correlations)
    sum += 2.0 * r * contributions[i] * contributions[j];
  return std::max(sum, 0.0);  // in this order: what is not a number stays one
}

std::optional<Chain> with_integers_at(const Chain& chain, double x, double reach) {
  const auto& integer = chain.channel.scaling.integer;
  if (!integer) return {};
  const double code_here = chain::code(chain, x, chain.nominal);
  const double either = std::max(64.0, reach);
  const auto local =
      chain::arithmetic_error(*integer, chain::register_value(chain, code_here - either),
                              chain::register_value(chain, code_here + either));
  if (std::abs(local.mean - chain.firmware.arithmetic.mean) <
      0.1 * chain.firmware.arithmetic.largest)
    return {};
  auto result = chain;
  result.firmware.arithmetic = local;
  if (chain.named.integers) {
    auto& source = result.sources[*chain.named.integers];
    source.limit = result.firmware.arithmetic.largest;
    source.standard_uncertainty = quantity::standard_uncertainty(source.limit, source.distribution);
  }
  return result;
}

namespace {

// Of more points than that each costs less: fewer units where it is rough, and corners by signs.
constexpr std::size_t many_points = 64;

// Bits that the different readings can tell at most: those that occur, times the steps between them
// that noise and averaging really give. A quiet converter has none, whatever is averaged.
double most_bits(const Chain& chain, double x, double noise) {
  const double width = chain.report.width;
  const double irreducible =
      chain::systematic_quantisation_variance(noise * chain.firmware.dither / width);
  const double count = chain::whole_means(chain) ? 1.0 : chain.firmware.averaged;
  const double between = 1.0 / (12.0 * irreducible + (1.0 - 12.0 * irreducible) / count);
  const double registers = static_cast<double>(chain.report.occurring) * std::max(1.0, between);
  // Steps of the firmware are as coarse whatever the converter and the average tell apart.
  if (!chain.channel.scaling.integer && !chain.channel.scaling.decimals) {
    return std::log2(registers);
  }
  const double step = chain::step_at(chain, x) / chain::code_width_at(chain, x);
  return std::log2(step > 0.0 ? std::min(registers, chain.conversion.codes / step) : registers);
}

// Bits: of a reading, and of a sine over the whole range in single conversions.
Resolution resolution_of(const Chain& chain, const Point& point, const std::vector<double>& effects,
                         double noise) {
  const double codes = chain.conversion.codes, width = chain.report.width;
  double reading = 0.0, conversion = width * width / 12.0;
  for (std::size_t i = 0; i < effects.size(); ++i) {
    const Source& source = chain.sources[i];
    const double in_codes = effects[i] / point.code_width;
    if (chain::random(source.kind())) reading += in_codes * in_codes;
    // What noise does to one conversion is what it does to a reading before average and filter.
    if (source.kind() == Kind::noise && source.filter_gain() > 0.0)
      conversion += std::pow(in_codes / source.filter_gain(), 2);
    if (source.parameter == chain.conversion.inl)
      conversion += std::pow(source.standard_uncertainty, 2);
  }
  const double most = most_bits(chain, point.at, noise);
  return {
      .effective = std::min(most, std::log2(codes / std::sqrt(reading))),
      .noise_free = std::min(most, std::log2(codes / (math::peak_to_peak * std::sqrt(reading)))),
      .accuracy = std::log2(codes * point.code_width / (2.0 * point.expanded)),
      .enob = std::log2(codes) - std::log2(std::sqrt(12.0 * conversion))};
}

// True where an amplifier or the converter is at an end, or a clamp of the firmware holds the
// reading.
bool held(const Chain& chain, double x) {
  const auto converted = chain::convert(chain, chain::code(chain, x, chain.nominal));
  const auto& integer = chain.channel.scaling.integer;
  return converted.clipped || chain::saturates(chain, x) ||
         (integer &&
          chain::evaluate(*integer, chain::reported(chain.report, converted.code)).clamped);
}

// What each source does, and the figures of the law of propagation.
Point by_closed_form(const Chain& chain, const Adjustment& adjustment, Corners& corners, double x,
                     double coverage, bool search_corners, bool calibrated) {
  const double reading = chain::read(chain, x, chain.nominal);
  Point point{.at = x,
              .reading = reading,
              .bias = reading - x,
              .dof = std::numeric_limits<double>::infinity(),
              .coverage = coverage,
              .code_width = chain::code_width_at(chain, x),
              .clipped = held(chain, x)};
  const double k = math::coverage_factor(coverage, point.dof);

  const double noise = chain::noise_in_codes(chain, x);
  const auto standards = chain::standards_at(chain, x, noise);
  const auto effects = chain::effects(chain, x, standards);
  std::vector<double> zeroed, two_point;
  zeroed.reserve(effects.size());
  two_point.reserve(effects.size());
  point.contributions.reserve(effects.size());
  double unbounded = 0.0;
  for (std::size_t i = 0; i < effects.size(); ++i) {
    const Source& source = chain.sources[i];
    Contribution c{
        .limit = source.limit, .standard_uncertainty = standards[i], .contribution = effects[i]};
    c.sensitivity = standards[i] > 0.0 ? effects[i] / standards[i] : 0.0;
    c.worst = corners.bounded(i) ? std::abs(corners.of_limit(i)) : k * std::abs(effects[i]);
    if (!corners.bounded(i)) unbounded += c.worst * c.worst;
    const auto adjusted = adjustment.effect(chain, i, x, effects[i]);
    zeroed.push_back(adjusted.zero);
    two_point.push_back(adjusted.two_point);
    point.contributions.push_back(c);
  }
  const auto at_tare = chain::tare_effects(chain, standards);
  const double variance = combined_variance(chain, effects);
  if (!std::isfinite(variance)) {
    throw DataError(fmt::format("{}: at {} the reading moves beyond all measure",
                                chain.channel.name,
                                quantity::engineering(x, chain.channel.span.unit, 4)));
  }
  // A reading that stays, as one that is clamped, has no parts.
  const double whole = variance > 0.0 ? variance : 1.0;
  for (auto& c : point.contributions) c.share = c.contribution * c.contribution / whole;
  for (const auto& [i, j, r] : chain.correlations) {
    const double both = r * effects[i] * effects[j] / whole;
    point.contributions[i].share += both;
    point.contributions[j].share += both;
  }

  point.combined = std::sqrt(variance);
  const double step = point.code_width * chain.report.width;
  point.coverage_factor = coverage_factor(chain, effects, at_tare, 0.0, coverage, k, step);
  point.expanded = point.coverage_factor * point.combined;
  point.worst_case = corners.find(search_corners);
  point.worst_case.low -= std::sqrt(unbounded);
  point.worst_case.high += std::sqrt(unbounded);
  hold_interval(point);
  const auto own = adjustment.own_variance(x);
  const auto expanded = [&](const std::vector<double>& values, double added) {
    const double all = combined_variance(chain, values) + added;
    return coverage_factor(chain, values, at_tare, added, coverage, k, step) * std::sqrt(all);
  };
  point.adjusted = {point.expanded, expanded(zeroed, own.zero), expanded(two_point, own.two_point)};
  if (calibrated) {
    auto remaining = effects;
    for (std::size_t i = 0; i < remaining.size(); ++i) {
      if (chain.sources[i].kind() == Kind::tolerance) remaining[i] = 0.0;
    }
    point.calibrated = {.expanded = expanded(remaining, adjustment.calibration_variance(chain, x))};
  }
  point.bias_parts = chain::bias_parts(chain, x);
  point.resolution = resolution_of(chain, point, effects, noise);
  point.adjusted_bias = adjustment.bias(x, point.bias);
  if (const auto& accuracy = chain.channel.target.accuracy) {
    point.limit = chain::allowed_at(chain, *accuracy, x);
    point.by = chain.channel.target.by;
  }
  return point;
}

// Where the tare is taken, up to rounding of the number, both readings are of one place.
double place_of(const Chain& chain, double x) {
  const double tare = chain.channel.scaling.tare.value_or(x);
  return std::abs(x - tare) < 1e-9 * chain.channel.span.width() ? tare : x;
}

Point point_at(const Chain& chain, const Adjustment& adjustment, double wanted,
               const Request& request) {
  const double x = place_of(chain, wanted);
  const bool few = request.at.size() <= many_points;
  const auto closed_form = [&](const Chain& variant, Corners& corners) {
    return by_closed_form(variant, adjustment, corners, x, request.coverage, few && request.details,
                          request.calibrated);
  };
  Corners corners(chain, x);
  auto point = closed_form(chain, corners);
  // What the integers do is that of the place.
  if (const auto with_steps = with_integers_at(chain, x, 2.0 * point.combined / point.code_width)) {
    Corners of_place(*with_steps, x);
    point = closed_form(*with_steps, of_place);
  }
  const auto units = few ? request.rough_units : std::min<std::uint64_t>(500, request.rough_units);
  draw_if_not_smooth(chain, adjustment, corners,
                     {.units = units,
                      .check_units = few ? request.check_units : 0,
                      .adjusted = request.details,
                      .thorough = few && request.details},
                     point);
  return point;
}

// The part of what is allowed that is used up; absolute where nothing is.
double severity(const Point& point) {
  if (point.overflows()) return std::numeric_limits<double>::infinity();
  return point.limit ? point.error() / *point.limit : point.error();
}

// The same without the rest of the point.
double severity_at(const Chain& chain, double x, double k) {
  const auto effects = chain::effects(chain, x, chain::standards_at(chain, x));
  double used = std::abs(chain::bias(chain, x)) + k * std::sqrt(combined_variance(chain, effects));
  if (model::takes_worst_case(chain.channel.target.by)) {
    used = std::max(used, Corners(chain, x).find(false).size());
  }
  const auto& accuracy = chain.channel.target.accuracy;
  return accuracy ? used / chain::allowed_at(chain, *accuracy, x) : used;
}

// The place of the largest severity of the span.
double search(const Chain& chain, const Request& request) {
  const auto& span = chain.channel.span;
  const double k = math::coverage_factor(request.coverage, std::numeric_limits<double>::infinity());
  return place_of(chain, math::highest([&](double x) { return severity_at(chain, x, k); }, span.low,
                                       span.high, 64, 19));
}

}  // namespace

std::uint64_t rough_units_among(std::size_t channels) {
  return std::min<std::uint64_t>(Request{}.rough_units,
                                 400'000 / std::max<std::size_t>(channels, 1));
}

std::string_view name(Method method) { return method == Method::trials ? "trials" : "closed form"; }

std::optional<double> Point::margin() const {
  if (!limit) return {};
  return *limit - error();
}

double error_by(model::JudgedBy by, double bias, double expanded, const WorstCase& worst) {
  const double uncertain = std::abs(bias) + expanded;
  if (!model::takes_worst_case(by)) return uncertain;
  return by == model::JudgedBy::both ? std::max(uncertain, worst.size()) : worst.size();
}

double Point::error() const { return error_by(by, bias, expanded, worst_case); }

const Point& Budget::worst() const {
  require(!points.empty(), "a budget without points has no worst one");
  return *std::ranges::max_element(points, {}, severity);
}

bool Budget::target_met() const {
  return std::ranges::all_of(
      points, [](const Point& p) { return !p.overflows() && (!p.limit || p.error() <= *p.limit); });
}

bool Budget::target_met_after(double Adjusted::*adjustment) const {
  return std::ranges::all_of(points, [&](const Point& p) {
    if (p.overflows() || model::takes_worst_case(p.by)) return false;
    return !p.limit || std::abs(p.adjusted_bias.*adjustment) + p.adjusted.*adjustment <= *p.limit;
  });
}

std::vector<double> default_points(const quantity::Range& span) {
  std::vector<double> points{span.low, span.zero(), span.middle(), span.high};
  std::ranges::sort(points);
  points.erase(std::unique(points.begin(), points.end()), points.end());
  return points;
}

namespace {

// Nothing that is not a number leaves unseen.
const Point& checked(const Chain& chain, const Point& point) {
  const double sum = point.bias + point.combined + point.expanded + point.worst_case.size() +
                     point.adjusted.zero + point.adjusted.two_point + point.code_width +
                     (point.calibrated ? point.calibrated->bias + point.calibrated->expanded : 0.0);
  if (std::isfinite(sum)) return point;
  throw DataError(
      fmt::format("channel {}: no finite figure at {:.6g} {}: the reading does not follow it there",
                  chain.channel.name, quantity::in_unit(point.at, chain.channel.span.unit),
                  chain.channel.span.unit.symbol));
}

}  // namespace

Point worst_place(const Chain& chain, Request request) {
  require(request.rough_units >= 2, "rough points take two units or more");
  request.details = model::takes_worst_case(chain.channel.target.by);
  return checked(chain, point_at(chain, Adjustment(chain), search(chain, request), request));
}

Budget evaluate(const Chain& chain, const Request& request) {
  const auto& span = chain.channel.span;
  for (const double x : request.at) {
    require(std::isfinite(x), "a point of a budget is a finite number");
  }
  require(request.rough_units >= 2, "rough points take two units or more");
  const Adjustment adjustment(chain);
  Budget result{.channel = chain.channel.name,
                .unit = span.unit,
                .span = span,
                .sources = chain.sources,
                .correlations = chain.correlations,
                .of_ideal_parts = chain::of_ideal_parts(chain),
                .adjusted_with = chain.channel.adjusted_with,
                .adjusted_at = chain.channel.adjustment ? chain.channel.adjustment->at
                                                        : std::vector<double>()};
  for (const double x : request.at.empty() ? default_points(span) : request.at) {
    auto& point = result.points.emplace_back(point_at(chain, adjustment, x, request));
    checked(chain, point);
    if (!request.trials) continue;
    auto trials = *request.trials;
    trials.coverage = request.coverage;
    if (point.method == Method::trials) {
      point.trials = PointTrials{.of = simulate_readings(chain, point.at, trials)};
      continue;
    }
    point.trials = PointTrials{.of = simulate(chain, point.at, trials)};
    point.trials->closed_form_valid =
        closed_form_valid(point.bias, point.expanded, point.combined, point.trials->of, 1);
  }
  if (!request.search) {
    result.worst_place = result.worst();
    return result;
  }
  // Mostly an end of the span, where a point is known.
  const double place = search(chain, request);
  const auto known = std::ranges::find(result.points, place, &Point::at);
  result.worst_place = known != result.points.end()
                           ? *known
                           : checked(chain, point_at(chain, adjustment, place, request));
  result.worst_place.trials.reset();
  return result;
}

std::vector<std::size_t> by_share(const Point& point) {
  std::vector<std::size_t> order(point.contributions.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  // Shares that differ by rounding alone stay in the order of the chain, on any machine.
  std::ranges::stable_sort(order, std::ranges::greater{}, [&](std::size_t i) {
    return std::round(1e12 * point.contributions[i].share);
  });
  return order;
}

bool is_minor(double share) { return std::abs(share) < 5e-4; }
bool is_minor(const Contribution& contribution) { return is_minor(contribution.share); }

MinorSources minor_sources(const Point& point) {
  MinorSources result;
  for (const auto& contribution : point.contributions) {
    if (!is_minor(contribution)) continue;
    ++result.count;
    result.share += contribution.share;
    result.contribution = std::hypot(result.contribution, contribution.contribution);
  }
  return result.count >= 2 ? result : MinorSources{};
}

}  // namespace tamlo::budget
