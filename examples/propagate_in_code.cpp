// SPDX-License-Identifier: Apache-2.0
// The propagation engine by itself: the power of the drive from a voltage, a current and a power
// factor that were measured together, in closed form and by trials.
#include <fmt/format.h>

#include <cmath>

#include "tamlo/budget/propagate.hpp"

int main() {
  using namespace tamlo::budget;

  std::vector<Input> inputs{normal("voltage", 48.2, 0.05, 9.0), uniform("current", 11.9, 12.3),
                            student("phase", 0.21, 0.02, 9.0)};
  inputs[0].series = inputs[2].series = 1;  // ten readings of both at once
  const std::vector<Correlation> together{{.first = 0, .second = 2, .coefficient = -0.4}};
  const auto power = [](std::span<const double> x) { return x[0] * x[1] * std::cos(x[2]); };

  const auto closed = propagate(power, inputs, 0.95, together);
  fmt::print("closed form: {:.1f} W, ±{:.1f} W (k = {:.2f}, {:.0f} degrees of freedom)\n",
             closed.estimate, closed.expanded, closed.coverage_factor, closed.dof.value());
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    fmt::print("  {:8} {:+.2f} W\n", inputs[i].name, closed.contributions[i]);
  }
  const auto trials = simulate(power, inputs, {.seed = 7, .threads = 2}, together);
  fmt::print("trials:      {:.1f} W, {:.1f} to {:.1f} W; the closed form {}\n", trials.mean,
             trials.symmetric.low, trials.symmetric.high,
             closed_form_valid(closed.estimate, closed.expanded, closed.combined, trials)
                 ? "agrees"
                 : "differs");
}
