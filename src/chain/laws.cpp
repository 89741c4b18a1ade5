// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/laws.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "tamlo/chain/detail/sampling.hpp"
#include "tamlo/math/detail/search.hpp"

namespace tamlo::chain {

Signal forward(const Law& law, const Signal& in, Parameters p) {
  return std::visit([&](const auto& part) { return one(part, in, p); }, law);
}

double inverse(const Law& law, double out, Parameters p) {
  return std::visit([&](const auto& part) { return inverse_of(part, out, p); }, law);
}

double measured_inl(const ConverterLaw& law, double code) {
  const auto& table = law.inl_table;
  if (table.empty()) return 0.0;
  const auto beyond = std::ranges::lower_bound(table, code, {}, &model::InlPoint::code);
  if (beyond == table.begin()) return table.front().inl;
  if (beyond == table.end()) return table.back().inl;
  const auto before = beyond - 1;
  const double part = (code - before->code) / (beyond->code - before->code);
  return before->inl + part * (beyond->inl - before->inl);
}

double time_to_settle(Sampling sampling, double resistance, double band) {
  if (sampling.pin_capacitor <= 0.0) {
    return -std::log(band) * (resistance + sampling.switch_resistance) * sampling.capacitor;
  }
  const auto settled = [&](double time) {
    sampling.time = time;
    return std::abs(unsettled(sampling, resistance)) <= band;
  };
  const double period = sampling.period;
  if (!settled(period)) return std::numeric_limits<double>::infinity();
  return math::bisect(0.0, period, 60, [&](double time) { return !settled(time); }).high;
}

}  // namespace tamlo::chain
