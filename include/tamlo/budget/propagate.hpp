// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <functional>
#include <limits>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "tamlo/budget/detail/trials.hpp"
#include "tamlo/export.hpp"
#include "tamlo/math/interval.hpp"

/// Propagation of uncertainty through any function: in closed form (JCGM 100) and by Monte Carlo
/// (JCGM 101, JCGM 102 for several outputs). It knows nothing of channels, and can be used alone:
///
///     const std::vector<Input> inputs{normal("mass", 1.234, 0.004), uniform("g", 9.80, 9.82)};
///     const auto weight = [](std::span<const double> x) { return x[0] * x[1]; };
///     const auto closed = propagate(weight, inputs);
///     const auto trials = simulate(weight, inputs, {.seed = 7});
namespace tamlo {
namespace budget TAMLO_API {

/// Distribution of an input about its estimate.
enum class Shape : std::uint8_t {
  normal,
  student,  ///< scaled and shifted t of `dof` degrees (JCGM 101, 6.4.9)
  uniform,
  triangular,
  arcsine,
  curved_trapezoid,  ///< uniform between ends that are themselves uncertain by `ends` (6.4.3)
};

/// An input of a model: its estimate, and how it is distributed.
struct Input {
  std::string name{};
  double estimate = 0.0;
  double standard_uncertainty = 0.0;  ///< standard uncertainty
  Shape shape = Shape::normal;
  double half_width = 0.0;  ///< of the bounded shapes
  double ends = 0.0;        ///< of a curved trapezoid: half of what its ends may move
  double dof = std::numeric_limits<double>::infinity();  ///< of `standard`; above 2 for student
  /// Inputs that were observed together, in the same series, have the same number here, and share
  /// the degrees of freedom of the series; 0: alone.
  int series = 0;
};

Input normal(std::string name, double estimate, double standard,
             double dof = std::numeric_limits<double>::infinity());
/// t of `dof` degrees, scaled by `scale`; its standard uncertainty in the closed form is `scale`,
/// as JCGM 100 takes it, while its trials spread by scale sqrt(dof / (dof - 2)).
Input student(std::string name, double estimate, double scale, double dof);
Input uniform(std::string name, double low, double high);
Input triangular(std::string name, double low, double high);
Input arcsine(std::string name, double low, double high);
Input curved_trapezoid(std::string name, double low, double high, double ends);

/// Correlation of two inputs by their places. In trials the normal ones are jointly normal; others
/// get it through a normal copula, uniform pairs to the exact coefficient.
using math::Correlation;

using Model = std::function<double(std::span<const double> x)>;
/// Several outputs of the same inputs.
using Models = std::function<void(std::span<const double> x, std::span<double> y)>;

/// One output in closed form.
struct Output {
  double estimate = 0.0;
  double combined = 0.0;
  /// Effective degrees of freedom (Welch and Satterthwaite), which holds for independent inputs:
  /// those of one series count as one. Nothing where others of finite degrees of freedom correlate;
  /// the coverage factor is then that of the least of theirs.
  std::optional<double> dof{};
  double coverage_factor = 0.0;
  double expanded = 0.0;
  /// [f(x_i + u_i) - f(x_i - u_i)] / 2 (JCGM 100, 5.1.3 note 2), with its sign.
  std::vector<double> contributions{};
};

/// Several outputs in closed form, and how they go together.
struct Outputs {
  std::vector<Output> outputs{};
  std::vector<double> covariance{};  ///< of the outputs, row by row
  /// Returns the correlation of two outputs, -1 to 1.
  double correlation(std::size_t a, std::size_t b) const;
};

/// Returns the estimate of one output with its combined and expanded uncertainty, to first order
/// (JCGM 100, 5.1 and 5.2; G.4.2 for the degrees of freedom, truncated to whole ones for the
/// coverage factor). Coverage lies above 0 and below 1. Exact for a linear model of normal inputs;
/// second_order() tells what is left out. Throws ArgumentError for a correlation outside -1..1 or
/// of an input that is missing, DataError if the model gives no number.
///
///     const auto weight = tamlo::budget::propagate(
///         [](std::span<const double> x) { return x[0] * x[1]; },
///         {normal("mass", 1.234, 0.004), uniform("g", 9.80, 9.82)});
Output propagate(const Model& model, const std::vector<Input>& inputs, double coverage = 0.95,
                 const std::vector<Correlation>& correlations = {});
Outputs propagate(const Models& model, std::size_t outputs, const std::vector<Input>& inputs,
                  double coverage = 0.95, const std::vector<Correlation>& correlations = {});

/// Returns the same model's output by Monte Carlo trials (JCGM 101, 7): mean, standard deviation
/// and intervals, in the unit of the output. With an automatic count it adds trials until they
/// settle to the digits asked for (7.9.4), up to ten million. Seeds are explicit, and threads
/// change nothing. Throws as propagate() does.
Trials simulate(const Model& model, const std::vector<Input>& inputs,
                const TrialsRequest& request = {},
                const std::vector<Correlation>& correlations = {});

/// Trials of several outputs of the same draws.
struct TrialsOfOutputs {
  std::vector<Trials> outputs{};
  std::vector<std::vector<double>> values{};  ///< of each output, in the order of their numbers
  /// Returns the correlation of two outputs over the trials (JCGM 102, 7.6); 0 where one of them
  /// does not vary.
  double correlation(std::size_t a, std::size_t b) const;
};

/// Several outputs by trials (JCGM 102, 7): as many as the digits of each output need. All values
/// are kept: 8 bytes for each trial and output.
TrialsOfOutputs simulate(const Models& model, std::size_t outputs, const std::vector<Input>& inputs,
                         const TrialsRequest& request = {},
                         const std::vector<Correlation>& correlations = {});

/// Second-order terms that the closed form leaves out.
struct SecondOrder {
  double shift = 0.0;           ///< of the mean: half the sum of f_ii u_i^2
  double added_variance = 0.0;  ///< beside that of the first order
  double combined = 0.0;        ///< with it
};

/// Returns what the closed form leaves out, to the next order (JCGM 100, 5.1.2 note), by the fourth
/// moments of each distribution; inputs count as independent, Student's t as normal. Derivatives
/// are differences over half a standard uncertainty: exact for polynomials up to the third degree.
/// Throws ArgumentError as propagate(), DataError if the model gives no number or a variance below
/// 0 comes out: only trials tell then.
SecondOrder second_order(const Model& model, const std::vector<Input>& inputs);

/// Fills `y` with the results of the trials `first`, `first` + 1, ...; `first` is a multiple of
/// math::draws_block and there are at most as many. Called from several threads at once.
using Block = std::function<void(std::uint64_t first, std::span<double> y)>;

/// Computes several outputs in the same way: a span for each.
using BlockOfOutputs =
    std::function<void(std::uint64_t first, std::span<const std::span<double>> y)>;

/// Runs a model through its trials. Throws DataError if it gives a value that is not a
/// number.
Trials run(const Block& block, const TrialsRequest& request);
TrialsOfOutputs run(const BlockOfOutputs& block, std::size_t outputs, const TrialsRequest& request);

/// The values themselves, `count` of them, in the order of their numbers.
std::vector<double> sample(const Block& block, std::uint64_t count, int threads = 1);

/// Mean, deviation and intervals of a sample (JCGM 101, 7.6 and 7.7), of finite values.
Trials describe(std::span<const double> values, double coverage);

/// The tolerance of a standard uncertainty of which so many digits count: half a unit of the last
/// (JCGM 101, 7.9.2).
double tolerance(double standard, int digits);

/// JCGM 101, 8.1: whether the closed form's interval agrees with the trials' symmetric one to so
/// many digits of the standard uncertainty.
bool closed_form_valid(double estimate, double expanded, double combined, const Trials& trials,
                       int digits = 2);

/// Generator of trial inputs that may correlate; the factors of the correlations are prepared once.
class Draws {
 public:
  /// Throws ArgumentError where the correlations contradict one another.
  Draws(std::vector<Input> inputs, const std::vector<Correlation>& correlations);
  /// Rows of `rows` (one an input, of `n` values, up to math::draws_block) filled with what the
  /// trials from `first` on draw.
  void fill(std::uint64_t seed, std::uint64_t first, std::size_t n,
            std::vector<std::vector<double>>& rows) const;

 private:
  double of_normal(std::size_t joint, double z) const;

  std::vector<Input> inputs_;
  std::vector<std::size_t> joint_;  // those that correlate with any other
  std::vector<double> root_;        // of the matrix of their coefficients, row by row
  std::vector<std::vector<double>>
      student_;  // of each of them: its values over a grid of normal ones
};

/// Puts `from` plus how far the trials from `first` on draw an input from its estimate into `out`,
/// which may be the same. The input is the one of that number, and correlates with no other.
void add_deviations(const Input& input, std::uint64_t seed, std::uint64_t number,
                    std::uint64_t first, std::span<const double> from, std::span<double> out);

}  // namespace budget
}  // namespace tamlo
