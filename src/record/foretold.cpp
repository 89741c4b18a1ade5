// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/foretold.hpp"

#include <algorithm>
#include <cmath>

namespace tamlo::record {
namespace {

// What a record is too short to show of noise that rises towards low frequencies: its power is the
// same in every octave.
chain::Chain seen_in(chain::Chain chain, double duration) {
  for (auto& source : chain.sources) {
    if (!(source.corner > 0.0) || !(source.band_ratio > 1.0) || !(duration > 0.0)) continue;
    const double seen = duration / chain.conditions.observation * source.band_ratio;
    const double part = std::log(std::max(1.0, seen)) / std::log(source.band_ratio);
    source.standard *= std::sqrt(std::min(1.0, part));
  }
  return chain;
}

double inl_standard(const chain::Chain& chain) {
  double squares = 0.0;
  for (const auto& source : chain.sources) {
    if (source.parameter == chain.conversion.inl) squares += source.standard * source.standard;
  }
  return std::sqrt(squares);
}

std::size_t quantisation_place(const chain::Chain& chain) {
  const auto at = std::ranges::find(chain.sources, chain::Kind::quantisation, &chain::Source::kind);
  return static_cast<std::size_t>(at - chain.sources.begin());
}

}  // namespace

std::string_view name(Shows shows) { return shows == Shows::codes ? "codes" : "readings"; }

std::string_view name(Input input) {
  switch (input) {
    case Input::steady:
      return "steady";
    case Input::ramp:
      return "ramp";
    case Input::sine:
      return "sine";
    case Input::step:
      return "step";
  }
  return "";
}

Foretold foretold(const chain::Chain& chain, Shows shows, double x, double rate,
                  std::uint64_t samples) {
  const auto seen = seen_in(chain, rate > 0.0 ? static_cast<double>(samples) / rate : 0.0);
  Foretold result;
  const bool readings = shows == Shows::readings;
  const auto& report = chain.report;
  if (readings) {
    auto random = seen;
    std::erase_if(random.sources,
                  [](const auto& s) { return s.kind == chain::Kind::interference; });
    random.quantisation_source = quantisation_place(random);
    result.noise = chain::reading_noise(random, x);
  } else {
    // What is reported may be coarser than the codes.
    result = {.noise = chain::noise_in_codes(seen, x) * report.gain,
              .step = report.width * report.gain,
              .inl = inl_standard(chain) * report.gain,
              .resolution = chain.converter.resolution,
              .per_code = report.gain};
  }
  auto p = chain.nominal;
  for (const auto& source : chain.sources) {
    if (source.kind != chain::Kind::interference || !(rate > 0.0)) continue;
    const double turns = source.frequency / rate;
    const double part = turns - std::floor(turns);
    const double passed = source.limit * (readings ? source.passes : 1.0);
    const double of_reading = std::abs(chain::effect(chain, x, source, passed, p));
    result.waves.push_back(
        {.frequency = std::min(part, 1.0 - part),
         .amplitude =
             readings ? of_reading : of_reading / chain::code_width_at(chain, x) * report.gain});
  }
  return result;
}

double quantity_of(const chain::Chain& chain, Shows shows, double mean) {
  if (shows == Shows::readings) return mean;
  return chain::quantity_at(chain, (mean - chain.report.offset) / chain.report.gain);
}

double rate_of(const chain::Chain& chain, Shows shows) {
  return shows == Shows::codes ? chain.digital.rate : chain::output_rate(chain.digital);
}

Capture::Options capture_options(const chain::Chain& chain, Shows shows, Input input) {
  Capture::Options options;
  if (input == Input::sine) {
    options.window = Window::blackman_harris;
    options.segment = std::size_t{1} << 16;
  }
  if (shows == Shows::codes) {
    if (chain.report.reporting.kind == model::Reporting::Kind::shifted)
      options.grain = chain.report.gain;
    return options;
  }
  const auto& span = chain.channel.span;
  const double noise = chain::reading_noise(chain, span.middle());
  options.grain = std::max(noise / 64.0, span.width() / 0x1p23);
  return options;
}

}  // namespace tamlo::record
