// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <cerrno>
#include <cmath>
#include <cstring>
#include <optional>
#include <utility>

#include "record_parts.hpp"
#include "sound_library.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/readings_file.hpp"

namespace tamlo::io {

struct RecordWriter::Sink {
  virtual ~Sink() = default;
  virtual void add(std::span<const std::vector<double>> samples) = 0;
  virtual void finish() = 0;
};

namespace {

// A file, or standard output for "-".
class FileSink : public RecordWriter::Sink {
 public:
  explicit FileSink(const std::string& path) {
    if (path != "-") file_.emplace(path);
  }
  void finish() override {
    if (file_) return file_->finish();
    if (std::fflush(stdout) != 0) cannot_write();
  }

 protected:
  void write(std::string_view bytes) {
    if (file_) return file_->write(bytes);
    if (std::fwrite(bytes.data(), 1, bytes.size(), stdout) != bytes.size()) cannot_write();
  }

 private:
  std::optional<OutputFile> file_{};

  [[noreturn]] static void cannot_write() {
    throw EnvironmentError(
        fmt::format("cannot write to standard output: {}", std::strerror(errno)));
  }
};

class TextSink : public FileSink {
 public:
  TextSink(const std::string& path, std::vector<RecordWriter::Column> columns, double rate)
      : FileSink(path), columns_(std::move(columns)), rate_(rate) {
    std::string heading = rate > 0.0 ? "time [s]" : "";
    for (const auto& column : columns_) {
      if (!heading.empty()) heading += ',';
      heading += csv_cell(fmt::format("{} [{}]", column.name, column.unit));
    }
    write(heading + "\n");
    // Digits enough that neighbours differ in the fourth.
    if (rate > 0.0) time_digits_ = std::max(0, static_cast<int>(std::ceil(std::log10(rate))) + 3);
  }

  void add(std::span<const std::vector<double>> samples) override {
    std::string text;
    for (std::size_t i = 0; i < samples.front().size(); ++i, ++count_) {
      if (rate_ > 0.0) {
        text += fmt::format("{:.{}f},", static_cast<double>(count_) / rate_, time_digits_);
      }
      for (std::size_t c = 0; c < samples.size(); ++c) {
        text += fmt::format("{:.{}f}{}", samples[c][i], columns_[c].decimals,
                            c + 1 < samples.size() ? ',' : '\n');
      }
    }
    write(text);
  }

 private:
  std::vector<RecordWriter::Column> columns_;
  double rate_;
  int time_digits_ = 0;
  std::uint64_t count_ = 0;
};

// Refuses what the numbers of the layout cannot hold.
void check_fits(const std::string& path, double sample, int bits, bool is_signed) {
  const double low = is_signed ? -std::ldexp(1.0, bits - 1) : 0.0;
  const double high = std::ldexp(1.0, is_signed ? bits - 1 : bits) - 1.0;
  if (sample >= low && sample <= high && sample == std::floor(sample)) return;
  fail_record(
      path, fmt::format("the sample {:.10g}", sample),
      fmt::format("whole numbers from {:.0f} to {:.0f}, as the layout holds them", low, high));
}

class RawSink : public FileSink {
 public:
  RawSink(const std::string& path, const RecordLayout& layout)
      : FileSink(path), path_(path), layout_(layout) {}

  void add(std::span<const std::vector<double>> samples) override {
    const int size = layout_.bits / 8;
    std::string bytes;
    for (std::size_t i = 0; i < samples.front().size(); ++i) {
      for (const auto& sample : samples) {
        const auto word = word_of(sample[i]);
        for (int k = 0; k < size; ++k) {
          const int shift = 8 * (layout_.big_endian ? size - 1 - k : k);
          bytes += static_cast<char>(word >> shift & 0xff);
        }
      }
    }
    write(bytes);
  }

 private:
  std::string path_;
  RecordLayout layout_;

