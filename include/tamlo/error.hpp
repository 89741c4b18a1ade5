// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <stdexcept>

#include "tamlo/export.hpp"

/// What goes wrong, in one hierarchy: whoever catches Error catches all that the library throws.
namespace tamlo TAMLO_API {

class Error : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// An argument that lies outside what a function takes. The message says which, and what it takes.
class ArgumentError : public Error {
 public:
  using Error::Error;
};

/// Data that cannot be judged in the way that was asked for: too short, too far apart, nothing in
/// it.
class DataError : public Error {
 public:
  using Error::Error;
};

/// Throws ArgumentError, with what must hold, where it does not.
inline void require(bool holds, const char* what) {
  if (!holds) throw ArgumentError(what);
}

/// Throws ArgumentError, with what must hold, where a number of the range is not finite.
template <class Range>
void require_finite(const Range& numbers, const char* what) {
  for (const double number : numbers) require(std::isfinite(number), what);
}

}  // namespace tamlo
