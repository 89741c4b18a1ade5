// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "tamlo/error.hpp"
#include "tamlo/export.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/model/scaling.hpp"

/// Calibrations: the correction that makes a channel read as its meter does, with its quality and
/// what it leaves (docs/method.md, "Calibration").
namespace tamlo {
namespace meter TAMLO_API {

/// Form of a correction, which is added to a reading.
enum class Model : std::uint8_t {
  offset,
  gain,           ///< in proportion to the reading
  two_point,      ///< the line through the lowest and the highest row
  line,           ///< by least squares, all rows alike
  weighted_line,  ///< by what each row is worth
  both_axes,      ///< the same with errors of meter and reading (York and others, 2004)
  polynomial,     ///< weighted, of an order of 2 or more
  piecewise,      ///< straight between up to 16 nodes, rising with the reading
};
std::string_view name(Model model);

/// Model that is asked for, and the rows that are held out.
struct CalibrationRequest {
  std::optional<Model> model{};  ///< none: the one that predicts rows best
  int order = 2;                 ///< of a polynomial, 2 to 6
  double coverage = 0.95;
};

/// A model that was tried. Infinite where the rows do not suffice to tell.
struct TriedModel {
  Model model = Model::line;
  int order = 1;
  double leave_one_out = 0.0;  ///< root mean square of rows that were left out, SI
  double corrected_aic = 0.0;  ///< Akaike's criterion for few rows (Hurvich and Tsai, 1989)
};

/// A row that the others do not bear out. It is in the fit all the same.
struct Outlier {
  std::size_t row = 0;
  double deviations = 0.0;  ///< from a fit that single rows cannot bend, in its own
};

/// Uncertainty after the correction at one place: expanded, with its parts.
struct ResidualUncertainty {
  double at = 0.0;
  double before = 0.0;   ///< |bias| + expanded uncertainty of the budget
  double meter = 0.0;    ///< of the meter, which no number of rows takes away
  double fit = 0.0;      ///< of the rows' own noise
  double channel = 0.0;  ///< noise, drift, and the shape that the model does not follow
  /// |bias| + expanded uncertainty of the budget of a board with the correction.
  double after = 0.0;
  std::optional<double> limit{};  ///< of the target
};

/// A correction, how good it is, and what remains.
struct Calibration {
  /// A parameter of the correction, with its uncertainty.
  struct Parameter {
    std::string name{};  ///< "offset", "gain", "c0", ...: of corrected = offset + gain * reading
    double value = 0.0;  ///< SI of the quantity, to a power of it for a polynomial's
    double standard_uncertainty = 0.0;
  };
  std::string channel{};
  quantity::Unit unit{};
  std::string meter{};
  Model model = Model::line;
  int order = 1;
  std::vector<Parameter> parameters{};  ///< none of a piecewise one: its nodes say all
  std::vector<double> covariance{};  ///< of the parameters, row by row, the meter's part included
  double residual_standard_deviation = 0.0;  ///< SI
  int dof = 0;
  double chi_squared = 0.0;         ///< of the residuals in what each row is worth
  bool overdispersed = false;       ///< than that: its covariance is widened by chi-squared / dof
  std::vector<double> residuals{};  ///< meter - corrected, of each row
  std::vector<Outlier> outliers{};
  std::vector<TriedModel> candidates{};  ///< all that were tried, the chosen one first
  std::vector<ResidualUncertainty>
      residual_uncertainty{};  ///< at both ends of the span, its zero and its middle
  double coverage = 0.95;
  double coverage_factor = 0.0;
  model::Correction correction{};

  /// Standard uncertainty of the correction at a reading: meter and fit.
  double standard_at(double reading) const;

  /// Returns the weight of each row's difference in the correction at a reading.
  std::vector<double> weights_at(double reading) const;

  // What the figures above are made of: the correction is sum basis_j(reading) beta_j.
  std::vector<std::vector<double>>
      row_weights{};                          ///< beta_j = sum row_weights[j][i] (-difference_i)
  std::vector<double> random{};               ///< variance of each row, repeats would change it
  std::vector<std::vector<double>> shared{};  ///< of the meter, a column for each limit
  std::vector<std::pair<std::size_t, std::size_t>> shared_limits{};  ///< range and limit of each
};

/// A model that the rows cannot determine, and why.
class CalibrationError : public Error {
 public:
  using Error::Error;
};

/// Returns the correction that rows, made one a position by group(), determine: offset, gain, line,
/// polynomial or pieces, the best of them unless one is asked for (Hurvich and Tsai, 1989), with
/// its covariance and what it leaves at each place, in SI. Its stated uncertainty holds the truth
/// in 94 to 97 % (docs/method.md, "Calibration"). Throws CalibrationError for a model that the rows
/// do not determine.
Calibration calibrate(const Evidence& evidence, const CalibrationRequest& request = {});

/// Gathers the evidence and calibrates by it.
Calibration calibrate(const chain::Chain& chain, const model::Meter& meter,
                      const std::vector<Reading>& readings, const CalibrationRequest& request = {});

/// Returns the uncertainty that the correction leaves at places of the span.
std::vector<ResidualUncertainty> residual_uncertainty(const Calibration& calibration,
                                                      const chain::Chain& chain,
                                                      const model::Meter& meter,
                                                      const std::vector<Reading>& readings,
                                                      const std::vector<double>& at);

/// Returns the readings as a firmware with that correction shows them.
std::vector<Reading> corrected(const model::Correction& correction, std::vector<Reading> readings);

/// Differences of the rows of a file before and after a correction.
struct BeforeAfter {
  std::string readings{};            ///< the file
  double before = 0.0, after = 0.0;  ///< the largest difference from the meter, SI
  int passed_before = 0, passed_after = 0, rows = 0;
};
/// Returns the differences of a file's rows before and after a correction.
BeforeAfter before_after(std::string readings, const Comparison& before, const Comparison& after);

}  // namespace meter
}  // namespace tamlo
