// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/readings_file.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <limits>
#include <map>
#include <optional>
#include <utility>

#include "csv.hpp"
#include "readings_parts.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/io/detail/log.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::io {
namespace {

struct ReadingsColumn {
  std::string role;  // empty: kept and ignored
  quantity::Unit unit{};
};

class Parser {
 public:
  Parser(std::string path, const model::Board& board, const ReadingsForm& form, LogOf what)
      : board_(board),
        channel_(form.channel),
        headings_(form.columns),
        what_(what),
        problems_(path) {
    result_.path = std::move(path);
    if (channel_.empty() && board_.channels.size() == 1) channel_ = board_.channels.front().name;
  }

  ReadingsFile parse(std::string_view text) {
    table_ = find_table(text, [&](const auto& cells) { return headings_.are_of(what_, cells); });
    result_.notes = table_.notes;
    TextLines lines(text);
    for (std::string_view line; lines.next(line);) {
      line_ = lines.number();
      if (line_ < table_.heading_line) continue;
      if (columns_.empty()) {
        header(table_.cells(line));
        if (problems_.count() > 0) break;  // without a sound header no row means anything
      } else {
        row(with_points(table_.cells(line)));
      }
    }
    if (columns_.empty() && problems_.count() == 0) {
      report(1, "", "no header", "a line such as: channel, meter [V], reading [V]");
    } else if (result_.channels.empty() && problems_.count() == 0) {
      report(1, "", "a header without rows", "at least one row of readings");
    }
    problems_.refuse_any();
    return std::move(result_);
  }

 private:
  const model::Board& board_;
  std::string channel_;  // of rows that name none
  ReadingsHeadings headings_;
  LogOf what_;
  BenchTable table_;
  char mark_ = '\0';  // of decimals, once one was seen
  std::size_t line_ = 0;
  std::vector<ReadingsColumn> columns_;
  FileProblems problems_;
  ReadingsFile result_;
  std::map<std::string, chain::Chain> chains_;

  void report(std::size_t column, std::string key, std::string found, std::string allowed) {
    problems_.add({line_, column}, std::move(key), std::move(found), std::move(allowed));
  }

  std::vector<Cell> with_points(std::vector<Cell> cells) {
    for (std::size_t i = 0; i < std::min(cells.size(), columns_.size()); ++i) {
      const auto& role = columns_[i].role;
      const bool number = ReadingsHeadings::has_unit(role) || role == "code";
      if (number && table_.separator != ',') check_mark(cells[i], role);
      if (number || role == "meter_range" || role == "time")
        cells[i].text = with_point(cells[i].text, table_.separator);
    }
    return cells;
  }

  // Where commas may be decimal, a file has one mark of decimals: another would be of thousands.
  void check_mark(const Cell& cell, const std::string& role) {
    const auto at = cell.text.find_first_of(".,");
    if (at == std::string::npos) return;
    if (mark_ == '\0') mark_ = cell.text[at];
    if (cell.text[at] == mark_) return;
    report(cell.column, role, fmt::format("\"{}\"", cell.text),
           fmt::format("decimals by '{}', as before it", mark_));
  }

  void header(const std::vector<Cell>& cells) {
    for (const auto& cell : cells) columns_.push_back(column(cell));
    const auto has = [&](const char* role) {
      return std::ranges::find(columns_, role, &ReadingsColumn::role) != columns_.end();
    };
    const auto among_them = [&] {
      std::vector<std::string> names;
      for (const auto& cell : cells) names.push_back(headings_.of(cell).name);
      return fmt::format("among {}", fmt::join(names, ", "));
    };
    if (!has("channel") && model::span_named(board_, channel_) == nullptr) {
      report(1, "header", fmt::format("no column \"channel\" {}", among_them()),
             "a header such as: channel, meter [V], reading [V]; or --channel NAME for all rows");
    }
    if (what_ != LogOf::both && !has("time")) {
      report(1, "header", fmt::format("no column \"time\" {}", among_them()),
             "a column \"time [s]\", or \"time\" of dates; or --column \"time=HEADING\"");
    }
    if (what_ != LogOf::readings && !has("meter")) {
      report(1, "header", fmt::format("no column \"meter\" {}", among_them()),
             "a header such as: channel, meter [V], reading [V]; or --column \"meter=HEADING\"");
    }
    if (what_ != LogOf::meter && !has("reading") && !has("code")) {
      report(1, "header", fmt::format("neither \"reading\" nor \"code\" {}", among_them()),
             "a column \"code\", or one such as \"reading [V]\"");
    }
  }

