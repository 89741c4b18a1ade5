// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <vector>

#include "tamlo/export.hpp"

/// The answer of a channel to a step of the quantity.
namespace tamlo {
namespace chain TAMLO_API {

struct Chain;

/// Low-passes in series, none of which loads another.
class Lowpasses {
 public:
  /// Time constants in s; those that are 0 do nothing.
  explicit Lowpasses(const std::vector<double>& time_constants);
  /// Returns the response to a step of height 1, `time` after it; 0 before. Exact: equal time
  /// constants are taken 0.01 % apart, of four or more 1 %, within 1e-3 of the height for up to
  /// eight.
  double after_step(double time) const;
  /// Returns the delay of slow signals, s.
  double delay() const;
  /// Returns the phase of a sine, rad; not above 0.
  double phase(double frequency) const;

 private:
  std::vector<double> time_constants_{};  // rising
};

/// A step of height 1 at sample `begins` of so many, without noise and steps of the converter: what
/// the low-passes before the pin make of it, and for readings average and filter. A reading is of
/// the moment of its last conversion. `rate` is that of the conversions, above 0.
std::vector<double> step_response(const Chain& chain, bool of_readings, double rate,
                                  std::size_t samples, double step_at);

}  // namespace chain
}  // namespace tamlo
