// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <algorithm>
#include <cstdint>
#include <cstdlib>
#include <memory>
#include <new>
#include <span>
#include <utility>
#include <vector>

#include "tamlo/export.hpp"

/// Captured samples, block by block: what has been fed can be asked at any time, and parts of one
/// record that were fed on several machines merge to what one would have found.
namespace tamlo {
namespace signal TAMLO_API {

/// Histogram of codes; everything about a record that does not depend on its order follows from it,
/// exactly. The codes may lie anywhere in 64 bits, over a range of up to 2^25 of them: beyond that
/// add() throws DataError and keeps what it has.
class Histogram {
 public:
  /// Begins empty.
  Histogram() = default;
  /// Copies all counts.
  Histogram(const Histogram&) = default;
  /// Leaves an empty one behind.
  Histogram(Histogram&& other) noexcept { swap(other); }
  /// Takes the counts of the other.
  Histogram& operator=(Histogram other) noexcept {
    swap(other);
    return *this;
  }
  /// Exchanges the counts of both.
  void swap(Histogram& other) noexcept {
    recent_.swap(other.recent_);
    earlier_.swap(other.earlier_);
    used_.swap(other.used_);
    std::swap(first_, other.first_);
    std::swap(recent_count_, other.recent_count_);
    std::swap(count_, other.count_);
  }

  /// Codes in any order.
  void add(std::span<const std::int16_t> codes);
  /// Adds codes as above.
  void add(std::span<const std::uint16_t> codes);
  /// Adds codes as above.
  void add(std::span<const std::int32_t> codes);
  /// One code, so many times.
  void add(std::int64_t code, std::uint64_t times = 1);
  /// Adds the other's codes as if they had been fed here: exact, in any order.
  void merge(const Histogram& other);

  /// Codes so far.
  std::uint64_t count() const { return count_; }
  /// Tells whether there are none.
  bool empty() const { return count_ == 0; }
  std::int64_t min() const;  ///< of a histogram that is not empty; looked for at each call
  /// The largest code, as min().
  std::int64_t max() const;
  /// Returns the number of occurrences of a code.
  std::uint64_t at(std::int64_t code) const;
  /// Codes between others that never occur, and would if all were normal with the spread of their
  /// middle 68 %: in each of them 20 samples are expected, and as many lie beyond it on either
  /// side. Of so many none comes once in 1e8 by chance, and once in 1e5 where the samples are those
  /// of a sine. None of less than that.
  std::vector<std::int64_t> missing() const;

  /// Returns the mean of the codes, of which there is one at least.
  double mean() const;
  /// Returns the variance of the codes, with n - 1; 0 for less than two.
  double variance() const;
  /// Shape of the distribution of codes; fewer than two different ones count as normal.
  struct Shape {
    double mean = 0.0;
    double variance = 0.0;  ///< with n - 1
    /// Third and fourth central moments in units of the standard deviation: 0 and 3 of a normal
    /// one.
    double skewness = 0.0, kurtosis = 3.0;
  };
  /// Returns the shape of a histogram that is not empty.
  Shape shape() const;

 private:
  // Zeros that take no memory until something is written to them, nor time.
  template <class T>
  class Zeros {
   public:
    Zeros() = default;
    explicit Zeros(std::size_t size)
        : room_(static_cast<T*>(std::calloc(size, sizeof(T)))), size_(size) {
      if (room_ == nullptr) throw std::bad_alloc();
    }
    Zeros(const Zeros& other) : Zeros(other.size_ > 0 ? Zeros(other.size_) : Zeros()) {
      std::copy_n(other.room_.get(), size_, room_.get());
    }
    Zeros(Zeros&& other) noexcept { swap(other); }
    Zeros& operator=(Zeros other) noexcept {
      swap(other);
      return *this;
    }
    void swap(Zeros& other) noexcept {
      room_.swap(other.room_);
      std::swap(size_, other.size_);
    }
    bool empty() const { return size_ == 0; }
    std::size_t size() const { return size_; }
    T& operator[](std::size_t place) { return room_.get()[place]; }
    T operator[](std::size_t place) const { return room_.get()[place]; }
    std::span<T> all() { return {room_.get(), size_}; }

   private:
    struct Free {
      void operator()(T* room) const { std::free(room); }
    };
    std::unique_ptr<T, Free> room_{};
    std::size_t size_ = 0;
  };

  // Counts of the last codes, of 2^32 - 1 at most, in half the room and time; and of those before,
  // once there are more.
  Zeros<std::uint32_t> recent_{};
  Zeros<std::uint64_t> earlier_{};
  std::vector<char> used_{};  // whether one may be counted in each stretch of them
  std::int64_t first_ = 0;    // code of the first
  std::uint64_t recent_count_ = 0, count_ = 0;

  std::uint64_t counted(std::size_t place) const {
    return recent_[place] + (earlier_.empty() ? 0 : earlier_[place]);
  }
  std::int64_t code_at(std::size_t place) const {
    return first_ + static_cast<std::int64_t>(place);
  }
  std::size_t place_of(std::int64_t code) const { return static_cast<std::size_t>(code - first_); }
  std::int64_t code_below(double part) const;
  void make_room(std::int64_t low, std::int64_t high);
  void expect(std::uint64_t more);
  template <class Code>
  void add_codes(std::span<const Code> codes);
  template <class Code>
  bool add_narrow(std::span<const Code> codes, std::span<const Code> ahead);
  template <class Code>
  void add_wide(std::span<const Code> codes);
  long double mean_place() const;
  template <class Take>
  void for_each(Take take) const;
};

}  // namespace signal
}  // namespace tamlo
