// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/bench_plan.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "decision.hpp"
#include "planned_faults.hpp"
#include "row_figures.hpp"
#include "signatures.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/detail/search.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::meter {
namespace {

constexpr double sure = 0.95;
const double twenty = 2.0 * std::log(20.0);  // a likelihood ratio of 20, in chi-squared

// The noncentrality that is seen with that probability.
double noncentrality_seen(double value, int dof) {
  const auto unseen = [&](double noncentrality) {
    return math::chi_squared_survival(value, dof, noncentrality) < sure;
  };
  double high = 1.0;
  while (unseen(high)) high *= 2.0;
  return math::bisect(0.0, high, 60, unseen).high;
}

// A shift of the rows, and how large it is against what sound rows vary.
struct Shift {
  FaultSeen of{};
  std::vector<double> rows{};
  std::vector<double> answer{};  // V^-1 rows
  double information = 0.0;      // rows^T V^-1 rows
  double noncentrality = 0.0;    // at the size that is seen, or its own
};

}  // namespace

std::vector<FaultSeen> faults_seen(const model::Board& board, const std::string& channel,
                                   const model::Meter& meter, const chain::Chain& chain,
                                   const RowFigures& evidence, double coverage) {
  const math::InverseCovariance inverse(evidence.all());
  const auto dof = static_cast<int>(evidence.rows());
  const double rare = (1.0 - coverage) / 2.0;
  const double threshold = math::chi_squared_quantile(1.0 - rare, dof);
  const double seen = noncentrality_seen(threshold, dof);

  std::vector<Shift> shifts;
  const auto add = [&](std::string name, std::vector<double> rows) -> Shift& {
    Shift shift{.of = {.fault = std::move(name)}, .rows = std::move(rows)};
    shift.answer = inverse.times(shift.rows);
    shift.information = dot(shift.answer, shift.rows);
    shifts.push_back(std::move(shift));
    return shifts.back();
  };
  for (const auto& cause : possible_causes(chain, meter, evidence)) {
    auto& shift = add(cause.named.name, cause.effect);
    const double limits = std::sqrt(seen / shift.information) * cause.standard_in_limits;
    // Beyond a thousand of its limits it is another part, and another fault.
    if (limits < 1000.0) shift.of.limits = limits;
    shift.noncentrality = seen;
  }
  std::vector<Reading> readings;
  for (const double x : evidence.at) readings.push_back({.meter = x, .reading = x});
  const std::vector<OtherChannel> no_others;
  const DiagnosisContext context{.board = board,
                                 .channel = channel,
                                 .meter = meter,
                                 .readings = readings,
                                 .others = no_others,
                                 .chain = chain,
                                 .evidence = evidence,
                                 .inverse = inverse,
                                 .chi_squared = 0.0,
                                 .left_by_one = 0.0,
                                 .claimed = true,
                                 .coverage = coverage};
  for (auto& [fault, rows] : known_shifts(context)) {
    auto& shift = add(std::move(fault), std::move(rows));
    shift.noncentrality = shift.information;
    shift.of.probability =
        shift.information > 2000.0
            ? 1.0
            : math::chi_squared_survival(threshold, dof, std::max(shift.information, 0.0));
  }
  const auto visible = [](const Shift& shift) { return shift.of.limits || shift.of.probability; };
  for (auto& one : shifts) {
    // What is not seen is not told apart, either.
    if (!visible(one)) continue;
    for (const auto& other : shifts) {
      if (&other == &one || !visible(other)) continue;
      const double together = dot(one.answer, other.rows);
      const double along = together * together / (one.information * other.information);
      if (one.noncentrality * (1.0 - along) < twenty) one.of.like.push_back(other.of.fault);
    }
  }
  std::vector<FaultSeen> result;
  for (auto& shift : shifts) result.push_back(std::move(shift.of));
  // Known faults first, then sources by how small a fault of theirs is seen.
  std::ranges::stable_sort(result, {}, [](const FaultSeen& fault) {
    return fault.probability ? -*fault.probability
                             : fault.limits.value_or(std::numeric_limits<double>::infinity());
  });
  return result;
}

