// SPDX-License-Identifier: Apache-2.0
// Straight lines that follow a curve: around it, not on it.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>
#include <optional>

#include "tamlo/firmware/arithmetic.hpp"
#include "tamlo/math/detail/search.hpp"

namespace tamlo::firmware {
namespace {

constexpr std::size_t most_pieces = 1024;

int bits_for(std::int64_t value) { return value < 256 ? 8 : value < 65536 ? 16 : 32; }
int signed_bits_for(std::int64_t size) { return size < 128 ? 8 : size < 32768 ? 16 : 32; }

// The grid on which the lines lie, and what each number may become: whole counts above the base.
struct Grid {
  const Wanted& wanted;
  double allowed;
  std::int64_t base = 0;
  int shift = 0, add_shift = 0, bits = 32;
  std::int64_t most_multiply = 32767;
  int direction = 0;  // 1 where the counts never fall, -1 where they never rise
  std::vector<std::int64_t> low{}, high{};  // by place in `wanted`

  std::int64_t number(std::size_t i) const {
    return std::min(wanted.first + static_cast<std::int64_t>(i) * wanted.stride, wanted.last);
  }
};

// What the places of a piece may become beside the piece before it: readings that follow a rising
// curve never fall, not even at a joint.
struct Neighbour {
  std::int64_t least = std::numeric_limits<std::int64_t>::min();
  std::int64_t most = std::numeric_limits<std::int64_t>::max();
};
Neighbour behind(const Grid& grid, const model::IntegerLine& line, std::int64_t next) {
  const auto end = (line.multiply * (next - 1 - line.from) + line.add) >> grid.shift;
  if (grid.direction > 0) return {.least = end};
  if (grid.direction < 0) return {.most = end};
  return {};
}

// The offsets that a multiplier leaves: none where low > high.
struct Offsets {
  std::int64_t low = 0, high = std::numeric_limits<std::int64_t>::max();
  std::int64_t room() const { return high - low; }
};

struct Point {
  std::int64_t x = 0, y = 0;
};

// Of points that come from left to right, those that a line above them all can touch: the others
// lie on or below a line between two of these.
class Hull {
 public:
  void add(Point next) {
    while (corners_.size() > 1 && !turns_down(corners_.end()[-2], corners_.back(), next)) {
      corners_.pop_back();
    }
    corners_.push_back(next);
  }
  const std::vector<Point>& corners() const { return corners_; }

 private:
  __extension__ using Wide = __int128;
  static bool turns_down(Point a, Point b, Point c) {
    return Wide{b.y - a.y} * (c.x - b.x) > Wide{c.y - b.y} * (b.x - a.x);
  }
  std::vector<Point> corners_{};
};

// What a line over the places [from(), to()) must pass between; x counts from the first of them.
class Passage {
 public:
  Passage(const Grid& grid, const Neighbour& before, std::size_t from, std::size_t to)
      : grid_(&grid), before_(before), from_(from), to_(from) {
    extend(to);
  }
  void extend(std::size_t to) {
    for (; to_ < to; ++to_) {
      const auto x = grid_->number(to_) - grid_->number(from_);
      floor_.add({x, low(to_) << grid_->shift});
      ceiling_.add({x, -(((high(to_) + 1) << grid_->shift) - 1)});
    }
  }
  std::int64_t low(std::size_t i) const { return std::max(grid_->low[i], before_.least); }
  std::int64_t high(std::size_t i) const { return std::min(grid_->high[i], before_.most); }
  const Grid& grid() const { return *grid_; }
  std::size_t from() const { return from_; }
  std::size_t to() const { return to_; }
  Offsets offsets(std::int64_t multiply) const {
    Offsets result;
    for (const auto& at : floor_.corners()) {
      result.low = std::max(result.low, at.y - multiply * at.x);
    }
    for (const auto& at : ceiling_.corners()) {
      result.high = std::min(result.high, -at.y - multiply * at.x);
    }
    return result;
  }

