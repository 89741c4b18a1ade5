// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <cmath>
#include <utility>

#include "board_parts.hpp"

namespace tamlo::io {
namespace {

using quantity::unit;

// Width of a word that holds `least` bits.
int word_width(Fields& fields, const char* key, int least) {
  const auto text = fmt::format("from {} bit to 40 bit", least);
  const double bit =
      fields
          .plain(key, unit("bit"), {.low = static_cast<double>(least), .high = 40.0, .text = text})
          .value_or(least);
  if (bit != std::floor(bit)) fields.report(key, "a part of a bit", "a whole number of bits");
  return static_cast<int>(bit);
}

void read_counts(Fields fields, model::RegisterFormat& result, const Scope& scope) {
  constexpr std::int64_t most = std::int64_t{1} << 40;
  result.kind = model::RegisterFormat::Kind::counts;
  result.least = -most;
  result.most = most;
  read_keys(fields, model::report_keys()["counts"].inner.keys(), &result, scope);
  fields.finish();
}

// One format, and how many bits are left after it.
model::RegisterFormat read_format(Fields fields, int& bits, const Scope& scope) {
  using Kind = model::RegisterFormat::Kind;
  model::RegisterFormat result;
  int found = 0, left = bits;
  if (auto v = fields.choice("align", {"right", "left"})) {
    ++found;
    result.kind = *v == 0 ? Kind::plain : Kind::shifted;
    fields.require("word", "the width of the word, such as \"16 bit\"");
    result.bits = word_width(fields, "word", bits);
    if (*v == 1) left = result.bits;
  }
  if (fields.has("widen")) {
    ++found;
    left = result.bits = word_width(fields, "widen", bits);
    result.kind = Kind::replicated;
  }
  if (auto v = fields.integer("drop", 1, std::max(1, bits - 1))) {
    ++found;
    result.kind = Kind::dropped;
    result.bits = static_cast<int>(*v);
    left = bits - result.bits;
  }
  if (auto v = fields.integer("divide", 2, std::int64_t{1} << std::max(1, bits - 1))) {
    ++found;
    result.kind = Kind::divided;
    result.divisor = *v;
    left = std::max(1, bits - static_cast<int>(std::floor(std::log2(static_cast<double>(*v)))));
  }
  if (auto counts = fields.table("counts")) {
    ++found;
    read_counts(*std::move(counts), result, scope);
  }
  if (found != 1) {
    fields.report("", fmt::format("{} ways to report a code", found),
                  "one of align, widen, drop, divide, counts; several in a row as an array");
  }
  fields.finish();
  bits = left;
  return result;
}

// One, or several in a row of which only the last may be of counts.
void read_reporting(Fields& fields, model::Converter& converter, const Scope& scope) {
  int bits = converter.resolution;
  if (fields.is_table("report")) {
    converter.reporting = read_format(*fields.table("report"), bits, scope);
    return;
  }
  auto formats = fields.tables("report");
  for (std::size_t i = 0; i < formats.size(); ++i) {
    const bool last = i + 1 == formats.size();
    if (!last && formats[i].has("counts")) {
      formats[i].report("counts", "counts before another format", "counts as the last of them");
    }
    auto format = read_format(std::move(formats[i]), bits, scope);
    if (!last && format.kind == model::RegisterFormat::Kind::plain) continue;
    if (last) {
      converter.reporting = format;
    } else if (format.kind != model::RegisterFormat::Kind::counts) {
      converter.formats_before.push_back(format);
    }
  }
}

}  // namespace

model::Converter read_converter(const std::string& name, Fields fields, const Scope& scope) {
  model::Converter result{.name = name};
  read_keys(fields, model::converter_keys(), &result, scope);
  if (auto path = fields.text("inl_table")) result.inl_table = read_inl_table(fields, *path);
  for (auto& [own_name, of] : fields.entries("attenuation")) {
    auto& attenuation = result.attenuations.emplace_back(model::Attenuation{.name = own_name});
    read_keys(of, model::attenuation_keys(), &attenuation, scope);
    of.finish();
  }
  if (fields.has("report")) {
    read_reporting(fields, result, scope);
  } else {
    (void)fields.table("report");  // so that its default is shown
  }
  for (const auto* key : {"data_rate", "sinc_order"}) {
    if (result.architecture == model::Architecture::delta_sigma || !fields.has(key)) continue;
    fields.report(key, "a key of a filter inside the converter",
                  "this key beside architecture = \"delta sigma\"");
  }
  fields.finish();
  result.defaults = fields.defaults();
  return result;
}

}  // namespace tamlo::io
