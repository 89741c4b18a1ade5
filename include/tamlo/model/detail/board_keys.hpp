// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <cstdint>
#include <functional>
#include <limits>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <variant>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/quantity/value.hpp"

/// The one table of the keys of a board file: one row for each key, with its form, unit, bounds,
/// words, default, meaning and the member that it fills. The reader of files, validate(), the JSON
/// schema, the manual page and docs/board-file.md are made from it.
namespace tamlo {
namespace model TAMLO_API {

struct Board;
struct Channel;
class Findings;

/// Form of the value of a key.
enum class KeyForm : std::uint8_t {
  value,       ///< a text with a value and perhaps limits
  plain,       ///< a text with a value without limits
  difference,  ///< the same for a difference of two values: 0.1 degC are 0.1 K
  limits,      ///< a text with limits alone
  noise,       ///< a text with one noise
  range,       ///< a text with a range
  integer,     ///< a whole number
  number,
  flag,
  text,
  choice,  ///< one of a few texts
  name,    ///< the name of an entry of another section
  numbers,
  texts,
  values,  ///< an array of texts with values without limits
  table,
  tables,   ///< an array of tables
  entries,  ///< tables by names of the user's own
};

/// Interval that a number must lie in.
struct Bounds {
  double low = -std::numeric_limits<double>::infinity();
  double high = std::numeric_limits<double>::infinity();
  bool without_low = false;
  std::string_view text{};  ///< the interval in words, for messages
  bool whole = false;

  bool hold(double value) const {
    return (without_low ? value > low : value >= low) && value <= high && std::isfinite(value) &&
           (!whole || value == std::floor(value));
  }
  /// True if a value in the bounds can be divided by.
  bool exclude_zero() const { return without_low && low == 0.0; }
};

/// Unit of a key's values. All but the first two follow the span of the channel.
enum class KeyUnit : std::uint8_t {
  fixed,            ///< the symbol of the key
  any,              ///< each value brings its own
  span,             ///< unit of the quantity
  span_difference,  ///< unit of differences of the quantity
  span_square,      ///< square of that
  volts_per_span,   ///< V for one unit of the quantity
};

/// Member that a key fills.
using Slot =
    std::variant<std::monostate, quantity::Value*, std::optional<quantity::Value>*,
                 quantity::Range*, std::optional<quantity::Range>*, std::optional<quantity::Limit>*,
                 double*, std::optional<double>*, int*, std::optional<int>*, std::size_t*,
                 std::int64_t*, bool*, std::string*, std::vector<std::string>*,
                 std::vector<double>*, std::vector<int>*, std::vector<std::int64_t>*,
                 std::uint8_t*>;  ///< the last: an enumeration

struct Keys;

/// Tables below a key: their own keys, and the structs that they fill.
struct Inner {
  const Keys& (*keys)() = nullptr;
  std::size_t (*size)(const void* object) = nullptr;
  void* (*at)(void* object, std::size_t i) = nullptr;
  void* (*add)(void* object) = nullptr;
  std::string (*name)(const void* inner) = nullptr;  ///< of structs by names of the user's own
};

/// One key of a board file.
struct Key {
  std::string_view name{};
  KeyForm form = KeyForm::text;
  std::string_view symbol{};
  KeyUnit unit = KeyUnit::fixed;
  std::vector<quantity::Basis> bases{quantity::Basis::absolute, quantity::Basis::relative};
  Bounds bounds{};
  std::vector<std::string> words{};  ///< of a choice
  std::uint8_t first_word = 0;       ///< value of the enumeration that the first word stands for
  bool one_value = false;            ///< of a range: one value is a range, too
  std::optional<double> absent{};    ///< what the member holds where the key is not given
  std::string_view section{};        ///< of a name: the section of the entry
  Slot (*slot)(void* object) = nullptr;
  Inner inner{};
  std::size_t most = 4096;                 ///< elements of an array of numbers
  bool by_hand = false;                    ///< read by code of its own
  std::string_view required{};             ///< example of a key that must be there
  std::string_view meaning{}, standard{};  ///< what it is; its default

