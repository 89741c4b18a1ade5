// SPDX-License-Identifier: Apache-2.0
#pragma once

// A type with many members is made, copied and ended by much code, which the compiler would write
// anew for each source that does: these declare it in the type, and define it in one source.
// NOLINTBEGIN(bugprone-macro-parentheses)
#define TAMLO_COPIED_IN_ONE_SOURCE(Type) \
  Type();                                \
  Type(const Type&);                     \
  Type(Type&&) noexcept;                 \
  Type& operator=(const Type&);          \
  Type& operator=(Type&&) noexcept;      \
  ~Type()

#define TAMLO_COPIED_HERE(Type)                     \
  Type::Type() = default;                           \
  Type::Type(const Type&) = default;                \
  Type::Type(Type&&) noexcept = default;            \
  Type& Type::operator=(const Type&) = default;     \
  Type& Type::operator=(Type&&) noexcept = default; \
  Type::~Type() = default
// NOLINTEND(bugprone-macro-parentheses)
