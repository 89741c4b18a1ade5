// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/budget/budget.hpp"
#include "tamlo/budget/detail/conditions.hpp"
#include "tamlo/error.hpp"
#include "tamlo/export.hpp"
#include "tamlo/meter/calibrate.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/units.hpp"
#include "tamlo/record/verdict.hpp"
#include "tamlo/report/chart.hpp"
#include "tamlo/report/detail/screen.hpp"
#include "tamlo/result/results.hpp"

namespace tamlo {
namespace report TAMLO_API {

/// gnuplot is missing or failed.
class PlotError : public Error {
 public:
  using Error::Error;
};

/// Format of a picture. Functions with an Image return the bytes of a whole picture, and throw
/// PlotError.
enum class Image : std::uint8_t { svg, png };
/// By the end of a file's name, .svg or .png; nothing for another.
std::optional<Image> image_of(std::string_view path);

/// A chart as a picture.
std::string draw(const Chart& chart, Image image);

/// The front over its first two goals, with other candidates behind it. Of a front that is not
/// empty.
std::string plot_front(const explore::Space& space, const explore::Exploration& exploration,
                       Image image);

/// Draws the candidates of the front, with others in the background, as lines over all choices and
/// goals: what they share, and where they part. The front must not be empty.
std::string plot_choices(const explore::Space& space, const explore::Exploration& exploration,
                         Image image);

/// The strip chart of a screen, each channel in its own unit.
std::string plot_strip(const Screen& screen, Image image);

/// Differences against the meter's value, with error bars (the guard band), the band that is
/// allowed and the zero line.
Chart chart_of(const meter::Comparison& comparison);
/// E_n of each row, with the band beyond which both sides cannot be right.
Chart chart_of_normalised(const meter::Comparison& comparison);
/// Offset over gain of each unit, with the tolerance interval of both.
Chart chart_of_units(const meter::Units& units, const std::string& channel,
                     const quantity::Unit& unit);
/// The differences before and after a correction, each with what the channel may be off then.
Chart chart_of_before_after(const meter::Comparison& before, const meter::Comparison& after,
                            const meter::Calibration& calibration);
/// The residual of each row, with its uncertainty and that of the correction.
Chart chart_of_residuals(const meter::Calibration& calibration, const meter::Comparison& after);

/// Contributions at the worst point of a budget, as sorted bars with their shares.
std::string plot_contributions(const budget::Budget& budget, Image image);
/// |bias| + expanded uncertainty over the span, as built and after each adjustment, with the
/// target. `budget` is of many points over the span.
Chart chart_of_span(const budget::Budget& budget);
/// The error at the worst place of the span over a condition.
Chart chart_of_condition(const std::vector<budget::UnderCondition>& rows,
                         const budget::Budget& budget, const std::string& name,
                         const quantity::Unit& unit);
/// The distribution of the error by trials, with both coverage intervals and the closed form's.
/// `errors` are the trials, `point` is where they were made.
std::string plot_trials(const std::vector<double>& errors, const budget::Budget& budget,
                        const budget::Point& point, Image image);

/// Average and filter of a channel: what passes over frequency, and the answer to a step, reading
/// by reading. Needs at least one stage.
Chart chart_of_response(const chain::Chain& chain);

/// Draws the probability of a wrong zone over the distance from the least certain edge: for a unit
/// drawn at random, and for one reading of a unit without fixed errors. The channel must have
/// zones.
std::string plot_zones(const budget::ChannelSettings& settings, Image image);

/// The readings of a slow ramp over a few steps about the middle of the span, of two channels that
/// differ in their resolution. `slope` is in SI of the quantity a second.
std::string plot_staircase(const chain::Chain& one, const chain::Chain& other, double slope,
                           Image image);

/// A sine over nine tenths of the span, its conversions and the readings, over each other; where
/// the readings fold it, the sine that they show. Throws as chain::sample_sine() does.
std::string plot_sampled(const chain::Chain& chain, double frequency, Image image);

/// Returns the usual picture of a record: histogram, spectrum, linearity or step.
std::string usual_picture(const record::Verdict& verdict);
/// One channel of a record over time.
struct Charted {
  const record::Verdict& verdict;
  const signal::Chart& chart;
  quantity::Unit unit{};
};
/// Channels over each other, lowest to highest and mean, so that no extreme is lost; `scale` holds
/// for all (codes, or SI), else each is drawn as far as it goes. Up to eight.
std::string plot_charts(const std::vector<Charted>& charts,
                        const std::optional<quantity::Range>& scale, Image image);
/// A record as a histogram (with the normal one of the noise that was seen, and the predicted one),
/// a spectrum (with harmonics or tones), its stability, its linearity or a step. Nothing for a
/// picture that this record does not have.
std::optional<Chart> chart_of(const record::Verdict& verdict, const signal::Capture& capture,
                              const quantity::Unit& unit, const std::string& picture);

}  // namespace report
}  // namespace tamlo