  std::uint64_t word_of(double sample) const {
    if (layout_.real) {
      return layout_.bits == 32 ? std::bit_cast<std::uint32_t>(static_cast<float>(sample))
                                : std::bit_cast<std::uint64_t>(sample);
    }
    check_fits(path_, sample, layout_.bits, layout_.is_signed);
    return static_cast<std::uint64_t>(static_cast<std::int64_t>(sample));
  }
};

class WavSink : public RecordWriter::Sink {
 public:
  WavSink(const std::string& path, int bits, std::size_t channels, double rate)
      : path_(path), library_(sound_library()), bits_(bits) {
    if (path == "-") fail_record(path, "a WAV", "a file: its head is written last");
    constexpr double most_rate = 2147483647.0;
    if (!(rate >= 1.0 && rate <= most_rate) || std::abs(rate - std::round(rate)) > 1e-9 * rate) {
      fail_record(path, fmt::format("a rate of {:.10g} Hz", rate),
                  "a whole number of hertz, as the head of a WAV holds it, or another layout");
    }
    SF_INFO info{};
    info.samplerate = static_cast<int>(std::lround(rate));
    info.channels = static_cast<int>(channels);
    info.format = SF_FORMAT_WAV | (bits <= 16   ? SF_FORMAT_PCM_16
                                   : bits <= 24 ? SF_FORMAT_PCM_24
                                                : SF_FORMAT_PCM_32);
    bits_ = bits <= 16 ? 16 : bits <= 24 ? 24 : 32;
    output_.emplace(path);
    file_ = library_.open_fd(output_->descriptor(), SFM_WRITE, &info, 0);
    if (file_ == nullptr) cannot_write();
  }
  ~WavSink() override {
    if (file_ != nullptr) library_.close(file_);
  }
  WavSink(const WavSink&) = delete;
  WavSink& operator=(const WavSink&) = delete;

  void add(std::span<const std::vector<double>> samples) override {
    std::vector<int> frames;
    for (std::size_t i = 0; i < samples.front().size(); ++i) {
      for (const auto& sample : samples) {
        check_fits(path_, sample[i], bits_, true);
        frames.push_back(static_cast<int>(sample[i] * std::ldexp(1.0, 32 - bits_)));
      }
    }
    const auto count = static_cast<sf_count_t>(samples.front().size());
    if (library_.write_int(file_, frames.data(), count) != count) cannot_write();
  }
  void finish() override {
    if (library_.close(std::exchange(file_, nullptr)) != 0) cannot_write();
    output_->finish();
  }

 private:
  std::string path_;
  const SoundLibrary& library_;
  int bits_;
  std::optional<OutputFile> output_{};
  SNDFILE* file_ = nullptr;

  [[noreturn]] void cannot_write() {
    throw EnvironmentError(fmt::format("cannot write {}: {}", path_, std::strerror(errno)));
  }
};

}  // namespace

int bits_for(std::int64_t first, std::int64_t last) {
  for (const int bits : {16, 24}) {
    const auto half = std::int64_t{1} << (bits - 1);
    if (first >= -half && last < half) return bits;
  }
  return 32;
}

RecordWriter::RecordWriter(const std::string& path, const RecordLayout& layout,
                           std::vector<RecordWriter::Column> columns, double rate) {
  switch (layout.kind) {
    case RecordLayout::Kind::csv:
      sink_ = std::make_unique<TextSink>(path, std::move(columns), rate);
      break;
    case RecordLayout::Kind::raw:
      sink_ = std::make_unique<RawSink>(path, layout);
      break;
    case RecordLayout::Kind::wav:
      sink_ = std::make_unique<WavSink>(path, layout.bits, columns.size(), rate);
      break;
  }
}

RecordWriter::~RecordWriter() = default;

void RecordWriter::add(std::span<const std::vector<double>> samples) { sink_->add(samples); }

void RecordWriter::finish() { sink_->finish(); }

}  // namespace tamlo::io
