// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <concepts>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <variant>
#include <vector>

#include "tamlo/names.hpp"
#include "tamlo/quantity/unit.hpp"
#include "tamlo/result/detail/table.hpp"

// Structs of results are not all of standard layout; their members lie at fixed places all the
// same.
#pragma GCC diagnostic ignored "-Winvalid-offsetof"

// One description of the fields of each result. A field has a name, a way to its value, how the
// value is measured, and what it means; JSON, CSV, Markdown and the schemas all follow from it. A
// struct is described by a specialisation of Fields, whose `list` is a tuple of fields.
namespace tamlo::result {

/// Scale of a number. Numbers of the quantity are written in the unit of the channel.
enum class Scale : std::uint8_t {
  plain,              ///< as it is, in the unit that the field names
  quantity,           ///< a value of the quantity
  difference,         ///< a difference of two
  sample,             ///< a value of a record: a code, or the quantity
  sample_difference,  ///< a difference of two
  sample_slope,       ///< a change of the record with time
  sample_time,        ///< samples, or seconds where the rate is known
  sample_frequency,   ///< cycles a sample, or hertz where the rate is known
};

struct Measure {
  Scale scale = Scale::plain;
  const char* unit = "";
  bool may_be_infinite = false;  ///< written as none
};
constexpr Measure plain{};
constexpr Measure unbounded{.may_be_infinite = true};
constexpr Measure quantity_value{Scale::quantity};
constexpr Measure unbounded_quantity{.scale = Scale::quantity, .may_be_infinite = true};
constexpr Measure difference{Scale::difference};
constexpr Measure sample{Scale::sample};
constexpr Measure sample_difference{Scale::sample_difference};
constexpr Measure in(const char* unit) { return {.unit = unit}; }
constexpr Measure unbounded_in(const char* unit) { return {.unit = unit, .may_be_infinite = true}; }

/// Units of the scales in one channel.
struct Units {
  quantity::Unit quantity{}, sample{};
  double rate = 0.0;  ///< Hz of the samples of a record

  double value(double si, Scale scale) const;
  std::string symbol(const Measure& measure) const;
};
using UnitsPtr = std::shared_ptr<const Units>;

/// A value of any result, with the units that hold in it.
struct Value {
  std::variant<std::monostate, bool, std::int64_t, double, std::string, std::vector<Value>> of{};
  UnitsPtr units{};  ///< of an object

  // Not here: every field of every result would compile them again.
  Value();
  explicit Value(bool value);
  explicit Value(std::int64_t value);
  explicit Value(double value);
  explicit Value(std::string_view value);
  explicit Value(std::vector<Value>&& parts, UnitsPtr of_object = {});
  ~Value();
  Value(const Value& other);
  Value(Value&& other) noexcept;
  Value& operator=(const Value& other) = delete;

  const std::vector<Value>& parts() const { return std::get<std::vector<Value>>(of); }
  bool none() const { return std::holds_alternative<std::monostate>(of); }
};

enum class Form : std::uint8_t { number, count, text, flag, object, list };

/// Description of a field, whatever its value.
struct Shape {
  std::string name{}, meaning{};
  Form form{};
  Measure measure{};
  bool optional = false;
  std::vector<std::string> choices{};  ///< of a text that is one of few
  std::vector<Shape> parts{};          ///< of an object its fields, of a list its element

