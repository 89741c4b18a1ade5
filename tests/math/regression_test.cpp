// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/regression.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <stdexcept>

#include "tamlo/error.hpp"

namespace tamlo::math {
namespace {

using Values = std::vector<double>;

std::vector<Values> powers(const Values& x, int order) {
  std::vector<Values> columns(1, Values(x.size(), 1.0));
  for (int k = 1; k <= order; ++k) {
    auto next = columns.back();
    for (std::size_t i = 0; i < x.size(); ++i) next[i] *= x[i];
    columns.push_back(std::move(next));
  }
  return columns;
}

// Relative agreement to so many digits.
void expect_digits(double found, double certified, int digits, const char* what) {
  EXPECT_NEAR(found / certified, 1.0, 0.5 * std::pow(10.0, -digits)) << what << " " << found;
}

struct Certified {
  const char* name;
  Values x, y;
  Values parameters, standards;
  double residual;
  int digits;
};

Values numbers(int n, double (*f)(int)) {
  Values result;
  for (int i = 0; i < n; ++i) result.push_back(f(i));
  return result;
}

double polynomial(double x, double base) {
  double sum = 0.0;
  for (int k = 5; k >= 0; --k) sum = sum * x + std::pow(base, k);
  return sum;
}

// The disturbance of the sets 3, 4 and 5.
Values disturbed(double times) {
  const Values by{759,   -2048, 2048,  -2048, 2523,  -2048, 2048,  -2048, 1838,  -2048, 2048,
                  -2048, 1838,  -2048, 2048,  -2048, 2523,  -2048, 2048,  -2048, 759};
  Values result;
  for (int i = 0; i < 21; ++i) {
    result.push_back(polynomial(i, 1.0) + times * by[static_cast<std::size_t>(i)]);
  }
  return result;
}

// Statistical Reference Datasets (NIST StRD, linear regression), data and certified values of its
// pages Norris, Pontius, Wampler1 to Wampler5. What double precision allows of the coefficients:
// the data of Wampler5 are disturbed by 1e7 times a coefficient, and rounded to 17 digits of that.
TEST(Regression, CertifiedSets) {
  const Values index = numbers(21, [](int i) { return static_cast<double>(i); });
  const Values ones(6, 1.0), tens{1.0, 0.1, 0.01, 0.001, 1e-4, 1e-5};
  const Values of_three{2152.32624678170, 2363.55173469681, 779.343524331583,
                        101.475507550350, 5.64566512170752, 0.112324854679312};
  const auto times = [](Values v, double by) {
    for (double& x : v) x *= by;
    return v;
  };
  const std::vector<Certified> sets{
      {"Norris",
       {0.2, 337.4, 118.2, 884.6, 10.1,  226.5, 666.3, 996.3, 448.6, 777.0, 558.2, 0.4,
        0.6, 775.5, 666.9, 338.0, 447.5, 11.6,  556.0, 228.1, 995.8, 887.6, 120.2, 0.3,
        0.3, 556.8, 339.1, 887.2, 999.0, 779.0, 11.1,  118.3, 229.2, 669.1, 448.9, 0.5},
       {0.1, 338.8, 118.1, 888.0, 9.2,   228.1, 668.5, 998.5, 449.1, 778.9, 559.2, 0.3,
        0.1, 778.1, 668.8, 339.3, 448.9, 10.8,  557.7, 228.3, 998.0, 888.8, 119.6, 0.3,
        0.6, 557.6, 339.3, 888.0, 998.5, 778.9, 10.2,  117.6, 228.9, 668.4, 449.2, 0.2},
       {-0.262323073774029, 1.00211681802045},
       {0.232818234301152, 0.429796848199937e-3},
       0.884796396144373,
       12},
      {"Pontius",
       numbers(40, [](int i) { return 150000.0 * (i % 20 + 1); }),
       {.11019,  .21956,  .32949,  .43899,  .54803,  .65694,  .76562,  .87487,  .98292,  1.09146,
        1.20001, 1.30822, 1.41599, 1.52399, 1.63194, 1.73947, 1.84646, 1.95392, 2.06128, 2.16844,
        .11052,  .22018,  .32939,  .43886,  .54798,  .65739,  .76596,  .87474,  .98300,  1.09150,
        1.20004, 1.30818, 1.41613, 1.52408, 1.63159, 1.73965, 1.84696, 1.95445, 2.06177, 2.16829},
       {0.673565789473684e-3, 0.732059160401003e-6, -0.316081871345029e-14},
       {0.107938612033077e-3, 0.157817399981659e-9, 0.486652849992036e-16},
       0.205177424076185e-3,
       11},
      {"Wampler1", index, numbers(21, [](int i) { return polynomial(i, 1.0); }), ones, {}, 0.0, 12},
      {"Wampler2", index, numbers(21, [](int i) { return polynomial(i, 0.1); }), tens, {}, 0.0, 12},
      {"Wampler3", index, disturbed(1.0), ones, of_three, 2360.14502379268, 10},
      {"Wampler4", index, disturbed(100.0), ones, times(of_three, 100.0), 236014.502379268, 9},
      {"Wampler5", index, disturbed(10000.0), ones, times(of_three, 1e4), 23601450.2379268, 9},
  };
  for (const auto& set : sets) {
    const auto fit = regress(powers(set.x, static_cast<int>(set.parameters.size()) - 1), set.y);
    const auto k = set.parameters.size();
    for (std::size_t j = 0; j < k; ++j) {
      expect_digits(fit.parameters[j], set.parameters[j], set.digits, set.name);
      if (set.standards.empty()) continue;
      expect_digits(fit.residual_standard_deviation * std::sqrt(fit.covariance[j * k + j]),
                    set.standards[j], 11, set.name);
    }
    if (set.residual > 0.0) {
      expect_digits(fit.residual_standard_deviation, set.residual, 11, set.name);
    } else {
      EXPECT_LT(fit.residual_standard_deviation, 1e-9) << set.name;
    }
    EXPECT_EQ(fit.dof, static_cast<int>(set.x.size() - k));
  }
}

// JCGM 100, H.3: corrections of a thermometer over its readings less 20 degC, to all printed
// digits.
TEST(Regression, ThermometerLine) {
  const Values t{21.521, 22.012, 22.512, 23.003, 23.507, 23.999,
                 24.513, 25.002, 25.503, 26.010, 26.511};
  const Values b{-0.171, -0.169, -0.166, -0.159, -0.164, -0.165,
                 -0.156, -0.157, -0.159, -0.161, -0.160};
  Values from;
  for (const double x : t) from.push_back(x - 20.0);
  const auto fit = regress(powers(from, 1), b);
  const double s = fit.residual_standard_deviation;
  const auto& c = fit.covariance;
  EXPECT_NEAR(fit.parameters[0], -0.1712, 5e-5);
  EXPECT_NEAR(fit.parameters[1], 0.00218, 5e-6);
  EXPECT_NEAR(s * std::sqrt(c[0]), 0.0029, 5e-5);
  EXPECT_NEAR(s * std::sqrt(c[3]), 0.00067, 5e-6);
  EXPECT_NEAR(s, 0.0035, 5e-5);
  EXPECT_NEAR(c[1] / std::sqrt(c[0] * c[3]), -0.930, 5e-4);
  EXPECT_NEAR(fit.parameters[0] + 10.0 * fit.parameters[1], -0.1494, 5e-5);
  EXPECT_NEAR(s * std::sqrt(c[0] + 20.0 * c[1] + 100.0 * c[3]), 0.0041, 5e-5);
}

// Weights: rows of half the standard uncertainty count as four rows.
TEST(Regression, WeightsLeveragesAndWhatIsLeftOut) {
  const Values x{0, 1, 2, 3, 4}, y{1.0, 2.9, 5.2, 7.1, 8.8};
  const Values standards{1, 1, 0.5, 1, 1};
  const auto weighted = regress(powers(x, 1), y, standards);
  const Values repeated_x{0, 1, 2, 2, 2, 2, 3, 4},
      repeated_y{1.0, 2.9, 5.2, 5.2, 5.2, 5.2, 7.1, 8.8};
  const auto repeated = regress(powers(repeated_x, 1), repeated_y);
  for (std::size_t j = 0; j < 2; ++j) {
    EXPECT_NEAR(weighted.parameters[j], repeated.parameters[j], 1e-14);
    double by_weights = 0.0;
    for (std::size_t i = 0; i < 5; ++i) by_weights += weighted.weights[j][i] * y[i];
    EXPECT_NEAR(by_weights, weighted.parameters[j], 1e-14);
  }
  // Left out, found by leaving it out.
  const auto all = regress(powers(x, 1), y);
  double leverages = 0.0;
  for (std::size_t i = 0; i < 5; ++i) {
    auto less_x = x, less_y = y;
    less_x.erase(less_x.begin() + static_cast<std::ptrdiff_t>(i));
    less_y.erase(less_y.begin() + static_cast<std::ptrdiff_t>(i));
    const auto less = regress(powers(less_x, 1), less_y);
    EXPECT_NEAR(all.left_out(i), y[i] - less.parameters[0] - less.parameters[1] * x[i], 1e-13);
    leverages += all.leverages[i];
  }
  EXPECT_NEAR(leverages, 2.0, 1e-14);
  EXPECT_THROW(regress(powers(Values(5, 3.0), 1), y), DataError);
}

// Pearson's data with York's weights (York, 1966): slope -0.480533, intercept 5.47991; York and
// others, 2004, print them with standard errors 0.058 and 0.295, and chi-squared 11.866.
TEST(Regression, ErrorsInBothAxes) {
  const Values x{0.0, 0.9, 1.8, 2.6, 3.3, 4.4, 5.2, 6.1, 6.5, 7.4};
  const Values y{5.9, 5.4, 4.4, 4.6, 3.5, 3.7, 2.8, 2.8, 2.4, 1.5};
  const Values wx{1000, 1000, 500, 800, 200, 80, 60, 20, 1.8, 1.0};
  const Values wy{1.0, 1.8, 4.0, 8.0, 20, 20, 70, 70, 100, 500};
  Values ux, uy;
  for (std::size_t i = 0; i < x.size(); ++i) {
    ux.push_back(1.0 / std::sqrt(wx[i]));
    uy.push_back(1.0 / std::sqrt(wy[i]));
  }
  const auto fit = fit_both_axes(x, y, ux, uy);
  EXPECT_TRUE(fit.converged);
  EXPECT_NEAR(fit.offset, 5.47991, 5e-6);
  EXPECT_NEAR(fit.gain, -0.480533, 5e-7);
  EXPECT_NEAR(fit.offset_standard, 0.295, 5e-4);
  EXPECT_NEAR(fit.gain_standard, 0.058, 5e-4);
  EXPECT_NEAR(fit.chi_squared, 11.866, 5e-4);
  // Without errors of x it is the weighted line.
  const auto plain = fit_both_axes(x, y, Values(x.size(), 0.0), uy);
  EXPECT_NEAR(plain.gain, regress(powers(x, 1), y, uy).parameters[1], 1e-13);
}

TEST(Regression, OneWildRowDoesNotBendARobustFit) {
  Values x, y;
  for (int i = 0; i < 12; ++i) {
    x.push_back(i);
    y.push_back(2.0 + 3.0 * i + 0.01 * std::sin(7.0 * i));
  }
  y[8] += 1.0;
  const auto off = robust_residuals(powers(x, 1), y);
  for (std::size_t i = 0; i < x.size(); ++i) {
    EXPECT_EQ(std::abs(off[i]) > 10.0, i == 8) << i << " " << off[i];
  }
  EXPECT_EQ(median(Values{3.0, 1.0, 2.0}), 2.0);
  EXPECT_EQ(median(Values{4.0, 1.0, 2.0, 3.0}), 2.5);
}

}  // namespace
}  // namespace tamlo::math
