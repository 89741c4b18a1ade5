// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/record/detail/record_figures.hpp"

/// Captured samples from a file or standard input, of any length in constant memory
/// (docs/record-file.md).
namespace tamlo {
namespace io TAMLO_API {

/// Layout of the samples in a file.
struct RecordLayout {
  /// Kind of a layout.
  enum class Kind : std::uint8_t {
    csv,  ///< a line for each sample, a column for each channel
    raw,  ///< numbers one after another, those of one moment together
    wav,
  };
  Kind kind = Kind::csv;
  int bits = 16;  ///< raw: 8, 16, 24 or 32; 32 or 64 of a real
  bool is_signed = true, big_endian = false, real = false;
};

/// "csv", "wav", or "int16", "uint24", "float32", "int16 big" and their like; false for any other
/// text. What may stand there, for a message.
extern const char* const record_layouts;
bool parse_layout(const std::string& text, RecordLayout& into);
/// Told by the end of a file's name, .csv or .wav; false for any other.
bool layout_of_name(const std::string& path, RecordLayout& into);

using record::SampleTimes;

/// Counts of samples that were read, and of damage.
struct RecordRead {
  std::uint64_t samples = 0;     ///< of each channel
  std::string damage{};          ///< where and why it ended early; empty for a sound file
  std::optional<double> rate{};  ///< Hz, where the file says it: the header of a WAV, or its times
  std::optional<SampleTimes> times{};
};

/// A record that is being read. Errors of its head throw BadInput; what stands before the first
/// flaw behind that is handed on.
class RecordFile {
 public:
  /// Is given samples of a column, in their order.
  using Block = std::function<void(std::size_t which, std::span<const double> samples)>;

  /// `path` "-" is standard input. `wanted` names the columns to hand on: by the heading of a CSV;
  /// where there is none, or where none is called so, as many columns in their order. Empty: all
  /// that a heading names, all of a WAV, or one of raw numbers.
  RecordFile(std::string path, const RecordLayout& layout, std::vector<std::string> wanted);
  ~RecordFile();

  /// Returns the names of the columns that are handed on: those asked for, or all of the heading.
  const std::vector<std::string>& names() const;
  /// The unit in brackets behind the heading of each wanted column; empty where there is none.
  const std::vector<std::string>& units() const;
  /// Bits of whole numbers as the file has them; 0 of others, and of a text.
  int bits() const;
  /// Returns what is not as in our own files, for the user to see: lines before the table,
  /// separators.
  const std::vector<std::string>& notes() const;
  /// Hands all samples on, block by block. Once. Throws BadInput where there is none.
  RecordRead read(const Block& block);

  struct Source;

 private:
  std::unique_ptr<Source> source_;
};

/// Bits of a signed number that holds these codes, 16, 24 or 32.
int bits_for(std::int64_t first, std::int64_t last);

/// A record that is being written, as OutputFile does, or to standard output for "-". Throws
/// EnvironmentError where it cannot be, and BadInput for a sample that the layout cannot hold.
class RecordWriter {
 public:
  /// One column of the record.
  struct Column {
    std::string name{};
    std::string unit{};  ///< "code" or the unit of the values
    int decimals = 0;    ///< of a CSV
  };
  /// `rate` (Hz) goes into the head of a WAV, and into a column of times of a CSV.
  RecordWriter(const std::string& path, const RecordLayout& layout, std::vector<Column> columns,
               double rate);
  ~RecordWriter();

  /// Adds as many samples of every column.
  void add(std::span<const std::vector<double>> samples);
  /// Writes the rest. A file that is not finished is not written. Throws EnvironmentError.
  void finish();

  struct Sink;

 private:
  std::unique_ptr<Sink> sink_;
};

}  // namespace io
}  // namespace tamlo