 private:
  const Grid* grid_;
  Neighbour before_;
  std::size_t from_, to_;
  Hull floor_{}, ceiling_{};
};

// The line with the most room; none where no line passes all places. The room is concave in the
// multiplier.
std::optional<model::IntegerLine> line_over(const Passage& passage) {
  const auto& grid = passage.grid();
  const auto from = passage.from(), to = passage.to();
  std::int64_t low = 0, high = 0;
  if (to - from > 1) {
    // A line that passes both ends has about the slope between them.
    const auto length = static_cast<double>(grid.number(to - 1) - grid.number(from));
    const auto slope = [&](std::int64_t rise) {
      return std::ldexp(static_cast<double>(rise), grid.shift) / length;
    };
    const auto most = static_cast<double>(grid.most_multiply);
    const double least = slope(passage.low(to - 1) - passage.high(from) - 1);
    const double greatest = slope(passage.high(to - 1) + 1 - passage.low(from));
    low = static_cast<std::int64_t>(std::floor(std::clamp(least, -most, most)));
    high = static_cast<std::int64_t>(std::ceil(std::clamp(greatest, -most, most)));
    if (grid.direction > 0) low = std::max<std::int64_t>(0, low), high = std::max(low, high);
    if (grid.direction < 0) high = std::min<std::int64_t>(0, high), low = std::min(low, high);
  }
  low = math::first_that(low, high, [&](std::int64_t multiply) {
    return passage.offsets(multiply).room() >= passage.offsets(multiply + 1).room();
  });
  const auto room = passage.offsets(low);
  const std::int64_t step = std::int64_t{1} << grid.add_shift;
  if (room.low > room.high) return {};
  auto add = (room.low + room.high) / 2 / step * step;
  if (add < room.low) add += step;
  if (add > room.high) return {};
  const auto end = add + low * (grid.number(to - 1) - grid.number(from));
  const std::int64_t limit = std::int64_t{1} << (grid.bits - 1 < 62 ? grid.bits - 1 : 62);
  if (add >= limit || end >= limit || std::abs(end - add) >= limit) return {};
  return model::IntegerLine{.from = grid.number(from), .multiply = low, .add = add};
}

// Each piece as long as it can be.
std::optional<std::vector<model::IntegerLine>> free_pieces(const Grid& grid, std::size_t most) {
  const auto n = grid.wanted.counts.size();
  std::vector<model::IntegerLine> result;
  // A place behind a piece that the piece after it cannot reach without a step back ends it sooner.
  const auto leads_on = [&](const model::IntegerLine& line, std::size_t to) {
    if (to == n) return true;
    const auto next = behind(grid, line, grid.number(to));
    return next.least <= grid.high[to] && next.most >= grid.low[to];
  };
  for (std::size_t from = 0; from < n;) {
    if (result.size() == most) return {};
    const auto before = from == 0 ? Neighbour{} : behind(grid, result.back(), grid.number(from));
    Passage good(grid, before, from, from + 1);
    std::size_t step = 1, bad = n + 1;
    auto line = line_over(good);
    if (!line) return {};
    const auto try_as_far_as = [&](std::size_t to) {
      auto longer = good;
      longer.extend(to);
      if (const auto found = line_over(longer); found && leads_on(*found, to)) {
        line = found;
        good = std::move(longer);
      } else {
        bad = to;
      }
    };
    for (; good.to() < n && bad > n; step *= 2) try_as_far_as(std::min(n, good.to() + step));
    while (bad <= n && bad - good.to() > 1) try_as_far_as(good.to() + (bad - good.to()) / 2);
    result.push_back(*line);
    from = good.to();
  }
  return result;
}

std::optional<std::vector<model::IntegerLine>> even_pieces(const Grid& grid, int width_shift) {
  const std::int64_t width = std::int64_t{1} << width_shift;
  if (width < grid.wanted.stride) return {};
  const auto n = grid.wanted.counts.size();
  const auto places = static_cast<std::size_t>(width / grid.wanted.stride);
  std::vector<model::IntegerLine> result;
  for (std::size_t from = 0; from < n; from += places) {
    const auto before = from == 0 ? Neighbour{} : behind(grid, result.back(), grid.number(from));
    const auto line = line_over(Passage(grid, before, from, std::min(n, from + places)));
    if (!line) return {};
    result.push_back(*line);
  }
  return result;
}

Grid grid_of(const Wanted& wanted, double allowed) {
  Grid grid{.wanted = wanted, .allowed = allowed};
  const double lowest = *std::ranges::min_element(wanted.counts);
  grid.base = lowest - allowed >= 0.0 ? 0 : static_cast<std::int64_t>(std::floor(lowest - allowed));
  for (const double counts : wanted.counts) {
    const auto low = static_cast<std::int64_t>(std::ceil(counts - allowed)) - grid.base;
    const auto high = static_cast<std::int64_t>(std::floor(counts + allowed)) - grid.base;
    grid.low.push_back(std::max<std::int64_t>(0, low));
    grid.high.push_back(high);
  }
  if (std::ranges::is_sorted(wanted.counts)) grid.direction = 1;
  if (std::ranges::is_sorted(wanted.counts, std::greater<>{})) grid.direction = -1;
  return grid;
}

// The table's types follow from what stands in it.
Arithmetic arithmetic_of(const Grid& grid, std::vector<model::IntegerLine> lines, int even_shift) {
  Arithmetic result{.form = even_shift > 0 ? Form::even_lines : Form::lines,
                    .bits = grid.bits,
                    .first = grid.wanted.first,
                    .last = grid.wanted.last,
                    .lines = std::move(lines),
                    .shift = grid.shift,
                    .base = grid.base,
                    .even_shift = even_shift,
                    .add_shift = grid.add_shift};
  std::int64_t multiply = 0, add = 0;
  for (const auto& line : result.lines) {
    multiply = std::max(multiply, std::abs(line.multiply));
    add = std::max(add, line.add >> grid.add_shift);
  }
  result.multiply_bits = signed_bits_for(multiply);
  result.add_bits = bits_for(add);
  result.from_bits = even_shift > 0 ? 0 : bits_for(result.last);
  return result;
}

void keep_smaller(std::optional<Arithmetic>& best, Arithmetic candidate) {
  const auto cost = [](const Arithmetic& arithmetic) {
    return std::pair(arithmetic.bits,
                     arithmetic.table_bytes() + (arithmetic.form == Form::lines ? 1 : 0));
  };
  if (!best || cost(candidate) < cost(*best)) best = std::move(candidate);
}

// The steepest line between neighbours, in counts a number.
double steepest(const Wanted& wanted) {
  double result = 0.0;
  for (std::size_t i = 1; i < wanted.counts.size(); ++i) {
    result = std::max(result, std::abs(wanted.counts[i] - wanted.counts[i - 1]));
  }
  return result / static_cast<double>(wanted.stride);
}

}  // namespace

Arithmetic pieces(const Wanted& wanted, double allowed) {
  require(!wanted.counts.empty(), "one number at least");
  if (!(allowed >= 0.5)) {
    throw FirmwareError(fmt::format(
        "an arithmetic error of {:.3g} counts: whole counts alone are up to 0.5 off", allowed));
  }
  auto grid = grid_of(wanted, allowed);
  const auto range = *std::ranges::max_element(grid.high) + 1;
  const double slope = steepest(wanted);
  std::optional<Arithmetic> best;
  for (const int bits : {32, 64}) {
    grid.bits = bits;
    grid.most_multiply = bits == 32 ? 32767 : std::int64_t{1} << 30;
    for (int shift = 0; shift <= 24; ++shift) {
      const double multiply = std::ldexp(slope, shift);
      const bool fits = std::ldexp(static_cast<double>(range), shift) < std::ldexp(1.0, bits - 1);
      // Coarser multipliers than the finest few that fit only cost pieces.
      if (!fits || multiply > static_cast<double>(grid.most_multiply)) break;
      if (multiply * 16.0 < static_cast<double>(grid.most_multiply) &&
          std::ldexp(static_cast<double>(range), shift + 4) < std::ldexp(1.0, bits - 1) &&
          shift < 20) {
        continue;
      }
      grid.shift = shift;
      grid.add_shift = 0;  // sixteen bits of the table for the offset, if that is enough
      while (grid.add_shift < shift && ((range << shift) >> grid.add_shift) >= 65536) {
        ++grid.add_shift;
      }
      if (((range << shift) >> grid.add_shift) >= 65536) grid.add_shift = 0;
      const auto most = best ? best->lines.size() + best->lines.size() / 2 : most_pieces;
      if (auto lines = free_pieces(grid, most)) {
        keep_smaller(best, arithmetic_of(grid, *std::move(lines), 0));
      }
      for (int width = 20; width >= 1; --width) {
        const auto count = ((wanted.last - wanted.first) >> width) + 1;
        if (count > static_cast<std::int64_t>(most_pieces)) break;
        if (count == 1) continue;  // one line needs no table, and no shift of a whole number
        if (auto lines = even_pieces(grid, width)) {
          keep_smaller(best, arithmetic_of(grid, *std::move(lines), width));
          break;
        }
      }
    }
    if (best) return *best;
  }
  throw FirmwareError(
      fmt::format("an arithmetic error of {:.3g} counts: it takes more than {} pieces, or wider "
                  "words than 64 bits; allow more, or make a count larger",
                  allowed, most_pieces));
}

}  // namespace tamlo::firmware
