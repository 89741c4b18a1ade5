// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <toml++/toml.h>

#include <cstdint>
#include <map>
#include <mutex>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "tamlo/io/diagnostics.hpp"
#include "tamlo/model/detail/board_keys.hpp"
#include "tamlo/model/validate.hpp"
#include "tamlo/quantity/notation.hpp"

// The door through which every entry of a board file passes: it is read whole, with its unit,
// inside its bounds, or it is reported with its place. Nothing is thrown; what is wrong is
// collected.
namespace tamlo::io {

using model::Bounds;

/// Texts of the files of a board, each read once. Several threads may ask for them.
class FileTexts {
 public:
  /// `first` is the file of the board, beside which lie the files that single keys name.
  explicit FileTexts(std::string first) : first_(std::move(first)) {}
  const std::string& first() const { return first_; }
  /// Throws as read_file() does.
  const std::string& at(const std::string& path);
  /// Paths and texts of those that were asked for, in that order.
  std::vector<std::string> paths();
  std::string all();

 private:
  std::string first_;
  std::mutex reading_{};
  std::vector<std::string> order_{};
  std::map<std::string, std::string> texts_{};
};

/// A table of the file under its path, e.g. "channel.pack_voltage". Remembers which keys were asked
/// for, so that finish() can report the others.
class Fields {
 public:
  Fields(const toml::table& table, std::string path, std::vector<Problem>& into, FileTexts& texts)
      : table_(&table), path_(std::move(path)), into_(&into), texts_(&texts) {}

  // Each gives nothing where the key is missing (reported if required) or wrong (reported).
  std::optional<quantity::Value> value(const std::string& key, const quantity::Expected& expected,
                                       const Bounds& bounds = {});
  std::optional<quantity::Range> range(const std::string& key, const quantity::Expected& expected,
                                       const Bounds& bounds = {});
  /// Limits without a nominal: "±2 LSB ±2 ppm/K".
  std::optional<quantity::Value> limits(const std::string& key, const quantity::Expected& expected);
  /// Exactly "a rms".
  std::optional<quantity::Value> noise(const std::string& key, const quantity::Expected& expected);
  /// A difference of two values, without limits: the offset of its unit counts nothing.
  std::optional<double> difference(const std::string& key, const quantity::Unit& unit,
                                   const Bounds& bounds = {});
  /// A bare nominal, without limits.
  std::optional<double> plain(const std::string& key, const quantity::Unit& unit,
                              const Bounds& bounds = {});
  std::optional<std::int64_t> integer(const std::string& key, std::int64_t low, std::int64_t high);
  /// A bare number, of a thing that has no unit.
  std::optional<double> number(const std::string& key, const Bounds& bounds = {});
  std::optional<bool> flag(const std::string& key);
  std::optional<std::string> text(const std::string& key);
  /// Arrays; empty where the key is missing, an entry is wrong or there are too many (reported).
  std::vector<double> numbers(const std::string& key, const Bounds& bounds,
                              std::size_t most = 4096);
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

  /// All that has been reported, here or elsewhere.
  const std::vector<Problem>& reported() const { return *into_; }
  bool sound() const { return into_->empty(); }
  void report(const std::string& key, std::string found, std::string allowed);
  /// Reports what is wrong in the whole board, at its place from this table on.
  void report_problem(const Problem& problem);
  /// Reports what is wrong in another file that the board names.
  void report(Problem diagnostic) { into_->push_back(std::move(diagnostic)); }
  /// The file that the key stands in: of an overlay, or the board; of a single key the board.
  std::string file_of(const std::string& key) const;
  /// The text of a file that the board names. Throws as read_file() does.
  const std::string& text_of(const std::string& file) { return texts_->at(file); }
  /// Keys asked for that the file leaves out.
  const std::vector<std::string>& defaults() const { return defaults_; }
  const std::string& path() const { return path_; }

 private:
  std::optional<double> without_limits(const std::string& key, const quantity::Expected& expected,
                                       const Bounds& bounds);
  const toml::table* table_;
  std::string path_;
  std::vector<Problem>* into_;
  FileTexts* texts_;
  std::vector<std::string> asked_;
  std::vector<std::string> defaults_;

  const toml::node* find(const std::string& key);
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

/// Returns the content of a node in words for a message: "\"60 MV\"", "the integer 3", "a table".
std::string describe(const toml::node& node);

}  // namespace tamlo::io