  // "meter [V]"
  ReadingsColumn column(const Cell& cell) {
    const auto [role, symbol] = headings_.of(cell);
    ReadingsColumn result{.role = role};
    if (!ReadingsHeadings::known(role)) {
      result_.ignored.push_back(role);
      return {};
    }
    // A time with a unit is a duration; without one it is a date.
    if (!ReadingsHeadings::has_unit(role) && (role != "time" || symbol.empty())) return result;
    if (symbol.empty()) {
      report(cell.column, role, fmt::format("\"{}\"", cell.text),
             fmt::format("a unit in brackets, such as \"{} [V]\"", role));
    }
    result.unit = quantity::unit_or_label(symbol);
    return result;
  }

  void row(const std::vector<Cell>& cells) {
    if (cells.size() != columns_.size()) {
      report(1, "", fmt::format("{} cells", cells.size()),
             fmt::format("{}, as in the header", columns_.size()));
      return;
    }
    const auto before = problems_.count();
    const auto name = name_of(cells);
    if (name.empty()) return;
    // A quantity of several channels has no chain of its own, and no pin.
    const auto* chain = chain_of(name);
    const auto& unit = model::span_named(board_, name)->unit;
    meter::Reading reading;
    const bool at_pin =
        chain != nullptr && in_volts(cells) && unit.dimension != quantity::unit("V").dimension;
    const auto metered = number(cells, "meter", at_pin ? quantity::unit("V") : unit);
    if (metered) reading.meter = *metered;
    reading.u_meter = uncertainty(cells, "u_meter", at_pin ? quantity::unit("V") : unit);
    reading.u_reading = uncertainty(cells, "u_reading", unit);
    const auto range = meter_range(cells, at_pin ? quantity::unit("V") : unit);
    read_circumstances(cells, unit, reading);
    const auto shown = number(cells, "reading", unit);
    const auto code = code_of(cells, chain);
    if (shown) {
      const auto* correction =
          chain != nullptr && chain->channel.correction ? &*chain->channel.correction : nullptr;
      const bool apply = correction != nullptr && !correction->in_firmware;
      reading.reading = apply ? chain::corrected(*correction, *shown) : *shown;
    }
    if (code) reading.reading = chain::reading(*chain, *code);
    if (problems_.count() > before) return;
    if (!metered && what_ != LogOf::readings)
      report(1, "meter", "nothing", "what the meter showed");
    if (!reading.time && what_ != LogOf::both)
      report(1, "time", "nothing", "the moment of the row");
    if (shown.has_value() == code.has_value() && what_ != LogOf::meter) {
      report(1, "reading", shown ? "both a reading and a code" : "neither a reading nor a code",
             "one of them in each row");
    }
    if (problems_.count() > before) return;
    auto& readings = readings_of(name, reading.unit, at_pin);
    if (readings.at_pin != at_pin) {
      report(metered_column(cells), "meter", "a row at the pin among rows of the quantity",
             "one kind for all rows of a channel");
    }
    readings.meter_place = std::min(readings.meter_place, place_of_meter(cells));
    readings.readings.push_back(reading);
    readings.ranges.push_back(range);
    readings.places.push_back({.line = line_, .column = metered_column(cells)});
  }

  // The last place that the meter's cell is written to, SI: 10.010 V is to 1 mV.
  double place_of_meter(const std::vector<Cell>& cells) const {
    const auto* cell = cell_of(cells, "meter");
    if (cell == nullptr) return std::numeric_limits<double>::infinity();
    const std::string_view text = cell->text;
    const auto exponent_at = text.find_first_of("eE");
    const auto digits = text.substr(0, exponent_at);
    const auto point = digits.find('.');
    int exponent =
        point == std::string_view::npos ? 0 : -static_cast<int>(digits.size() - point - 1);
    if (exponent_at != std::string_view::npos)
      exponent += std::atoi(std::string(text.substr(exponent_at + 1)).c_str());
    return std::pow(10.0, exponent) * unit_behind(cells, cell).scale();
  }

