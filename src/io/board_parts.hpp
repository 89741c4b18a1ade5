// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "field.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/model/detail/signal_path.hpp"

namespace tamlo::io {

inline quantity::Expected in(std::string_view unit,
                             std::vector<quantity::Basis> bases = {quantity::Basis::absolute,
                                                                   quantity::Basis::relative}) {
  return {.unit = quantity::unit(unit), .bases = std::move(bases)};
}

/// A file as TOML. Throws BadInput for what is no such text, with its place.
toml::table parse_toml(const std::string& path);
/// The same of its text.
toml::table parse_toml_text(std::string_view text, const std::string& path);

/// Throws BadInput with all that was found, in the order of the files; nothing where there is
/// nothing.
void refuse_all(std::vector<Diagnostic> diagnostics, const std::vector<std::string>& paths);

/// What each reads, it reads whole: what is wrong is reported, and the result then stands in for
/// it.
model::Converter read_converter(const std::string& name, Fields fields,
                                const std::vector<std::string>& references);
model::Channel read_channel(const std::string& name, Fields fields,
                            const std::vector<model::Converter>& converters,
                            const std::vector<std::string>& references);
model::Meter read_meter(const std::string& name, Fields fields,
                        const std::vector<std::string>& links);
/// Its keys are finished by bind_links, which knows who reads it and who sets over it.
model::Link read_link(const std::string& name, Fields& fields);
model::Source read_source(const std::string& name, Fields fields,
                          const std::vector<std::string>& links);
/// A link of one number that does not say what it holds has the meter's that names it.
void bind_links(model::Board& board, std::vector<std::pair<std::string, Fields>>& sections);

/// `average` and `filter` of a channel.
void read_digital(Fields& fields, model::Channel& channel);
model::Scaling read_scaling(Fields fields, const quantity::Unit& quantity_unit, int resolution);
/// `correction` of a channel, as tamlo calibrate writes it.
std::optional<model::Correction> read_correction(Fields& fields, const quantity::Unit& unit);
/// `zones` of a channel: edges and their names, or bars of equal width.
model::Zones read_zones(Fields fields, const model::Channel& channel);
/// The curve of a sensor from a CSV file; reports what is wrong in the file at its own place.
model::Curve read_curve(Fields& fields, const std::string& path, const model::Channel& channel);
/// INL as it was measured, from a CSV file of codes and LSB.
std::vector<model::InlPoint> read_inl_table(Fields& fields, const std::string& path);

/// What the sensor gives.
model::Carries read_sensor(Fields fields, const std::vector<std::string>& references,
                           model::Channel& channel);

/// Reads `sensor` and `frontend` of a channel, whose span is known. Reports a chain of parts that
/// does not end in volts, or of which one gives what the next cannot take.
void read_signal_path(Fields& fields, const std::vector<std::string>& references,
                      model::Channel& channel);

}  // namespace tamlo::io
