// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/verdict.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <map>
#include <stdexcept>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/step_response.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"

namespace tamlo::record {
namespace {

constexpr std::array bands{0.01, 0.001};

// The largest deviation that a fixed source of the converter may have, LSB.
std::optional<double> limit_of(const chain::Chain& chain, std::size_t parameter) {
  double sum = 0.0;
  bool any = false;
  for (const auto& source : chain.sources) {
    if (source.parameter != parameter || chain::random(source.kind())) continue;
    sum += source.limit;
    any = true;
  }
  return any ? std::optional(sum) : std::nullopt;
}

// Largest size of the values beyond a limit by more than k standard uncertainties each.
bool beyond(const std::vector<double>& values, const std::vector<double>& standards,
            std::optional<double> limit, double k) {
  if (!limit) return false;
  for (std::size_t i = 0; i < values.size(); ++i) {
    if (std::abs(values[i]) - k * standards[i] > *limit) return true;
  }
  return false;
}

// Standard uncertainties of the code at the low end of the input, and of how far it moves from
// there to the high end: of all that is fixed in a unit.
signal::EndTransitions expected_ends(const chain::Chain& chain, double low, double high) {
  double first = 0.0, last = 0.0;
  auto p = chain.nominal;
  for (const auto& source : chain.sources) {
    if (chain::random(source.kind())) continue;
    const double at_low = chain::code_effect(chain, low, source, source.standard_uncertainty, p);
    const double moves =
        chain::code_effect(chain, high, source, source.standard_uncertainty, p) - at_low;
    first += at_low * at_low;
    last += moves * moves;
  }
  return {.first = std::sqrt(first), .last = std::sqrt(last)};
}

// Codes whose middle place on one ramp lies before that of the code below.
std::optional<std::vector<std::int64_t>> non_monotonic_codes(std::span<const double> head) {
  struct Places {
    double sum = 0.0, squares = 0.0, count = 0.0;
  };
  std::map<std::int64_t, Places> places;
  signal::Moments codes;
  double cross = 0.0, along = 0.0;
  const auto middle = static_cast<double>(head.size() - 1) / 2.0;
  codes.add(head);
  for (std::size_t i = 0; i < head.size(); ++i) {
    auto& sums = places[std::llround(head[i])];
    const double place = static_cast<double>(i) - middle;
    sums.sum += place;
    sums.squares += place * place;
    sums.count += 1.0;
    cross += place * (head[i] - codes.mean());
    along += place * place;
  }
  const double spread = codes.variance() * static_cast<double>(head.size() - 1);
  const double correlation = spread > 0.0 ? cross / std::sqrt(spread * along) : 0.0;
  if (std::abs(correlation) < 0.99) return {};  // no single ramp
  const double sign = correlation > 0.0 ? 1.0 : -1.0;
  // A code of one sample or two does not show how far noise spreads it: all codes together do.
  double spread_of_all = 0.0, more_than_one = 0.0;
  for (const auto& [code, of] : places) {
    spread_of_all += of.squares - of.sum * of.sum / of.count;
    more_than_one += of.count - 1.0;
  }
  const double common = more_than_one > 0.0 ? std::max(spread_of_all / more_than_one, 1.0 / 12.0)
                                            : std::numeric_limits<double>::infinity();
  std::vector<std::int64_t> result;
  const Places* before = nullptr;
  for (const auto& [code, of] : places) {
    const auto variance = [common](const Places& p) {
      const double mean = p.sum / p.count;
      return std::max(p.squares / p.count - mean * mean, common) / p.count;
    };
    if (before != nullptr) {
      const double step = sign * (of.sum / of.count - before->sum / before->count);
      if (step < -4.0 * std::sqrt(variance(of) + variance(*before))) result.push_back(code);
    }
    before = &of;
  }
  return result;
}

// Whether the capture's histogram is of the converter's codes.
bool counts_codes(const chain::Chain& chain, Shows shows) {
  return shows == Shows::codes &&
         (chain::reports_codes(chain.report) || chain::reports_shifted(chain.report));
}

bool reaches_both_ends(const chain::Chain& chain, const signal::Capture& capture) {
  const auto& h = capture.histogram();
  return h.at(chain::first_code(chain)) > 0 && h.at(chain::last_code(chain)) > 0;
}

LinearityAssessment linearity_assessment(const chain::Chain& chain, const Verdict& verdict,
                                         const signal::Capture& capture, double coverage) {
  const auto& feed = verdict.feed;
  const auto stimulus = feed.input;
  const auto first = chain::first_code(chain), last = chain::last_code(chain);
  // A ramp comes by all codes evenly, and so does a sine at phases of their own.
  std::optional<double> noise;
  if (feed.input == Input::ramp || verdict.wave->coherent) {
    noise = verdict.predicted.noise / verdict.predicted.per_code;
  }
  LinearityAssessment result{.linearity =
                                 linearity(capture.histogram(), first, last, stimulus, noise)};
  const auto& law = chain.conversion;
  const double k = math::coverage_factor(coverage, std::numeric_limits<double>::infinity());
  result.dnl_limit = limit_of(chain, law.dnl);
  result.inl_limit = limit_of(chain, law.inl);
  const auto& l = result.linearity;
  // Of so many codes some lie far out by chance alone.
  const auto codes = static_cast<double>(l.dnl.size());
  const double far = std::max(k, math::coverage_factor(1.0 - (1.0 - coverage) / codes,
                                                       std::numeric_limits<double>::infinity()));
  result.dnl_beyond = beyond(l.dnl, l.dnl_standard, result.dnl_limit, far);
  result.inl_beyond = beyond(l.inl_end_point, l.inl_standard, result.inl_limit, far);
  const auto unsure = [k](const std::vector<double>& standards, std::optional<double> limit) {
    return limit && k * *std::ranges::max_element(standards) > *limit;
  };
  result.undecided =
      !result.dnl_beyond && !result.inl_beyond &&
      (unsure(l.dnl_standard, result.dnl_limit) || unsure(l.inl_standard, result.inl_limit));
  if (feed.low && feed.high) {
    const auto ideal = [&](double x) { return chain::code(chain, x, chain.nominal); };
    const auto ends = transition_ends(capture.histogram(), first, last, stimulus, ideal(*feed.low),
                                      ideal(*feed.high));
    const auto from = static_cast<double>(first) + 0.5, to = static_cast<double>(last) - 0.5;
    result.offset = from - ends.first;
    result.gain = (to - ends.last) - *result.offset;
    const auto limits = expected_ends(chain, *feed.low, *feed.high);
    result.offset_expected = k * limits.first;
    result.gain_expected = k * limits.last;
  }
  if (feed.input == Input::ramp) result.non_monotonic_codes = non_monotonic_codes(capture.head());
  result.needed = samples_needed(stimulus, static_cast<std::uint64_t>(codes), feed.wanted, noise);
  return result;
}

// Of a ramp, which tells nothing else, an exception says why not.
bool tells_linearity(const chain::Chain& chain, const Verdict& verdict,
                     const signal::Capture& capture) {
  const bool ramp = verdict.feed.input == Input::ramp;
  if (!ramp && verdict.feed.input != Input::sine) return false;
  const bool counts = counts_codes(chain, verdict.shows);
  const bool reaches = counts && reaches_both_ends(chain, capture);
  if (!ramp) {
    const auto inner = chain::last_code(chain) - chain::first_code(chain) - 1;
    return reaches && capture.count() >= static_cast<std::uint64_t>(inner);
  }
  if (reaches) return true;  // what else it lacks, linearity() says
  throw DataError(
      counts ? "the ramp did not reach both ends of the converter: its code density tells nothing"
             : "the code density of a ramp needs the converter's own codes");
}

void judge_step(const chain::Chain& chain, const signal::Capture& capture, Verdict& verdict) {
  verdict.step = signal::step(capture.head(), verdict.feed.step_at, bands);
  if (!(verdict.rate > 0.0)) return;
  const auto& observed = *verdict.step;
  const auto answer = chain::step_response(chain, verdict.shows == Shows::readings,
                                           verdict.rate * conversions_of(chain, verdict.shows),
                                           capture.head().size(), observed.step_at);
  verdict.step_predicted = signal::step(answer, observed.step_at, bands);
  for (const double part : answer) {
    verdict.step_answer.push_back(std::lerp(observed.before, observed.after, part));
  }
}

}  // namespace

bool Verdict::meets_prediction() const {
  const bool noisy = steady && steady->differs > 0;
  const bool bent = linearity_assessment &&
                    (linearity_assessment->dnl_beyond || linearity_assessment->inl_beyond ||
                     (linearity_assessment->non_monotonic_codes &&
                      !linearity_assessment->non_monotonic_codes->empty()));
  return !noisy && !bent && !(wave && wave->worse);
}

Verdict judge(const chain::Chain& chain, Shows shows, const Feed& feed,
              const signal::Capture& capture, double rate, double coverage) {
  if (capture.count() < 2) throw DataError("a record of less than two samples");
  Verdict result{.channel = chain.channel.name,
                 .shows = shows,
                 .feed = feed,
                 .samples = capture.count(),
                 .rate = rate,
                 .at = quantity_of(chain, shows, capture.moments().mean())};
  result.predicted = predict(chain, shows, result.at, rate, capture.count());
  if (feed.input == Input::steady) result.steady = steady(capture, result.predicted, coverage);
  if (feed.input == Input::sine) result.wave = wave(capture, result.predicted, coverage);
  if (tells_linearity(chain, result, capture)) {
    result.linearity_assessment = linearity_assessment(chain, result, capture, coverage);
  }
  if (feed.input == Input::step) judge_step(chain, capture, result);
  return result;
}

Verdict describe(const std::string& name, Shows shows, const Feed& feed,
                 const signal::Capture& capture, double rate, std::optional<int> bits,
                 double coverage) {
  if (capture.count() < 2) throw DataError("a record of less than two samples");
  Verdict result{.channel = name,
                 .alone = true,
                 .shows = shows,
                 .feed = feed,
                 .samples = capture.count(),
                 .rate = rate,
                 .at = capture.moments().mean(),
                 .predicted = {.step = shows == Shows::codes ? 1.0 : 0.0, .resolution = bits}};
  if (feed.input == Input::ramp)
    throw DataError("a ramp without a board: its code density needs the codes of a converter");
  if (feed.input == Input::steady) {
    result.steady = steady(capture, result.predicted, coverage);
    result.steady->predicted = 0.0, result.steady->differs = 0;
  }
  if (feed.input == Input::sine) {
    result.wave = wave(capture, result.predicted, coverage);
    result.wave->predicted = 0.0, result.wave->worse = false;
  }
  if (feed.input == Input::step) result.step = signal::step(capture.head(), feed.step_at, bands);
  return result;
}

}  // namespace tamlo::record
