// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/detail/join.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <span>
#include <utility>

#include "tamlo/error.hpp"
#include "tamlo/math/regression.hpp"

namespace tamlo::meter {
namespace {

using Log = std::span<const Logged>;

constexpr std::size_t fewest = 8;     // values of a log, and pairs of an offset
constexpr double well_agreed = 0.95;  // less may be chance
constexpr std::size_t cells = 400;    // of a log, to look for an offset at all

double duration(Log log) { return log.back().time - log.front().time; }

// The usual step of the times; values that share one, in a log of whole seconds, are no distance.
double usual_distance(Log log) {
  std::vector<double> distances;
  for (std::size_t i = 1; i < log.size(); ++i) {
    if (log[i].time > log[i - 1].time) distances.push_back(log[i].time - log[i - 1].time);
  }
  return math::median(distances);
}

// The usual change from one value of a meter to the next: mostly its noise.
double usual_change(Log log) {
  std::vector<double> changes;
  for (std::size_t i = 1; i < log.size(); ++i)
    changes.push_back(std::abs(log[i].value - log[i - 1].value));
  return math::median(changes);
}

// Both logs, and how far the values of each are usually apart, s.
struct Logs {
  Log readings, meter;
  double of_readings = 0.0, of_meter = 0.0;

  double longest() const { return std::max(duration(readings), duration(meter)); }
  // Where between two values of a log a step came, it does not say.
  double unseen() const { return (of_readings + of_meter) / 2.0; }
  // The finest step of an offset that is worth a look.
  double finest() const {
    return std::max(std::max(of_readings, of_meter) / 64.0, longest() / cells / 1e6);
  }
};

void check(Log log, const char* whose) {
  if (log.size() < fewest)
    throw DataError(fmt::format("{} has {} values: at least {} tell where it belongs", whose,
                                log.size(), fewest));
  for (std::size_t i = 1; i < log.size(); ++i) {
    if (!(log[i].time >= log[i - 1].time))
      throw DataError(fmt::format("the times of {} do not rise at its value {}", whose, i + 1));
  }
  if (!(duration(log) > 0.0)) throw DataError(fmt::format("all times of {} are the same", whose));
}

// Sums of pairs, and how well one value follows the other.
struct Pairs {
  double n = 0.0, x = 0.0, y = 0.0, xx = 0.0, yy = 0.0, xy = 0.0;

