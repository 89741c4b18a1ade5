// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <toml++/toml.h>

#include <cmath>
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "tamlo/io/detail/board_keys.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/quantity/notation.hpp"

// The door through which every entry of a board file passes: it is read whole, with its unit,
// inside its bounds, or it is reported with its place. Nothing is thrown; what is wrong is
// collected.
namespace tamlo::io {

/// Where a number must lie. `text` says it to the user.
struct Bounds {
  double low = -std::numeric_limits<double>::infinity();
  double high = std::numeric_limits<double>::infinity();
  bool without_low = false;
  std::string text{};
  bool whole = false;

  bool hold(double value) const {
    return (without_low ? value > low : value >= low) && value <= high && std::isfinite(value) &&
           (!whole || value == std::floor(value));
  }
};
inline Bounds above_zero() { return {.low = 0.0, .without_low = true, .text = "above 0"}; }
inline Bounds temperature_bounds() {
  return {.low = 0.0, .without_low = true, .text = "above absolute zero, -273.15 degC"};
}
inline Bounds whole_above_zero() {
  return {.low = 1.0, .high = 1048576.0, .text = "whole numbers above 0", .whole = true};
}
inline Bounds not_negative() { return {.low = 0.0, .text = "of 0 or more"}; }

/// What a reader asks for, written down: a key each time that it is asked for or required, and each
/// table when it is entered.
struct Asked {
  std::vector<BoardKey> keys{};
  std::vector<std::string> required{}, entered{};
};

/// A table of the file under its path, e.g. "channel.pack_voltage". Remembers which keys were asked
/// for, so that finish() can report the others.
class Fields {
 public:
  Fields(const toml::table& table, std::string path, std::vector<Diagnostic>& into,
         Asked* asked = nullptr, std::string pattern = {});

  // Each gives nothing where the key is missing (reported if required) or wrong (reported).
  std::optional<quantity::Value> value(const std::string& key, const quantity::Expected& expected,
                                       const Bounds& bounds = {});
  std::optional<quantity::Range> range(const std::string& key, const quantity::Expected& expected,
                                       const Bounds& bounds = {});
  /// Limits without a nominal: "±2 LSB ±2 ppm/K".
  std::optional<quantity::Value> limits(const std::string& key, const quantity::Expected& expected);
  /// Exactly "a rms".
  std::optional<quantity::Value> noise(const std::string& key, const quantity::Expected& expected);
  /// A bare nominal, without limits.
  /// The same of a difference of two values, for which the offset of a unit counts nothing.
  std::optional<double> difference(const std::string& key, const quantity::Unit& unit,
                                   const Bounds& bounds = {});
  std::optional<double> plain(const std::string& key, const quantity::Unit& unit,
                              const Bounds& bounds = {});
  std::optional<std::int64_t> integer(const std::string& key, std::int64_t low, std::int64_t high);
  /// A bare number, of a thing that has no unit.
  std::optional<double> number(const std::string& key, const Bounds& bounds = {});
  std::optional<bool> flag(const std::string& key);
  std::optional<std::string> text(const std::string& key);
  /// Arrays; empty where the key is missing or an entry is wrong (reported).
  std::vector<double> numbers(const std::string& key, const Bounds& bounds);
  std::vector<std::string> texts(const std::string& key);
  /// Bare nominals, without limits.
  std::vector<double> values(const std::string& key, const quantity::Unit& unit);
  std::optional<std::size_t> choice(const std::string& key, const std::vector<std::string>& names);
  /// The name of an entry of another section of the board.
  std::optional<std::string> name_of(const std::string& key, const std::string& section,
                                     const std::vector<std::string>& names);
  std::optional<Fields> table(const std::string& key);
  /// Tables of an array of tables.
  std::vector<Fields> tables(const std::string& key);
  /// Tables of tables, by name, in the order of the file.
  std::vector<std::pair<std::string, Fields>> entries(const std::string& key);

  /// Its keys are names of the user's own.
  void take_names() { free_names_ = true; }
  /// All keys, in the order of the file.
  std::vector<std::string> keys() const;
  bool has(const std::string& key) const { return table_->contains(key); }
  bool is_table(const std::string& key) const {
    return table_->get_as<toml::table>(key) != nullptr;
  }
  bool is_integer(const std::string& key) const {
    return table_->get_as<std::int64_t>(key) != nullptr;
  }
  /// True if the key holds exactly this text; it then counts as asked for.
  bool is_text(const std::string& key, std::string_view text);
  /// Reports `key` if it is missing. The getters do not: what is optional has a default.
  void require(const std::string& key, const std::string& allowed);
  /// Reports every key that nobody asked for.
  void finish();

  /// True if nothing at all has been reported, here or elsewhere.
  bool sound() const { return into_->empty(); }
  void report(const std::string& key, std::string found, std::string allowed);
  /// What is wrong in another file that the board names.
  void report(Diagnostic diagnostic) { into_->push_back(std::move(diagnostic)); }
  /// The file that the key stands in: of an overlay, or the board.
  std::string file_of(const std::string& key) const;
  /// Keys asked for that the file leaves out.
  const std::vector<std::string>& defaults() const { return defaults_; }
  const std::string& path() const { return path_; }

 private:
  std::optional<double> without_limits(const std::string& key, const quantity::Expected& expected,
                                       const Bounds& bounds);
  const toml::table* table_;
  std::string path_;
  std::vector<Diagnostic>* into_;
  Asked* written_down_;  ///< or nothing
  std::string pattern_;  ///< the path with "*" for names, without numbers of elements
  bool free_names_ = false;
  std::vector<std::string> asked_;
  std::vector<std::string> defaults_;

  const toml::node* find(const std::string& key);
  std::string under(const std::string& key) const;
  /// The key as it is written down; nothing where nobody does.
  BoardKey* note(const std::string& key, KeyForm form);
  void note(const std::string& key, KeyForm form, const quantity::Expected& expected,
            const Bounds& bounds);
  std::optional<quantity::Value> nominal(const std::string& key, const quantity::Expected& expected,
                                         const Bounds& bounds);
  const std::string* string(const std::string& key, const std::string& allowed);
  std::string full(const std::string& key) const;
  void report_at(const toml::node& node, const std::string& key, std::string found,
                 std::string allowed, std::size_t column_in_text = 0);
  template <class Parse>
  auto parsed(const std::string& key, const std::string& allowed, Parse parse)
      -> std::optional<decltype(parse(std::string_view()))>;
  std::optional<quantity::Value> parsed_value(const std::string& key,
                                              const quantity::Expected& expected,
                                              const std::string& allowed);
};

/// What a node holds, said to the user: "\"60 MV\"", "the integer 3", "a table".
std::string describe(const toml::node& node);

}  // namespace tamlo::io
