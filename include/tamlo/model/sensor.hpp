// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "tamlo/detail/copied.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/detail/carries.hpp"
#include "tamlo/quantity/value.hpp"

/// Sensors as plain data: what turns the quantity of a channel into volts, ohms or amperes. Each
/// says what it gives.
namespace tamlo {
namespace model TAMLO_API {

using quantity::Limit;
using quantity::Range;
using quantity::Unit;
using quantity::Value;

/// Output runs straight from `at_low` to `at_high` (V) over the span of the channel.
struct LinearSensor {
  static constexpr Carries gives = Carries::volts;
  Value at_low{};
  Value at_high{};
};

/// Output is offset + sensitivity * (x - at); sensitivity in V per unit of the quantity.
struct StraightSensor {
  static constexpr Carries gives = Carries::volts;
  Value sensitivity{};
  Value offset{};   ///< V, at `at`
  double at = 0.0;  ///< SI
};

/// Resistance by beta: r25 exp(beta (1/T - 1/298.15 K)).
struct Thermistor {
  Value r25{};
  Value beta{};
};

/// Temperature by three coefficients: 1/T = a + b ln R + c (ln R)^3 (Steinhart and Hart, 1968).
struct ThermistorCurve {
  double a = 0.0, b = 0.0, c = 0.0;
};

/// A thermistor in either form, its error as a temperature, and the power that warms it by 1 K.
struct Ntc {
  static constexpr Carries gives = Carries::ohms;
  std::variant<Thermistor, ThermistorCurve> law{};
  Value accuracy{};                    ///< K
  std::optional<Value> dissipation{};  ///< W/K; without it the sensor does not warm itself
};

/// Tolerance classes of IEC 60751:2008, table 3: the limit at t (degC) is base + slope |t|.
enum class PlatinumClass : std::uint8_t { none, aa, a, b, c };

/// Platinum resistor of IEC 60751 with its leads.
struct Platinum {
  static constexpr Carries gives = Carries::ohms;
  Value r0{};
  PlatinumClass tolerance = PlatinumClass::none;
  bool lead_compensated = true;  ///< the firmware subtracts the nominal leads; else they are a bias
  int wires = 4;                 ///< 2: both leads count; 3: their difference does; 4: none does
  Value lead{};                  ///< ohm, one lead
};

/// Strain bridge: excitation * rated_output * x / rated_load, with the errors of a load cell.
struct Bridge {
  static constexpr Carries gives = Carries::volts;
  Value rated_output{};      ///< V/V
  double rated_load = 0.0;   ///< SI of the quantity
  Value zero{};              ///< limits of the output without load, in parts of the rated output
  Value combined_error{};    ///< of linearity, hysteresis and repeatability, likewise
  Value creep{};             ///< limits of what the output changes under load, in parts of it
  std::string excitation{};  ///< a reference
};

/// Current loop: `low` at the low end of the span, `high` at its high end (A).
struct CurrentLoop {
  static constexpr Carries gives = Carries::amperes;
  double low = 0.004;
  double high = 0.020;
  Value accuracy{};                ///< of the transmitter, of the quantity: % of span
  std::optional<double> supply{};  ///< V, of the loop
  std::optional<double> burden{};  ///< V that the transmitter needs for itself
};

/// Potentiometer over a supply: the part of the span is the part of the supply.
struct Potentiometer {
  static constexpr Carries gives = Carries::volts;
  Value resistance{};
  std::string supply{};  ///< a reference
};

/// Resistance by a power law: resistance * (x / at)^(-exponent).
struct Photoresistor {
  static constexpr Carries gives = Carries::ohms;
  Value resistance{};
  double at = 1.0;  ///< SI of the quantity
  Value exponent{};
};

/// A curve through points, straight between them; x rises, y rises or falls throughout.
struct Curve {
  std::vector<double> x{};
  std::vector<double> y{};
  Unit output{};     ///< of y: V, ohm or A
  Value accuracy{};  ///< of the quantity: absolute or % of span

  /// Returns the signal of the table: volts, ohms or amperes.
  Carries given() const {
    if (output.dimension == quantity::unit("ohm").dimension) return Carries::ohms;
    return output.dimension == quantity::unit("A").dimension ? Carries::amperes : Carries::volts;
  }
};

/// One of the sensors.
struct Sensor : std::variant<LinearSensor, StraightSensor, Ntc, Platinum, Bridge, CurrentLoop,
                             Potentiometer, Photoresistor, Curve> {
  using variant::variant;
  TAMLO_COPIED_IN_ONE_SOURCE(Sensor);
};

}  // namespace model
}  // namespace tamlo
