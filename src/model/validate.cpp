// SPDX-License-Identifier: Apache-2.0
#include "tamlo/model/validate.hpp"

#include <algorithm>

#include "findings.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/model/detail/board_keys.hpp"
#include "tamlo/model/detail/signal_path.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "walk.hpp"

namespace tamlo::model {
namespace {

// Of a channel (docs/limits.md).
constexpr std::size_t most_parts = 64, most_lowpasses = 8, most_interferers = 16, most_stages = 16,
                      most_steps = 16, most_terms = 64, most_correlations = 1000;

// Checks what one member holds against the row of its key.
class KeyValidator {
 public:
  KeyValidator(const Key& key, std::string path, Findings& findings)
      : key_(key), path_(std::move(path)), f_(findings) {}

  void operator()(std::monostate) const {}
  void operator()(const bool*) const {}
  void operator()(const quantity::Value* value) const {
    f_.value(path_, *value);
    if (key_.form != KeyForm::value) return;
    bounded(value->or_zero());
    if (key_.bounds.exclude_zero()) f_.not_zero(path_, *value);
  }
  void operator()(const quantity::Range* range) const {
    if (!f_.ordered(path_, *range, key_.one_value)) return;
    bounded(range->low);
    bounded(range->high);
  }
  void operator()(const std::optional<quantity::Limit>* limit) const {
    if (*limit) f_.limit(path_, **limit);
  }
  void operator()(const double* number) const { finite_and_bounded(*number); }
  void operator()(const int* number) const { bounded(*number); }
  void operator()(const std::size_t* number) const { bounded(static_cast<double>(*number)); }
  void operator()(const std::int64_t* number) const { bounded(static_cast<double>(*number)); }
  void operator()(const std::string* text) const { f_.name(path_, *text); }
  void operator()(const std::uint8_t* word) const {
    if (absent(*word) || *word < key_.first_word + key_.words.size()) return;
    f_.add("out-of-bounds", path_, "a value beyond its words", "one of the enumeration");
  }
  template <class T>
  void operator()(const std::optional<T>* member) const {
    if (*member) (*this)(&**member);
  }
  template <class T>
  void operator()(const std::vector<T>* members) const {
    for (const auto& member : *members) (*this)(&member);
  }

 private:
  const Key& key_;
  std::string path_;
  Findings& f_;

