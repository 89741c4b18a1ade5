// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/bias_parts.hpp"

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>
#include <variant>

#include "tamlo/chain/chain.hpp"

namespace tamlo::chain {
namespace {

template <class Law>
bool has(const Chain& chain) {
  return std::ranges::any_of(chain.path.stages, [](const PathStage& stage) {
    return std::holds_alternative<Law>(stage.law);
  });
}

// The same chain with one law done otherwise; nothing where it has none of that kind.
template <class Law, class Change>
bool change_laws(Chain& chain, Change change) {
  bool found = false;
  for (auto& stage : chain.path.stages) {
    auto* law = std::get_if<Law>(&stage.law);
    if (law != nullptr) found = change(*law) || found;
  }
  return found;
}

}  // namespace

std::vector<BiasPart> bias_parts(const Chain& chain, double x) {
  std::vector<BiasPart> result;
  std::optional<double> reading;  // computed once it is needed
  const auto add = [&](bool possible, const char* name, const char* remedy, auto remove) {
    if (!possible) return;
    auto without = chain;
    if (!remove(without)) return;
    if (!reading) reading = read(chain, x, chain.nominal);
    const double size = *reading - read(without, x, without.nominal);
    if (std::abs(size) >= 1e-3 * code_width_at(chain, x)) result.push_back({name, size, remedy});
  };
  // Every channel has some disturbance of the pin; few have one that the firmware does not know of.
  const bool drops = std::ranges::any_of(chain.path.stages, [](const PathStage& stage) {
    const auto* law = std::get_if<PinDisturbance>(&stage.law);
    return law != nullptr && law->unknown != 0.0;
  });
  add(has<SelfHeatedLaw>(chain), "self-heating",
      "less current through the sensor, or power only while it is converted", [](Chain& copy) {
        return change_laws<SelfHeatedLaw>(copy, [&](const SelfHeatedLaw& law) {
          copy.nominal[law.dissipation] = 1e30;
          return true;
        });
      });
  add(has<PlatinumLaw>(chain), "leads", "subtract them in the firmware: lead_compensated = true",
      [](Chain& copy) {
        return change_laws<PlatinumLaw>(copy, [&](const PlatinumLaw& law) {
          if (law.compensated) return false;
          for (const auto lead : law.added) copy.nominal[lead] = 0.0;
          for (const auto lead : law.taken) copy.nominal[lead] = 0.0;
          return true;
        });
      });
  add(!chain.path.believed.empty(), "firmware's sensor",
      "compute with the sensor's own law in the firmware", [](Chain& copy) {
        copy.path.believed.clear();
        return true;
      });
  add(drops, "wire drop", "subtract it in the firmware: taken_off = true", [](Chain& copy) {
    return change_laws<PinDisturbance>(
        copy, [](PinDisturbance& law) { return std::exchange(law.unknown, 0.0) != 0.0; });
  });
  add(has<LoadLaw>(chain), "load of the meter", "take the meter off the pin, or a buffer before it",
      [](Chain& copy) {
        return change_laws<LoadLaw>(copy, [&](const LoadLaw& law) {
          copy.nominal[law.resistance] = 1e30;
          return true;
        });
      });
  add(chain.firmware.arithmetic.mean != 0.0, "integers", "round where they truncate",
      [](Chain& copy) { return std::exchange(copy.firmware.arithmetic.mean, 0.0) != 0.0; });
  return result;
}

bool of_ideal_parts(const Chain& chain) {
  // A correction has taken the tolerances away.
  if (chain.channel.correction) return false;
  return std::ranges::none_of(chain.sources, [&](const Source& source) {
    const auto kind = source.kind();
    return kind == Kind::tolerance || kind == Kind::temperature || kind == Kind::ageing ||
           source.parameter == chain.conversion.inl || source.parameter == chain.conversion.dnl;
  });
}

}  // namespace tamlo::chain
