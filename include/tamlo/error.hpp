// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <stdexcept>

#include "tamlo/export.hpp"

/// Errors of the library, in one hierarchy: a caller that catches Error catches everything that it
/// throws.
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

/// A file that cannot be read or written, or a program or library that is missing.
class EnvironmentError : public Error {
 public:
  using Error::Error;
};

/// Throws ArgumentError, with what must hold, where it does not.
inline void require(bool holds, const char* what) {
  if (!holds) throw ArgumentError(what);
}

/// Largest size of a number that a call takes: its square is finite, too.
inline constexpr double largest_argument = 1e150;

/// Throws ArgumentError, with what must hold, where a number is none or beyond ±largest_argument.
inline void require_number(double number, const char* what) {
  require(std::abs(number) <= largest_argument, what);
}

/// Does so for all numbers of a range.
template <class Range>
void require_numbers(const Range& numbers, const char* what) {
  for (const double number : numbers) require_number(number, what);
}

}  // namespace tamlo