  std::size_t metered_column(const std::vector<Cell>& cells) const {
    const auto* cell = cell_of(cells, "meter");
    return cell != nullptr ? cell->column : 1;
  }

  ChannelReadings& readings_of(const std::string& name, const std::string& unit, bool at_pin) {
    const auto found =
        std::ranges::find_if(result_.channels, [&](const ChannelReadings& channel_readings) {
          return channel_readings.channel == name && channel_readings.unit == unit;
        });
    if (found != result_.channels.end()) return *found;
    return result_.channels.emplace_back(
        ChannelReadings{.channel = name, .unit = unit, .at_pin = at_pin});
  }

  // The filled cell of a role, or nothing.
  const Cell* cell_of(const std::vector<Cell>& cells, const std::string& role) const {
    for (std::size_t i = 0; i < cells.size(); ++i) {
      if (columns_[i].role == role && !cells[i].text.empty()) return &cells[i];
    }
    return nullptr;
  }

  const quantity::Unit& unit_behind(const std::vector<Cell>& cells, const Cell* cell) const {
    return columns_[static_cast<std::size_t>(cell - cells.data())].unit;
  }

  // Whether the meter's filled cell is of a column in volts.
  bool in_volts(const std::vector<Cell>& cells) const {
    const auto* cell = cell_of(cells, "meter");
    return cell != nullptr && unit_behind(cells, cell).dimension == quantity::unit("V").dimension;
  }

  std::optional<double> meter_range(const std::vector<Cell>& cells, const quantity::Unit& unit) {
    const auto* cell = cell_of(cells, "meter_range");
    if (cell == nullptr) return {};
    try {
      const auto value = quantity::parse_value(cell->text, {.unit = unit});
      if (value.nominal && value.limits.empty()) return *value.nominal;
      report(cell->column, "meter_range", cell->text, "the full scale of a range, such as 6 V");
    } catch (const quantity::NotationError& error) {
      report(cell->column + error.column - 1, "meter_range", error.problem, error.hint);
    }
    return {};
  }

  void read_circumstances(const std::vector<Cell>& cells, const quantity::Unit& unit,
                          meter::Reading& reading) {
    reading.repeats = count_of(cells, "repeats").value_or(1);
    reading.meter_repeats = count_of(cells, "meter_repeats");
    reading.spread = number(cells, "spread", unit, true);
    if (reading.spread && *reading.spread < 0.0) {
      report(cell_of(cells, "spread")->column, "spread", quantity::format_number(*reading.spread),
             "a standard deviation of 0 or more");
    } else if (reading.spread && reading.repeats < 2) {
      report(cell_of(cells, "spread")->column, "spread", "a spread of one reading",
             "a column \"repeats\" that says of how many");
    }
    if (const auto* cell = cell_of(cells, "direction")) {
      if (cell->text == "rising") reading.direction = meter::Direction::rising;
      if (cell->text == "falling") reading.direction = meter::Direction::falling;
      if (reading.direction == meter::Direction::unknown) {
        report(cell->column, "direction", fmt::format("\"{}\"", cell->text), "rising or falling");
      }
    }
    reading.temperature = number(cells, "temperature", quantity::unit("degC"));
    reading.time = time_of(cells);
    if (const auto* cell = cell_of(cells, "unit")) reading.unit = cell->text;
  }

