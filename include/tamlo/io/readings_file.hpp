// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/meter/compare.hpp"

namespace tamlo::model {
struct Board;
struct Meter;
}  // namespace tamlo::model

namespace tamlo {
namespace io TAMLO_API {

/// The readings of one channel of one unit, in the order of the file, and where each of them
/// stands.
struct ChannelReadings {
  std::string channel{};
  std::string unit{};   ///< which unit of the board; empty where the file does not say
  bool at_pin = false;  ///< the meter's column is in volts, and the channel's quantity is not
  std::vector<std::optional<double>>
      ranges{};  ///< full scale of the meter's range, where it is given
  std::vector<meter::Reading> readings{};
  std::vector<FilePlace> places{};
  /// The last place of the meter's display, SI: that of its finest reading as it is written,
  /// trailing zeros included; infinite where none has digits of its own.
  double meter_place = std::numeric_limits<double>::infinity();
};

/// Content of a readings file, channel by channel.
struct ReadingsFile {
  std::string path{};
  std::vector<ChannelReadings> channels{};  ///< in the order of their first row
  std::vector<std::string> ignored{};       ///< columns that mean nothing to Tamlo
  std::vector<std::string> notes{};         ///< what is not as in Tamlo's own files
};

/// Says what a file of another program does not.
struct ReadingsForm {
  std::string channel{};  ///< of rows without a column "channel"; empty: the only one of the board
  /// Columns under other headings, "meter=Value (V)" or "meter [V]=Value" each.
  std::vector<std::string> columns{};
  /// A log of the meter by a clock of its own, with columns "time" and "meter"; the readings file
  /// is then one of the firmware, with "time" and "reading" or "code". Empty: one file has both.
  std::string meter_log{};
  std::optional<double> clock_offset{};  ///< s, that the meter's clock is ahead; none: found
  std::optional<double> clock_drift{};   ///< part that it runs faster; none: found with the offset
  std::string rest{};  ///< the most that a meter at rest moves, such as "20 mV"; empty: its noise
};

/// Reads a readings file (docs/readings-file.md) against its board: channels exist, units are those
/// of the channel, codes exist. Exports of instruments are read too: cells by semicolons or tabs,
/// decimal commas, lines before the heading; `notes` says which. Of two logs those readings stay
/// that have a value of the meter at rest (docs/readings-file.md, "Two logs"). Throws BadInput with
/// everything that is wrong.
ReadingsFile load_readings(const std::string& path, const model::Board& board,
                           const ReadingsForm& form = {});

/// The first meter of the board that could have shown the readings; nullptr where there is none.
const model::Meter* meter_that_shows(const model::Board& board, const ChannelReadings& readings);

/// The meter of that name; without a name the only one that could have shown the readings. Throws
/// BadInput if there is none, or with every reading that is above its ranges or on one that it does
/// not have.
const model::Meter& choose_meter(const model::Board& board, const std::string& board_path,
                                 const std::string& name, const ReadingsFile& file,
                                 const ChannelReadings& readings);

/// True if the board has a meter that could have shown the readings.
bool has_meter_for(const model::Board& board, const ChannelReadings& readings);

/// A meter that no board describes, in words: one of the accuracy that is given, such as "±0.5 % ±2
/// digits", its digit the last place that the readings have; without one it is taken as exact but
/// for that digit. Throws quantity::NotationError.
model::Meter undescribed_meter(const ChannelReadings& readings, const quantity::Unit& unit,
                               const std::string& accuracy);

/// The rows of a channel, each on its range, and those that repeat a position made one.
std::vector<meter::Reading> rows_of(const ChannelReadings& readings, const model::Meter& meter);

/// A text as a cell of a CSV: in double quotes where it must be, so that it is read back the same.
std::string csv_cell(std::string_view text);

}  // namespace io
}  // namespace tamlo
