// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/error.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/scaling.hpp"

/// Integers that follow a formula: multiply, add and shift for a straight one, pieces of straight
/// lines for a curve (docs/method.md, "Firmware arithmetic"). All errors are in counts.
namespace tamlo {
namespace firmware TAMLO_API {

/// Request for integer arithmetic: for the number first + i * stride the reading counts[i].
struct Wanted {
  std::int64_t first = 0, last = 0;  ///< numbers that are taken
  std::int64_t stride = 1;
  std::vector<double> counts{};
};

/// Form of the arithmetic from a number to a reading.
enum class Form : std::uint8_t {
  straight,    ///< one multiplication, one addition, one shift
  lines,       ///< a line for each piece of a curve, found by search
  even_lines,  ///< pieces of equal width, a power of two, found by a shift
  polynomial   ///< of the second to the fourth degree
};
std::string_view name(Form form);

/// One way to compute it: ((multiply * (number - from) + add) >> shift) + base, in a word of `bits`
/// where what is shifted is never negative. Of a polynomial, with x = number - first, in place of
/// the bracket: acc = c_n, then acc = ((acc * x) >> product_shift) + c_i.
struct Arithmetic {
  Form form = Form::straight;
  int bits = 32;
  std::int64_t first = 0, last = 0;  ///< numbers beyond them are held at them
  std::vector<model::IntegerLine> lines{};
  int shift = 0;
  std::int64_t base = 0;
  std::vector<std::int64_t> coefficients{};  ///< of a polynomial, in place of lines
  int product_shift = 0;                     ///< of each of its products
  int even_shift = 0;                        ///< of even lines: the width of a piece is two to this
  int add_shift = 0;      ///< every `add` of a table is a multiple of two to this
  int multiply_bits = 0;  ///< of the table's entries, with sign
  int add_bits = 0;       ///< of the table's entries, already shifted, without sign
  int from_bits = 0;      ///< of the table's entries, without sign; 0 where none is kept

  /// Memory of its tables.
  int table_bytes() const;
  /// Returns the largest number that is ever held; of a polynomial at every `stride`-th number.
  std::int64_t widest(std::int64_t stride = 1) const;
  /// Returns the reading of a number, computed as the firmware does, step by step in its own word.
  std::int64_t evaluate(std::int64_t number) const;
};

/// No arithmetic of integers does what was asked for. The message says what is possible.
class FirmwareError : public Error {
 public:
  using Error::Error;
};

/// The best multiplier and shift in the narrowest word of 16, 32 or 64 bits that keeps `allowed`.
/// `wanted` is straight. Throws FirmwareError where none does.
Arithmetic straight(const Wanted& wanted, double allowed);

/// Few pieces that keep `allowed` at every number of `wanted`, exact for the multipliers and
/// offsets of a table: each as long as it can be, of free and even pieces those of fewer bytes.
/// Where `wanted` rises or falls throughout, so do the readings, across joints too. Throws
/// FirmwareError where half a count is not allowed, or where it takes more than 1024 pieces.
Arithmetic pieces(const Wanted& wanted, double allowed);

/// The polynomial of the lowest degree, up to four, that keeps `allowed` in a word of 32 bits; none
/// where none does.
std::optional<Arithmetic> polynomial(const Wanted& wanted, double allowed);

/// Returns the largest step that a reading takes the wrong way, in counts, when the number rises by
/// one; 0 where readings never do. Curves that rise or fall throughout give 0.
std::int64_t wrong_step(const Arithmetic& arithmetic);

/// Returns the steps as the chain's integer scaling takes them.
std::vector<model::IntegerStep> steps(const Arithmetic& arithmetic);

/// Returns the formula as text: "((number * 625 + 16384) >> 15) - 3".
std::string in_words(const Arithmetic& arithmetic);
/// " - 3", and nothing for 0.
std::string added(std::int64_t base);

/// The largest distance from what is wanted, and the number where it is met.
struct Worst {
  double error = 0.0;
  std::int64_t at = 0;
};
Worst worst(const Arithmetic& arithmetic, const Wanted& wanted);

}  // namespace firmware
}  // namespace tamlo