  bool absent(double number) const { return key_.absent && *key_.absent == number; }
  void bounded(double number) const {
    if (absent(number) || key_.bounds.hold(number) || !std::isfinite(number)) return;
    const auto& [low, high, without_low, text, whole] = key_.bounds;
    f_.add("out-of-bounds", path_, quantity::format_number(number),
           text.empty()
               ? "from " + quantity::format_number(low) + " to " + quantity::format_number(high)
               : std::string(text));
  }
  void finite_and_bounded(double number) const {
    if (f_.finite(path_, number)) bounded(number);
  }
};

void validate_keys(const Keys& keys, const void* object, const Place& place) {
  for (const auto& key : keys.keys) {
    const auto path =
        key.name == "*" ? place.path : place.path + "." + std::string(key.name);  // a name is there
    if (key.slot != nullptr) {
      std::visit(KeyValidator(key, path, place.findings), key.slot(unchanged(object)));
    }
    const auto& inner = key.inner;
    if (inner.size == nullptr) continue;
    for (std::size_t i = 0; i < inner.size(object); ++i) {
      const auto* element = inner.at(unchanged(object), i);
      const auto own = inner.name != nullptr         ? "." + inner.name(element)
                       : key.form == KeyForm::tables ? "[" + std::to_string(i) + "]"
                                                     : "";
      validate_keys(inner.keys(), element, {place.findings, path + own, place.channel});
    }
  }
  if (keys.relations) keys.relations(object, place);
}

// A sensor, part or filter; filters have their kind as a word.
void validate_kind(const std::vector<Kind>& kinds, const void* variant, Place place,
                   bool named = true) {
  const auto* kind = kind_of(kinds, variant);
  if (kind == nullptr) return;
  if (named) place.path += path_of(*kind);
  validate_keys(kind->keys(), kind->held(variant), place);
}

void validate_format(const std::string& path, const RegisterFormat& format, Findings& f) {
  using Kind = RegisterFormat::Kind;
  if (format.kind == Kind::shifted || format.kind == Kind::replicated)
    f.within(path, format.bits, 1, 40);
  if (format.kind == Kind::dropped) f.within(path, format.bits, 1, 31);
  if (format.kind == Kind::divided) {
    f.within(path, static_cast<double>(format.divisor), 2, std::ldexp(1.0, 40));
  }
  if (format.kind == Kind::counts) {
    validate_keys(report_keys()["counts"].inner.keys(), &format, {f, path + ".counts"});
  }
}

void validate_converter(const Converter& c, Findings& f) {
  const auto path = "converter." + c.name;
  validate_keys(converter_keys(), &c, {f, path});
  for (const auto& point : c.inl_table) {
    f.finite(path + ".inl_table", point.code);
    f.finite(path + ".inl_table", point.inl);
  }
  for (const auto& attenuation : c.attenuations) f.name(path + ".attenuation", attenuation.name);
  for (const auto& format : c.formats_before) validate_format(path + ".report", format, f);
  validate_format(path + ".report", c.reporting, f);
}

// What a part takes must be what the one before it gives, and the last must give volts.
void validate_signal_path(const Channel& channel, const Place& place) {
  auto carries = channel.sensor ? given_by(*channel.sensor) : Carries::volts;
  const auto what = [&] { return std::string(name(carries)); };
  for (std::size_t i = 0; i < channel.frontend.size(); ++i) {
    const auto& part = channel.frontend[i];
    if (carries != taken_by(part)) {
      const auto* kind = kind_of(part_kinds(), &part);
      place.add(path_of_part(i) + (kind != nullptr ? path_of(*kind) : ""),
                what() + " at the input of this part",
                carries == Carries::volts ? "a part for volts: a divider, an amplifier"
                : carries == Carries::ohms
                    ? "a divider with \"sensor\" as one of its resistors, or an excitation"
                    : "a shunt",
                "not-a-signal");
    }
    carries = Carries::volts;
  }
  if (carries != Carries::volts) {
    place.add("frontend", what() + " at the converter's pin",
              "parts that end in volts: a divider with the sensor, an excitation, a shunt",
              "not-a-signal");
  }
}

// A meter that a channel names must be of the kind that serves there.
void validate_meter_of(const Board& board, const std::string& named, const char* key,
                       const std::string& kind, bool (*serves)(const Meter&), const Place& place) {
  if (named.empty()) return;
  std::string serving;
  for (const auto& meter : board.meters) {
    if (!serves(meter)) continue;
    if (meter.name == named) return;
    serving += (serving.empty() ? "" : ", ") + meter.name;
  }
  place.add(
      key, "\"" + named + "\"",
      serving.empty() ? "a [meter.NAME] section " + kind : "a meter " + kind + ": " + serving);
}

void validate_channel(const Board& board, const Channel& c, Findings& f) {
  const Place place{f, "channel." + c.name, &c};
  const auto& path = place.path;
  f.name(path, c.name);
  f.name(path + ".span", c.span.unit.symbol);
  f.at_most(path + ".frontend", c.frontend.size(), most_parts);
  const auto lowpasses = std::ranges::count_if(
      c.frontend, [](const Stage& part) { return std::holds_alternative<Lowpass>(part); });
  f.at_most(path + ".frontend", static_cast<std::size_t>(lowpasses), most_lowpasses, "low-passes");
  f.at_most(path + ".interference", c.interference.size(), most_interferers);
  f.at_most(path + ".filter", c.filter.size(), most_stages);
  f.at_most(path + ".correlation", c.correlations.size(), most_correlations);
  if (c.scaling.integer) {
    const auto& steps = c.scaling.integer->steps;
    f.at_most(path + ".scaling.steps", steps.size(), most_steps);
    std::size_t terms = 0;
    for (const auto& step : steps) terms += step.coefficients.size();
    f.at_most(path + ".scaling.steps", terms, most_terms, "terms of polynomials");
  }
  validate_keys(channel_keys(), &c, place);
  if (c.sensor) validate_kind(sensor_kinds(), &*c.sensor, {f, path + ".sensor", &c});
  if (const auto& known = c.scaling.sensor) {
    validate_kind(sensor_kinds(), &*known, {f, path + ".scaling.sensor", &c});
    if (!c.sensor || given_by(*known) != given_by(*c.sensor))
      place.add("scaling.sensor",
                std::string(name(given_by(*known))) + " from the firmware's sensor",
                "a sensor that gives what that of the channel gives");
  }
  for (std::size_t i = 0; i < c.frontend.size(); ++i) {
    validate_kind(part_kinds(), &c.frontend[i], {f, path + "." + path_of_part(i), &c});
  }
  for (std::size_t i = 0; i < c.filter.size(); ++i) {
    validate_kind(filter_kinds(), &c.filter[i], {f, path + "." + path_of_filter(c, i), &c}, false);
  }
  validate_signal_path(c, place);
  validate_meter_of(
      board, c.loaded_by, "loaded_by", "with an input_resistance",
      [](const Meter& meter) { return meter.input_resistance.has_value(); }, place);
  validate_meter_of(
      board, c.adjusted_with, "adjusted_with", "of the quantity",
      [](const Meter& other) { return other.touches == Touches::quantity; }, place);
  if (c.adjustment) {
    validate_meter_of(
        board, c.adjustment->with, "adjustment.with", "of the quantity",
        [](const Meter& other) { return other.touches == Touches::quantity; }, place);
  }
}

template <class Named>
void validate_names(const std::string& section, const std::vector<Named>& all, Findings& f) {
  std::vector<std::string> names;
  for (const auto& one : all) {
    names.push_back(one.name);
    f.name(section + "." + one.name, one.name);
  }
  std::ranges::sort(names);
  for (auto at = std::ranges::adjacent_find(names); at != names.end();
       at = std::adjacent_find(std::upper_bound(at, names.end(), *at), names.end())) {
    f.add("duplicate", section + "." + *at, "a name that occurs twice", "each name once");
  }
}

// What is divided by it must not be 0; only the low end of a range may lie below.
void validate_reference(const Board& board, const Reference& reference, Findings& f) {
  const Place place{f, "reference." + reference.name};
  validate_keys(reference_keys(), &reference, place);
  f.not_zero(place.path + ".voltage", reference.voltage);
  const double voltage = reference.voltage.or_zero();
  const bool low_end = std::ranges::find(board.converters, reference.name,
                                         &Converter::negative_reference) != board.converters.end();
  if (voltage > 0.0 || (low_end && voltage < 0.0) || !std::isfinite(voltage)) return;
  place.add("voltage", quantity::format_number(voltage) + " V",
            low_end ? "a voltage that is not 0" : "a value above 0 V");
}

void validate_shared(const Board& board, Findings& f) {
  validate_keys(conditions_keys(), &board.conditions, {f, "conditions"});
  for (const auto& reference : board.references) validate_reference(board, reference, f);
  for (const auto& converter : board.converters) validate_converter(converter, f);
  validate_names("reference", board.references, f);
  validate_names("converter", board.converters, f);
}

std::string joined(const std::vector<Problem>& problems) {
  std::string text;
  for (const auto& problem : problems) {
    text += (text.empty() ? "" : "\n") + to_string(problem);
  }
  return text;
}

}  // namespace

std::string Findings::shown(double number) { return quantity::format_number(number); }

std::vector<Problem> validate(const Board& board) {
  Findings f;
  f.name("board.title", board.title);
  validate_shared(board, f);
  for (const auto& channel : board.channels) validate_channel(board, channel, f);
  f.at_most("quantity", board.quantities.size(), 256);
  for (const auto& quantity : board.quantities)
    validate_keys(quantity_keys(), &quantity, {f, "quantity." + quantity.name});
  validate_quantities(board, f);
  validate_names("quantity", board.quantities, f);
  for (const auto& meter : board.meters)
    validate_keys(meter_keys(), &meter, {f, "meter." + meter.name});
  for (const auto& link : board.links) validate_keys(link_keys(), &link, {f, "link." + link.name});
  for (const auto& source : board.sources)
    validate_keys(source_keys(), &source, {f, "source." + source.name});
  validate_names("channel", board.channels, f);
  validate_names("meter", board.meters, f);
  validate_names("link", board.links, f);
  validate_names("source", board.sources, f);
  return std::move(f.problems);
}

std::vector<Problem> validate(const Board& board, const Channel& channel) {
  Findings f;
  validate_shared(board, f);
  validate_channel(board, channel, f);
  if (std::ranges::count(board.channels, channel.name, &Channel::name) > 1) {
    f.add("duplicate", "channel." + channel.name, "a name that occurs twice", "each name once");
  }
  return std::move(f.problems);
}

InvalidBoard::InvalidBoard(std::vector<Problem> all)
    : Error(joined(all)), problems(std::move(all)) {}

}  // namespace tamlo::model
