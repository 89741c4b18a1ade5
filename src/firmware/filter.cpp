// SPDX-License-Identifier: Apache-2.0
// Average and filter in integers.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/chain/chain.hpp"
#include "tamlo/firmware/plan.hpp"

namespace tamlo::firmware {
namespace {

using Kind = FilterStage::Kind;

constexpr int most_bits = 30;            // of a value between two stages
constexpr int most_wide_bits = 62;       // of a sum in a word of 64 bits
constexpr double most_rounding = 0.125;  // register values, of one stage
constexpr double most_if_short = 1.0;    // the same, where the word is too short for that

double absolute_sum(const std::vector<double>& response) {
  double sum = 0.0;
  for (const double h : response) sum += std::abs(h);
  return sum;
}

int bits_of(double largest) { return static_cast<int>(std::floor(std::log2(largest))) + 1; }

// Bits behind the point, so that `rounded` units of the last place stay small.
int fraction_for(double rounded, double gain) {
  return std::max(0, static_cast<int>(std::ceil(std::log2(rounded / (most_rounding * gain)))));
}

// What comes into a stage: numbers to a register value, and the largest of them.
struct Entering {
  double gain = 1.0, largest = 1.0;

  bool fits(int fraction, double over) const {
    return bits_of(std::ldexp(largest * over, fraction)) <= most_bits;
  }
};

// The stage as its integers compute it, apart from rounding.
model::PreparedFilter made_of(const FilterStage& stage) {
  const auto scaled = [](std::int64_t value, int shift) {
    return std::ldexp(static_cast<double>(value), -shift);
  };
  if (stage.kind == Kind::exponential) {
    const double weight = scaled(stage.weight, stage.weight_shift);
    return {.sections = {{.b0 = weight, .a1 = weight - 1.0}}};
  }
  if (stage.kind == Kind::section) {
    const auto& s = stage.section;
    const auto real = [&](std::int64_t value) { return scaled(value, coefficient_shift); };
    return {.sections = {{.b0 = real(s.b0),
                          .b1 = real(s.b1),
                          .b2 = real(s.b2),
                          .a1 = real(s.a1),
                          .a2 = real(s.a2)}}};
  }
  model::PreparedFilter result{.taps = {}};
  for (const auto tap : stage.taps)
    result.taps.push_back(scaled(tap, stage.fraction + stage.reduce));
  return result;
}

// How far over its input a stage can go, and how far it passes on what came before it.
double overshoot(const FilterStage& stage) {
  double sum = 1.0;
  if (stage.kind == Kind::section) {
    sum = absolute_sum(chain::impulse_response(made_of(stage)));
  }
  if (stage.kind == Kind::taps) {
    double all = 0.0, sizes = 0.0;
    for (const auto tap : stage.taps) {
      all += static_cast<double>(tap);
      sizes += std::abs(static_cast<double>(tap));
    }
    sum = sizes / all;
  }
  return std::max(1.0, sum);
}

// Bits behind the point of a stage with feedback that rounds by so many units in all, or by
// `with_rest` where what a step drops is kept for the next, as where the word is too short else.
void set_fraction(FilterStage& stage, double rounded, double with_rest, const Entering& in) {
  const double over = overshoot(stage);
  stage.fraction = fraction_for(rounded, in.gain);
  stage.keeps_rest = !in.fits(stage.fraction, over);
  if (stage.keeps_rest) stage.fraction = fraction_for(with_rest, in.gain);
  while (stage.fraction > 0 && !in.fits(stage.fraction, over) &&
         with_rest <= most_if_short * in.gain * std::ldexp(0.5, stage.fraction)) {
    --stage.fraction;
  }
  stage.gain = std::ldexp(1.0, stage.fraction);
  stage.rounding = (stage.keeps_rest ? with_rest : rounded) / (in.gain * stage.gain);
}

// The nearest weight / 2^shift within 0.1 %, by the smallest shift.
void set_weight(FilterStage& stage, double weight) {
  for (int shift = 0; shift <= 15; ++shift) {
    stage.weight_shift = shift;
    stage.weight = std::max<std::int64_t>(1, std::llround(std::ldexp(weight, shift)));
    const double made = std::ldexp(static_cast<double>(stage.weight), -shift);
    if (std::abs(made - weight) <= 1e-3 * weight) return;
  }
}

// y += (x - y) weight, rounded: it stops where (x - y) weight is less than a half, and rounding may
// hold it off by as much at any time. With the rest of each step it is off by one unit: half of
// the sizes 1, w, w (1 - w), ... of what follows a rounding.
FilterStage exponential(const model::PreparedFilter& source, const Entering& in) {
  FilterStage stage{.kind = Kind::exponential, .name = source.name};
  set_weight(stage, source.sections.front().b0);
  const double rounded = std::ldexp(0.5, stage.weight_shift) / static_cast<double>(stage.weight);
  set_fraction(stage, rounded, 1.0, in);
  return stage;
}

std::int64_t coefficient(double value) {
  return std::llround(std::ldexp(value, coefficient_shift));
}

// A section whose sum of coefficients is exact, so that a steady input comes out as it went in.
FilterStage section(const model::Section& source, const std::string& name, const Entering& in) {
  FilterStage stage{.kind = Kind::section, .name = name};
  auto& s = stage.section;
  const std::int64_t one = std::int64_t{1} << coefficient_shift;
  s.a1 = coefficient(source.a1);
  s.a2 = coefficient(source.a2);
  s.b0 = coefficient(source.b0);
  s.b2 = coefficient(source.b2);
  s.b1 = one + s.a1 + s.a2 - s.b0 - s.b2;
  if (!(std::abs(s.a2) < one && std::abs(s.a1) < one + s.a2)) {
    throw FirmwareError(
        fmt::format("{}: in integers it would not be stable; take a higher cutoff", name));
  }
  // What is rounded goes round the feedback: half a unit times the sum of |1 / A|; of
  // |(1 - 1/z)^2 / A| where the rests of two steps are kept.
  const auto round = [&](double b1, double b2) {
    const model::PreparedFilter feedback{
        .sections = {{.b0 = 1.0, .b1 = b1, .b2 = b2, .a1 = source.a1, .a2 = source.a2}}};
    return 0.5 * absolute_sum(chain::impulse_response(feedback));
  };
  set_fraction(stage, round(0.0, 0.0), round(-2.0, 1.0), in);
  return stage;
}

// Taps that are exact in a few bits stay so and add no rounding; others have 15 bits.
FilterStage taps(const model::PreparedFilter& source, const Entering& in) {
  FilterStage stage{
      .kind = Kind::taps, .name = source.name, .length = static_cast<int>(source.taps.size())};
  int shift = 0;
  const auto exact = [&] {
    return std::ranges::all_of(source.taps, [&](double tap) {
      const double scaled = std::ldexp(tap, shift);
      return std::abs(scaled - std::round(scaled)) < 1e-9;
    });
  };
  while (shift < 15 && !exact()) ++shift;
  std::int64_t left = std::int64_t{1} << shift;
  for (const double tap : source.taps) {
    stage.taps.push_back(std::llround(std::ldexp(tap, shift)));
    left -= stage.taps.back();
  }
  *std::ranges::max_element(stage.taps) += left;  // the sum is exact
  const bool kept = exact() && shift <= 8;
  stage.fraction = kept ? shift : std::min(shift, fraction_for(0.5, in.gain));
  stage.reduce = shift - stage.fraction;
  stage.gain = std::ldexp(1.0, stage.fraction);
  if (stage.reduce > 0) stage.rounding = 0.5 / (in.gain * stage.gain);
  return stage;
}

// How far the answers of two stages to a single 1 lie apart, summed over time.
double apart(const model::PreparedFilter& one, const model::PreparedFilter& other) {
  auto first = chain::impulse_response(one), second = chain::impulse_response(other);
  const auto longer = std::max(first.size(), second.size());
  first.resize(longer);
  second.resize(longer);
  double sum = 0.0;
  for (std::size_t i = 0; i < longer; ++i) sum += std::abs(first[i] - second[i]);
  return sum;
}

// An answer whose differences sum to zero is off by half of their sizes times the range at most.
FilterStage with_transient(FilterStage stage, const model::PreparedFilter& exact) {
  stage.transient = 0.5 * apart(exact, made_of(stage));
  return stage;
}

// Sections in series, one by one: what really comes into each is known once those before it are
// made.
std::vector<model::PreparedFilter> parts_of(const model::PreparedFilter& stage) {
  if (stage.sections.size() < 2) return {stage};
  std::vector<model::PreparedFilter> result(stage.sections.size(), stage);
  for (std::size_t i = 0; i < result.size(); ++i) result[i].sections = {stage.sections[i]};
  return result;
}

FilterStage stage_of(const model::PreparedFilter& part, const Entering& in) {
  if (part.median > 0) {
    return {.kind = Kind::median, .name = part.name, .length = part.median};
  }
  if (!part.averages.empty()) {
    const int length = part.averages.front(), order = static_cast<int>(part.averages.size());
    const auto kind = order > 1             ? Kind::cascade
                      : part.decimation > 1 ? Kind::sum
                                            : Kind::running_sum;
    return {.kind = kind,
            .name = part.name,
            .length = length,
            .order = order,
            .decimation = part.decimation,
            .gain = std::pow(length, order)};
  }
  if (part.taps.size() > 1) return with_transient(taps(part, in), {.taps = part.taps});
  const auto& s = part.sections.front();
  const bool first_order = s.b1 == 0.0 && s.b2 == 0.0 && s.a2 == 0.0 && s.a1 == s.b0 - 1.0;
  return with_transient(first_order ? exponential(part, in) : section(s, part.name, in),
                        {.sections = {s}});
}

// Stages with feedback take an undershoot below the first register value as it is; before others,
// and in the reading, it becomes 0. Of a stage inside the series that is an error while the input
// moves: half of what its answer sums to beyond 1, times the range.
void hand_on_undershoots(IntegerFilter& filter, double range) {
  const auto has_feedback = [](const FilterStage& stage) {
    return stage.kind == Kind::section || stage.kind == Kind::exponential;
  };
  bool negative = false;
  double below = 0.0;  // largest undershoot, in register values
  for (std::size_t i = 0; i < filter.stages.size(); ++i) {
    auto& stage = filter.stages[i];
    const bool last = i + 1 == filter.stages.size();
    const double over = overshoot(stage);
    below = over * below + (over - 1.0) / 2.0 * range;
    negative = negative || stage.kind == Kind::section;
    stage.keeps_sign = negative && !last && has_feedback(filter.stages[i + 1]);
    stage.holds_zero = negative && !stage.keeps_sign;
    const bool cuts = !last && !stage.keeps_sign && below > 0.0;
    if (cuts) filter.transient += below;
    if (!stage.keeps_sign) negative = false, below = 0.0;
  }
}

[[noreturn]] void refuse(const FilterStage& stage, double largest, int allowed) {
  throw FirmwareError(fmt::format(
      "{}: its values need {} bits, and {} are kept; average less, or decimate in two stages",
      stage.name, bits_of(largest), allowed));
}

}  // namespace

IntegerFilter integer_filter(const chain::Chain& chain) {
  IntegerFilter filter{.settling = chain.firmware.settling_readings,
                       .decimation = chain::decimation(chain.firmware.digital)};
  const auto first = static_cast<double>(chain.report.first_reported);
  const double range = static_cast<double>(chain.report.last_reported) - first;
  const int register_bits = bits_of(range);
  // Beyond this the last bits are worth nothing: less than the register values' own.
  const int enough = std::max(20, register_bits + 4);
  double largest = range;
  for (const auto& each : chain.firmware.digital.stages) {
    for (const auto& part : parts_of(each)) {
      auto stage = stage_of(part, {.gain = filter.per_code, .largest = largest});
      stage.in_bits = bits_of(largest);
      const double over = overshoot(stage);
      filter.rounding = filter.rounding * over + stage.rounding;
      stage.transient *= largest / filter.per_code;
      filter.transient = filter.transient * over + stage.transient;
      largest *= stage.gain * over;
      filter.per_code *= stage.gain;
      const bool sums =
          stage.kind == Kind::sum || stage.kind == Kind::running_sum || stage.kind == Kind::cascade;
      const int allowed = sums ? most_wide_bits : most_bits;
      if (bits_of(largest) > allowed) refuse(stage, largest, allowed);
      stage.wide = bits_of(largest) > most_bits;
      const bool drops = stage.kind != Kind::taps && stage.kind != Kind::median;
      while (drops && bits_of(largest) > enough) {
        const double next = filter.per_code / 2.0;
        if (first * next != std::floor(first * next)) break;
        ++stage.reduce;
        largest /= 2.0;
        filter.per_code = next;
      }
      if (drops && stage.reduce > 0) {
        stage.rounding += 0.5 / filter.per_code;
        filter.rounding += 0.5 / filter.per_code;
      }
      stage.out_bits = bits_of(largest);
      if (stage.out_bits > most_bits) refuse(stage, largest, most_bits);
      filter.stages.push_back(std::move(stage));
    }
  }
  filter.bits = bits_of(largest);
  hand_on_undershoots(filter, range);
  return filter;
}

}  // namespace tamlo::firmware
