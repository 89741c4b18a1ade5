// SPDX-License-Identifier: Apache-2.0
// One multiplication, one addition, one shift.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "tamlo/firmware/arithmetic.hpp"
#include "tamlo/math/detail/search.hpp"

namespace tamlo::firmware {
namespace {

struct Line {
  double slope = 0.0, start = 0.0;  // counts a number, counts at the first
  double numbers = 0.0;             // from the first to the last
  double base = 0.0;
};

Line line_of(const Wanted& wanted) {
  Line line;
  line.numbers = static_cast<double>(wanted.last - wanted.first);
  line.start = wanted.counts.front();
  line.slope =
      line.numbers > 0.0 ? (wanted.counts.back() - wanted.counts.front()) / line.numbers : 0.0;
  const double lowest = std::min(wanted.counts.front(), wanted.counts.back());
  line.base = lowest >= 0.0 ? 0.0 : std::floor(lowest) - 1.0;
  return line;
}

// Multiplier and offset at one shift, and the largest error in real numbers; none where the word
// cannot hold a product. The offset centres what the multiplier is off and what the shift drops.
struct Candidate {
  double multiply, add, error;
};
std::optional<Candidate> at_shift(const Line& line, int shift, int bits) {
  const double scale = std::ldexp(1.0, shift), limit = std::ldexp(1.0, std::min(bits, 62));
  Candidate result{.multiply = std::round(line.slope * scale), .add = 0.0, .error = 0.0};
  const double off = (result.multiply / scale - line.slope) * line.numbers;
  const double dropped = 1.0 - 1.0 / scale;
  const double exact = (line.start - line.base - off / 2.0 + dropped / 2.0) * scale;
  result.add = std::max(0.0, std::round(exact));
  if (result.multiply < 0.0) {
    result.add = std::max(result.add, -result.multiply * line.numbers);
  }
  const double last = result.multiply * line.numbers + result.add;
  const bool fits = result.add < limit && last >= 0.0 && last < limit &&
                    std::abs(result.multiply) * line.numbers < limit;
  if (!fits || (result.multiply == 0.0 && line.slope != 0.0 && shift > 0)) return {};
  result.error = std::abs(off) / 2.0 + dropped / 2.0 + std::abs(result.add - exact) / scale;
  return result;
}

Arithmetic arithmetic_of(const Wanted& wanted, const Line& line, const Candidate& candidate,
                         int shift, int bits) {
  return {.bits = bits,
          .first = wanted.first,
          .last = wanted.last,
          .lines = {{.from = wanted.first,
                     .multiply = static_cast<std::int64_t>(candidate.multiply),
                     .add = static_cast<std::int64_t>(candidate.add)}},
          .shift = shift,
          .base = static_cast<std::int64_t>(line.base)};
}

// The offset of least error for a multiplier, by halving what is allowed until no offset is left:
// each number bounds it from below and from above.
std::optional<Candidate> best_offset(const Wanted& wanted, const Line& line, std::int64_t multiply,
                                     int shift, int bits) {
  const auto limit = std::int64_t{1} << bits;
  const auto last = multiply * (wanted.last - wanted.first);
  const auto offset = [&](double allowed) -> std::optional<std::int64_t> {
    std::int64_t low = std::max<std::int64_t>(0, -last),
                 high = limit - 1 - std::max<std::int64_t>(0, last);
    for (std::size_t i = 0; i < wanted.counts.size() && low <= high; ++i) {
      const auto product = multiply * static_cast<std::int64_t>(i) * wanted.stride;
      const double counts = wanted.counts[i] - line.base;
      const auto least = static_cast<std::int64_t>(std::ceil(counts - allowed));
      const auto greatest = static_cast<std::int64_t>(std::floor(counts + allowed));
      low = std::max(low, least * (std::int64_t{1} << shift) - product);
      high = std::min(high, (greatest + 1) * (std::int64_t{1} << shift) - 1 - product);
    }
    return low <= high ? std::optional(low + (high - low) / 2) : std::nullopt;
  };
  constexpr double most = 4.0;
  auto add = offset(most);
  if (!add) return {};
  const double allowed = math::bisect(0.0, most, 30, [&](double error) {
                           const auto at = offset(error);
                           if (at) add = at;
                           return !at;
                         }).high;
  return Candidate{.multiply = static_cast<double>(multiply),
                   .add = static_cast<double>(*add),
                   .error = allowed};
}

// In a narrow word a multiplier is coarse, and its neighbours may do better: all are tried.
std::optional<Arithmetic> in_16_bits(const Wanted& wanted, const Line& line) {
  std::optional<Arithmetic> best;
  double least = 0.0;
  if (line.numbers > 65535.0) return best;
  for (int shift = 0; shift <= 14; ++shift) {
    const auto near = std::llround(std::ldexp(line.slope, shift));
    if (static_cast<double>(std::abs(near)) * line.numbers >= 131072.0) break;
    for (auto m = near - 1; m <= near + 1; ++m) {
      const auto candidate = best_offset(wanted, line, m, shift, 16);
      if (!candidate || (best && candidate->error >= least - 1e-9)) continue;
      least = candidate->error;
      best = arithmetic_of(wanted, line, *candidate, shift, 16);
    }
  }
  return best;
}

}  // namespace

Arithmetic straight(const Wanted& wanted, double allowed) {
  require(wanted.counts.size() >= 2 && wanted.last > wanted.first, "two numbers at least");
  const auto line = line_of(wanted);
  if (const auto narrow = in_16_bits(wanted, line)) {
    if (worst(*narrow, wanted).error <= allowed) return *narrow;
  }
  std::optional<Arithmetic> best;
  double best_error = 0.0;
  for (const int bits : {32, 64}) {
    // Beyond 50 bits a double no longer tells one multiplier from the next.
    for (int shift = 0; shift <= std::min(bits - 2, 50); ++shift) {
      const auto candidate = at_shift(line, shift, bits);
      if (!candidate || std::abs(candidate->multiply) >= std::ldexp(1.0, 53)) continue;
      if (best && candidate->error >= best_error - 1e-12) continue;
      best_error = candidate->error;
      best = arithmetic_of(wanted, line, *candidate, shift, bits);
    }
    if (best && worst(*best, wanted).error <= allowed) return *best;
  }
  throw FirmwareError(fmt::format(
      "an arithmetic error of {:.3g} counts: the best that a word of 64 bits can do is {:.3g}",
      allowed, best ? worst(*best, wanted).error : HUGE_VAL));
}

}  // namespace tamlo::firmware
