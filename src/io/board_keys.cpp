// SPDX-License-Identifier: Apache-2.0
// Reads keys as the table of keys describes them (model/detail/board_keys.hpp).
#include <fmt/format.h>

#include <algorithm>
#include <type_traits>

#include "board_parts.hpp"

namespace tamlo::io {
namespace {

using model::Key;
using model::KeyForm;
using model::Slot;

// Puts what was read into the member of a key.
template <class Member, class T>
void store_at(Member* member, const T& read) {
  if constexpr (std::is_same_v<Member, std::optional<quantity::Limit>>) {
    if constexpr (std::is_same_v<T, quantity::Value>) *member = read.limits.front();
  } else if constexpr (std::is_same_v<T, quantity::Value> &&
                       (std::is_same_v<Member, double> ||
                        std::is_same_v<Member, std::optional<double>>)) {
    *member = read.limits.front().size;
  } else if constexpr (std::is_arithmetic_v<T>) {
    if constexpr (std::is_arithmetic_v<Member>) *member = static_cast<Member>(read);
    if constexpr (std::is_same_v<Member, std::optional<int>>) *member = static_cast<int>(read);
    if constexpr (std::is_same_v<Member, std::optional<double>>) *member = read;
  } else if constexpr (std::is_assignable_v<Member&, T>) {
    *member = read;
  }
}

template <class T>
void store(const Slot& slot, const T& read) {
  std::visit(
      [&](auto member) {
        if constexpr (std::is_pointer_v<decltype(member)>) store_at(member, read);
      },
      slot);
}

template <class T>
void store_if(const Slot& slot, const std::optional<T>& read) {
  if (read) store(slot, *read);
}

void store_numbers(const Slot& slot, const std::vector<double>& numbers) {
  std::visit(
      [&](auto member) {
        if constexpr (requires { member->push_back(numbers.front()); }) {
          using Element = typename std::remove_pointer_t<decltype(member)>::value_type;
          member->clear();
          for (const double number : numbers) member->push_back(static_cast<Element>(number));
        }
      },
      slot);
}

// The unit of a key's values, and what limits they may have.
quantity::Expected expected(const Key& key, const Scope& scope) {
  quantity::Expected result{.bases = key.bases, .one_value = key.one_value};
  if (scope.channel != nullptr || key.unit == model::KeyUnit::fixed) {
    result.unit =
        unit_for(key, scope.channel != nullptr ? scope.channel->span.unit : quantity::unit("V"));
  }
  if (key.unit == model::KeyUnit::volts_per_span && !result.unit) {
    result.unit = quantity::unit("V");  // the problem is reported by validate()
  }
  return result;
}

std::vector<double> read_numbers(Fields& fields, const Key& key, const Scope& scope) {
  auto numbers = fields.numbers(std::string(key.name), key.bounds, key.most);
  if (key.unit == model::KeyUnit::fixed) return numbers;
  const auto unit = *unit_for(key, scope.channel->span.unit);
  const bool square = key.unit == model::KeyUnit::span_square;
  for (double& x : numbers) {
    x = square ? x * (unit.scale() * unit.scale()) : x * unit.scale() + unit.offset;
  }
  return numbers;
}

void read_plain(Fields& fields, const Key& key, const Slot& slot, const Scope& scope) {
  const std::string name(key.name);
  const auto unit = *expected(key, scope).unit;
  const auto read = key.form == KeyForm::difference ? fields.difference(name, unit, key.bounds)
                                                    : fields.plain(name, unit, key.bounds);
  const bool whole = std::holds_alternative<int*>(slot);
  if (read && whole && *read != std::floor(*read)) {
    fields.report(name, fmt::format("\"{} {}\"", *read, unit.symbol),
                  fmt::format("a whole number of {}s", unit.symbol));
    return;
  }
  store_if(slot, read);
}

// A member that is no Value holds one limit.
void read_limits(Fields& fields, const Key& key, const Slot& slot, const Scope& scope) {
  const std::string name(key.name);
  const auto in = expected(key, scope);
  const auto read = fields.limits(name, in);
  const bool many = std::holds_alternative<quantity::Value*>(slot) ||
                    std::holds_alternative<std::optional<quantity::Value>*>(slot);
  if (!read || many || read->limits.size() == 1) return store_if(slot, read);
  fields.report(name, fmt::format("\"{}\"", quantity::to_string(*read)),
                fmt::format("one limit above 0, such as \"±2 {}\"", in.unit->symbol));
}

void read_tables(Fields& fields, const Key& key, void* object, const Scope& scope) {
  const std::string name(key.name);
  const auto into = [&](Fields inner, void* element) {
    read_keys(inner, key.inner.keys(), element, scope);
    inner.finish();
  };
  if (key.form == KeyForm::table) {
    if (auto inner = fields.table(name)) into(*std::move(inner), key.inner.add(object));
  } else if (key.form == KeyForm::tables) {
    for (auto& inner : fields.tables(name)) into(std::move(inner), key.inner.add(object));
  }
}

}  // namespace

void read_key(Fields& fields, const Key& key, void* object, const Scope& scope) {
  const std::string name(key.name);
  const auto slot = key.slot != nullptr ? key.slot(object) : Slot{};
  switch (key.form) {
    case KeyForm::value:
      return store_if(slot, fields.value(name, expected(key, scope), key.bounds));
    case KeyForm::plain:
    case KeyForm::difference:
      return read_plain(fields, key, slot, scope);
    case KeyForm::limits:
      return read_limits(fields, key, slot, scope);
    case KeyForm::noise:
      return store_if(slot, fields.noise(name, expected(key, scope)));
    case KeyForm::range:
      return store_if(slot, fields.range(name, expected(key, scope), key.bounds));
    case KeyForm::integer:
      return store_if(slot, fields.integer(name, static_cast<std::int64_t>(key.bounds.low),
                                           static_cast<std::int64_t>(key.bounds.high)));
    case KeyForm::number:
      return store_if(slot, fields.number(name, key.bounds));
    case KeyForm::flag:
      return store_if(slot, fields.flag(name));
    case KeyForm::text:
      return store_if(slot, fields.text(name));
    case KeyForm::choice:
      if (const auto word = fields.choice(name, key.words)) store(slot, *word + key.first_word);
      return;
    case KeyForm::name: {
      const std::string section(key.section);
      const auto known = scope.names.find(section);
      return store_if(
          slot,
          fields.name_of(name, section,
                         known != scope.names.end() ? known->second : std::vector<std::string>{}));
    }
    case KeyForm::numbers:
      return store_numbers(slot, read_numbers(fields, key, scope));
    case KeyForm::texts:
      return store(slot, fields.texts(name));
    case KeyForm::values:
      return store_numbers(slot, fields.values(name, *expected(key, scope).unit));
    case KeyForm::table:
    case KeyForm::tables:
    case KeyForm::entries:
      return read_tables(fields, key, object, scope);
  }
}

void read_keys(Fields& fields, const model::Keys& keys, void* object, const Scope& scope) {
  for (const auto& key : keys.keys) {
    if (!key.required.empty()) fields.require(std::string(key.name), std::string(key.required));
    if (!key.by_hand) read_key(fields, key, object, scope);
  }
}

const model::Kind& chosen(const std::vector<model::Kind>& kinds, std::string_view name,
                          Fields& fields) {
  const auto described = [&](std::string_view when) {
    const auto equals = when.find('=');
    if (equals == std::string_view::npos) return fields.has(std::string(when));
    return fields.is_text(std::string(when.substr(0, equals)), when.substr(equals + 1));
  };
  const model::Kind* result = nullptr;
  for (const auto& kind : kinds) {
    if (kind.name != name) continue;
    if (std::ranges::any_of(kind.when, described)) return kind;
    if (kind.when.empty()) result = &kind;
  }
  return *result;
}

}  // namespace tamlo::io
