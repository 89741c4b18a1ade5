// SPDX-License-Identifier: Apache-2.0
// Curves and tables that lie beside the board that names them: CSV of two columns.
#include <fmt/format.h>

#include <filesystem>
#include <functional>
#include <utility>

#include "board_parts.hpp"
#include "csv.hpp"
#include "tamlo/io/detail/path.hpp"

namespace tamlo::io {
namespace {

using Cells = std::vector<Cell>;

class TableBeside {
 public:
  /// `key` of the board names the file.
  TableBeside(Fields& fields, std::string key, std::string path)
      : fields_(fields),
        key_(std::move(key)),
        path_(std::move(path)),
        beside_(name_beside(fields.file_of(key_), path_)) {}

  /// Hands on the header, then each row, until one of them returns false. False after that, after a
  /// line of more or less than two cells, a number that is none, or where there is no file: all are
  /// reported.
  bool read(const std::string& columns, const std::function<bool(const Cells&)>& header,
            const std::function<bool(const Cells&)>& row) {
    try {
      const auto& whole = fields_.text_of(beside_);
      bool header_read = false;
      TextLines lines(whole);
      for (std::string_view line; lines.next(line);) {
        line_ = lines.number();
        const auto cells = split(line);
        if (cells.size() != 2) return report(1, fmt::format("{} cells", cells.size()), columns);
        if (!(std::exchange(header_read, true) ? row(cells) : header(cells))) return false;
      }
      return true;
    } catch (const quantity::NotationError& error) {
      return report(error.column, error.problem, error.hint);
    } catch (const BadInput& error) {
      fields_.report(key_, fmt::format("\"{}\", {}", path_, error.problems.front().problem),
                     "a CSV file beside the board");
      return false;
    }
  }

  /// At the line that is being read; false.
  bool report(std::size_t column, std::string found, std::string allowed) {
    fields_.report(Problem{.file = beside_,
                           .line = std::max<std::size_t>(line_, 1),
                           .column = column,
                           .path = key_,
                           .problem = std::move(found),
                           .hint = std::move(allowed)});
    return false;
  }

 private:
  Fields& fields_;
  std::string key_, path_, beside_;
  std::size_t line_ = 0;
};

// The last point leads on as the first two do.
bool goes_on(const model::Curve& curve) {
  const auto &x = curve.x, &y = curve.y;
  const auto n = x.size();
  if (n < 2) return true;
  return x[n - 1] > x[n - 2] && (y[1] > y[0] ? y[n - 1] > y[n - 2] : y[n - 1] < y[n - 2]);
}

}  // namespace

// The quantity, and volts, ohms or amperes, with their units in brackets.
model::Curve read_curve(Fields& fields, const std::string& path, const model::Channel& channel) {
  const auto& span = channel.span;
  const auto example =
      fmt::format("two columns such as: {} [{}], output [ohm]", channel.name, span.unit.symbol);
  TableBeside table(fields, "table", path);
  quantity::Unit input;
  model::Curve curve{.output = quantity::unit("ohm")};
  const auto header = [&](const Cells& cells) {
    input = quantity::unit_or_label(heading_of(cells[0]).unit);
    curve.output = quantity::unit_or_label(heading_of(cells[1]).unit);
    if (heading_of(cells[0]).unit.empty() || input.dimension != span.unit.dimension) {
      return table.report(cells[0].column, fmt::format("\"{}\"", cells[0].text), example);
    }
    for (const auto* unit : {"V", "ohm", "A"}) {
      if (curve.output.dimension == quantity::unit(unit).dimension) return true;
    }
    return table.report(cells[1].column, fmt::format("\"{}\"", cells[1].text),
                        "an output in V, ohm or A");
  };
  const auto row = [&](const Cells& cells) {
    curve.x.push_back(quantity::parse_number(cells[0].text, input, cells[0].column));
    curve.y.push_back(quantity::parse_number(cells[1].text, curve.output, cells[1].column));
    return goes_on(curve) ||
           table.report(1, "a point that turns back",
                        "a first column that rises, and a second that rises or falls throughout");
  };
  if (table.read(example, header, row)) {
    if (curve.x.size() < 2) {
      table.report(1, fmt::format("{} points", curve.x.size()), "at least two points of the curve");
    } else if (!(curve.x.front() <= span.low && curve.x.back() >= span.high)) {
      table.report(1, "a curve that ends within the span",
                   "points over the whole span of the channel");
    }
  }
  // What was reported needs a curve to go on with.
  if (curve.x.size() < 2) return {.x = {0.0, 1.0}, .y = {0.0, 1.0}, .output = curve.output};
  return curve;
}

std::vector<model::InlPoint> read_inl_table(Fields& fields, const std::string& path) {
  TableBeside table(fields, "inl_table", path);
  std::vector<model::InlPoint> result;
  const auto header = [&](const Cells& cells) {
    return (heading_of(cells[0]).name == "code" && heading_of(cells[1]).unit == "LSB") ||
           table.report(1, fmt::format("\"{}, {}\"", cells[0].text, cells[1].text),
                        "a header such as: code, inl [LSB]");
  };
  const auto row = [&](const Cells& cells) {
    result.push_back({.code = quantity::parse_number(cells[0].text, {}, cells[0].column),
                      .inl = quantity::parse_number(cells[1].text, {}, cells[1].column)});
    return result.size() < 2 || result.back().code > result[result.size() - 2].code ||
           table.report(1, "a code that does not rise", "rising codes");
  };
  if (!table.read("two: code, inl [LSB]", header, row)) return {};
  if (result.size() < 2) {
    table.report(1, fmt::format("{} points", result.size()), "at least two points");
    return {};
  }
  return result;
}

}  // namespace tamlo::io
