// SPDX-License-Identifier: Apache-2.0
#include "transform.hpp"

#include <algorithm>
#include <bit>
#include <cassert>
#include <cmath>
#include <complex>
#include <numbers>
#include <utility>

#include "tamlo/error.hpp"

namespace tamlo::signal {
namespace {

using math::chosen;

constexpr std::size_t least_square = together * together;

std::complex<double> root(std::size_t k, std::size_t n) {
  return std::polar(1.0, -2.0 * std::numbers::pi * static_cast<double>(k) / static_cast<double>(n));
}

std::vector<Root> roots_of(std::size_t n) {
  std::vector<Root> result(n);
  for (std::size_t k = 0; k < n; ++k) {
    const auto w = root(k, n);
    result[k] = {w.real(), w.imag()};
  }
  return result;
}

// exp(-2 pi j k / n) of many k, each as the product of two.
class Roots {
 public:
  explicit Roots(std::size_t n) : bits_(std::countr_zero(n) / 2) {
    const auto few = std::size_t{1} << bits_;
    for (std::size_t k = 0; k < few; ++k) fine_.push_back(root(k, n));
    for (std::size_t k = 0; k < n; k += few) coarse_.push_back(root(k, n));
  }
  Root operator()(std::size_t k) const {
    const auto a = coarse_[k >> bits_], b = fine_[k & (fine_.size() - 1)];
    // Not a * b of the library, which looks for what is not a number.
    return {a.real() * b.real() - a.imag() * b.imag(), a.real() * b.imag() + a.imag() * b.real()};
  }

 private:
  int bits_;
  std::vector<std::complex<double>> fine_{}, coarse_{};
};

}  // namespace

Transform::Transform(std::size_t n)
    : n_(n), rows_(std::size_t{1} << (std::countr_zero(n) / 2)), columns_(n / rows_) {
  require(std::has_single_bit(n), "a transform is of a power of two");
  if (n < least_square) {
    row_roots_ = roots_of(n);
    return;
  }
  row_roots_ = roots_of(rows_);
  column_roots_ = roots_of(columns_);
  work_.resize(2 * n / together);
  batch_.resize(2 * columns_);
  other_batch_.resize(2 * columns_);
  turned_.resize(2 * rows_);
  const Roots roots(n);
  turns_.reserve(2 * n / together);
  for (std::size_t column = 0; column < columns_; column += together) {
    for (std::size_t k = 0; k < rows_; ++k) {
      Line real, imaginary;
      for (std::size_t b = 0; b < together; ++b) {
        const auto turn = roots((column + b) * k);
        real.of[b] = turn.real;
        imaginary.of[b] = turn.imaginary;
      }
      turns_.push_back(real);
      turns_.push_back(imaginary);
    }
  }
}

// The sum itself, where it is short.
void Transform::directly(double* values) {
  std::vector<double> result(2 * n_);
  for (std::size_t k = 0; k < n_; ++k) {
    for (std::size_t i = 0; i < n_; ++i) {
      const auto w = row_roots_[k * i % n_];
      result[k] += w.real * values[i] - w.imaginary * values[n_ + i];
      result[n_ + k] += w.real * values[n_ + i] + w.imaginary * values[i];
    }
  }
  std::ranges::copy(result, values);
}

// Eight transforms, as long as there are roots; the last pass leaves them in order in `to`.
void Transform::passes(const std::vector<Root>& roots, const double* from, Places of_from,
                       double* to, Places of_to) {
  const auto n = roots.size();
  const auto four = chosen(base::radix_4, avx2::radix_4, avx512::radix_4);
  const auto two = chosen(base::radix_2, avx2::radix_2, avx512::radix_2);
  double *next = batch_.data()->of, *other = other_batch_.data()->of;
  std::size_t done = 1;
  for (auto left = n; left >= 4; left /= 4, done *= 4) {
    const bool last = done * 4 == n;
    four(roots.data(), left / 4, done, from, of_from, last ? to : next, last ? of_to : Places{});
    from = next;
    of_from = {};
    std::swap(next, other);
  }
  if (done < n) two(done, from, of_from, to, of_to);
}

void Transform::operator()(double* values) {
  if (n_ < least_square) return directly(values);
  const auto turn_over = chosen(base::turn_over, avx2::turn_over, avx512::turn_over);
  auto* const work = work_.data()->of;
  // Down the columns of x[row][column], then the turn that the place in the row asks for.
  for (std::size_t column = 0; column < columns_; column += together) {
    passes(row_roots_, values + column, {columns_, n_}, turned_.data()->of, {});
    turn_over(turned_.data()->of, turns_[2 * column * rows_ / together].of, rows_,
              work + column * rows_, {rows_, n_});
  }
  // Down the columns of what now lies as y[column][bin of the row].
  for (std::size_t k = 0; k < rows_; k += together) {
    passes(column_roots_, work + k, {rows_, n_}, values + k, {rows_, n_});
  }
}

double mean_of(std::span<const double> samples) {
  assert(samples.size() % together == 0);
  return chosen(base::sum_of, avx2::sum_of, avx512::sum_of)(samples.data(), samples.size()) /
         static_cast<double>(samples.size());
}

RealTransform::RealTransform(std::size_t n) : half_(n / 2), values_(n) {
  require(std::has_single_bit(n) && n >= 8, "a segment is of a power of two, 8 or more");
  const Roots roots(n);
  for (std::size_t k = 0; k < n / 4; ++k) {
    const auto w = roots(k);
    roots_real_.push_back(w.real);
    roots_imaginary_.push_back(w.imaginary);
  }
}

void RealTransform::add_squares(std::span<const double> samples, std::span<const double> weights,
                                double mean, std::span<double> power) {
  const auto n = values_.size() / 2;
  auto *const real = values_.data(), *const imaginary = real + n;
  chosen(base::weigh, avx2::weigh, avx512::weigh)(samples.data(), weights.data(), mean, n, real,
                                                  imaginary);
  half_(real);
  chosen(base::add_squares, avx2::add_squares, avx512::add_squares)(
      real, imaginary, roots_real_.data(), roots_imaginary_.data(), n, power.data());
  const auto square = [](double x) { return x * x; };
  power[0] += square(real[0] + imaginary[0]);
  power[n] += square(real[0] - imaginary[0]);
  power[n / 2] += square(real[n / 2]) + square(imaginary[n / 2]);
}

}  // namespace tamlo::signal
