// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <cstdint>
#include <string>

#include "tamlo/export.hpp"
#include "tamlo/firmware/plan.hpp"

/// The calibration of one unit as data, so that all units run the same code.
namespace tamlo {
namespace firmware TAMLO_API {

inline constexpr std::size_t unit_data_size = 20;

/// Correction of the readings of one unit, in counts: reading + offset / 256 + reading * gain /
/// 2^30.
struct UnitData {
  std::int32_t offset = 0;       ///< in 1/256 of a count
  std::int32_t gain = 0;         ///< in 2^-30
  std::int16_t temperature = 0;  ///< 0.1 degC: where the correction holds
  std::uint16_t day = 0;         ///< of the calibration, from 2000-01-01; 0: not known
  double error = 0.0;            ///< counts that the corrected reading is off at most
};

/// Returns the correction of a channel as data for the code of a plan. Takes an offset and a gain:
/// a straight line. `temperature` is in K, `day` counts from 2000-01-01. Throws FirmwareError for a
/// correction of another form, of a gain beyond a quarter, or with readings beyond 32 bits.
UnitData unit_data(const Plan& plan, const model::Correction& correction, double temperature,
                   std::uint16_t day = 0);

/// Returns the bytes of the data, little endian: 1, 20, a word that names channel and count,
/// offset, gain, temperature, day, and the CRC-32 (ISO 3309) of all before it.
std::array<std::uint8_t, unit_data_size> bytes_of(const Plan& plan, const UnitData& data);

/// Returns the bytes as C: an array NAME_unit_bytes in a header.
std::string c_unit_data(const Plan& plan, const UnitData& data);

}  // namespace firmware
}  // namespace tamlo
