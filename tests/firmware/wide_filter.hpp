// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <algorithm>
#include <cstdint>
#include <deque>
#include <vector>

#include "boards.hpp"
#include "tamlo/firmware/plan.hpp"

// Average and filter of a plan once more, in wide integers, from all that came in: what the code in
// C is held to. It shares nothing with it but the numbers of the plan.
namespace tamlo::testing {

__extension__ using Whole = __int128;
constexpr long wide_filter_conversions = 1'000'000 / (fewer * fewer);

inline Whole floor_shift(Whole value, int bits) {
  const Whole divisor = Whole{1} << bits;
  return value >= 0 ? value / divisor : -((-value + divisor - 1) / divisor);
}
inline Whole rounded_shift(Whole value, int bits) {
  return bits == 0 ? value : floor_shift(value + (Whole{1} << (bits - 1)), bits);
}

/// All that comes out of a stage, of all that goes in.
inline std::vector<Whole> through(const firmware::FilterStage& s, const std::vector<Whole>& in) {
  using Kind = firmware::FilterStage::Kind;
  std::vector<Whole> out;
  const auto before = [&](std::size_t i, std::size_t back) {  // the first was always there
    return i >= back ? in[i - back] : in.front();
  };
  const Whole scale = Whole{1} << s.fraction;
  if (s.kind == Kind::sum) {
    for (std::size_t i = 0; i + s.length <= in.size(); i += static_cast<std::size_t>(s.length)) {
      Whole sum = 0;
      for (int k = 0; k < s.length; ++k) sum += in[i + static_cast<std::size_t>(k)];
      out.push_back(rounded_shift(sum, s.reduce));
    }
    return out;
  }
  if (s.kind == Kind::cascade) {  // sums of sums, from nothing before the first
    std::vector<Whole> now = in;
    for (int order = 0; order < s.order; ++order) {
      std::vector<Whole> next(now.size());
      Whole sum = 0;
      for (std::size_t i = 0; i < now.size(); ++i) {
        sum += now[i];
        if (i >= static_cast<std::size_t>(s.length))
          sum -= now[i - static_cast<std::size_t>(s.length)];
        next[i] = sum;
      }
      now = next;
    }
    for (auto i = static_cast<std::size_t>(s.length) - 1; i < now.size();
         i += static_cast<std::size_t>(s.length)) {
      out.push_back(rounded_shift(now[i], s.reduce));
    }
    return out;
  }
  Whole value = in.front() * scale, x1 = value, x2 = value, y1 = value, y2 = value;
  Whole rest = 0, rest_before = 0;  // of what steps dropped
  for (std::size_t i = 0; i < in.size(); ++i) {
    Whole result = 0;
    switch (s.kind) {
      case Kind::running_sum:
        for (int k = 0; k < s.length; ++k) result += before(i, static_cast<std::size_t>(k));
        break;
      case Kind::exponential:
        if (s.keeps_rest) {
          const Whole step = (in[i] * scale - value) * s.weight + rest;
          const Whole whole = floor_shift(step, s.weight_shift);
          rest = step - (whole << s.weight_shift);
          value += whole;
        } else {
          value += rounded_shift((in[i] * scale - value) * s.weight, s.weight_shift);
        }
        result = value;
        break;
      case Kind::median: {
        std::vector<Whole> last;
        for (int k = 0; k < s.length; ++k) last.push_back(before(i, static_cast<std::size_t>(k)));
        std::ranges::sort(last);
        result = last[last.size() / 2];
        break;
      }
      case Kind::section: {
        const Whole x = in[i] * scale;
        const auto& c = s.section;
        const Whole exact = x * c.b0 + x1 * c.b1 + x2 * c.b2 - y1 * c.a1 - y2 * c.a2;
        const Whole shaped = exact + 2 * rest - rest_before;
        const Whole y = s.keeps_rest ? floor_shift(shaped, firmware::coefficient_shift)
                                     : rounded_shift(exact, firmware::coefficient_shift);
        rest_before = rest;
        rest = s.keeps_rest ? shaped - (y << firmware::coefficient_shift) : 0;
        x2 = x1;
        x1 = x;
        y2 = y1;
        y1 = y;
        result = y;
        break;
      }
      default:
        for (std::size_t k = 0; k < s.taps.size(); ++k) result += s.taps[k] * before(i, k);
        result = std::max<Whole>(0, rounded_shift(result, s.reduce));
        out.push_back(result);
        continue;
    }
    if (s.holds_zero) result = std::max<Whole>(0, result);
    out.push_back(rounded_shift(result, s.reduce));
  }
  return out;
}

/// The readings that come out for a million codes of the generator that the test's program has.
inline std::vector<std::int32_t> wide_filter(const firmware::Plan& plan) {
  std::vector<Whole> values;
  std::uint32_t state = 1;
  const auto range = static_cast<std::uint32_t>(plan.last_reported - plan.first_reported + 1);
  for (long i = 0; i < wide_filter_conversions; ++i) {
    state = state * 1664525U + 1013904223U;
    values.push_back((state >> 4) % range);
  }
  bool overshoots = false;
  for (const auto& stage : plan.filter.stages) {
    values = through(stage, values);
    overshoots = overshoots || stage.kind == firmware::FilterStage::Kind::section ||
                 stage.kind == firmware::FilterStage::Kind::taps;
  }
  const auto first = static_cast<double>(plan.first_reported) * plan.filter.per_code;
  const auto last = static_cast<double>(plan.last_reported) * plan.filter.per_code - first;
  std::vector<std::int32_t> result;
  for (auto i = static_cast<std::size_t>(plan.filter.settling) - 1; i < values.size(); ++i) {
    auto value = static_cast<std::int64_t>(values[i]);
    if (overshoots) value = std::min(value, static_cast<std::int64_t>(last));
    result.push_back(static_cast<std::int32_t>(
        plan.arithmetic.evaluate(value + static_cast<std::int64_t>(first))));
  }
  return result;
}

}  // namespace tamlo::testing
