// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <fmt/format.h>

#include <cctype>
#include <cmath>
#include <cstdint>
#include <optional>
#include <string>

#include "tamlo/firmware/c_code.hpp"
#include "tamlo/firmware/plan.hpp"

// Pieces of C.
namespace tamlo::firmware {

/// Lines of C, with what they stand in.
class Writer {
 public:
  template <class... Arguments>
  void line(fmt::format_string<Arguments...> text, Arguments&&... arguments) {
    const auto body = fmt::format(text, std::forward<Arguments>(arguments)...);
    const auto head = head_of(body);
    if (head == 0) return put(body);
    put(body.substr(0, head) + " {");
    put(body.substr(head + 1));
    put("}");
  }
  const std::string& text() const { return text_; }

 private:
  std::string text_{};
  int depth_ = 0;

  void put(const std::string& body) {
    if (body.starts_with('}')) --depth_;
    if (!body.empty()) text_ += std::string(2 * static_cast<std::size_t>(depth_), ' ') + body;
    text_ += '\n';
    if (body.ends_with('{')) ++depth_;
  }
  // Length of the condition of a lone statement, which gets braces of its own; else 0.
  static std::size_t head_of(const std::string& body) {
    if (!(body.starts_with("if (") || body.starts_with("for (") || body.starts_with("while (")))
      return 0;
    int open = 0;
    for (std::size_t i = 0; i < body.size(); ++i) {
      if (body[i] == '(') ++open;
      if (body[i] == ')' && --open == 0) return body.ends_with('{') ? 0 : i + 1;
    }
    return 0;
  }
};

/// A name as C takes it, apart from a digit at its head: all but letters and digits are _.
inline std::string letters_of(const std::string& name) {
  auto result = name;
  for (char& c : result) {
    const auto byte = static_cast<unsigned char>(c);
    if (byte >= 0x80 || std::isalnum(byte) == 0) c = '_';
  }
  return result;
}
/// Returns the name of a channel or quantity as C takes it.
inline std::string identifier_of(const std::string& name) {
  auto result = letters_of(name);
  if (result.empty() || std::isdigit(static_cast<unsigned char>(result.front())) != 0) {
    result.insert(0, "channel_");
  }
  return result;
}
/// Returns a name in the form of a macro.
inline std::string upper(const std::string& name) {
  auto result = letters_of(name);
  for (char& c : result) c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
  return result;
}
inline std::string lower(const std::string& name) {
  auto result = letters_of(name);
  for (char& c : result) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return result;
}

/// A text of the user's, as it may stand in a comment.
std::string said(const std::string& text);
/// Returns an amount with its unit, as a text.
std::string amount(double si, const quantity::Unit& unit, int digits);
/// The line of a comment that says what made the code.
void origin(Writer& to, const CodeOptions& options);
/// Returns how many counts make one, where a float holds that number: the quotient of two
/// exact numbers is the nearest float.
inline std::optional<double> counts_of_one(double count) {
  const double counts = std::round(1.0 / count);
  if (counts < 0x1p24 && std::abs(counts * count - 1.0) < 1e-12) return counts;
  return {};
}

inline std::string unsigned_type(int bits) {
  return fmt::format("uint{}_t", bits <= 8 ? 8 : bits <= 16 ? 16 : bits <= 32 ? 32 : 64);
}
inline std::string code_type(const Plan& plan) {
  const int bits = code_bits(plan);
  return bits < 0 ? fmt::format("int{}_t", -bits) : unsigned_type(bits);
}
/// Returns the type of the numbers that are scaled.
inline std::string number_type(const Plan& plan) { return unsigned_type(plan.filter.bits); }
inline bool has_filter(const Plan& plan) { return !plan.filter.stages.empty(); }

/// Returns the whole part of a sum that may be negative over 2^shift, rounded down, in a word of so
/// many bits: a shift of what is not negative, as C leaves one of what is to the compiler.
inline std::string whole_part(const std::string& sum, int shift, int bits = 64) {
  const std::string half = bits == 64 ? "0x4000000000000000u" : "0x40000000u";
  return fmt::format("((int{0}_t)(((uint{0}_t){1} + {2}) >> {3}) - (int{0}_t)({2} >> {3}))", bits,
                     sum, half, shift);
}

/// TYPE held = WHAT, no less than `low` and no more than `high` where there is one.
inline void hold(Writer& to, const std::string& type, const std::string& what,
                 std::optional<std::int64_t> low, std::optional<std::int64_t> high) {
  const char* const sign = type.starts_with('u') ? "u" : "";
  to.line("{} held = {};", type, what);
  if (low) to.line("if (held < {0}{1}) held = {0}{1};", *low, sign);
  if (high) to.line("if (held > {0}{1}) held = {0}{1};", *high, sign);
}

/// static const MEMORY TYPE NAME[] = {...}, ten to a line.
void table(Writer& to, const std::string& type, const std::string& name,
           const std::vector<std::int64_t>& values, const std::string& memory = "TABLE_MEMORY ");
/// NAME_scaled.
void scaled_function(Writer& to, const Plan& plan);
/// The members of struct NAME_filter, one line each.
void filter_members(Writer& to, const Plan& plan);
/// NAME_start and NAME_add.
void filter_functions(Writer& to, const Plan& plan);
/// NAME_value.
void value_function(Writer& to, const Plan& plan);
/// NAME_text, and what one count is worth in digits: value = count * factor / 10^decimals.
void text_function(Writer& to, const Plan& plan);
std::string text_declaration(const Plan& plan);
/// Characters that a text takes, with the one that ends it.
int text_size(const Plan& plan);
/// The word that names channel and count in the data of a unit.
std::uint16_t unit_word(const Plan& plan);
/// struct NAME_unit and the functions that take it.
void unit_members(Writer& to, const Plan& plan);
/// NAME_unit_from and NAME_corrected.
void unit_functions(Writer& to, const Plan& plan);
/// NAME_zone.
void zone_function(Writer& to, const Plan& plan);

}  // namespace tamlo::firmware
