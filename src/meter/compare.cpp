// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/compare.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "decision.hpp"
#include "row_figures.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/regression.hpp"
#include "tamlo/names.hpp"

namespace tamlo::meter {
namespace {

using math::SharedCovariance;

Verdict judge(double difference, double limit, double guard_band) {
  if (std::abs(difference) + guard_band <= limit) return Verdict::pass;
  if (std::abs(difference) - guard_band > limit) return Verdict::fail;
  return Verdict::undecided;
}

// Standard deviation of sum weights[i] y[i], where y varies as the channel of the budget does.
double carried(const std::vector<double>& weights, const SharedCovariance& channel) {
  double variance = 0.0;
  for (std::size_t i = 0; i < weights.size(); ++i) {
    variance += squared(weights[i]) * channel.variances[i];
  }
  for (const auto& column : channel.columns) variance += squared(dot(weights, column));
  return std::sqrt(variance);
}

// What the differences follow: an offset, and whatever else the readings can tell.
class Trend {
 public:
  // `zero` is where the unit of the quantity has its zero: 273.15 K for degC.
  Trend(const RowFigures& evidence, const std::vector<Reading>& readings, double zero)
      : evidence_(evidence) {
    const auto n = evidence.rows();
    columns_.emplace_back(n, 1.0);
    std::vector<double> x, half, time;
    for (std::size_t i = 0; i < n; ++i) {
      x.push_back(evidence.at[i] - zero);
      const auto direction = readings[i].direction;
      half.push_back(direction == Direction::rising    ? 0.5
                     : direction == Direction::falling ? -0.5
                                                       : 0.0);
      time.push_back(readings[i].time.value_or(0.0) - readings.front().time.value_or(0.0));
    }
    const auto [low, high] = std::ranges::minmax(x);
    if (low < high) gain_ = add(std::move(x));
    const auto [falling, rising] = std::ranges::minmax(half);
    if (falling < 0.0 && rising > 0.0) hysteresis_ = add(std::move(half));
    const bool timed =
        std::ranges::all_of(readings, [](const Reading& r) { return r.time.has_value(); });
    if (timed && different(time) >= 3 && n > columns_.size() + 1) drift_ = add(std::move(time));
    // A time that only follows the position says nothing of its own.
    if (drift_ && !independent()) {
      columns_.pop_back();
      drift_.reset();
    }
    fit_ = math::fit_columns(columns_, evidence.difference, evidence.measured);
  }

  Figure offset() const { return figure(0); }
  std::optional<Figure> gain() const { return figure(gain_); }
  std::optional<Figure> hysteresis() const { return figure(hysteresis_); }
  std::optional<Figure> drift() const { return figure(drift_); }

 private:
  const RowFigures& evidence_;
  std::vector<std::vector<double>> columns_;
  math::SharedFit fit_;
  std::optional<std::size_t> gain_{}, hysteresis_{}, drift_{};

  std::size_t add(std::vector<double> column) {
    columns_.push_back(std::move(column));
    return columns_.size() - 1;
  }

  bool independent() const {
    const std::vector<std::vector<double>> others(columns_.begin(), columns_.end() - 1);
    const auto fit = math::regress(others, columns_.back());
    return dot(fit.residuals, fit.residuals) > 0.05 * dot(columns_.back(), columns_.back());
  }

