// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/register_format.hpp"
#include "tamlo/math/detail/search.hpp"

#include <algorithm>
#include <cmath>

namespace tamlo::chain {
namespace {

using Way = model::RegisterFormat::Kind;

std::int64_t replicated(std::int64_t code, int from, int to) {
  // The word is filled from the top with the code again and again. A negative code is one of
  // two's complement, whose bits are those of the word.
  const std::int64_t mask = (std::int64_t{1} << from) - 1;
  const std::int64_t bits = code & mask;
  std::int64_t word = 0;
  for (int room = to; room > 0; room -= from) {
    word |= room >= from ? bits << (room - from) : bits >> (from - room);
  }
  return code < 0 ? word - (std::int64_t{1} << to) : word;
}

int bits_of(const RegisterFormat& law) {
  int bits = 1;
  while ((std::int64_t{1} << bits) <= law.last_in - law.first_in) ++bits;
  return bits;
}

// What the firmware takes one code for, in counts.
double counts_per_code(const RegisterFormat& law) {
  const auto& reporting = law.reporting;
  switch (reporting.kind) {
    case Way::plain:
      return 1.0;
    case Way::shifted:
    case Way::replicated:
      return std::ldexp(1.0, reporting.bits - bits_of(law));
    case Way::dropped:
      return std::ldexp(1.0, -reporting.bits);
    case Way::divided:
      return 1.0 / static_cast<double>(reporting.divisor);
    case Way::counts:
      return law.counts_per;
  }
  return 1.0;
}

// This format alone.
std::int64_t formatted(const RegisterFormat& law, std::int64_t code) {
  const auto& reporting = law.reporting;
  switch (reporting.kind) {
    case Way::plain:
      return code;
    case Way::shifted:
      return code * (std::int64_t{1} << (reporting.bits - bits_of(law)));
    case Way::replicated:
      return replicated(code, bits_of(law), reporting.bits);
    case Way::dropped:
      return code >> reporting.bits;
    case Way::divided:
      return code / reporting.divisor;
    case Way::counts: {
      const double count = static_cast<double>(reporting.at_low) +
                           (static_cast<double>(code) - law.counts_low) * law.counts_per;
      return std::clamp(static_cast<std::int64_t>(std::floor(count + 0.5)), reporting.least,
                        reporting.most);
    }
  }
  return code;
}

// Counts to a code of the straight line that it follows on the whole.
double slope_of(const RegisterFormat& law) {
  if (law.reporting.kind != Way::replicated) return counts_per_code(law);
  return static_cast<double>(formatted(law, law.last_in) - formatted(law, law.first_in)) /
         static_cast<double>(law.last_in - law.first_in);
}

}  // namespace

std::int64_t reported(const RegisterFormat& law, std::int64_t code) {
  for (const auto& before : law.before) code = formatted(before, code);
  return formatted(law, code);
}

bool reports_codes(const RegisterFormat& law) {
  return law.before.empty() && law.reporting.kind == Way::plain;
}
bool reports_shifted(const RegisterFormat& law) {
  return law.before.empty() && law.reporting.kind == Way::shifted;
}

RegisterFormat report_law(const model::RegisterFormat& reporting, int resolution,
                          std::int64_t first, double low_code, double high_code,
                          const std::vector<model::RegisterFormat>& before) {
  RegisterFormat law{.reporting = reporting,
                     .first = first,
                     .last = first + (std::int64_t{1} << resolution) - 1,
                     .low_code = low_code,
                     .high_code = high_code};
  law.first_in = law.first;
  law.last_in = law.last;
  double slope = 1.0;  // of what comes before, counts to a code
  for (const auto& format : before) {
    RegisterFormat register_format{
        .reporting = format, .first_in = law.first_in, .last_in = law.last_in};
    law.per_code *= counts_per_code(register_format);
    slope *= slope_of(register_format);
    law.first_in = formatted(register_format, register_format.first_in);
    law.last_in = formatted(register_format, register_format.last_in);
    law.before.push_back(std::move(register_format));
  }
  // Where the ends of the span lie in what comes before.
  const auto taken_in = [&](double code) {
    return before.empty() ? code
                          : static_cast<double>(law.first_in) +
                                (code - static_cast<double>(law.first)) * slope;
  };
  law.counts_low = taken_in(low_code);
  law.counts_per = static_cast<double>(reporting.at_high - reporting.at_low) /
                   (taken_in(high_code) - law.counts_low);
  law.per_code *= counts_per_code(law);
  law.gain = slope * slope_of(law);
  law.first_reported = reported(law, law.first);
  law.last_reported = reported(law, law.last);
  law.occurring = law.last - law.first + 1;
  if (reports_codes(law) || reports_shifted(law)) return law;
  // Errors from a line that is near already, so that their squares lose nothing in rounding.
  const bool from_first = reporting.kind == Way::replicated || !before.empty();
  const double base = reporting.kind == Way::counts
                          ? static_cast<double>(reporting.at_low) - law.gain * law.low_code
                      : from_first ? static_cast<double>(law.first_reported) -
                                         law.gain * static_cast<double>(law.first)
                                   : 0.0;
  const std::int64_t step = std::max<std::int64_t>(1, (law.last - law.first) >> 24);
  double sum = 0.0, squares = 0.0, count = 0.0;
  std::int64_t different = 0, previous = law.first_reported - 1;
  for (auto code = law.first; code <= law.last; code += step) {
    const auto value = reported(law, code);
    different += value != previous ? 1 : 0;
    previous = value;
    const bool held =
        reporting.kind == Way::counts && (value == reporting.least || value == reporting.most);
    if (held) continue;
    const double line = base + law.gain * static_cast<double>(code);
    const double error = static_cast<double>(value) - line;
    sum += error;
    squares += error * error;
    count += 1.0;
  }
  law.occurring = different;
  law.step = reporting.kind == Way::counts
                 ? std::max(1.0, 1.0 / law.gain)
                 : std::ldexp(1.0, resolution) / static_cast<double>(different);
  if (count == 0.0) return law;
  const double mean = sum / count;
  law.offset = base + mean;
  const double variance = std::max(squares / count - mean * mean, 0.0);
  // Two quantisers in series: their variances add, and 1/12 w^2 is that of one of width w.
  law.width = std::sqrt(1.0 + 12.0 * variance / (law.gain * law.gain));
  return law;
}

bool occurs(const RegisterFormat& law, double value) {
  return value >= static_cast<double>(law.first_reported) &&
         value <= static_cast<double>(law.last_reported) && value == std::floor(value);
}

Codes codes_reported_as(const RegisterFormat& law, std::int64_t value) {
  // Every law rises throughout.
  const auto lowest_at_least = [&](std::int64_t wanted) {
    return math::first_that(law.first, law.last + 1,
                            [&](std::int64_t code) { return reported(law, code) >= wanted; });
  };
  return {.first = lowest_at_least(value), .last = lowest_at_least(value + 1) - 1};
}

}  // namespace tamlo::chain
