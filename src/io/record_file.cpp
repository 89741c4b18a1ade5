// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/record_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <filesystem>

#include "record_parts.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/math/regression.hpp"

namespace tamlo::io {
namespace {

struct RawKind {
  const char* name;
  int bits;
  bool is_signed, real;
};
constexpr RawKind raw_kinds[] = {{"int8", 8, true, false},     {"int16", 16, true, false},
                                 {"int24", 24, true, false},   {"int32", 32, true, false},
                                 {"uint8", 8, false, false},   {"uint16", 16, false, false},
                                 {"uint24", 24, false, false}, {"uint32", 32, false, false},
                                 {"float32", 32, true, true},  {"float64", 64, true, true}};

double sample_of(const unsigned char* bytes, const RecordLayout& layout) {
  const int size = layout.bits / 8;
  std::uint64_t word = 0;
  for (int i = 0; i < size; ++i) word = word << 8 | bytes[layout.big_endian ? i : size - 1 - i];
  if (layout.real) {
    return layout.bits == 32
               ? static_cast<double>(std::bit_cast<float>(static_cast<std::uint32_t>(word)))
               : std::bit_cast<double>(word);
  }
  const auto sign = std::uint64_t{1} << (layout.bits - 1);
  if (!layout.is_signed || (word & sign) == 0) return static_cast<double>(word);
  return static_cast<double>(word) - 2.0 * static_cast<double>(sign);
}

class RawRecord : public RecordFile::Source {
 public:
  RawRecord(const std::string& path, const RecordLayout& layout, std::size_t channels)
      : path_(path), layout_(layout), channels_(channels), file_(open_input(path)) {
    units.assign(channels, "");
  }

  RecordRead read(const RecordFile::Block& block) override {
    SampleBlocks blocks(block, channels_);
    const auto size = static_cast<std::size_t>(layout_.bits / 8), round = size * channels_;
    std::vector<unsigned char> buffer((std::size_t{1} << 18) / round * round + round);
    std::size_t held = 0;  // bytes of a round that a piece has cut
    RecordRead result;
    while (result.damage.empty()) {
      const auto got = std::fread(buffer.data() + held, 1, buffer.size() - held, file_.get());
      if (got == 0) break;
      const auto all = held + got;
      std::size_t at = 0;
      for (; at + round <= all && result.damage.empty(); at += round) {
        result.damage = take(buffer.data() + at, size, blocks);
      }
      held = all - at;
      std::memmove(buffer.data(), buffer.data() + at, held);
    }
    if (std::ferror(file_.get()) != 0) {
      throw EnvironmentError(fmt::format("cannot read {}: {}", shown(path_), std::strerror(errno)));
    }
    if (held > 0 && result.damage.empty()) {
      result.damage = fmt::format("{}: cut within sample {}: {} of its {} bytes", shown(path_),
                                  blocks.rounds() + 1, held, round);
    }
    blocks.flush();
    result.samples = blocks.rounds();
    return result;
  }

 private:
  std::string path_;
  RecordLayout layout_;
  std::size_t channels_;
  InputFile file_;

  // One sample of every channel, or what is wrong with it.
  std::string take(const unsigned char* bytes, std::size_t size, SampleBlocks& blocks) const {
    if (layout_.real) {
      for (std::size_t c = 0; c < channels_; ++c) {
        if (!std::isfinite(sample_of(bytes + c * size, layout_))) {
          return fmt::format("{}: sample {} is not a number", shown(path_), blocks.rounds() + 1);
        }
      }
    }
    for (std::size_t c = 0; c < channels_; ++c) {
      blocks.add(c, sample_of(bytes + c * size, layout_));
    }
    blocks.round();
    return {};
  }
};

}  // namespace

const char* const record_layouts =
    "csv, wav, int8, int16, int24, int32, uint8, uint16, uint24, uint32, float32 or float64; those "
    "of more than one byte also with \" big\" behind";

bool parse_layout(const std::string& text, RecordLayout& into) {
  into = {};
  if (text == "csv") return true;
  if (text == "wav") {
    into.kind = RecordLayout::Kind::wav;
    return true;
  }
  const bool big = text.ends_with(" big");
  const auto kind = text.substr(0, text.size() - (big ? 4 : 0));
  for (const auto& raw : raw_kinds) {
    if (kind != raw.name || (big && raw.bits == 8)) continue;
    into = {.kind = RecordLayout::Kind::raw,
            .bits = raw.bits,
            .is_signed = raw.is_signed,
            .big_endian = big,
            .real = raw.real};
    return true;
  }
  return false;
}

bool layout_of_name(const std::string& path, RecordLayout& into) {
  if (path.ends_with(".csv")) return parse_layout("csv", into);
  return path.ends_with(".wav") && parse_layout("wav", into);
}

std::string shown(const std::string& path) { return path == "-" ? "standard input" : path; }

void fail_record(const std::string& path, std::string found, std::string allowed,
                 std::size_t line) {
  throw BadInput({{.file = shown(path),
                   .line = line,
                   .column = line > 0 ? std::size_t{1} : 0,
                   .problem = std::move(found),
                   .hint = std::move(allowed)}});
}

SampleBlocks::SampleBlocks(const RecordFile::Block& block, std::size_t channels)
    : block_(block), values_(channels) {
  for (auto& value : values_) value.reserve(capacity);
}

void SampleBlocks::flush() {
  for (std::size_t which = 0; which < values_.size(); ++which) {
    if (!values_[which].empty()) block_(which, values_[which]);
    values_[which].clear();
  }
}

std::unique_ptr<RecordFile::Source> raw_record(const std::string& path, const RecordLayout& layout,
                                               std::size_t channels) {
  return std::make_unique<RawRecord>(path, layout, channels);
}

RecordFile::RecordFile(std::string path, const RecordLayout& layout,
                       std::vector<std::string> wanted) {
  if (wanted.empty() && layout.kind == RecordLayout::Kind::raw) wanted = {"samples"};
  switch (layout.kind) {
    case RecordLayout::Kind::csv:
      source_ = text_record(path, wanted);
      break;
    case RecordLayout::Kind::raw:
      source_ = raw_record(path, layout, wanted.size());
      break;
    case RecordLayout::Kind::wav:
      source_ = wav_record(path, wanted.size());
      break;
  }
  if (source_->names.empty()) source_->names = std::move(wanted);
  if (layout.kind == RecordLayout::Kind::raw && !layout.real) source_->bits = layout.bits;
}

int RecordFile::bits() const { return source_->bits; }

RecordFile::~RecordFile() = default;

const std::vector<std::string>& RecordFile::names() const { return source_->names; }

const std::vector<std::string>& RecordFile::units() const { return source_->units; }

const std::vector<std::string>& RecordFile::notes() const { return source_->notes; }

RecordRead RecordFile::read(const Block& block) { return source_->read(block); }

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
