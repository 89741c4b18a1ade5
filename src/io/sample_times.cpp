// SPDX-License-Identifier: Apache-2.0
#include "sample_times.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/math/regression.hpp"

namespace tamlo::io {
namespace {

constexpr std::size_t steps_for_period = 255;

}  // namespace

void SampleTimeCheck::add(double time) {
  time *= scale_;
  const double step = time - before_;
  before_ = time;
  if (++count_ == 1) return;
  if (period_ > 0.0) return judge(step, count_);
  first_.push_back(step);
  if (first_.size() == steps_for_period) settle();
}

void SampleTimeCheck::settle() {
  if (first_.empty()) return;
  period_ = std::max(0.0, math::median(first_));
  const auto from = count_ - first_.size() + 1;
  for (std::size_t i = 0; i < first_.size(); ++i) judge(first_[i], from + i);
  first_.clear();
}

void SampleTimeCheck::judge(double step, std::uint64_t sample) {
  const bool back = !(step >= 0.0), gap = step > 1.5 * period_;
  const bool waited = !back && !gap && step < 0.5 * period_;
  waiting_ = waited ? waiting_ + 1 : 0;
  result_.held_back += waited ? 1U : 0U;
  result_.backlog = std::max(result_.backlog, waiting_);
  const bool odd = back || gap || waited;
  if (odd && result_.first_odd == 0) result_.first_odd = sample;
  result_.backwards += back ? 1U : 0U;
  result_.gaps += gap ? 1U : 0U;
  if (gap) result_.longest = std::max(result_.longest, step);
  if (odd) return;
  const double from = step - period_;
  sum_ += from;
  squares_ += from * from;
  ++steps_;
}

SampleTimes SampleTimeCheck::result() const {
  auto all = *this;
  all.settle();
  const auto n = static_cast<double>(all.steps_);
  // The mean step is surer than the middle one, whose last digit is that of the file.
  all.result_.period = n > 0.0 ? all.period_ + all.sum_ / n : all.period_;
  if (n > 1.0) {
    all.result_.jitter =
        std::sqrt(std::max(0.0, (all.squares_ - all.sum_ * all.sum_ / n) / (n - 1.0)));
  }
  return all.result_;
}

}  // namespace tamlo::io