namespace {

constexpr std::size_t grid = 17, most_positions = 12;
constexpr int most_repeats = 64;
constexpr double enough = 0.95, helps = 0.005;

// That |d| + U <= L or |d| - U > L, of a normal d.
double decides(double mean, double deviation, double guard_band, double limit) {
  const auto inside = [&](double size) {
    if (size <= 0.0) return 0.0;
    if (!(deviation > 0.0)) return std::abs(mean) <= size ? 1.0 : 0.0;
    return math::normal_cdf((size - mean) / deviation) -
           math::normal_cdf((-size - mean) / deviation);
  };
  return inside(limit - guard_band) + 1.0 - inside(limit + guard_band);
}

// All places that may be asked about, with what the budget says of them.
class Bench {
 public:
  Bench(const chain::Chain& chain, const model::Meter& meter, double coverage)
      : chain_(chain), meter_(meter), coverage_(coverage) {
    for (const double x : even_positions(chain.channel.span, grid)) places_.push_back(x);
  }

  /// So many readings at each place, as they would be gathered.
  RowFigures gathered(const std::vector<double>& at, int repeats) const {
    std::vector<Reading> readings;
    for (const double x : at) {
      const double shown =
          meter_.touches == model::Touches::pin ? chain::voltage(chain_, x, chain_.nominal) : x;
      readings.push_back({.meter = shown, .reading = x, .repeats = repeats, .meter_repeats = 1});
    }
    return figures_of_rows(chain_, meter_, readings, coverage_);
  }

  double limit_at(double x, const RowFigures& evidence, std::size_t row) const {
    const auto& accuracy = chain_.channel.target.accuracy;
    return accuracy ? chain::allowed_at(chain_, *accuracy, x)
                    : std::abs(evidence.effects.bias[row]) + evidence.effects.expanded[row];
  }

  struct Least {
    double decided = 1.0;
    double at = 0.0;
  };
  /// Of the places, the one whose verdict is the least decided once the rows are known: the budget
  /// is what was known before, and the rows condition it (normal and linear).
  Least least_decided(const std::vector<double>& positions, int repeats) const {
    auto at = positions;
    at.insert(at.end(), places_.begin(), places_.end());
    const auto all = gathered(at, repeats);
    const auto rows = gathered(positions, repeats);
    const math::InverseCovariance inverse(rows.all());
    const double k = all.effects.coverage_factor;
    Least least{.at = places_.front()};
    for (std::size_t g = positions.size(); g < at.size(); ++g) {
      double before = all.channel.variances[g];
      std::vector<double> with_rows(positions.size(), 0.0);
      for (const auto& column : all.channel.columns) {
        before += squared(column[g]);
        for (std::size_t i = 0; i < positions.size(); ++i) with_rows[i] += column[g] * column[i];
      }
      const double learnt = std::min(before, dot(with_rows, inverse.times(with_rows)));
      const double decided = decides(all.effects.bias[g], std::sqrt(std::max(0.0, learnt)),
                                     k * std::sqrt(before - learnt), limit_at(at[g], all, g));
      if (decided < least.decided) least = {.decided = decided, .at = at[g]};
    }
    return least;
  }

  std::vector<double> chosen() const {
    std::vector<double> positions = even_positions(chain_.channel.span, 3);
    auto least = least_decided(positions, most_repeats);
    while (least.decided < enough && positions.size() < most_positions) {
      auto more = positions;
      more.push_back(least.at);
      std::ranges::sort(more);
      const bool known = std::ranges::adjacent_find(more) != more.end();
      const auto then = known ? least : least_decided(more, most_repeats);
      if (then.decided < least.decided + helps) break;
      positions = std::move(more);
      least = then;
    }
    return positions;
  }