  Key& within(Bounds in) { return bounds = in, *this; }
  Key& above_zero() { return within({.low = 0.0, .without_low = true, .text = "above 0"}); }
  Key& not_negative() { return within({.low = 0.0, .text = "of 0 or more"}); }
  Key& in(KeyUnit key_unit) { return unit = key_unit, *this; }
  Key& parts(std::vector<quantity::Basis> allowed_bases) {
    return bases = std::move(allowed_bases), *this;
  }
  Key& needed(std::string_view example) { return required = example, *this; }
  Key& absent_is(double number) { return absent = number, *this; }
  Key& or_one_value() { return one_value = true, *this; }
  Key& at_most(std::size_t elements) { return most = elements, *this; }
  Key& with_own_reader() { return by_hand = true, *this; }
  Key& means(std::string_view text, std::string_view otherwise = {}) {
    return meaning = text, standard = otherwise, *this;
  }
};

/// Place of a struct in a board, for what its keys say together.
struct Place {
  Findings& findings;
  std::string path;
  const Channel* channel = nullptr;  ///< around it; nullptr outside of channels

  /// Adds a problem at a key of the struct; of the struct itself where the key is empty.
  void add(std::string_view key, std::string problem, std::string hint,
           std::string code = "out-of-bounds") const;
};

/// Keys of one table, and what must hold between them.
struct Keys {
  std::vector<Key> keys{};
  std::function<void(const void*, const Place&)> relations{};

  Keys(std::vector<Key> all) : keys(std::move(all)) {}
  template <class T>
  Keys(std::vector<Key> all, void (*hold)(const T&, const Place&))
      : keys(std::move(all)), relations([hold](const void* object, const Place& at) {
          hold(*static_cast<const T*>(object), at);
        }) {}
  /// Returns the key of that name; nullptr where there is none.
  const Key* find(std::string_view name) const;
  /// Returns the key of that name. Throws ArgumentError where there is none.
  const Key& operator[](std::string_view name) const;
};

/// One kind of sensor, part or filter. Several may share a name, and then differ in `when`.
struct Kind {
  std::string_view name{};
  const Keys& (*keys)() = nullptr;
  /// Keys, or "key=text", that tell it from the one of its name without any.
  std::vector<std::string_view> when{};
  /// Puts one into the variant of its kind, and returns it.
  void* (*make)(void* variant) = nullptr;
  /// Returns the struct in the variant, or nullptr for another kind.
  const void* (*held)(const void* variant) = nullptr;
  std::string_view example{}, meaning{};
};

const std::vector<Kind>& sensor_kinds();
const std::vector<Kind>& part_kinds();
const std::vector<Kind>& filter_kinds();

/// Keys of the whole file: its sections.
const Keys& board_keys();
const Keys& conditions_keys();
const Keys& reference_keys();
const Keys& converter_keys();
const Keys& attenuation_keys();
const Keys& report_keys();
const Keys& channel_keys();
const Keys& average_keys();
const Keys& adjustment_keys();
const Keys& zone_keys();
const Keys& correlation_keys();
const Keys& scaling_keys();
const Keys& step_keys();
const Keys& taught_keys();
const Keys& correction_keys();
const Keys& quantity_keys();
const Keys& meter_keys();
const Keys& link_keys();
const Keys& serial_keys();
const Keys& placed_number_keys();
const Keys& source_keys();

/// Returns every key that this board has or may have, with its whole path:
/// "channel.pack_voltage.frontend[0].divider.top". Elements of arrays are those that are there.
std::vector<std::string> settable_keys(const Board& board);

/// Returns what makes of one board the other, as single keys in the notation:
/// "channel.x.average.count=64". Nothing where they differ in their parts, or in what no single
/// value says.
std::vector<std::string> settings_between(const Board& before, const Board& after);

/// Unit of a key's values, for a span in `span`; nothing where any is taken, or V/unit is none.
std::optional<quantity::Unit> unit_for(const Key& key, const quantity::Unit& span);

}  // namespace model
}  // namespace tamlo
