// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/budget/budget.hpp"
#include "tamlo/budget/conditions.hpp"
#include "tamlo/error.hpp"
#include "tamlo/meter/calibrate.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/units.hpp"
#include "tamlo/record/verdict.hpp"

namespace tamlo::report {

/// gnuplot is missing or failed, or the file cannot be written.
class PlotError : public Error {
 public:
  using Error::Error;
};

/// True for a file name that ends in .svg or .png.
bool can_plot_to(std::string_view path);

/// Differences against the meter's value, with error bars (the guard band), the band that is
/// allowed and the zero line. Written to a temporary file beside `path` and renamed, so that `path`
/// is never half a picture. Throws PlotError.
void plot(const meter::Comparison& comparison, const std::string& path);

/// E_n of each row, with the lines at 1 and -1 beyond which both sides cannot be right.
void plot_normalised(const meter::Comparison& comparison, const std::string& path);
/// Offset over gain of each unit, with the tolerance interval of both.
void plot_units(const meter::Units& units, const std::string& channel, const quantity::Unit& unit,
                const std::string& path);
/// The differences before and after a correction, each with what the channel may be off then.
void plot_before_after(const meter::Comparison& before, const meter::Comparison& after,
                       const meter::Calibration& calibration, const std::string& path);
/// What the correction leaves of each row, with its uncertainty and that of the correction.
void plot_residuals(const meter::Calibration& calibration, const meter::Comparison& after,
                    const std::string& path);

/// Contributions at the worst point of a budget, as sorted bars with their shares.
void plot_contributions(const budget::Budget& budget, const std::string& path);
/// |bias| + expanded uncertainty over the span, as built and after each adjustment, with the
/// target. `budget` is of many points over the span.
void plot_span(const budget::Budget& budget, const std::string& path);
/// The same at the worst place of the span, over a condition.
void plot_condition(const std::vector<budget::UnderCondition>& rows, const budget::Budget& budget,
                    const std::string& name, const quantity::Unit& unit, const std::string& path);
/// The distribution of the error by trials, with both coverage intervals and the closed form's.
/// `errors` are the trials, `point` is where they were made.
void plot_trials(const std::vector<double>& errors, const budget::Budget& budget,
                 const budget::Point& point, const std::string& path);

/// Average and filter of a channel: what passes over frequency, and the answer to a step, reading
/// by reading. Needs at least one stage.
void plot_response(const chain::Chain& chain, const std::string& path);

/// The readings of a slow ramp over a few steps about the middle of the span, of two channels that
/// differ in their resolution. `slope` is in SI of the quantity a second.
void plot_staircase(const chain::Chain& one, const chain::Chain& other, double slope,
                    const std::string& path);

/// What a record is usually drawn as: histogram, spectrum, linearity or step.
std::string usual_picture(const record::Verdict& verdict);
/// One channel of a record over time.
struct Charted {
  const record::Verdict& verdict;
  const record::Chart& chart;
  quantity::Unit unit{};
};
/// Channels over each other, lowest to highest and mean, so that no extreme is lost; `scale` holds
/// for all (codes, or SI), else each is drawn as far as it goes. Up to eight.
void plot_charts(const std::vector<Charted>& charts, const std::optional<quantity::Range>& scale,
                 const std::string& path);
/// A record as a histogram (with the normal one of the noise that was seen, and the foretold one),
/// a spectrum (with harmonics or tones), its stability, its linearity or a step. False for a
/// picture that this record does not have.
bool plot(const record::Verdict& verdict, const record::Capture& capture,
          const quantity::Unit& unit, const std::string& picture, const std::string& path);

}  // namespace tamlo::report
