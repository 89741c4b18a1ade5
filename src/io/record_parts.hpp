// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdio>
#include <memory>
#include <string>
#include <vector>

#include "input_file.hpp"
#include "tamlo/io/record_file.hpp"

// What the readers of the layouts of a record share.
namespace tamlo::io {

struct RecordFile::Source {
  virtual ~Source() = default;
  virtual RecordRead read(const Block& block) = 0;
  std::vector<std::string> names{}, units{}, notes{};
  int bits = 0;  ///< of whole numbers
};

/// Returns the name of the file for a message.
std::string shown(const std::string& path);
[[noreturn]] void fail_record(const std::string& path, std::string found, std::string allowed,
                              std::size_t line = 0);

/// Gathers the samples of each channel to blocks.
class SampleBlocks {
 public:
  SampleBlocks(const RecordFile::Block& block, std::size_t channels);
  /// The next sample of a channel. All channels come round.
  void add(std::size_t which, double value) { values_[which].push_back(value); }
  /// Behind each round.
  void round() {
    ++rounds_;
    if (values_.front().size() >= capacity) flush();
  }
  /// Rounds of the only channel.
  void append(std::span<const double> samples) {
    values_.front().insert(values_.front().end(), samples.begin(), samples.end());
    rounds_ += samples.size();
    if (values_.front().size() >= capacity) flush();
  }
  void flush();
  std::uint64_t rounds() const { return rounds_; }

 private:
  static constexpr std::size_t capacity = std::size_t{1} << 14;
  const RecordFile::Block& block_;
  std::vector<std::vector<double>> values_;
  std::uint64_t rounds_ = 0;
};

std::unique_ptr<RecordFile::Source> text_record(const std::string& path,
                                                const std::vector<std::string>& wanted);
std::unique_ptr<RecordFile::Source> raw_record(const std::string& path, const RecordLayout& layout,
                                               std::size_t channels);
/// 0 channels: all that there are.
std::unique_ptr<RecordFile::Source> wav_record(const std::string& path, std::size_t channels);

// The moments of samples, one after another.

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
