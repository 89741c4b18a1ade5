// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <map>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "field.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/model/detail/board_keys.hpp"
#include "tamlo/model/detail/signal_path.hpp"

namespace tamlo::io {

/// A file as TOML. Throws BadInput for what is no such text, with its place.
toml::table parse_toml(const std::string& path);
/// Returns the table of a text.
toml::table parse_toml_text(std::string_view text, const std::string& path);

/// Throws BadInput with all that was found, in the order of the files; nothing where there is
/// nothing.
void refuse_all(std::vector<Problem> problems, const std::vector<std::string>& paths);

/// Context of a key: names of entries by section, and the channel whose span gives the unit.
struct Scope {
  const std::map<std::string, std::vector<std::string>>& names;
  const model::Channel* channel = nullptr;
};

/// Reads one key of a table into the struct of that table; reports what is wrong.
void read_key(Fields& fields, const model::Key& key, void* object, const Scope& scope);

/// Reads all keys of a table but those with a reader of their own; does not finish it.
void read_keys(Fields& fields, const model::Keys& keys, void* object, const Scope& scope);

/// Reads a named section that has no reader of its own.
template <class Section>
Section read_section(const std::string& name, Fields fields, const model::Keys& keys,
                     const Scope& scope) {
  Section result{.name = name};
  read_keys(fields, keys, &result, scope);
  fields.finish();
  return result;
}

/// Returns the kind that a table describes, of several of one name by what only it has.
const model::Kind& chosen(const std::vector<model::Kind>& kinds, std::string_view name,
                          Fields& fields);

/// Each reads a section whole, its keys of both ways, and finishes it.
model::Converter read_converter(const std::string& name, Fields fields, const Scope& scope);
model::Channel read_channel(const std::string& name, Fields fields, const Scope& scope,
                            const std::vector<model::Converter>& converters);
model::Quantity read_quantity(const std::string& name, Fields fields, const Scope& scope);
model::Meter read_meter(const std::string& name, Fields fields, const Scope& scope);
/// Its keys are finished by bind_links, which knows who reads it and who sets over it.
model::Link read_link(const std::string& name, Fields& fields, const Scope& scope);
/// A link of one number that does not say what it holds has the meter's that names it.
void bind_links(model::Board& board, std::vector<std::pair<std::string, Fields>>& sections);

/// `average` and `filter` of a channel.
void read_digital(Fields& fields, model::Channel& channel, const Scope& scope);
model::Scaling read_scaling(Fields fields, int resolution, const Scope& scope);
/// Curve of a sensor from a CSV file; reports what is wrong in the file at its own place.
model::Curve read_curve(Fields& fields, const std::string& path, const model::Channel& channel);
/// Measured INL from a CSV file of codes and LSB.
std::vector<model::InlPoint> read_inl_table(Fields& fields, const std::string& path);

}  // namespace tamlo::io
