// SPDX-License-Identifier: Apache-2.0
#include "notation_words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

#include "tamlo/quantity/detail/number.hpp"

namespace tamlo::quantity {
namespace {

constexpr std::string_view ohm_letter = "R";

bool is_digit(char c) { return std::isdigit(static_cast<unsigned char>(c)) != 0; }

// A prefix and the unit that is meant: "k" of ohm is kohm. A place of whole units has none.
std::optional<Unit> prefixed(std::string_view prefix, const Unit& expected) {
  auto base = expected.symbol;
  if (prefix == ohm_letter && base == "ohm") return expected;
  const bool milli_or_micro = prefix == "\u00b5" || prefix == "\u03bc";
  if (prefix.size() != 1 && !milli_or_micro) return {};
  auto found = find_unit(std::string(prefix) + base);
  if (!found || found->dimension != expected.dimension || found->exponent == expected.exponent) {
    return {};
  }
  return found;
}

// "ksps", "kS/s" and "kHz" are kSa/s.
std::optional<Unit> rate(std::string_view suffix) {
  for (const std::string_view end : {"sps", "SPS", "Sps", "S/s", "Hz", "samples/s"}) {
    if (!suffix.ends_with(end)) continue;
    return find_unit(std::string(suffix.substr(0, suffix.size() - end.size())) + "Sa/s");
  }
  return {};
}

}  // namespace

std::optional<Spelled> data_sheet_value(std::string_view number, std::string_view suffix,
                                        const Unit& expected) {
  const auto with = [&](std::optional<Unit> unit) -> std::optional<Spelled> {
    if (!unit || unit->dimension != expected.dimension) return {};
    return Spelled{.number = std::string(number), .unit = *std::move(unit)};
  };
  if (has_one_unit(expected) && suffix.empty()) return with(expected);
  if (expected.dimension == unit("Sa/s").dimension) {
    if (auto meant = with(rate(suffix))) return meant;
  }
  if (expected.dimension == unit("ohm").dimension && suffix.ends_with("ohms")) {
    return with(find_unit(suffix.substr(0, suffix.size() - 1)));
  }
  // Coulombs are not meant where a temperature is.
  if (expected.dimension == unit("K").dimension && suffix == "C") return with(unit("degC"));
  // "5 m" of a time may be minutes.
  if (expected.dimension == unit("s").dimension) return {};
  if (const auto whole = prefixed(suffix, expected)) return with(whole);
  // "4k7" and "2M2", with the unit behind it or without.
  const auto digits = std::ranges::find_if(suffix, is_digit);
  const auto prefix = suffix.substr(0, static_cast<std::size_t>(digits - suffix.begin()));
  auto decimals = suffix.substr(prefix.size());
  const auto end = std::ranges::find_if_not(decimals, is_digit);
  auto rest = decimals.substr(static_cast<std::size_t>(end - decimals.begin()));
  decimals.remove_suffix(rest.size());
  while (rest.starts_with(' ')) rest.remove_prefix(1);
  const bool whole_number = std::ranges::all_of(number, is_digit);
  if (prefix.empty() || decimals.empty() || !whole_number) return {};
  if (const auto written = find_unit(rest); !rest.empty() && (!written || *written != expected)) {
    return {};
  }
  const auto scaled = prefixed(prefix, expected);
  if (!scaled) return {};
  return Spelled{.number = std::string(number) + "." + std::string(decimals), .unit = *scaled};
}

std::size_t joint_length(std::string_view text, bool behind_digit) {
  if (text.starts_with("...")) return 0;
  for (const std::string_view joint : {"..", "to ", "\u2013", "- "}) {
    if (text.starts_with(joint)) return joint.size();
  }
  return behind_digit && text.starts_with('-') && number_length(text.substr(1)) > 0 ? 1 : 0;
}

Limit noise_of_range(double part) {
  const auto ppm = unit("ppm");
  return {.size = parse_number(fmt::format("{:.6g}", part / ppm.scale()), ppm),
          .unit = ppm,
          .basis = Basis::relative,
          .distribution = Distribution::normal,
          .noise = true};
}

// The sine has an rms of the range over 2 sqrt 2.
Limit noise_and_steps(double decibels) {
  auto limit = noise_of_range(std::pow(10.0, -decibels / 20.0) / std::sqrt(8.0));
  limit.with_steps = true;
  return limit;
}

double signal_to_noise(double part) { return -20.0 * std::log10(part * std::sqrt(8.0)); }

std::optional<std::string_view> peak_to_peak_unit(std::string_view unit) {
  for (const std::string_view end : {" p-p", " pp", "p-p", "pp"}) {
    if (unit.size() > end.size() && unit.ends_with(end)) {
      const auto rest = unit.substr(0, unit.size() - end.size());
      return find_unit(rest) ? std::optional(rest) : std::nullopt;
    }
  }
  return {};
}

}  // namespace tamlo::quantity
