// SPDX-License-Identifier: Apache-2.0
// The loops of transform.hpp, compiled once for each set of instructions (cmake/settings.cmake). No
// sum runs over the elements of a loop, but for eight side by side on all, so that its width
// changes no bit.
#include <utility>

#include "transform.hpp"

namespace tamlo::signal::TAMLO_SET {
namespace {

constexpr std::size_t width = TAMLO_WIDTH;
using Reals = double __attribute__((vector_size(width * sizeof(double))));
using Place
    __attribute__((vector_size(width * sizeof(double)), aligned(alignof(double)), may_alias)) =
        double;

inline Reals get(const double* from) { return *reinterpret_cast<const Place*>(from); }
inline void put(double* to, Reals numbers) { *reinterpret_cast<Place*>(to) = numbers; }

struct Complex {
  Reals real, imaginary;
};
inline Complex get(const double* from, std::size_t gap) { return {get(from), get(from + gap)}; }
inline void put(double* to, std::size_t gap, Complex numbers) {
  put(to, numbers.real);
  put(to + gap, numbers.imaginary);
}
inline Complex operator+(Complex a, Complex b) {
  return {a.real + b.real, a.imaginary + b.imaginary};
}
inline Complex operator-(Complex a, Complex b) {
  return {a.real - b.real, a.imaginary - b.imaginary};
}
template <class Factor>
inline Complex operator*(Factor w, Complex a) {
  return {w.real * a.real - w.imaginary * a.imaginary, w.real * a.imaginary + w.imaginary * a.real};
}

// The bit `apart` of the place in a register exchanged with that of the register's number, of two
// whose numbers differ in it.
template <std::size_t apart, std::size_t... place>
inline void exchange(Reals& a, Reals& b, std::index_sequence<place...>) {
  const Reals first =
      __builtin_shufflevector(a, b, (int)((place & apart) == 0 ? place : width + place - apart)...);
  b = __builtin_shufflevector(a, b, (int)((place & apart) == 0 ? place + apart : width + place)...);
  a = first;
}

// As many registers as each has numbers: rows to columns.
template <std::size_t apart = width / 2>
inline void transpose(Reals* rows) {
  if constexpr (apart > 0) {
    for (std::size_t i = 0; i < width; ++i) {
      if ((i & apart) == 0)
        exchange<apart>(rows[i], rows[i + apart], std::make_index_sequence<width>());
    }
    transpose<apart / 2>(rows);
  }
}

}  // namespace

void radix_4(const Root* roots, std::size_t m, std::size_t done, const double* from, Places of_from,
             double* to, Places of_to) {
  const auto apart = m * done * of_from.step, out = done * of_to.step;
  for (std::size_t p = 0; p < m; ++p) {
    const Root one = roots[p * done], two = roots[2 * p * done], three = roots[3 * p * done];
    for (std::size_t q = 0; q < done; ++q) {
      for (std::size_t part = 0; part < together; part += width) {
        const auto* const f = from + (p * done + q) * of_from.step + part;
        auto* const t = to + (4 * p * done + q) * of_to.step + part;
        const auto a = get(f, of_from.gap), b = get(f + apart, of_from.gap),
                   c = get(f + 2 * apart, of_from.gap), d = get(f + 3 * apart, of_from.gap);
        const auto even = a + c, odd = b + d, off = a - c, across = b - d;
        const Complex turned{across.imaginary, -across.real};  // by a quarter
        put(t, of_to.gap, even + odd);
        put(t + out, of_to.gap, one * (off + turned));
        put(t + 2 * out, of_to.gap, two * (even - odd));
        put(t + 3 * out, of_to.gap, three * (off - turned));
      }
    }
  }
}

void radix_2(std::size_t done, const double* from, Places of_from, double* to, Places of_to) {
  for (std::size_t q = 0; q < done; ++q) {
    for (std::size_t part = 0; part < together; part += width) {
      const auto* const f = from + q * of_from.step + part;
      auto* const t = to + q * of_to.step + part;
      const auto a = get(f, of_from.gap), b = get(f + done * of_from.step, of_from.gap);
      put(t, of_to.gap, a + b);
      put(t + done * of_to.step, of_to.gap, a - b);
    }
  }
}

void turn_over(const double* from, const double* turns, std::size_t n, double* to, Places of_to) {
  constexpr Places places;
  for (std::size_t k = 0; k < n; k += width) {
    for (std::size_t part = 0; part < together; part += width) {
      Reals real[width], imaginary[width];
      for (std::size_t i = 0; i < width; ++i) {
        const auto at = (k + i) * places.step + part;
        const auto turned = get(turns + at, places.gap) * get(from + at, places.gap);
        real[i] = turned.real;
        imaginary[i] = turned.imaginary;
      }
      transpose(real);
      transpose(imaginary);
      for (std::size_t i = 0; i < width; ++i) {
        put(to + (part + i) * of_to.step + k, of_to.gap, {real[i], imaginary[i]});
      }
    }
  }
}

void weigh(const double* samples, const double* weights, double mean, std::size_t n,
           double* __restrict real, double* __restrict imaginary) {
  for (std::size_t i = 0; i < n; ++i) {
    real[i] = weights[2 * i] * (samples[2 * i] - mean);
    imaginary[i] = weights[2 * i + 1] * (samples[2 * i + 1] - mean);
  }
}

double sum_of(const double* samples, std::size_t n) {
  double sums[together] = {};
  for (std::size_t i = 0; i < n; i += together) {
    for (std::size_t k = 0; k < together; ++k) sums[k] += samples[i + k];
  }
  double sum = 0.0;
  for (const double part : sums) sum += part;
  return sum;
}

// Of even samples x and odd ones y, whose transforms are X and Y: z has X + j Y, and its mirror
// image X* + j Y*, from which X + exp(-2 pi j k / 2 n) Y.
void add_squares(const double* __restrict real, const double* __restrict imaginary,
                 const double* __restrict roots_real, const double* __restrict roots_imaginary,
                 std::size_t n, double* __restrict power) {
  double* __restrict mirrored = power;
  for (std::size_t k = 1; k < n / 2; ++k) {
    const auto m = n - k;
    const double xr = (real[k] + real[m]) / 2.0, xi = (imaginary[k] - imaginary[m]) / 2.0;
    const double yr = (imaginary[k] + imaginary[m]) / 2.0, yi = (real[m] - real[k]) / 2.0;
    const double tr = roots_real[k] * yr - roots_imaginary[k] * yi;
    const double ti = roots_real[k] * yi + roots_imaginary[k] * yr;
    power[k] += (xr + tr) * (xr + tr) + (xi + ti) * (xi + ti);
    mirrored[m] += (xr - tr) * (xr - tr) + (xi - ti) * (xi - ti);
  }
}

}  // namespace tamlo::signal::TAMLO_SET