  // As of Value.
  Shape(const char* called, const Measure& measured, const char* means, Form form);
  ~Shape();
  Shape(const Shape& other);
  Shape(Shape&& other) noexcept;
  Shape& operator=(const Shape& other) = delete;
};
void append(std::vector<Value>& parts, Value&& part);
void append(std::vector<Shape>& parts, Shape&& part);

/// One field of a struct: how its value is read and what its shape is, whatever the struct. Most
/// are a member at an offset, so that each type is compiled once and not each field.
struct Field {
  const char* name;
  Measure measure;
  const char* meaning;
  std::size_t offset;
  Value (*value)(const void* at, const Measure& measure, const UnitsPtr& units);
  Shape (*shape)(const char* called, const Measure& measure, const char* meaning);
};

/// The fields of T: a specialisation has a `list` of them, `units(t)` where T has its own, and, of
/// a result, the `command` that gives it.
template <class T>
struct Fields;
/// Begins specialisations of Fields: T for TAMLO_GET.
template <class Described>
struct FieldsOf {
  using T = Described;
};
/// Member of a struct, at its place there.
template <class M>
struct Member {
  std::size_t offset;
};
/// A field that is a member: TAMLO_AT(point.bias).
#define TAMLO_AT(path) \
  Member<std::remove_cvref_t<decltype(std::declval<const T&>().path)>> { offsetof(T, path) }
/// A field that is computed of `t`.
#define TAMLO_GET(...) [](const T& t) -> decltype(auto) { return (__VA_ARGS__); }

template <class T>
concept Described = requires {
  Fields<T>::list;
};
template <class T>
concept Optional = requires(T t) {
  t.has_value();
  *t;
};
template <class T>
concept List = !std::convertible_to<T, std::string_view> && requires(T t) {
  t.begin();
  t.size();
};

/// The value of a struct from those of its fields.
Value value_of_fields(std::span<const Field> fields, const void* object, const UnitsPtr& units);
void append_fields(std::vector<Shape>& parts, std::span<const Field> fields);

// The value of a field.
template <class T>
Value value_of(const T& t, const Measure& measure, const UnitsPtr& units) {
  if constexpr (Optional<T>) {
    return t ? value_of(*t, measure, units) : Value();
  } else if constexpr (std::same_as<T, bool>) {
    return Value(t);
  } else if constexpr (std::integral<T>) {
    return Value(static_cast<std::int64_t>(t));
  } else if constexpr (std::floating_point<T>) {
    return Value(units->value(t, measure.scale));
  } else if constexpr (std::is_enum_v<T>) {
    return Value(std::string_view(name(t)));
  } else if constexpr (std::same_as<T, quantity::Unit>) {
    return Value(std::string_view(t.symbol));
  } else if constexpr (std::convertible_to<T, std::string_view>) {
    return Value(std::string_view(t));
  } else if constexpr (List<T>) {
    std::vector<Value> parts;
    for (const auto& part : t) append(parts, value_of(part, measure, units));
    return Value(std::move(parts));
  } else {
    static_assert(Described<T>, "describe its fields");
    auto own = units;
    if constexpr (requires { Fields<T>::units(t); }) {
      own = std::make_shared<const Units>(Fields<T>::units(t));
    }
    return value_of_fields(Fields<T>::list, &t, own);
  }
}

// The form of what is neither optional nor made of parts.
template <class T>
constexpr Form form_of() {
  if constexpr (std::same_as<T, bool>) {
    return Form::flag;
  } else if constexpr (std::integral<T>) {
    return Form::count;
  } else if constexpr (std::floating_point<T>) {
    return Form::number;
  } else if constexpr (std::is_enum_v<T> || std::convertible_to<T, std::string_view> ||
                       std::same_as<T, quantity::Unit>) {
    return Form::text;
  } else {
    return List<T> ? Form::list : Form::object;
  }
}

// The shape of a field of type T.
template <class T>
Shape shape_of(const char* called, const Measure& measure, const char* meaning) {
  if constexpr (Optional<T>) {
    auto shape =
        shape_of<std::remove_cvref_t<decltype(*std::declval<T>())>>(called, measure, meaning);
    shape.optional = true;
    return shape;
  } else {
    Shape shape(called, measure, meaning, form_of<T>());
    if constexpr (std::is_enum_v<T>) {
      shape.choices = names_of<T>();
    } else if constexpr (form_of<T>() == Form::list) {
      using Part = std::remove_cvref_t<decltype(*std::declval<T>().begin())>;
      append(shape.parts, shape_of<Part>("", measure, ""));
    } else if constexpr (form_of<T>() == Form::object) {
      static_assert(Described<T>, "describe its fields");
      append_fields(shape.parts, Fields<T>::list);
    }
    return shape;
  }
}

template <class Get>
struct Accessor;
template <class Get, class Result, class T>
struct Accessor<Result (Get::*)(const T&) const> {
  static Value value(const void* object, const Measure& measure, const UnitsPtr& units) {
    return value_of<std::remove_cvref_t<Result>>(Get{}(*static_cast<const T*>(object)), measure,
                                                 units);
  }
  static constexpr auto shape = &shape_of<std::remove_cvref_t<Result>>;
};
template <class Get>
constexpr Field field(const char* name, Get, Measure measure, const char* meaning) {
  using Of = Accessor<decltype(&Get::operator())>;
  return {name, measure, meaning, 0, &Of::value, Of::shape};
}
template <class M>
Value value_at(const void* at, const Measure& measure, const UnitsPtr& units) {
  return value_of(*static_cast<const M*>(at), measure, units);
}
template <class M>
constexpr Field field(const char* name, Member<M> member, Measure measure, const char* meaning) {
  return {name, measure, meaning, member.offset, &value_at<M>, &shape_of<M>};
}
template <class Get>
constexpr Field field(const char* name, Get get, const char* meaning) {
  return field(name, get, plain, meaning);
}

/// A result, as all that write it see it.
struct Document {
  const char* command;
  Shape shape;
  Value value{};
};

std::string json(const Document& document);
std::vector<Table> tables_of(const Document& document);
/// A name for a table, from its title: the channel and what the table is of, at most `most`
/// characters and a number, without those that a sheet may not have, and none twice.
std::string short_name(std::string_view title, std::size_t most, std::set<std::string>& taken);
std::string workbook(const std::vector<Table>& tables);
std::string tables(const Document& document, bool markdown);
std::string schema(const char* command, const Shape& shape);

}  // namespace tamlo::result
