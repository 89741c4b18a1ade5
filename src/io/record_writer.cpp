// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <unistd.h>

#include <cmath>
#include <filesystem>

#include "record_parts.hpp"
#include "sound_library.hpp"
#include "tamlo/io/diagnostics.hpp"

namespace tamlo::io {

struct RecordWriter::Sink {
  virtual ~Sink() = default;
  virtual void add(std::span<const std::vector<double>> samples) = 0;
  virtual void finish() = 0;
};

namespace {

[[noreturn]] void cannot_write(const std::string& path) {
  throw EnvironmentError(fmt::format("cannot write {}", path == "-" ? "to standard output" : path));
}

class FileSink : public RecordWriter::Sink {
 public:
  explicit FileSink(const std::string& path)
      : path_(path), file_(path == "-" ? stdout : std::fopen(path.c_str(), "wb")) {
    if (file_ == nullptr) cannot_write(path_);
  }
  ~FileSink() override {
    if (file_ != nullptr && file_ != stdout) std::fclose(file_);
  }
  FileSink(const FileSink&) = delete;
  FileSink& operator=(const FileSink&) = delete;

  void finish() override {
    const bool flushed = std::fflush(file_) == 0;
    const bool closed = file_ == stdout || std::fclose(file_) == 0;
    file_ = nullptr;
    if (!flushed || !closed) cannot_write(path_);
  }

 protected:
  void write(std::string_view bytes) {
    if (std::fwrite(bytes.data(), 1, bytes.size(), file_) != bytes.size()) cannot_write(path_);
  }

 private:
  std::string path_;
  std::FILE* file_;
};

class TextSink : public FileSink {
 public:
  TextSink(const std::string& path, std::vector<RecordWriter::Column> columns, double rate)
      : FileSink(path), columns_(std::move(columns)), rate_(rate) {
    std::string heading = rate > 0.0 ? "time [s]" : "";
    for (const auto& column : columns_) {
      if (!heading.empty()) heading += ',';
      heading += fmt::format("{} [{}]", column.name, column.unit);
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
      for (const auto& of : samples) {
        const auto word = word_of(of[i]);
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
    SF_INFO info{};
    info.samplerate = static_cast<int>(std::lround(rate));
    info.channels = static_cast<int>(channels);
    info.format = SF_FORMAT_WAV | (bits <= 16   ? SF_FORMAT_PCM_16
                                   : bits <= 24 ? SF_FORMAT_PCM_24
                                                : SF_FORMAT_PCM_32);
    bits_ = bits <= 16 ? 16 : bits <= 24 ? 24 : 32;
    file_ = library_.open(path.c_str(), SFM_WRITE, &info);
    if (file_ == nullptr) cannot_write(path_);
  }
  ~WavSink() override {
    if (file_ != nullptr) library_.close(file_);
  }
  WavSink(const WavSink&) = delete;
  WavSink& operator=(const WavSink&) = delete;

  void add(std::span<const std::vector<double>> samples) override {
    std::vector<int> frames;
    for (std::size_t i = 0; i < samples.front().size(); ++i) {
      for (const auto& of : samples) {
        check_fits(path_, of[i], bits_, true);
        frames.push_back(static_cast<int>(of[i] * std::ldexp(1.0, 32 - bits_)));
      }
    }
    const auto count = static_cast<sf_count_t>(samples.front().size());
    if (library_.write_int(file_, frames.data(), count) != count) cannot_write(path_);
  }
  void finish() override {
    const bool closed = library_.close(file_) == 0;
    file_ = nullptr;
    if (!closed) cannot_write(path_);
  }

 private:
  std::string path_;
  const SoundLibrary& library_;
  int bits_;
  SNDFILE* file_ = nullptr;
};

}  // namespace

int bits_for(std::int64_t first, std::int64_t last) {
  for (const int bits : {16, 24}) {
    const auto half = std::int64_t{1} << (bits - 1);
    if (first >= -half && last < half) return bits;
  }
  return 32;
}

RecordWriter::RecordWriter(std::string path, const RecordLayout& layout,
                           std::vector<RecordWriter::Column> columns, double rate)
    : path_(std::move(path)),
      part_(path_ == "-" ? "-" : fmt::format("{}.{}.part", path_, getpid())) {
  switch (layout.kind) {
    case RecordLayout::Kind::csv:
      sink_ = std::make_unique<TextSink>(part_, std::move(columns), rate);
      break;
    case RecordLayout::Kind::raw:
      sink_ = std::make_unique<RawSink>(part_, layout);
      break;
    case RecordLayout::Kind::wav:
      sink_ = std::make_unique<WavSink>(part_, layout.bits, columns.size(), rate);
      break;
  }
}

RecordWriter::~RecordWriter() {
  std::error_code ignored;
  if (path_ != "-" && sink_) std::filesystem::remove(part_, ignored);
}

void RecordWriter::add(std::span<const std::vector<double>> samples) { sink_->add(samples); }

void RecordWriter::finish() {
  sink_->finish();
  sink_.reset();
  if (path_ == "-") return;
  std::error_code error;
  std::filesystem::rename(part_, path_, error);
  if (error) throw EnvironmentError(fmt::format("cannot write {}: {}", path_, error.message()));
}

}  // namespace tamlo::io
