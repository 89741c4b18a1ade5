// SPDX-License-Identifier: Apache-2.0
#include "transform.hpp"

#include <algorithm>
#include <bit>
#include <cassert>
#include <cmath>
#include <numbers>
#include <utility>

namespace tamlo::record {
namespace {

using math::Instructions;

constexpr std::size_t together = 8;     // lines of the square that go through at once
constexpr std::size_t long_one = 4096;  // from here on in a square

// So few that a call would cost more.
inline void copy(const double* from, double* to) {
  for (std::size_t b = 0; b < together; ++b) to[b] = from[b];
}

SplitComplex roots_of(std::size_t n) {
  SplitComplex result(n);
  for (std::size_t k = 0; k < n; ++k) {
    const double angle = -2.0 * std::numbers::pi * static_cast<double>(k) / static_cast<double>(n);
    result.real[k] = std::cos(angle);
    result.imaginary[k] = std::sin(angle);
  }
  return result;
}

// `batch` transforms of length n at once, element by element beside one another; `work` is as long.
void stockham(const SplitComplex& roots, SplitComplex& values, SplitComplex& work, std::size_t n,
              std::size_t batch) {
  const auto with = math::widest_instructions();
  const auto four = with == Instructions::avx512 ? avx512::radix_4
                    : with == Instructions::avx2 ? avx2::radix_4
                                                 : sse2::radix_4;
  const auto two = with == Instructions::avx512 ? avx512::radix_2
                   : with == Instructions::avx2 ? avx2::radix_2
                                                : sse2::radix_2;
  std::size_t done = 1;
  for (auto left = n; left >= 4; left /= 4, done *= 4) {
    four(roots.real.data(), roots.imaginary.data(), values.real.data(), values.imaginary.data(),
         work.real.data(), work.imaginary.data(), left / 4, done * batch, done);
    std::swap(values, work);
  }
  if (done == n) return;
  two(values.real.data(), values.imaginary.data(), work.real.data(), work.imaginary.data(),
      done * batch);
  std::swap(values, work);
}

std::size_t rows_of(std::size_t n) {
  return n < long_one ? 1 : std::size_t{1} << (std::countr_zero(n) / 2);
}

}  // namespace

Transform::Transform(std::size_t n)
    : n_(n),
      rows_(rows_of(n)),
      roots_(roots_of(n)),
      row_roots_(roots_of(rows_)),
      column_roots_(roots_of(n / rows_)),
      work_(n),
      batch_(std::max(rows_, n / rows_) * together),
      batch_work_(batch_) {
  assert(std::has_single_bit(n) && n >= 4);
}

// Down each column of x[row][column], then the turn that the place in the row asks for.
void Transform::columns(SplitComplex& values) {
  const auto width = n_ / rows_;
  for (std::size_t column = 0; column < width; column += together) {
    for (std::size_t row = 0; row < rows_; ++row) {
      const auto from = row * width + column, to = row * together;
      copy(&values.real[from], &batch_.real[to]);
      copy(&values.imaginary[from], &batch_.imaginary[to]);
    }
    stockham(row_roots_, batch_, batch_work_, rows_, together);
    for (std::size_t k = 0; k < rows_; ++k) {
      const auto from = k * together, to = k * width + column;
      for (std::size_t b = 0; b < together; ++b) {
        const auto turn = (column + b) * k;
        const double wr = roots_.real[turn], wi = roots_.imaginary[turn];
        const double xr = batch_.real[from + b], xi = batch_.imaginary[from + b];
        values.real[to + b] = wr * xr - wi * xi;
        values.imaginary[to + b] = wr * xi + wi * xr;
      }
    }
  }
}

// Along each row; its bins are `rows` apart in the whole.
void Transform::lines(SplitComplex& values) {
  const auto width = n_ / rows_;
  for (std::size_t row = 0; row < rows_; row += together) {
    for (std::size_t b = 0; b < together; ++b) {
      const auto from = (row + b) * width;
      for (std::size_t c = 0; c < width; ++c) {
        batch_.real[c * together + b] = values.real[from + c];
        batch_.imaginary[c * together + b] = values.imaginary[from + c];
      }
    }
    stockham(column_roots_, batch_, batch_work_, width, together);
    for (std::size_t k = 0; k < width; ++k) {
      copy(&batch_.real[k * together], &work_.real[k * rows_ + row]);
      copy(&batch_.imaginary[k * together], &work_.imaginary[k * rows_ + row]);
    }
  }
  std::swap(values, work_);
}

void Transform::operator()(SplitComplex& values) {
  if (rows_ == 1) return stockham(roots_, values, work_, n_, 1);
  columns(values);
  lines(values);
}

}  // namespace tamlo::record
