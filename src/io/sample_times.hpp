// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/io/record_file.hpp"

// The moments of samples, one after another.
namespace tamlo::io {

class SampleTimeCheck {
 public:
  explicit SampleTimeCheck(double scale) : scale_(scale) {}
  void add(double time);
  SampleTimes result() const;

 private:
  double scale_;
  std::uint64_t count_ = 0;
  double before_ = 0.0, period_ = 0.0;
  std::vector<double> first_{};  // steps, until the period is known from them
  SampleTimes result_{};
  double sum_ = 0.0, squares_ = 0.0;  // of steps less the period
  std::uint64_t steps_ = 0, waiting_ = 0;

  void settle();
  void judge(double step, std::uint64_t sample);
};

}  // namespace tamlo::io