  std::optional<int> count_of(const std::vector<Cell>& cells, const std::string& role) {
    const auto* cell = cell_of(cells, role);
    if (cell == nullptr) return {};
    int count = 0;
    const char* end = cell->text.data() + cell->text.size();
    const auto [stop, error] = std::from_chars(cell->text.data(), end, count);
    if (error == std::errc{} && stop == end && count >= 1 && count <= 1'000'000'000) return count;
    report(cell->column, role, cell->text, "a whole number of 1 or more");
    return {};
  }

  // A date and time of day (ISO 8601, UTC), or a number in the unit of its column.
  std::optional<double> time_of(const std::vector<Cell>& cells) {
    const auto* cell = cell_of(cells, "time");
    if (cell == nullptr) return {};
    if (!unit_behind(cells, cell).symbol.empty()) return number(cells, "time", quantity::unit("s"));
    const auto moment = parse_moment(cell->text);
    if (!moment) {
      report(cell->column, "time", fmt::format("\"{}\"", cell->text),
             "a date such as 2026-11-25 or 2026-11-25T10:30, or a column \"time [h]\"");
    }
    return moment;
  }

  // The channel or the quantity that a row is of; none where the board has neither.
  std::string name_of(const std::vector<Cell>& cells) {
    const auto at = std::ranges::find(columns_, "channel", &ReadingsColumn::role);
    if (at == columns_.end()) return channel_;
    const auto& cell = cells[static_cast<std::size_t>(at - columns_.begin())];
    if (model::span_named(board_, cell.text) != nullptr) return cell.text;
    std::vector<std::string> known;
    for (const auto& channel : board_.channels) known.push_back(channel.name);
    for (const auto& quantity : board_.quantities) known.push_back(quantity.name);
    report(cell.column, "channel", fmt::format("\"{}\"", cell.text),
           one_of(cell.text, known, "a channel of the board: "));
    return {};
  }

  const chain::Chain* chain_of(const std::string& name) {
    if (model::find(board_.channels, name) == nullptr) return nullptr;
    auto found = chains_.find(name);
    if (found == chains_.end()) {
      found = chains_.emplace(name, chain::build(board_, name)).first;
    }
    return &found->second;
  }

  // The one filled cell of that role, read in its column's unit. Columns of one role in several
  // units serve a file with several channels; each row fills the one of its own.
  std::optional<double> number(const std::vector<Cell>& cells, const std::string& role,
                               const quantity::Unit& unit, bool difference = false) {
    std::optional<double> result;
    for (std::size_t i = 0; i < cells.size(); ++i) {
      if (columns_[i].role != role || cells[i].text.empty()) continue;
      if (result) {
        report(cells[i].column, role, "a second value", "one value of each kind in a row");
        continue;
      }
      const auto written =
          difference ? quantity::difference_unit(columns_[i].unit) : columns_[i].unit;
      if (written.dimension != unit.dimension) {
        report(
            cells[i].column, role, fmt::format("a value in {}", columns_[i].unit.symbol),
            fmt::format("a value in the channel's unit: a column \"{} [{}]\"", role, unit.symbol));
        result = 0.0;
        continue;
      }
      try {
        result = quantity::parse_number(cells[i].text, written, cells[i].column);
      } catch (const quantity::NotationError& error) {
        report(error.column, role, error.problem, error.hint);
      }
    }
    return result;
  }

  std::optional<double> uncertainty(const std::vector<Cell>& cells, const std::string& role,
                                    const quantity::Unit& unit) {
    const auto result = number(cells, role, unit, true);
    if (result && !(*result > 0.0)) {
      report(1, role, quantity::format_number(*result), "a standard uncertainty above 0");
    }
    return result;
  }

  std::optional<double> code_of(const std::vector<Cell>& cells, const chain::Chain* chain) {
    for (std::size_t i = 0; i < cells.size(); ++i) {
      if (columns_[i].role != "code" || cells[i].text.empty()) continue;
      if (chain == nullptr) {
        report(cells[i].column, "code", cells[i].text,
               "a reading: a quantity of several channels has no code");
        return {};
      }
      const auto first = static_cast<double>(chain->report.first_reported);
      const auto last = static_cast<double>(chain->report.last_reported);
      const auto allowed =
          fmt::format("a code from {:.0f} to {:.0f} (a mean may have a fraction)", first, last);
      try {
        const double code = quantity::parse_number(cells[i].text, {}, cells[i].column);
        if (code >= first && code <= last) return code;
        report(cells[i].column, "code", cells[i].text, allowed);
      } catch (const quantity::NotationError& error) {
        report(error.column, "code", error.problem, allowed);
      }
    }
    return {};
  }
};

}  // namespace

ReadingsFile load_readings(const std::string& path, const model::Board& board,
                           const ReadingsForm& form) {
  if (form.meter_log.empty()) return Parser(path, board, form, LogOf::both).parse(read_file(path));
  auto readings = Parser(path, board, form, LogOf::readings).parse(read_file(path));
  auto of_meter = form;
  if (of_meter.channel.empty() && readings.channels.size() == 1)
    of_meter.channel = readings.channels.front().channel;
  const auto meter =
      Parser(form.meter_log, board, of_meter, LogOf::meter).parse(read_file(form.meter_log));
  return joined(std::move(readings), meter, board, form);
}

}  // namespace tamlo::io
