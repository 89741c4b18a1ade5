// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/export.hpp"

namespace tamlo {
namespace math TAMLO_API {

/// Voltage in V of a thermocouple whose one junction is at `celsius` and whose other is at 0 degC:
/// the reference functions of IEC 60584-1:2013 (ITS-90), for types B, E, J, K, N, R, S and T in
/// their ranges. NaN outside them, and for any other letter.
double thermocouple_voltage(char type, double celsius);

/// Temperature in degC at which that voltage arises: the same function, solved to 1e-9 K, so that
/// it is free of the 0.02 to 0.06 K that polynomials of the inverse add. Of type B, whose voltage
/// turns at 21 degC, from there on. NaN where there is none.
double thermocouple_temperature(char type, double volts);

/// Temperature in K of the measuring junction, from the voltage of the pair and the temperature in
/// K of its terminals (the cold junction).
double hot_junction(char type, double volts, double terminals);

}  // namespace math
}  // namespace tamlo
