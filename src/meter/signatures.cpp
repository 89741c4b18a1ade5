// SPDX-License-Identifier: Apache-2.0
// Faults of a board or a firmware that differ from its description: the chain is changed so, and
// asked what it would have read.
#include "signatures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <iterator>
#include <optional>

#include "tamlo/math/coverage.hpp"

namespace tamlo::meter {
namespace {

using chain::Chain;
using model::Board;
using model::Channel;

constexpr double falls_by = 10.0, explained = 0.01;

// What a board `world` reads that a `firmware` scales. Where the wrong board ends, its codes do.
double read(const Chain& world, const Chain& firmware, double x, chain::Parameters p) {
  const double code =
      std::clamp(chain::code(world, x, p), static_cast<double>(chain::first_code(world)),
                 static_cast<double>(chain::last_code(world)));
  const double reported = world.report.offset + world.report.gain * code;
  return chain::exact_reading(firmware, reported);
}

Effects effects_of(const Chain& world, const Chain& firmware, const std::vector<double>& at) {
  Effects result{.coverage_factor = 1.0};
  result.of_source.assign(world.sources.size(), {});
  auto p = world.nominal;
  for (const double x : at) {
    result.bias.push_back(read(world, firmware, x, p) - x);
    result.expanded.push_back(0.0);
    const auto standards = chain::standards_at(world, x);
    for (std::size_t s = 0; s < world.sources.size(); ++s) {
      double& moved = p[world.sources[s].parameter];
      const double nominal = moved;
      moved = nominal + standards[s];
      const double above = read(world, firmware, x, p);
      moved = nominal - standards[s];
      const double below = read(world, firmware, x, p);
      moved = nominal;
      result.of_source[s].push_back((above - below) / 2.0);
    }
  }
  return result;
}

// Boards and firmwares that are not as described, each with its name.
struct FaultyBoard {
  std::string fault;
  std::function<void(Board&, Channel&)> world{};
  std::function<void(Board&, Channel&)> firmware{};
};

model::Converter& converter_of(Board& board, const Channel& channel) {
  return *std::ranges::find(board.converters, channel.converter, &model::Converter::name);
}

void attenuations(std::vector<FaultyBoard>& into, const Scene& scene) {
  for (const auto& other : scene.chain.converter.attenuations) {
    if (other.name == scene.chain.channel.attenuation) continue;
    into.push_back(
        {fmt::format("wrong attenuation setting: the converter is on \"{}\"", other.name),
         [name = other.name](Board&, Channel& c) { c.attenuation = name; }});
  }
}

void references(std::vector<FaultyBoard>& into, const Scene& scene) {
  for (const auto& other : scene.board.references) {
    if (other.name == scene.chain.converter.reference) continue;
    into.push_back(
        {fmt::format("swapped reference: the converter runs on \"{}\"", other.name),
         [name = other.name](Board& b, Channel& c) { converter_of(b, c).reference = name; }});
  }
}

void conventions(std::vector<FaultyBoard>& into, const Scene& scene) {
  using model::Convention;
  const bool last = scene.chain.channel.scaling.convention == Convention::last_code;
  into.push_back({fmt::format("count convention off by one: the firmware divides by {}",
                              last ? "all codes" : "the last code"),
                  {},
                  [last](Board&, Channel& c) {
                    c.scaling.convention = last ? Convention::full_scale : Convention::last_code;
                  }});
  using model::FirstTransition;
  const bool full = scene.chain.converter.first_transition == FirstTransition::full_code;
  into.push_back({full ? "rounding where truncation was described: readings are half a code high"
                       : "truncation not compensated: readings are half a code low",
                  [full](Board& b, Channel& c) {
                    converter_of(b, c).first_transition =
                        full ? FirstTransition::half_code : FirstTransition::full_code;
                  }});
}

void live_zero(std::vector<FaultyBoard>& into, const Scene& scene) {
  const auto& sensor = scene.chain.channel.sensor;
  const bool loop = sensor && std::holds_alternative<model::Loop>(*sensor);
  const auto* linear = sensor ? std::get_if<model::LinearSensor>(&*sensor) : nullptr;
  if (!loop && (linear == nullptr || linear->at_low.or_zero() == 0.0)) return;
  into.push_back({"live zero ignored: the firmware takes the low end of the span for a signal of 0",
                  {},
                  [loop](Board&, Channel& c) {
                    if (loop) {
                      std::get<model::Loop>(*c.sensor).low = 0.0;
                    } else {
                      std::get<model::LinearSensor>(*c.sensor).at_low.nominal = 0.0;
                    }
                  }});
}

void loads(std::vector<FaultyBoard>& into, const Scene& scene) {
  if (!scene.chain.channel.loaded_by.empty()) return;
  for (const auto& meter : scene.board.meters) {
    if (!meter.input_resistance) continue;
    into.push_back(
        {fmt::format("loading by the meter: the input resistance of \"{}\" hangs on the pin",
                     meter.name),
         [name = meter.name](Board&, Channel& c) { c.loaded_by = name; }});
  }
}

// The chain of the board with that change; nothing where there is no such board.
std::optional<Chain> changed(const Scene& scene,
                             const std::function<void(Board&, Channel&)>& change) {
  if (!change) return scene.chain;
  auto board = scene.board;
  auto& channel = *std::ranges::find(board.channels, scene.channel, &Channel::name);
  change(board, channel);
  try {
    return beside(board, scene.channel, scene.meter);
  } catch (const Error&) {
    return {};
  }
}

// A firmware in integers whose words are narrower than described wraps where the product is too
// large.
void overflows(std::vector<Signature>& found, const Scene& scene) {
  const auto& integer = scene.chain.channel.scaling.integer;
  if (!integer) return;
  for (const int bits : {32, 16}) {
    for (const bool is_signed : {true, false}) {
      if (bits > integer->bits || (bits == integer->bits && is_signed == integer->is_signed)) {
        continue;
      }
      auto firmware = scene.chain;
      firmware.channel.scaling.integer->bits = bits;
      firmware.channel.scaling.integer->is_signed = is_signed;
      auto evidence = gather_changed(scene, scene.chain, scene.chain);
      bool wraps = false;
      for (std::size_t i = 0; i < evidence.rows(); ++i) {
        const double code = chain::code(scene.chain, evidence.at[i], scene.chain.nominal);
        const auto by = [&](double of) {
          const auto reported = static_cast<double>(chain::register_value(scene.chain, of));
          return chain::reading(firmware, reported) - chain::reading(scene.chain, reported);
        };
        // Where it wraps or not by the next code, the row says little.
        const double within =
            1.0 + evidence.standard(i) / chain::code_width_at(scene.chain, evidence.at[i]);
        const double open = by(code + within) - by(code - within);
        evidence.effects.bias[i] += by(code);
        evidence.measured.variances[i] += open * open / 4.0;
        wraps = wraps || by(code) != 0.0;
      }
      if (!wraps) continue;
      const auto fault = fmt::format("firmware overflow: its words are of {} bits, {}", bits,
                                     is_signed ? "signed" : "unsigned");
      keep_if_it_explains(found, scene, {.fault = fault}, evidence);
    }
  }
}

}  // namespace

Evidence gather_changed(const Scene& scene, const Chain& world, const Chain& firmware) {
  return gather(world, scene.meter, scene.readings, effects_of(world, firmware, scene.evidence.at));
}

void keep_if_it_explains(std::vector<Signature>& found, const Scene& scene, Signature signature,
                         const Evidence& evidence) {
  if (!scene.claimed) return;
  signature.chi_squared = math::chi_squared(evidence.unexpected(), evidence.all());
  signature.probability =
      math::chi_squared_above(signature.chi_squared, static_cast<int>(evidence.rows()));
  // Not negated: what is not a number explains nothing.
  if (!(signature.probability > explained)) return;
  if (!(scene.chi_squared - signature.chi_squared >= falls_by)) return;
  if (!signature.evidence.empty()) signature.evidence += "; ";
  signature.evidence += fmt::format("with it chi-squared falls from {:.0f} to {:.1f} of {} rows",
                                    scene.chi_squared, signature.chi_squared, evidence.rows());
  found.push_back(std::move(signature));
}

std::vector<Signature> changed_chains(const Scene& scene) {
  std::vector<FaultyBoard> changes;
  attenuations(changes, scene);
  references(changes, scene);
  conventions(changes, scene);
  live_zero(changes, scene);
  loads(changes, scene);
  std::vector<Signature> found;
  for (const auto& change : changes) {
    const auto world = changed(scene, change.world);
    const auto firmware = changed(scene, change.firmware);
    if (!world || !firmware) continue;
    // The firmware scales as described, whatever the board is.
    keep_if_it_explains(found, scene, {.fault = change.fault},
                        gather_changed(scene, *world, *firmware));
  }
  overflows(found, scene);
  return found;
}

std::vector<Signature> signatures(const Scene& scene) {
  // What the values themselves show comes first, then what explains the differences best.
  auto result = marks(scene);
  auto found = high_bits_and_swaps(scene);
  if (scene.claimed) {
    for (auto& signature : changed_chains(scene)) found.push_back(std::move(signature));
  }
  std::ranges::stable_sort(found, {}, &Signature::chi_squared);
  std::ranges::move(found, std::back_inserter(result));
  return result;
}

}  // namespace tamlo::meter
