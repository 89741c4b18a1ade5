// SPDX-License-Identifier: Apache-2.0
// Formulas of several channels: what they name, and the unit that they give.
#include <algorithm>
#include <cmath>
#include <map>
#include <vector>

#include "findings.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/expression.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::model {
namespace {

// Factors by which base units may be chosen larger: a formula of the right unit follows them.
class Units {
 public:
  double scale(const quantity::Dimension& dimension) {
    double result = 1.0;
    for (std::size_t i = 0; i < dimension.halves.size(); ++i)
      result *= std::pow(1.3 + 0.17 * static_cast<double>(i), dimension.halves[i] / 2.0);
    if (dimension.label.empty()) return result;
    const auto [at, added] =
        labels_.try_emplace(dimension.label, 1.9 + 0.23 * static_cast<double>(labels_.size()));
    return result * at->second;
  }

 private:
  std::map<std::string, double> labels_{};
};

// The formula says the same whatever the size of the base units: "a volt and an ampere" does not.
bool has_unit_of_span(const math::Expression& formula, const std::vector<Channel>& channels,
                      const quantity::Unit& unit) {
  Units units;
  for (std::size_t attempt = 0; attempt < 8; ++attempt) {
    std::vector<double> plain, scaled;
    for (std::size_t i = 0; i < channels.size(); ++i) {
      const auto& span = channels[i].span;
      const double part = std::fmod(0.37 + 0.618 * static_cast<double>(i + 5 * attempt), 1.0);
      plain.push_back(std::lerp(span.low, span.high, part));
      scaled.push_back(plain.back() * units.scale(span.unit.dimension));
    }
    const double before = formula(plain);
    const double after = formula(scaled, {.volt = units.scale(quantity::unit("V").dimension),
                                          .kelvin = units.scale(quantity::unit("K").dimension)});
    if (!std::isfinite(before) || !std::isfinite(after) || before == 0.0) continue;
    if (!(std::abs(after / before / units.scale(unit.dimension) - 1.0) < 1e-9)) return false;
  }
  return true;
}

std::vector<std::string> names_of(const std::vector<Channel>& channels) {
  std::vector<std::string> names;
  for (const auto& channel : channels) names.push_back(channel.name);
  return names;
}

void validate_quantity(const Board& board, const Quantity& quantity, Findings& f) {
  const auto path = "quantity." + quantity.name;
  const std::string example = "a formula of channel names, such as \"tap_2 - tap_1\"";
  if (find(board.channels, quantity.name) != nullptr) {
    f.add("duplicate", path, "a name that a channel has, too", "another name");
  }
  try {
    const math::Expression formula(quantity.expression, names_of(board.channels));
    constexpr std::size_t most = 16;
    if (formula.used().empty()) return f.add("out-of-bounds", path + ".is", "no channel", example);
    f.at_most(path + ".is", formula.used().size(), most, "channels");
    if (!has_unit_of_span(formula, board.channels, quantity.span.unit)) {
      f.add("out-of-bounds", path + ".is",
            "a formula whose unit is not " + (quantity.span.unit.symbol.empty()
                                                  ? std::string("that of a bare number")
                                                  : quantity.span.unit.symbol),
            "a formula in the unit of its span, or a span in the unit of the formula");
    }
  } catch (const ArgumentError& reason) {
    f.add("out-of-bounds", path + ".is", reason.what(), example);
  }
}

}  // namespace

std::vector<std::string> channels_of(const Board& board, const Quantity& quantity) {
  std::vector<std::string> result;
  try {
    const auto names = names_of(board.channels);
    const math::Expression formula(quantity.expression, names);
    for (const auto i : formula.used()) result.push_back(names[i]);
  } catch (const ArgumentError&) {
    result.clear();
  }
  return result;
}

Reach reach_of(const Board& board, const Quantity& quantity) {
  const math::Expression formula(quantity.expression, names_of(board.channels));
  const auto& used = formula.used();
  std::vector<std::vector<double>> places;
  for (const auto i : used) {
    const auto& span = board.channels[i].span;
    auto& of_channel = places.emplace_back(std::vector{span.low, span.high});
    if (used.size() > 5) continue;
    for (const double part : {0.25, 0.5, 0.75})
      of_channel.push_back(std::lerp(span.low, span.high, part));
    if (span.low < span.unit.offset && span.unit.offset < span.high)
      of_channel.push_back(span.unit.offset);
  }
  Reach result{.low = HUGE_VAL, .high = -HUGE_VAL};
  std::vector<double> values(board.channels.size(), 0.0);
  std::vector<std::size_t> at(used.size(), 0);
  for (bool more = true; more;) {
    for (std::size_t j = 0; j < used.size(); ++j) values[used[j]] = places[j][at[j]];
    const double value = formula(values);
    if (std::isfinite(value)) {
      result.low = std::min(result.low, value);
      result.high = std::max(result.high, value);
    } else if (result.everywhere) {
      result.everywhere = false;
      for (std::size_t j = 0; j < used.size(); ++j) result.without.push_back(places[j][at[j]]);
    }
    more = false;
    for (std::size_t j = 0; j < used.size() && !more; ++j) {
      more = ++at[j] < places[j].size();
      if (!more) at[j] = 0;
    }
  }
  return result;
}

const Range* span_named(const Board& board, std::string_view name) {
  if (const auto* channel = find(board.channels, name)) return &channel->span;
  const auto* quantity = find(board.quantities, name);
  return quantity == nullptr ? nullptr : &quantity->span;
}

void validate_quantities(const Board& board, Findings& f) {
  for (const auto& quantity : board.quantities) {
    if (!quantity.expression.empty()) validate_quantity(board, quantity, f);
  }
}

}  // namespace tamlo::model
