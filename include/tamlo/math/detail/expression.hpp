// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo {
namespace math TAMLO_API {

/// Holds a formula of named values, such as "pack_voltage * pack_current": + - * / ^ and brackets,
/// comparisons with ?:, and the functions abs, sqrt, exp, ln, log10, sin, cos, tan, min and max.
/// junction_k(pair, terminals) is the temperature in K of a thermocouple of type K from its voltage
/// and the temperature of its terminals; so are those of the other types. Not for several threads
/// at once.
class Expression {
 public:
  /// Reads the text, of at most 1000 characters. Throws ArgumentError with the place of what it
  /// cannot read, and for a name that is none of `names`.
  Expression(const std::string& text, const std::vector<std::string>& names);
  ~Expression();
  Expression(Expression&&) noexcept;
  Expression& operator=(Expression&&) noexcept;

  /// Places of the names that the text uses, rising.
  const std::vector<std::size_t>& used() const { return used_; }
  /// Describes base units of another size: values that hold so many more of them.
  struct Scales {
    double volt = 1.0, kelvin = 1.0;
  };
  /// Returns its value, one number for each name. NaN where it has none, such as 0 / 0.
  double operator()(std::span<const double> values, Scales scales) const;
  double operator()(std::span<const double> values) const { return (*this)(values, Scales()); }

 private:
  struct Parser;
  std::unique_ptr<Parser> parser_;
  std::vector<std::size_t> used_{};
};

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
