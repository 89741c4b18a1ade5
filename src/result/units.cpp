// SPDX-License-Identifier: Apache-2.0
#include "field.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::result {

Value::Value() = default;
Value::Value(bool value) : of(value) {}
Value::Value(std::int64_t value) : of(value) {}
Value::Value(double value) {
  if (std::isfinite(value)) of = value;
}
Value::Value(std::string_view value) : of(std::string(value)) {}
Value::Value(std::vector<Value>&& parts, UnitsPtr of_object)
    : of(std::move(parts)), units(std::move(of_object)) {}
Value::~Value() = default;
Value::Value(const Value& other) = default;
Value::Value(Value&& other) noexcept = default;

Shape::Shape(const char* called, const Measure& measured, const char* means, Form has)
    : name(called), meaning(means), form(has), measure(measured) {
  optional = has == Form::number && measured.may_be_infinite;
}
Shape::~Shape() = default;
Shape::Shape(const Shape& other) = default;
Shape::Shape(Shape&& other) noexcept = default;

void append(std::vector<Value>& parts, Value&& part) { parts.push_back(std::move(part)); }
void append(std::vector<Shape>& parts, Shape&& part) { parts.push_back(std::move(part)); }

Value value_of_fields(std::span<const Field> fields, const void* object, const UnitsPtr& units) {
  std::vector<Value> parts;
  parts.reserve(fields.size());
  for (const auto& field : fields) {
    const auto* const at = static_cast<const char*>(object) + field.offset;
    parts.push_back(field.value(at, field.measure, units));
  }
  return Value(std::move(parts), units);
}
void append_fields(std::vector<Shape>& parts, std::span<const Field> fields) {
  for (const auto& field : fields)
    parts.push_back(field.shape(field.name, field.measure, field.meaning));
}

double Units::value(double si, Scale scale) const {
  switch (scale) {
    case Scale::plain:
      return si;
    case Scale::quantity:
      return quantity::in_unit(si, quantity);
    case Scale::difference:
      return quantity::in_unit(si, quantity::difference_unit(quantity));
    case Scale::sample:
      return quantity::in_unit(si, sample);
    case Scale::sample_difference:
      return quantity::in_unit(si, quantity::difference_unit(sample));
    case Scale::sample_slope:
      return quantity::in_unit(si * (rate > 0.0 ? rate : 1.0), quantity::difference_unit(sample));
    case Scale::sample_time:
      return rate > 0.0 ? si / rate : si;
    case Scale::sample_frequency:
      return rate > 0.0 ? si * rate : si;
  }
  return si;
}

std::string Units::symbol(const Measure& measure) const {
  const auto or_codes = [](const std::string& symbol) {
    return symbol.empty() ? std::string("code") : symbol;
  };
  switch (measure.scale) {
    case Scale::plain:
      return measure.unit;
    case Scale::quantity:
      return quantity.symbol;
    case Scale::difference:
      return quantity::difference_unit(quantity).symbol;
    case Scale::sample:
      return or_codes(sample.symbol);
    case Scale::sample_difference:
      return or_codes(quantity::difference_unit(sample).symbol);
    case Scale::sample_slope:
      return or_codes(quantity::difference_unit(sample).symbol) + (rate > 0.0 ? "/s" : "/sample");
    case Scale::sample_time:
      return rate > 0.0 ? "s" : "samples";
    case Scale::sample_frequency:
      return rate > 0.0 ? "Hz" : "cycles/sample";
  }
  return "";
}

}  // namespace tamlo::result
