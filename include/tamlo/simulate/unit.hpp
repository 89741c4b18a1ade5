// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>
#include <utility>
#include <vector>

#include "tamlo/chain/detail/reading_sampler.hpp"
#include "tamlo/export.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::chain {
struct Chain;
}  // namespace tamlo::chain

/// Virtual units: boards drawn from the description, and their readings.
namespace tamlo {
namespace simulate TAMLO_API {

/// The actual values of a unit's parameters: nominal plus the deviations of its sources. Its INL is
/// the same at all places, so that a tare cancels it.
struct VirtualUnit {
  std::vector<double> parameters{};
  std::vector<double> deviations{};  ///< of each source of the chain; none of a nominal unit
};

/// Returns one virtual unit: the actual values of everything that is fixed in a unit, drawn from
/// the description. The same seed and number give the same unit on every machine (Philox 4x32-10).
/// Throws nothing.
VirtualUnit draw(const chain::Chain& chain, std::uint64_t seed, std::uint64_t number);

/// Returns a unit that is nominal but for these deviations: (source, deviation in the parameter's
/// unit).
VirtualUnit with_deviations(const chain::Chain& chain,
                            const std::vector<std::pair<std::size_t, double>>& deviations);

/// Returns the nominal unit, without any deviation.
VirtualUnit nominal(const chain::Chain& chain);

/// Moves a parameter of the unit: by a part of its nominal, or by an amount in its unit. False
/// where the chain has no parameter of that name.
bool move(VirtualUnit& unit, const chain::Chain& chain, std::string_view parameter, double by,
          bool relative);

/// Readings of units at one place, drawn by chain::ReadingSampler: what is prepared once for all
/// units and repeats there.
class UnitReader {
 public:
  /// `x` is the quantity, SI. `firmware` scales; it is `chain` itself unless the firmware differs
  /// from the description. Keeps references to both.
  UnitReader(const chain::Chain& chain, const chain::Chain& firmware, double x);
  UnitReader(chain::Chain&&, const chain::Chain&, double) = delete;
  UnitReader(const chain::Chain&, chain::Chain&&, double) = delete;

  /// Returns the register value behind average and filter, once it is settled. It may have a
  /// fraction, as an average has. A unit of a corrected channel is one that was calibrated.
  double register_value(const VirtualUnit& unit, math::RandomStream& noise) const;
  /// Returns the reading of the unit, in SI: its register value scaled, and the tare subtracted.
  double read(const VirtualUnit& unit, math::RandomStream& noise) const;

 private:
  struct Place {
    Place(const chain::Chain& chain, double x);
    chain::ReadingSampler sampler;
    std::vector<double> followed{};  // by the correction, of each unit of a source's deviation
    double calibration = 1.0;        // its uncertainty here, of that over the span
  };
  double register_value(const Place& place, const VirtualUnit& unit,
                        math::RandomStream& noise) const;

  const chain::Chain& chain_;
  const chain::Chain& firmware_;
  Place place_;
  std::optional<Place> tare_{};
};

/// Returns one reading of the unit, SI: UnitReader::read() at one place.
double read(const chain::Chain& chain, const chain::Chain& firmware, const VirtualUnit& unit,
            double x, math::RandomStream& noise);

}  // namespace simulate
}  // namespace tamlo