  Figure figure(std::size_t j) const {
    return {.value = fit_.parameters[j],
            .standard_uncertainty = std::sqrt(fit_.covariance[j * columns_.size() + j]),
            .budgeted = carried(fit_.weights[j], evidence_.channel),
            .expected = dot(fit_.weights[j], evidence_.effects.bias)};
  }
  std::optional<Figure> figure(std::optional<std::size_t> j) const {
    if (!j) return {};
    return figure(*j);
  }
};

std::optional<LinearityDeviation> shape_of(const RowFigures& evidence) {
  const auto n = evidence.rows();
  if (different(evidence.at) < 3) return {};
  const auto first =
      static_cast<std::size_t>(std::ranges::min_element(evidence.at) - evidence.at.begin());
  const auto last =
      static_cast<std::size_t>(std::ranges::max_element(evidence.at) - evidence.at.begin());
  const double slope = (evidence.difference[last] - evidence.difference[first]) /
                       (evidence.at[last] - evidence.at[first]);
  const std::vector<std::vector<double>> line{std::vector<double>(n, 1.0), evidence.at};
  const auto fit = math::regress(line, evidence.difference);
  LinearityDeviation result;
  for (std::size_t i = 0; i < n; ++i) {
    const double end_point = evidence.difference[i] - evidence.difference[first] -
                             slope * (evidence.at[i] - evidence.at[first]);
    if (std::abs(end_point) > std::abs(result.end_point)) {
      result.end_point = end_point;
      result.end_point_at = evidence.at[i];
    }
    if (std::abs(fit.residuals[i]) > std::abs(result.best_fit)) {
      result.best_fit = fit.residuals[i];
      result.best_fit_at = evidence.at[i];
      result.standard_uncertainty =
          std::sqrt(evidence.measured.variances[i] + evidence.channel.variances[i]);
    }
  }
  return result;
}

std::optional<ObservedNoise> noise_of(const RowFigures& evidence,
                                      const std::vector<Reading>& readings, double coverage) {
  const auto observed = noise_observed(evidence, readings);
  if (observed.dof == 0) return {};
  ObservedNoise result{
      .observed = observed.observed, .predicted = observed.predicted, .dof = observed.dof};
  const auto interval = math::deviation_interval(observed.observed, observed.dof, coverage);
  result.low = interval.low;
  result.high = interval.high;
  result.differs = result.low > observed.predicted ? 1 : result.high < observed.predicted ? -1 : 0;
  return result;
}

Summary summarise(const std::vector<Row>& rows, double zero, const RowFigures& evidence,
                  const std::vector<Reading>& readings, double coverage) {
  Summary summary{.accuracy_ratio = rows.front().accuracy_ratio};
  for (std::size_t i = 0; i < rows.size(); ++i) {
    ++(rows[i].verdict == Verdict::pass   ? summary.passed
       : rows[i].verdict == Verdict::fail ? summary.failed
                                          : summary.undecided);
    summary.accuracy_ratio = std::min(summary.accuracy_ratio, rows[i].accuracy_ratio);
    if (std::abs(rows[i].normalised_error) > std::abs(rows[summary.largest].normalised_error)) {
      summary.largest = i;
    }
  }
  summary.verdict = summary.failed > 0      ? Verdict::fail
                    : summary.undecided > 0 ? Verdict::undecided
                                            : Verdict::pass;
  const Trend trend(evidence, readings, zero);
  summary.offset = trend.offset();
  summary.gain = trend.gain();
  summary.hysteresis = trend.hysteresis();
  summary.drift = trend.drift();
  summary.shape = shape_of(evidence);
  summary.noise = noise_of(evidence, readings, coverage);
  return summary;
}

Row row_of(const chain::Chain& chain, const RowFigures& evidence, const Reading& reading,
           std::size_t i) {
  const double k = evidence.effects.coverage_factor, u = evidence.standard_uncertainty(i);
  const auto& accuracy = chain.channel.target.accuracy;
  Row row{.meter = evidence.at[i],
          .reading = reading.reading,
          .difference = evidence.difference[i],
          .expected = evidence.effects.bias[i],
          .expanded_channel = evidence.effects.expanded[i],
          .expanded_meter = k * std::sqrt(evidence.meter[i]),
          .guard_band = evidence.coverage_factor(i, u) * u,
          .repeats = reading.repeats,
          .irreducible = k * std::sqrt(std::max(squared(u) - evidence.averages[i], 0.0))};
  row.limit = accuracy ? chain::allowed_at(chain, *accuracy, row.meter) : row.expanded_channel;
  // A spread that is larger than the budget's comes in beside both.
  const double both = std::hypot(row.expanded_channel, row.expanded_meter) / k;
  const double combined = std::hypot(both, std::sqrt(evidence.spread[i]));
  row.normalised_error =
      (row.difference - row.expected) / (evidence.coverage_factor(i, combined) * combined);
  row.verdict = judge(row.difference, row.limit, row.guard_band);
  row.accuracy_ratio = row.limit / row.expanded_meter;
  const double channel = squared(row.expanded_channel), meter = squared(row.expanded_meter);
  row.channel_part = channel / (channel + meter);
  const double room = std::abs(row.limit - std::abs(row.difference));
  if (row.verdict == Verdict::undecided && row.irreducible < room) {
    const double averages = squared(k) * evidence.averages[i];
    row.repeats_needed =
        std::ceil(row.repeats * averages / (squared(room) - squared(row.irreducible)));
  }
  return row;
}

}  // namespace

std::string_view name(Verdict verdict) { return name_in({"pass", "fail", "undecided"}, verdict); }

std::string_view name(Side side) {
  return name_in({"neither", "channel", "meter", "undetermined"}, side);
}

double Figure::deviation() const {
  return std::abs(value - expected) / std::hypot(standard_uncertainty, budgeted);
}

chain::Chain chain_as_metered(const model::Board& board, const std::string& channel,
                              const model::Meter& meter) {
  auto chain = chain::build(board, channel);
  return meter.touches == model::Touches::pin ? chain::referred_to_pin(std::move(chain)) : chain;
}

Comparison compare(const Evidence& evidence) {
  const auto& [chain, meter, readings, coverage, rows, decision] = evidence.parts();
  Comparison result{.channel = chain.channel.name,
                    .unit = chain.channel.span.unit,
                    .meter = meter.name,
                    .has_target = chain.channel.target.accuracy.has_value(),
                    .coverage = coverage,
                    .rows = {}};
  for (std::size_t i = 0; i < readings.size(); ++i) {
    result.rows.push_back(row_of(chain, rows, readings[i], i));
  }
  result.summary = summarise(result.rows, result.unit.offset, rows, readings, coverage);
  result.summary.agreement = decision.agreement;
  result.summary.side = decision.side;
  return result;
}

Comparison compare(const chain::Chain& chain, const model::Meter& meter,
                   const std::vector<Reading>& readings, double coverage) {
  return compare(Evidence(chain, meter, readings, coverage));
}

}  // namespace tamlo::meter
