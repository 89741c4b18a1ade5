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

}  // namespace math
}  // namespace tamlo
