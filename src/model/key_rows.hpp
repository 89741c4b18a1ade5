// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <type_traits>

#include "tamlo/model/board.hpp"
#include "tamlo/model/detail/board_keys.hpp"
#include "tamlo/names.hpp"

// How a row of the table of keys is written: value("voltage", "V", at<&Reference::voltage>).
namespace tamlo::model {

using quantity::Basis;
using SlotOf = Slot (*)(void*);

template <class T, class Member>
T struct_of(Member T::*);
template <class T, class Member>
Member member_of(Member T::*);

/// Slot of a member; of an enumeration the byte that holds it.
template <auto member>
Slot at(void* object) {
  auto& of = static_cast<decltype(struct_of(member))*>(object)->*member;
  if constexpr (std::is_enum_v<decltype(member_of(member))>) {
    static_assert(sizeof of == 1);
    return reinterpret_cast<std::uint8_t*>(&of);
  } else {
    return &of;
  }
}

/// Structs of a member: one, one or none, or many.
template <auto member>
Inner inner(const Keys& (*keys)()) {
  using T = decltype(struct_of(member));
  using M = decltype(member_of(member));
  Inner result{.keys = keys};
  if constexpr (requires(M m) { m.emplace_back(); }) {
    result.size = [](const void* object) {
      return (static_cast<const T*>(object)->*member).size();
    };
    result.at = [](void* object, std::size_t i) -> void* {
      return &(static_cast<T*>(object)->*member)[i];
    };
    result.add = [](void* object) -> void* {
      return &(static_cast<T*>(object)->*member).emplace_back();
    };
    using Element = typename M::value_type;
    if constexpr (requires(Element e) { e.name; }) {
      result.name = [](const void* object) { return static_cast<const Element*>(object)->name; };
    }
  } else if constexpr (requires(M m) { m.emplace(); }) {
    result.size = [](const void* object) {
      return static_cast<std::size_t>((static_cast<const T*>(object)->*member).has_value());
    };
    result.at = [](void* object, std::size_t) -> void* {
      return &*(static_cast<T*>(object)->*member);
    };
    result.add = [](void* object) -> void* {
      return &(static_cast<T*>(object)->*member).emplace();
    };
  } else {
    result.size = [](const void*) { return std::size_t{1}; };
    result.at = [](void* object, std::size_t) -> void* {
      return &(static_cast<T*>(object)->*member);
    };
    result.add = [](void* object) -> void* { return &(static_cast<T*>(object)->*member); };
  }
  return result;
}

/// Kind that fills the alternative T of a variant.
template <class Variant, class T>
Kind kind_of(std::string_view name, const Keys& (*keys)(), std::string_view example,
             std::string_view meaning) {
  return {.name = name,
          .keys = keys,
          .make = [](void* object) -> void* {
            return &static_cast<Variant*>(object)->template emplace<T>();
          },
          .held = [](const void* object) -> const void* {
            return std::get_if<T>(static_cast<const Variant*>(object));
          },
          .example = example,
          .meaning = meaning};
}

inline Key row(std::string_view name, KeyForm form, std::string_view symbol, SlotOf slot) {
  return {.name = name, .form = form, .symbol = symbol, .slot = slot};
}
inline Key value(std::string_view name, std::string_view symbol, SlotOf slot) {
  return row(name, KeyForm::value, symbol, slot);
}
inline Key plain(std::string_view name, std::string_view symbol, SlotOf slot) {
  return row(name, KeyForm::plain, symbol, slot);
}
/// Value, or difference of values, of the channel's quantity.
inline Key of_span(std::string_view name, SlotOf slot) {
  return row(name, KeyForm::plain, "", slot).in(KeyUnit::span);
}
inline Key of_difference(std::string_view name, SlotOf slot) {
  return row(name, KeyForm::difference, "", slot).in(KeyUnit::span);
}
inline Key limits(std::string_view name, std::string_view symbol, std::vector<Basis> bases,
                  SlotOf slot) {
  return row(name, KeyForm::limits, symbol, slot).parts(std::move(bases));
}
inline Key noise(std::string_view name, std::string_view symbol, std::vector<Basis> bases,
                 SlotOf slot) {
  return row(name, KeyForm::noise, symbol, slot).parts(std::move(bases));
}
inline Key range(std::string_view name, std::string_view symbol, SlotOf slot) {
  return row(name, KeyForm::range, symbol, slot);
}
inline Key integer(std::string_view name, std::int64_t low, std::int64_t high, SlotOf slot) {
  return row(name, KeyForm::integer, "", slot)
      .within({.low = static_cast<double>(low), .high = static_cast<double>(high), .whole = true});
}
inline Key number(std::string_view name, SlotOf slot) {
  return row(name, KeyForm::number, "", slot);
}
inline Key numbers(std::string_view name, SlotOf slot) {
  return row(name, KeyForm::numbers, "", slot);
}
inline Key flag(std::string_view name, SlotOf slot) { return row(name, KeyForm::flag, "", slot); }
inline Key text(std::string_view name, SlotOf slot) { return row(name, KeyForm::text, "", slot); }
inline Key texts(std::string_view name, SlotOf slot) { return row(name, KeyForm::texts, "", slot); }
inline Key choice(std::string_view name, std::vector<std::string> words, SlotOf slot,
                  std::uint8_t first = 0) {
  auto result = row(name, KeyForm::choice, "", slot);
  result.words = std::move(words);
  result.first_word = first;
  return result;
}
inline Key name_in_section(std::string_view name, std::string_view section, SlotOf slot) {
  auto result = row(name, KeyForm::name, "", slot);
  result.section = section;
  return result;
}
inline Key nested(std::string_view name, KeyForm form, Inner inner) {
  auto result = row(name, form, "", nullptr);
  result.inner = inner;
  return result;
}
inline Key table(std::string_view name, Inner inner) { return nested(name, KeyForm::table, inner); }
inline Key tables(std::string_view name, Inner inner) {
  return nested(name, KeyForm::tables, inner);
}
inline Key entries(std::string_view name, Inner inner) {
  return nested(name, KeyForm::entries, inner);
}

inline constexpr Bounds temperature_bounds{
    .low = 0.0, .without_low = true, .text = "above absolute zero, -273.15 degC"};

}  // namespace tamlo::model
