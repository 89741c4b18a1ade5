// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/roughness.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/reading_distribution.hpp"
#include "tamlo/math/detail/power_of_ten.hpp"
#include "tamlo/names.hpp"

namespace tamlo::chain {

std::string_view name(Roughness roughness) {
  return name_in(
      {"none", "readings that are drawn do not bear it out", "readings bend within the limits",
       "interference, or the steps of the codes, meet a median", "the tare is taken at this place",
       "the firmware's steps are as coarse as the uncertainty, or its rounding changes sides",
       "an end of the codes is within reach", "an end of an amplifier is within reach",
       "a clamp of the firmware is within reach", "the firmware's integers overflow"},
      roughness);
}

Roughness roughness(const Chain& chain, double x, double reach, double coarse) {
  const double code_here = code(chain, x, chain.nominal) + correction_in_codes(chain, x);
  const auto first = static_cast<double>(first_code(chain));
  const auto last = static_cast<double>(last_code(chain));
  const double low = code_here - reach, high = code_here + reach;
  auto result = low < first - 0.5 || high > last + 0.5 ? Roughness::code_end : Roughness::none;
  const auto hold = [&](bool found, Roughness what) {
    if (found) result = std::max(result, what);
  };
  const auto amplifiers = codes_of_amplifiers(chain);
  hold(low < amplifiers.low || high > amplifiers.high, Roughness::amplifier_end);
  const auto& report = chain.report;
  const auto& digital = chain.firmware.digital;
  const bool median =
      std::ranges::any_of(digital.stages, [](const auto& s) { return s.median > 0; });
  if (median) {
    // Codes of interference that a median may bend, and of noise that hides the steps from it.
    constexpr double bent = 0.1, hidden = 1.0;
    const auto spread = conversion_spread(chain, x);
    hold(spread.amplitudes > bent || spread.noise < hidden * report.width, Roughness::filter);
  }
  const auto& tare = chain.channel.scaling.tare;
  if (tare) hold(std::abs(x - *tare) <= 2.0 * step_at(chain, x), Roughness::tare);
  hold(chain.channel.average.truncated && step_at(chain, x) > 0.2 * coarse, Roughness::steps);
  const bool counts = report.reporting.kind == model::RegisterFormat::Kind::counts;
  const auto& integer = chain.channel.scaling.integer;
  const auto& decimals = chain.channel.scaling.decimals;
  if (decimals && result == Roughness::none &&
      chain.channel.span.unit.scale() * math::power_of_ten(-*decimals) > coarse) {
    result = Roughness::steps;
  }
  if (!counts && !integer) return result;
  const auto from = register_value(chain, low);
  const auto to = register_value(chain, high);
  if (counts && (from <= report.reporting.least || to >= report.reporting.most)) {
    result = Roughness::code_end;
  }
  if (!integer) return result;
  // The worst of the register values in reach; of very many every so-many-th.
  const auto middle = register_value(chain, code_here);
  const auto stride = std::max<std::int64_t>(1, (to - from) / 4096);
  double before = 0.0;
  struct Side {
    double sum = 0.0;
    int count = 0;
    double mean() const { return count > 0 ? sum / count : 0.0; }
  } below_here{}, above_here{};  // of what the integers are off
  for (auto value = from; value <= to; value += stride) {
    const auto computed = evaluate(*integer, value);
    if (computed.overflow) return Roughness::overflow;
    const double shown = static_cast<double>(computed.value) * integer->count;
    const bool step = value > from && std::abs(shown - before) > coarse;
    if (step && result == Roughness::none) result = Roughness::steps;
    if (computed.clamped) result = Roughness::clamp;
    before = shown;
    auto& side = value < middle ? below_here : above_here;
    side.sum += shown - exact(*integer, static_cast<double>(value)) * integer->count;
    ++side.count;
  }
  // A division that truncates toward zero pulls both sides of it together.
  const bool changes = std::min(below_here.count, above_here.count) >= 8 &&
                       std::abs(below_here.mean() - above_here.mean()) > 0.1 * coarse;
  if (changes && result == Roughness::none) result = Roughness::steps;
  return result;
}

}  // namespace tamlo::chain
