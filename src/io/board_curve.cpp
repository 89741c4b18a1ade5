// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <filesystem>
#include <utility>

#include "board_parts.hpp"
#include "csv.hpp"

namespace tamlo::io {
namespace {

// Two columns with their units in brackets: the quantity, and volts, ohms or amperes.
class CurveReader {
 public:
  CurveReader(Fields& fields, std::string path, const model::Channel& channel)
      : fields_(fields), path_(std::move(path)), channel_(channel) {}

  model::Curve read(std::string_view text) {
    bool sound = true;
    bool header_read = false;
    while (!text.empty() && sound) {
      const auto line = next_line(text);
      ++line_;
      if (trimmed(line).empty() || trimmed(line).front() == '#') continue;
      sound = header_read ? row(split(line)) : header(split(line));
      header_read = true;
    }
    if (sound && curve_.x.size() < 2) {
      report(1, fmt::format("{} points", curve_.x.size()), "at least two points of the curve");
    } else if (sound &&
               !(curve_.x.front() <= channel_.span.low && curve_.x.back() >= channel_.span.high)) {
      report(1, "a curve that ends within the span", "points over the whole span of the channel");
    }
    if (curve_.x.size() < 2) return {.x = {0.0, 1.0}, .y = {0.0, 1.0}, .output = curve_.output};
    return curve_;
  }

 private:
  Fields& fields_;
  std::string path_;
  const model::Channel& channel_;
  std::size_t line_ = 0;
  quantity::Unit input_{};
  model::Curve curve_{.output = quantity::unit("ohm")};

  void report(std::size_t column, std::string found, std::string allowed) {
    fields_.report(Diagnostic{.file = path_,
                              .line = std::max<std::size_t>(line_, 1),
                              .column = column,
                              .key = "curve",
                              .found = std::move(found),
                              .allowed = std::move(allowed)});
  }

  static quantity::Unit unit_of(const Cell& cell) {
    const auto symbol = heading_of(cell).unit;
    return quantity::find_unit(symbol).value_or(quantity::label_unit(symbol));
  }

  bool header(const std::vector<Cell>& cells) {
    const auto example = fmt::format("two columns such as: {} [{}], output [ohm]", channel_.name,
                                     channel_.span.unit.symbol);
    if (cells.size() != 2) {
      report(1, fmt::format("{} columns", cells.size()), example);
      return false;
    }
    input_ = unit_of(cells[0]);
    curve_.output = unit_of(cells[1]);
    if (heading_of(cells[0]).unit.empty() || input_.dimension != channel_.span.unit.dimension) {
      report(cells[0].column, fmt::format("\"{}\"", cells[0].text), example);
      return false;
    }
    for (const auto* unit : {"V", "ohm", "A"}) {
      if (curve_.output.dimension == quantity::unit(unit).dimension) return true;
    }
    report(cells[1].column, fmt::format("\"{}\"", cells[1].text), "an output in V, ohm or A");
    return false;
  }

  bool row(const std::vector<Cell>& cells) {
    if (cells.size() != 2) {
      report(1, fmt::format("{} cells", cells.size()), "2, as in the header");
      return false;
    }
    try {
      curve_.x.push_back(quantity::parse_number(cells[0].text, input_, cells[0].column));
      curve_.y.push_back(quantity::parse_number(cells[1].text, curve_.output, cells[1].column));
    } catch (const quantity::NotationError& error) {
      report(error.column, error.found, error.allowed);
      return false;
    }
    const auto n = curve_.x.size();
    if (n < 2) return true;
    const bool rises = curve_.y[1] > curve_.y[0];
    const bool goes_on =
        rises ? curve_.y[n - 1] > curve_.y[n - 2] : curve_.y[n - 1] < curve_.y[n - 2];
    if (curve_.x[n - 1] > curve_.x[n - 2] && goes_on) return true;
    report(1, "a point that turns back",
           "a first column that rises, and a second that rises or falls throughout");
    return false;
  }
};

}  // namespace

model::Curve read_curve(Fields& fields, const std::string& path, const model::Channel& channel) {
  // The curve lies beside the board that names it.
  const auto beside =
      (std::filesystem::path(fields.file_of("table")).parent_path() / path).string();
  try {
    return CurveReader(fields, beside, channel).read(read_file(beside));
  } catch (const BadInput& error) {
    fields.report("table", fmt::format("\"{}\", {}", path, error.diagnostics.front().found),
                  "a CSV file beside the board");
    return {.x = {0.0, 1.0}, .y = {0.0, 1.0}, .output = quantity::unit("ohm")};
  }
}

std::vector<model::InlPoint> read_inl_table(Fields& fields, const std::string& path) {
  const auto beside =
      (std::filesystem::path(fields.file_of("inl_table")).parent_path() / path).string();
  std::vector<model::InlPoint> result;
  std::size_t number = 0;
  const auto report = [&](std::size_t column, std::string found, std::string allowed) {
    fields.report(Diagnostic{.file = beside,
                             .line = std::max<std::size_t>(number, 1),
                             .column = column,
                             .key = "inl_table",
                             .found = std::move(found),
                             .allowed = std::move(allowed)});
    return std::vector<model::InlPoint>{};
  };
  try {
    const auto whole = read_file(beside);
    std::string_view text(whole);
    bool header = true;
    while (!text.empty()) {
      const auto line = next_line(text);
      ++number;
      if (trimmed(line).empty() || trimmed(line).front() == '#') continue;
      const auto cells = split(line);
      if (cells.size() != 2)
        return report(1, fmt::format("{} cells", cells.size()), "two: code, inl [LSB]");
      if (std::exchange(header, false)) {
        if (heading_of(cells[0]).name == "code" && heading_of(cells[1]).unit == "LSB") continue;
        return report(1, fmt::format("\"{}\"", line), "a header such as: code, inl [LSB]");
      }
      result.push_back({.code = quantity::parse_number(cells[0].text, {}, cells[0].column),
                        .inl = quantity::parse_number(cells[1].text, {}, cells[1].column)});
      if (result.size() > 1 && result.back().code <= result[result.size() - 2].code) {
        return report(1, "a code that does not rise", "rising codes");
      }
    }
  } catch (const quantity::NotationError& error) {
    return report(error.column, error.found, error.allowed);
  } catch (const BadInput& error) {
    fields.report("inl_table", fmt::format("\"{}\", {}", path, error.diagnostics.front().found),
                  "a CSV file beside the board");
    return {};
  }
  return result.size() < 2
             ? report(1, fmt::format("{} points", result.size()), "at least two points")
             : result;
}

}  // namespace tamlo::io