  void add(double a, double b) {
    n += 1.0;
    x += a;
    y += b;
    xx += a * a;
    yy += b * b;
    xy += a * b;
  }
  bool tell() const {
    const double of_x = xx - x * x / n, of_y = yy - y * y / n;
    return n >= static_cast<double>(fewest) && of_x > 1e-12 * xx && of_y > 1e-12 * yy;
  }
  // 1 where both move together, whatever one is off: a bias moves no offset that is found by it.
  double correlation() const {
    if (!tell()) return 0.0;
    return (xy - x * y / n) / std::sqrt((xx - x * x / n) * (yy - y * y / n));
  }
  // 1 where both are the same, less where they differ or do not move together (Lin, 1989).
  double agreement() const {
    if (!tell()) return 0.0;
    const double of_x = xx - x * x / n, of_y = yy - y * y / n, between_means = x - y;
    return 2.0 * (xy - x * y / n) / (of_x + of_y + between_means * between_means / n);
  }
};

// The first value that is not before `time`.
std::size_t behind(Log log, double time) {
  const auto found = std::ranges::lower_bound(log, time, {}, &Logged::time);
  return static_cast<std::size_t>(found - log.begin());
}

double between(Log log, std::size_t after, double time) {
  const auto &a = log[after - 1], &b = log[after];
  const double whole = b.time - a.time;
  return whole > 0.0 ? std::lerp(a.value, b.value, (time - a.time) / whole) : b.value;
}

// Clock of the meter at a moment of the readings' clock.
struct Clock {
  double from = 0.0, offset = 0.0, drift = 0.0;
  double operator()(double time) const { return time + offset + drift * (time - from); }
};

using Measure = double (Pairs::*)() const;

double fit(const Logs& logs, const Clock& clock, Measure measure) {
  const Log readings = logs.readings, meter = logs.meter;
  Pairs pairs;
  const auto stride = std::max<std::size_t>(readings.size() / 4000, 1);
  for (std::size_t i = 0; i < readings.size(); i += stride) {
    const double time = clock(readings[i].time);
    const auto after = behind(meter, time);
    if (after == 0 || after == meter.size()) continue;
    pairs.add(readings[i].value, between(meter, after, time));
  }
  // Few pairs at one end of both logs fit by chance.
  const double common = pairs.n * static_cast<double>(stride);
  return common < 0.3 * static_cast<double>(readings.size()) ? 0.0 : (pairs.*measure)();
}

// Means over cells of a length; none where a cell is empty.
std::vector<std::optional<double>> in_cells(Log log, double length) {
  std::vector<std::pair<double, double>> sums;
  for (const auto& [time, value] : log) {
    const auto cell = static_cast<std::size_t>((time - log.front().time) / length);
    if (cell >= sums.size()) sums.resize(cell + 1);
    sums[cell].first += value;
    sums[cell].second += 1.0;
  }
  std::vector<std::optional<double>> result;
  for (const auto& [sum, count] : sums)
    result.push_back(count > 0.0 ? std::optional(sum / count) : std::nullopt);
  return result;
}

struct Candidate {
  double offset = 0.0, fit = 0.0;
};

// From one offset uphill, in steps that halve.
Candidate climb(const Logs& logs, Clock clock, double step, Measure measure) {
  double best = fit(logs, clock, measure);
  for (const double finest = logs.finest(); step > finest;) {
    bool moved = false;
    for (const double by : {-step, step}) {
      auto tried = clock;
      tried.offset += by;
      const double agreed = fit(logs, tried, measure);
      if (agreed <= best) continue;
      best = agreed;
      clock = tried;
      moved = true;
      break;
    }
    if (!moved) step /= 2.0;
  }
  return {clock.offset, best};
}

// Offsets at which the cells of both logs agree more than at their neighbours', the best first.
std::vector<Candidate> coarse(const Logs& logs, double length) {
  const auto a = in_cells(logs.readings, length), b = in_cells(logs.meter, length);
  const double first_offset = logs.meter.front().time - logs.readings.front().time;
  const auto shortest = static_cast<std::ptrdiff_t>(std::min(a.size(), b.size()));
  const auto first = -static_cast<std::ptrdiff_t>(a.size()) + shortest / 3;
  const auto last = static_cast<std::ptrdiff_t>(b.size()) - shortest / 3;
  std::vector<Candidate> all;
  for (auto shift = first; shift <= last; ++shift) {
    Pairs pairs;
    for (std::size_t i = 0; i < a.size(); ++i) {
      const auto k = static_cast<std::ptrdiff_t>(i) + shift;
      if (k < 0 || k >= static_cast<std::ptrdiff_t>(b.size())) continue;
      const auto& other = b[static_cast<std::size_t>(k)];
      if (a[i] && other) pairs.add(*a[i], *other);
    }
    all.push_back({first_offset + static_cast<double>(shift) * length, pairs.agreement()});
  }
  std::vector<Candidate> result;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const bool above_left = i == 0 || all[i].fit > all[i - 1].fit;
    const bool above_right = i + 1 == all.size() || all[i].fit >= all[i + 1].fit;
    if (above_left && above_right) result.push_back(all[i]);
  }
  std::ranges::sort(result, std::greater{}, &Candidate::fit);
  if (result.size() > 6) result.resize(6);
  return result;
}

// How far from the best offset the two logs still fit nearly as well.
double width_of(const Logs& logs, const Clock& clock) {
  const double best = fit(logs, clock, &Pairs::correlation);
  const double most = duration(logs.readings) / 4.0;
  for (double away = logs.finest(); away < most; away *= 1.5) {
    double nearest = 0.0;
    for (const double by : {-away, away}) {
      auto moved = clock;
      moved.offset += by;
      nearest = std::max(nearest, fit(logs, moved, &Pairs::correlation));
    }
    if (1.0 - nearest > 1.5 * (1.0 - best) + 1e-6) return away;
  }
  return most;
}

// Sets the offset of a clock whose drift is known, and says within what.
double find_offset(const Logs& logs, Clock& clock) {
  const double length = logs.longest() / cells;
  std::vector<Candidate> tops;
  for (const auto& candidate : coarse(logs, length)) {
    clock.offset = candidate.offset;
    tops.push_back(climb(logs, clock, length, &Pairs::agreement));
  }
  std::ranges::sort(tops, std::greater{}, &Candidate::fit);
  if (tops.empty() || tops.front().fit < well_agreed) {
    throw DataError(fmt::format(
        "the two logs do not tell how far their clocks are apart: at best their values agree by "
        "{:.2f} of 1, and {:.2f} are needed",
        tops.empty() ? 0.0 : std::max(tops.front().fit, 0.0), well_agreed));
  }
  const auto best = tops.front();
  clock.offset = best.offset;
  clock.offset = climb(logs, clock, length, &Pairs::correlation).offset;
  const double within = std::max(logs.unseen(), width_of(logs, clock));
  for (const auto& other : tops) {
    const bool elsewhere = std::abs(other.offset - best.offset) > 4.0 * std::max(length, within);
    if (elsewhere && 1.0 - other.fit < 3.0 * (1.0 - best.fit) + 1e-3) {
      throw DataError(
          fmt::format("the two logs fit as well with the meter's clock {:.6g} s ahead as {:.6g} s",
                      best.offset, other.offset));
    }
  }
  if (within > 0.05 * duration(logs.readings)) {
    throw DataError(
        fmt::format("the two logs fit over {:.3g} s of offsets: without a step they do not tell "
                    "how far their clocks are apart",
                    2.0 * within));
  }
  return within;
}

// Sets the drift by what the two halves of the readings say of the offset, and returns within what
// the offset is known then. A drift that is too small to be told leaves the ends of the logs that
// much apart.
double find_drift(const Logs& logs, double within, Clock& clock) {
  const auto half = logs.readings.size() / 2;
  auto first = logs, second = logs;
  first.readings = logs.readings.first(half);
  second.readings = logs.readings.subspan(half);
  const auto middle = [](Log log) { return (log.front().time + log.back().time) / 2.0; };
  const double between_them = middle(second.readings) - middle(first.readings);
  const auto at_first = climb(first, clock, 2.0 * within, &Pairs::correlation);
  const auto at_second = climb(second, clock, 2.0 * within, &Pairs::correlation);
  const double moved = at_second.offset - at_first.offset;
  const bool tells = std::min(at_first.fit, at_second.fit) >= well_agreed && between_them > 0.0 &&
                     std::abs(moved) > 2.0 * logs.unseen();
  if (!tells) return within + logs.unseen();
  auto drifting = clock;
  drifting.drift = moved / between_them;
  drifting.offset = at_first.offset - drifting.drift * (middle(first.readings) - clock.from);
  const auto best = climb(logs, drifting, within, &Pairs::correlation);
  if (best.fit <= fit(logs, clock, &Pairs::correlation)) return within + logs.unseen();
  drifting.offset = best.offset;
  clock = drifting;
  return std::max(logs.unseen(), width_of(logs, clock)) + logs.unseen();
}

// From when to when the meter is at rest.
struct Rest {
  double from, to;
};

// The rest that each value of the meter is one of: all of it are within `most` of its first value.
std::vector<Rest> rests(Log meter, double most) {
  std::vector<Rest> result;
  std::size_t first = 0;
  for (std::size_t i = 0; i < meter.size(); ++i) {
    const bool last = i + 1 == meter.size();
    if (!last && std::abs(meter[i + 1].value - meter[first].value) <= most) continue;
    result.resize(i + 1, {meter[first].time, meter[i].time});
    first = i + 1;
  }
  return result;
}

}  // namespace