 private:
  const chain::Chain& chain_;
  const model::Meter& meter_;
  double coverage_;
  std::vector<double> places_{};
};

std::vector<PlannedPosition> rows_of(const Bench& bench, const std::vector<double>& positions,
                                     const RowFigures& evidence) {
  std::vector<PlannedPosition> result;
  for (std::size_t i = 0; i < positions.size(); ++i) {
    const double u = evidence.standard_uncertainty(i);
    double channel = evidence.channel.variances[i];
    for (const auto& column : evidence.channel.columns) channel += squared(column[i]);
    const double bias = evidence.effects.bias[i];
    PlannedPosition row{.at = positions[i],
                        .limit = bench.limit_at(positions[i], evidence, i),
                        .guard_band = evidence.effects.coverage_factor * u};
    row.decided = decides(bias, std::hypot(std::sqrt(channel), u), row.guard_band, row.limit);
    const double whole = std::abs(bias) + evidence.effects.expanded[i];
    row.decided_at_limit = decides(whole, u, row.guard_band, row.limit);
    result.push_back(row);
  }
  return result;
}

const PlannedPosition& least_decided_row(const std::vector<PlannedPosition>& rows) {
  return *std::ranges::min_element(rows, {}, &PlannedPosition::decided);
}

int fewest_repeats(const Bench& bench, const std::vector<double>& positions) {
  const auto decided = [&](int repeats) {
    return least_decided_row(rows_of(bench, positions, bench.gathered(positions, repeats))).decided;
  };
  const double best = std::min(enough, decided(most_repeats) - helps);
  int repeats = 1;
  while (repeats < most_repeats && decided(repeats) < best) repeats *= 2;
  return repeats;
}

// A meter of a quarter of the uncertainty.
model::Meter better(model::Meter meter) {
  for (auto& range : meter.ranges) {
    range.digits *= 4.0;
    for (auto& limit : range.accuracy.limits) {
      // A digit is a quarter by itself.
      if (limit.basis == quantity::Basis::digit) continue;
      limit.size /= 4.0;
    }
  }
  return meter;
}

}  // namespace

std::vector<double> even_positions(const quantity::Range& span, std::size_t count) {
  if (count < 2) return {span.middle()};
  const double low = span.low + span.width() / 50.0, high = span.high - span.width() / 50.0;
  std::vector<double> result;
  for (std::size_t i = 0; i < count; ++i) {
    result.push_back(std::lerp(low, high, static_cast<double>(i) / static_cast<double>(count - 1)));
  }
  return result;
}

BenchPlan plan_bench(const model::Board& board, const std::string& channel,
                     const model::Meter& meter, std::size_t positions, double coverage) {
  const auto chain = chain_as_metered(board, channel, meter);
  const Bench bench(chain, meter, coverage);
  const auto at = positions > 0 ? even_positions(chain.channel.span, positions) : bench.chosen();
  BenchPlan plan{.channel = channel,
                 .meter = meter.name,
                 .unit = chain.channel.span.unit,
                 .has_target = chain.channel.target.accuracy.has_value(),
                 .coverage = coverage,
                 .repeats = fewest_repeats(bench, at)};
  const auto evidence = bench.gathered(at, plan.repeats);
  plan.positions = rows_of(bench, at, evidence);
  const auto& row = least_decided_row(plan.positions);
  plan.decided = row.decided;
  plan.least_decided_at = row.at;
  const auto of_span = bench.least_decided(at, plan.repeats);
  plan.span_decided = of_span.decided;
  plan.least_decided_of_span = of_span.at;
  plan.faults = faults_seen(board, channel, meter, chain, evidence, coverage);

  const auto fine = better(meter);
  const Bench with_better(chain, fine, coverage);
  const auto rows = rows_of(with_better, at, with_better.gathered(at, plan.repeats));
  plan.decided_by_better_meter = least_decided_row(rows).decided;
  return plan;
}

}  // namespace tamlo::meter
