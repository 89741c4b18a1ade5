// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/batch.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "blocks.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/error.hpp"

namespace tamlo::chain {
namespace {

constexpr std::size_t block = 512;  // stays in the first cache

// A block of signals. Behind most parts all of them have one resistance.
struct Signals {
  std::array<double, block> value;
  std::array<double, block> resistance;
  bool one_resistance = true;
};

// The loop in which the compiler sees the part and that its parameters stay as they are.
template <class Law>
void through(const Law& law, double* __restrict value, std::size_t n, double resistance,
             const double* parameters, std::size_t count) {
  const Parameters p(parameters, count);
  for (std::size_t i = 0; i < n; ++i) {
    value[i] = one(law, {.value = value[i], .resistance = resistance}, p).value;
  }
}

// The rest in the sampling capacitor costs two exponentials, but only for a new resistance.
template <>
void through(const SamplingLaw& law, double* __restrict value, std::size_t n, double resistance,
             const double* parameters, std::size_t) {
  const double left = unsettled(law.sampling, resistance);
  const double before = parameters[law.neighbour];
  for (std::size_t i = 0; i < n; ++i) value[i] = value[i] + left * (before - value[i]);
}

template <>
void through(const PinDisturbance& law, double* __restrict value, std::size_t n, double,
             const double* parameters, std::size_t) {
  const double sum = sum_of_terms(law, parameters, law.unknown);
  for (std::size_t i = 0; i < n; ++i) value[i] += sum;
}

void pass(const Law& law, Signals& signals, std::size_t n, Parameters p) {
  std::visit(
      [&](const auto& part) {
        using Kind = std::decay_t<decltype(part)>;
        if (signals.one_resistance && !Kind::resistance_follows_value) {
          const double resistance =
              one(part, {.value = signals.value[0], .resistance = signals.resistance[0]}, p)
                  .resistance;
          through(part, signals.value.data(), n, signals.resistance[0], p.data(), p.size());
          signals.resistance[0] = resistance;
          return;
        }
        if (signals.one_resistance)
          std::fill_n(signals.resistance.begin(), n, signals.resistance[0]);
        for (std::size_t i = 0; i < n; ++i) {
          const auto out =
              one(part, {.value = signals.value[i], .resistance = signals.resistance[i]}, p);
          signals.value[i] = out.value;
          signals.resistance[i] = out.resistance;
        }
        signals.one_resistance = false;
      },
      law);
}

void to_codes(const ConverterLaw& law, double* __restrict value, std::size_t n, double first,
              const double* parameters, std::size_t count) {
  const Parameters p(parameters, count);
  if (law.inl_table.empty()) {
    for (std::size_t i = 0; i < n; ++i) value[i] = first + without_table(law, value[i], p);
  } else {
    for (std::size_t i = 0; i < n; ++i) value[i] = first + forward(law, value[i], p);
  }
}

void codes_of_block(const Chain& chain, std::span<const double> x, Parameters p, Signals& signals) {
  std::ranges::copy(x, signals.value.begin());
  signals.resistance[0] = 0.0;
  signals.one_resistance = true;
  for (std::size_t i = 0; i < chain.path.stages.size(); ++i) {
    pass(chain.path.stages[i].law, signals, x.size(),
         i < chain.path.known ? Parameters(chain.nominal) : p);
  }
  to_codes(chain.conversion, signals.value.data(), x.size(), static_cast<double>(first_code(chain)),
           p.data(), p.size());
}

}  // namespace

void codes(const Chain& chain, std::span<const double> x, Parameters p, std::span<double> codes) {
  require(codes.size() == x.size(), "as many codes as quantities");
  Signals signals;
  for (std::size_t from = 0; from < x.size(); from += block) {
    const auto part = x.subspan(from, std::min(block, x.size() - from));
    codes_of_block(chain, part, p, signals);
    std::copy_n(signals.value.begin(), part.size(),
                codes.begin() + static_cast<std::ptrdiff_t>(from));
  }
}

std::size_t conversions(const Chain& chain, std::span<const double> x, Parameters p,
                        std::span<std::int64_t> found) {
  require(found.size() == x.size(), "as many codes as quantities");
  const auto first = static_cast<double>(first_code(chain));
  const auto last = static_cast<double>(last_code(chain));
  const bool plain = reports_codes(chain.report);
  std::size_t clipped = 0;
  Signals signals;
  for (std::size_t from = 0; from < x.size(); from += block) {
    const auto part = x.subspan(from, std::min(block, x.size() - from));
    codes_of_block(chain, part, p, signals);
    for (std::size_t i = 0; i < part.size(); ++i) {
      // floor() of what is not below the first code: the cast truncates toward zero.
      const double above = signals.value[i] + 0.5;
      const double held = std::clamp(above, first, last + 0.5);
      const auto code = static_cast<std::int64_t>(held - first) + static_cast<std::int64_t>(first);
      clipped += above < first || above >= last + 1.0 ? 1U : 0U;
      found[from + i] = plain ? code : reported(chain.report, code);
    }
  }
  return clipped;
}

void readings(const Chain& chain, std::span<const std::int64_t> found, std::span<double> shown) {
  require(shown.size() == found.size(), "as many readings as codes");
  const auto& scaling = chain.channel.scaling;
  if (scaling.integer || scaling.taught || scaling.decimals || chain.channel.correction) {
    for (std::size_t i = 0; i < found.size(); ++i) {
      shown[i] = reading(chain, static_cast<double>(found[i]));
    }
    return;
  }
  for (std::size_t from = 0; from < found.size(); from += block) {
    const auto n = std::min(block, found.size() - from);
    double* value = shown.data() + from;
    for (std::size_t i = 0; i < n; ++i) value[i] = static_cast<double>(found[from + i]);
    exact_readings(chain, value, n);
  }
}

}  // namespace tamlo::chain