Join join(const std::vector<Logged>& readings, const std::vector<Logged>& meter,
          const JoinRequest& request) {
  check(readings, "the log of the readings");
  check(meter, "the log of the meter");
  const Logs logs{.readings = readings,
                  .meter = meter,
                  .of_readings = usual_distance(readings),
                  .of_meter = usual_distance(meter)};
  Join result{.rest =
                  request.rest.value_or(std::max(2.0 * request.place, 6.0 * usual_change(meter)))};
  Clock clock{.from = readings.front().time, .drift = request.drift.value_or(0.0)};
  if (request.offset) {
    clock.offset = *request.offset;
  } else {
    result.within = find_offset(logs, clock);
    if (!request.drift) result.within = find_drift(logs, result.within, clock);
  }
  result.offset = clock.offset;
  result.drift = clock.drift;
  const auto at_rest = rests(meter, result.rest);
  const double gap = 3.0 * logs.of_meter;
  for (const auto& reading : readings) {
    const double time = clock(reading.time);
    const auto after = behind(meter, time);
    auto& value = result.values.emplace_back();
    if (after == 0 || after == meter.size()) {
      ++result.outside;
    } else if (meter[after].time - meter[after - 1].time > gap) {
      ++result.in_gaps;
    } else if (const auto& rest = at_rest[after];
               time < rest.from + request.settling + result.within ||
               time > rest.to - result.within) {
      ++result.moving;
    } else {
      value = between(meter, after, time);
    }
  }
  return result;
}

}  // namespace tamlo::meter
