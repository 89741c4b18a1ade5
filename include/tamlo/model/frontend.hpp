// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "tamlo/detail/copied.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/detail/carries.hpp"
#include "tamlo/quantity/value.hpp"

/// Parts between the sensor and the converter's pin, as plain data. Each says what it takes; all
/// give volts.
namespace tamlo {
namespace model TAMLO_API {

using quantity::Range;
using quantity::Value;

/// The pin is between the two resistors.
struct Divider {
  static constexpr Carries takes = Carries::volts;
  Value top{};
  Value bottom{};
  Value network{};   ///< relative limits that both resistors of one network share
  Value tracking{};  ///< relative limits of their ratio
};

/// A divider of which the sensor is one resistor, fed from a reference.
struct SensorDivider {
  static constexpr Carries takes = Carries::ohms;
  Value bias_resistor{};
  bool sensor_at_bottom = true;
  std::string supply{};
};

/// A current through the sensor's resistance.
struct Excitation {
  static constexpr Carries takes = Carries::ohms;
  Value current{};
};

/// A resistor that turns the sensor's current into volts.
struct Shunt {
  static constexpr Carries takes = Carries::amperes;
  Value resistance{};
};

/// A gain that an amplifier can be switched to.
struct GainChoice {
  std::string name{};
  Value gain{};
};

/// gain * (v + offset), held within its output; what a common mode does is an offset too, and what
/// a bias current makes of the resistance before it.
struct Amplifier {
  static constexpr Carries takes = Carries::volts;
  Value gain{};
  Value offset{};  ///< V, input-referred
  std::optional<Value> noise{};
  Value bias_current{};               ///< A, limits
  std::optional<Range> output{};      ///< V, between which its output stays
  double noise_density = 0.0;         ///< V/sqrt(Hz), input-referred, white
  double noise_corner = 0.0;          ///< Hz, below which it rises as 1/f
  std::optional<double> bandwidth{};  ///< Hz, -3 dB; none: what follows limits it
  std::optional<double> slew{};       ///< V/s, the fastest that its output moves
  double common_mode = 0.0;           ///< V
  double rejection = 0.0;           ///< V/V, the most that a volt of common mode adds at the input
  std::vector<GainChoice> gains{};  ///< that it can be switched to; `gain` is the one in use
  std::string use{};
};

/// Resistor and capacitor. It takes nothing from a steady signal, but adds to its resistance.
struct Lowpass {
  static constexpr Carries takes = Carries::volts;
  Value resistor{};
  Value capacitor{};
};

/// Volts that a wire adds between one part and the next, with their sign: of a ground that other
/// currents flow through, or a long supply line.
struct WireDrop {
  static constexpr Carries takes = Carries::volts;
  Value voltage{};
  bool taken_off = false;  ///< the firmware subtracts the nominal
};

/// One of the parts of a front end.
struct Stage
    : std::variant<Divider, SensorDivider, Excitation, Shunt, Amplifier, Lowpass, WireDrop> {
  using variant::variant;
  TAMLO_COPIED_IN_ONE_SOURCE(Stage);
};

}  // namespace model
}  // namespace tamlo
