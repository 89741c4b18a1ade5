// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string_view>
#include <utility>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::chain {
struct Chain;
struct Conversion;
}  // namespace tamlo::chain

/// Virtual units: boards drawn from the description, converting one sample at a time.
namespace tamlo {
namespace simulate TAMLO_API {

/// The actual values of a unit's parameters: nominal plus what each source moved it by.
struct Unit {
  std::vector<double> parameters{};
};

/// A unit drawn at random from all sources that are fixed in a unit. The same seed and number give
/// the same unit everywhere.
Unit draw(const chain::Chain& chain, std::uint64_t seed, std::uint64_t number);

/// A unit that is nominal but for these deviations: (source, deviation in the parameter's unit).
Unit with_deviations(const chain::Chain& chain,
                     const std::vector<std::pair<std::size_t, double>>& deviations);

/// The nominal unit, without any deviation.
Unit nominal(const chain::Chain& chain);

/// Moves a parameter of the unit: by a part of its nominal, or by an amount in its unit. False
/// where the chain has no parameter of that name.
bool move(Unit& unit, const chain::Chain& chain, std::string_view parameter, double by,
          bool relative);

/// One conversion of the quantity `x`: noise, then the converter's steps, then its ends.
chain::Conversion convert(const chain::Chain& chain, const Unit& unit, double x,
                          math::Stream& noise);

/// What the firmware scales: the register value behind average and filter, once it is settled. It
/// may have a fraction, as an average has.
double register_value(const chain::Chain& chain, const Unit& unit, double x, math::Stream& noise);

/// What the firmware shows: conversions through the average and the filter until a reading is
/// settled, scaled, and the tare taken off. `firmware` scales; it is `chain` itself unless the
/// firmware differs from the description.
double read(const chain::Chain& chain, const chain::Chain& firmware, const Unit& unit, double x,
            math::Stream& noise);

}  // namespace simulate
}  // namespace tamlo
