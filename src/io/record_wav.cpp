// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <filesystem>
#include <utility>

#include "record_parts.hpp"
#include "sound_library.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/quantity/format.hpp"

namespace tamlo::io {
namespace {

// Bits of the numbers of a WAV; 0 of reals.
int bits_of(int format) {
  switch (format & SF_FORMAT_SUBMASK) {
    case SF_FORMAT_PCM_U8:
      return 8;
    case SF_FORMAT_PCM_16:
      return 16;
    case SF_FORMAT_PCM_24:
      return 24;
    case SF_FORMAT_PCM_32:
      return 32;
    default:
      return 0;
  }
}

bool is_real(int format) {
  const int number = format & SF_FORMAT_SUBMASK;
  return number == SF_FORMAT_FLOAT || number == SF_FORMAT_DOUBLE;
}

// Bytes that the head of the file promises, by the size of its data; 0 where it cannot be told.
std::uint64_t promised_bytes(const std::string& path) {
  std::error_code none;
  if (!std::filesystem::is_regular_file(path_of(path), none)) return 0;
  const auto file = open_input(path);
  std::array<unsigned char, 12> head{};
  if (std::fread(head.data(), 1, 12, file.get()) != 12) return 0;
  std::uint64_t at = 12;
  while (std::fread(head.data(), 1, 8, file.get()) == 8) {
    std::uint64_t size = 0;
    for (std::size_t i = 8; i-- > 4;) size = size << 8 | head[i];
    at += 8;
    if (std::memcmp(head.data(), "data", 4) == 0) return at + size;
    at += size + size % 2;
    if (std::fseek(file.get(), static_cast<long>(at), SEEK_SET) != 0) break;
  }
  return 0;
}

// A file as the library reads it. The library takes a read that fails for the end: here it is kept.
struct CheckedFile {
  std::FILE* file = nullptr;
  int problem = 0;  ///< errno of the first call that failed

  template <class Result>
  Result checked(Result result, bool sound) {
    if (!sound && problem == 0) problem = errno;
    return result;
  }
  static CheckedFile& at(void* user) { return *static_cast<CheckedFile*>(user); }
  static SF_VIRTUAL_IO calls() {
    return {.get_filelen = [](void* user) -> sf_count_t {
              struct stat status {};
              const bool sound = ::fstat(fileno(at(user).file), &status) == 0;
              return at(user).checked(static_cast<sf_count_t>(status.st_size), sound);
            },
            .seek = [](sf_count_t offset, int whence, void* user) -> sf_count_t {
              // To where there is nothing a damaged head may lead, and the library says so.
              (void)::fseeko(at(user).file, offset, whence);
              return ::ftello(at(user).file);
            },
            .read = [](void* to, sf_count_t count, void* user) -> sf_count_t {
              const auto got = std::fread(to, 1, static_cast<std::size_t>(count), at(user).file);
              return at(user).checked(static_cast<sf_count_t>(got),
                                      std::ferror(at(user).file) == 0);
            },
            .write = [](const void*, sf_count_t, void*) -> sf_count_t { return 0; },
            .tell = [](void* user) -> sf_count_t { return ::ftello(at(user).file); }};
  }
};

class WavRecord : public RecordFile::Source {
 public:
  WavRecord(const std::string& path, std::size_t channels)
      : path_(path), input_(open_input(path)), library_(sound_library()) {
    checked_.file = input_.get();
    auto calls = CheckedFile::calls();
    struct stat status {};
    const bool regular = ::fstat(fileno(input_.get()), &status) == 0 && S_ISREG(status.st_mode);
    file_ = regular ? library_.open_virtual(&calls, SFM_READ, &info_, &checked_)
                    : library_.open_fd(fileno(input_.get()), SFM_READ, &info_, 0);
    expect_sound();
    if (file_ == nullptr) fail_record(path, library_.error(nullptr), "a WAV file");
    if (bits_of(info_.format) == 0 && !is_real(info_.format)) {
      fail("numbers that are squeezed", "whole or real numbers");
    }
    bits = bits_of(info_.format);
    if (channels == 0) {
      channels = static_cast<std::size_t>(info_.channels);
      for (std::size_t i = 0; i < channels; ++i)
        names.push_back(channels == 1 ? "samples" : fmt::format("samples {}", i + 1));
    }
    if (static_cast<std::size_t>(info_.channels) != channels) {
      fail(fmt::format("{} channel{}", info_.channels, quantity::plural(info_.channels)),
           fmt::format("{}: as many as were asked for", channels));
    }
    units.assign(channels, "");
  }
  ~WavRecord() override {
    if (file_ != nullptr) library_.close(file_);
  }
  WavRecord(const WavRecord&) = delete;
  WavRecord& operator=(const WavRecord&) = delete;

  RecordRead read(const RecordFile::Block& block) override {
    const auto channels = static_cast<std::size_t>(info_.channels);
    SampleBlocks blocks(block, channels);
    RecordRead result{.rate = info_.samplerate};
    constexpr sf_count_t frames = 8192;
    const bool real = is_real(info_.format);
    std::vector<double> reals(static_cast<std::size_t>(frames) * channels);
    std::vector<int> whole(reals.size());
    // Whole numbers come at the upper end of 32 bits; those of 8 bits about their middle.
    const int shift = real ? 0 : 32 - bits_of(info_.format);
    while (result.damage.empty()) {
      const auto got = real ? library_.read_double(file_, reals.data(), frames)
                            : library_.read_int(file_, whole.data(), frames);
      if (got <= 0) break;
      for (std::size_t i = 0; i < static_cast<std::size_t>(got); ++i) {
        const double* const frame = reals.data() + i * channels;
        if (real &&
            !std::all_of(frame, frame + channels, [](double x) { return std::isfinite(x); })) {
          result.damage =
              fmt::format("{}: sample {} is not a number", shown(path_), blocks.rounds() + 1);
          break;
        }
        for (std::size_t c = 0; c < channels; ++c) {
          blocks.add(c, real ? frame[c] : whole[i * channels + c] >> shift);
        }
        blocks.round();
      }
    }
    expect_sound();
    blocks.flush();
    result.samples = blocks.rounds();
    if (result.damage.empty()) result.damage = cut();
    return result;
  }

 private:
  std::string path_;
  InputFile input_;
  CheckedFile checked_{};
  const SoundLibrary& library_;
  SF_INFO info_{};
  SNDFILE* file_ = nullptr;

  // What cannot be read to its end is not what was recorded.
  void expect_sound() {
    if (checked_.problem == 0) return;
    if (file_ != nullptr) library_.close(std::exchange(file_, nullptr));
    throw EnvironmentError(
        fmt::format("cannot read {}: {}", path_, std::strerror(checked_.problem)));
  }

  [[noreturn]] void fail(std::string found, std::string allowed) {
    library_.close(file_);
    fail_record(path_, std::move(found), std::move(allowed));
  }

  std::string cut() const {
    std::error_code error;
    const auto there = path_ == "-" ? 0 : std::filesystem::file_size(path_of(path_), error);
    const auto promised = path_ == "-" ? 0 : promised_bytes(path_);
    if (error || promised <= there) return {};
    return fmt::format("{}: cut: its head promises {} bytes, and {} are there", path_, promised,
                       there);
  }
};

}  // namespace

const SoundLibrary& sound_library() {
  static const SoundLibrary library{};
  return library;
}

std::unique_ptr<RecordFile::Source> wav_record(const std::string& path, std::size_t channels) {
  return std::make_unique<WavRecord>(path, channels);
}

}  // namespace tamlo::io
