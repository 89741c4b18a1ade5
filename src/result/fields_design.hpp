// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "fields_budget.hpp"
#include "fields_channel.hpp"
#include "fields_meter.hpp"
#include "tamlo/result/results.hpp"

// The fields of convert.
namespace tamlo::result {

template <>
struct Fields<chain::Step> : FieldsOf<chain::Step> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("stage", TAMLO_AT(stage), ""),
      field("value", TAMLO_AT(value), quantity_value, "in the unit beside it"),
      field("unit", TAMLO_AT(unit), "")};
};

template <>
struct Fields<chain::Trace> : FieldsOf<chain::Trace> {
  static constexpr Field list[] = {
      field("at", TAMLO_AT(at), quantity_value, "the quantity"),
      field("code", TAMLO_AT(code), ""),
      field("clipped", TAMLO_AT(clipped), "beyond the codes"),
      field("reading", TAMLO_AT(reading), quantity_value, ""),
      field("error", TAMLO_AT(error), difference, "reading less quantity"),
      field("steps", TAMLO_AT(steps), "the value at every step of the chain")};
};

template <>
struct Fields<chain::InverseTrace> : FieldsOf<chain::InverseTrace> {
  static constexpr Field list[] = {
      field("reported", TAMLO_AT(reported), "the register value"),
      field("reading", TAMLO_AT(reading), quantity_value, ""),
      field("from", TAMLO_GET(t.open_below ? std::nullopt : std::optional(t.from)), quantity_value,
            "the lowest quantity that reads so; none: anything below"),
      field("to", TAMLO_GET(t.open_above ? std::nullopt : std::optional(t.to)), quantity_value,
            "the highest; none: anything above"),
      field("steps", TAMLO_AT(steps), "the value at every step of the firmware")};
};

template <>
struct Fields<ChannelTraces> : FieldsOf<ChannelTraces> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(channel), ""), field("unit", TAMLO_AT(unit), "of the quantity"),
      field("forward", TAMLO_AT(forward), "from the quantity to the reading"),
      field("back", TAMLO_AT(back), "from a register value to the quantity")};
};

template <>
struct Fields<Traces> : FieldsOf<Traces> {
  static constexpr const char* command = "convert";
  static constexpr Field list[] = {field("channels", TAMLO_AT(channels), "")};
};

// The fields of explore.

template <>
struct Fields<explore::ExploredChoice> : FieldsOf<explore::ExploredChoice> {
  static constexpr Field list[] = {
      field("name", TAMLO_AT(name), "of the choice"),
      field("value", TAMLO_AT(value), "its label, or what is set of the board")};
};

template <>
struct Fields<explore::ExploredAmount> : FieldsOf<explore::ExploredAmount> {
  static constexpr Field list[] = {
      field("name", TAMLO_AT(name), "of the number"),
      field("value", TAMLO_AT(value), "summed over the choices, in the unit"),
      field("unit", TAMLO_AT(unit), "none for a bare number")};
};

template <>
struct Fields<explore::ExploredCandidate> : FieldsOf<explore::ExploredCandidate> {
  static constexpr Field list[] = {
      field("number", TAMLO_AT(number), "mixed radix of the choices, the last the fastest"),
      field("feasible", TAMLO_AT(feasible), "sound, all targets met, all limits kept"),
      field("error", TAMLO_AT(error), "largest part of what a target allows that is used up"),
      field("latency", TAMLO_AT(latency), in("s"), "the largest of the channels"),
      field("amounts", TAMLO_AT(amounts), "numbers of the user's own"),
      field("choices", TAMLO_AT(choices), "in the order of the file"),
      field("like", TAMLO_AT(like),
            "of the front: the number of one that is at most one percent worse in every goal")};
};

template <>
struct Fields<explore::ExploredBest> : FieldsOf<explore::ExploredBest> {
  static constexpr Field list[] = {
      field("least", TAMLO_AT(least), "error, latency, or a number of the user's own"),
      field("candidate", TAMLO_AT(candidate), "of those, the first by the goals")};
};

template <>
struct Fields<explore::ExploredCost> : FieldsOf<explore::ExploredCost> {
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(channel), "whose target it is"),
      field("target", TAMLO_AT(target), "of the channel"),
      field("now", TAMLO_AT(now),
            "reached at the least cost: the part of what is allowed, seconds, or bits"),
      field("cost", TAMLO_AT(cost), "the least with which everything is met"),
      field("number", TAMLO_AT(number), "of that candidate"),
      field("next", TAMLO_AT(next), "the next tighter that can be reached"),
      field("next_cost", TAMLO_AT(next_cost), "of it"),
      field("next_number", TAMLO_AT(next_number), "of that candidate")};
};

template <>
struct Fields<explore::ExploredMiss> : FieldsOf<explore::ExploredMiss> {
  static constexpr Field list[] = {
      field("what", TAMLO_AT(what), "an amount, or a target of a channel"),
      field("channel", TAMLO_AT(channel), "of a target"),
      field("reached", TAMLO_AT(reached),
            "in the unit; of an accuracy the part of what is allowed"),
      field("allowed", TAMLO_AT(allowed), ""),
      field("unit", TAMLO_AT(unit), ""),
      field("number", TAMLO_AT(number), "of the candidate that misses it")};
};

template <>
struct Fields<explore::Explored> : FieldsOf<explore::Explored> {
  static constexpr const char* command = "explore";
  static constexpr Field list[] = {
      field("channels", TAMLO_AT(channels), "that were asked about"),
      field("goals", TAMLO_AT(goals), "what is to be least"),
      field("candidates", TAMLO_AT(candidates), "all combinations"),
      field("tried", TAMLO_AT(tried), "of them: all, unless it was ended before"),
      field("feasible", TAMLO_AT(feasible), "of those that were tried"),
      field("evaluated", TAMLO_AT(evaluated), "channels that were built for them"),
      field("without_accuracy", TAMLO_AT(without_accuracy),
            "channels without a target of accuracy: no error of theirs is known"),
      field("front", TAMLO_AT(front), "no other is as good in all goals, and better in one"),
      field("best", TAMLO_AT(best), "the least of each figure"),
      field("cost_of", TAMLO_AT(cost_of), "the number that costs are in, with its unit"),
      field("costs", TAMLO_AT(costs), "what the next tighter target costs"),
      field("nearest", TAMLO_AT(nearest),
            "where nothing is feasible: the least error at each price"),
      field("never_matter", TAMLO_AT(never_matter), "choices that change no goal of the front"),
      field("relax_first", TAMLO_AT(relax_first),
            "where nothing is feasible: what has to give way")};
};

template <>
struct Fields<LoosenedKey> : FieldsOf<LoosenedKey> {
  static constexpr Field list[] = {
      field("key", TAMLO_AT(key), "of the board"),
      field("as_it_is", TAMLO_AT(as_it_is), "its value"),
      field("loosest", TAMLO_AT(loosest),
            "with its limits times the factor, rounded down to three digits")};
};

template <>
struct Fields<Loosened> : FieldsOf<Loosened> {
  static constexpr const char* command = "explore";
  static constexpr Field list[] = {
      field("channels", TAMLO_AT(channels), "that were asked about"),
      field("keys", TAMLO_AT(keys), ""),
      field("meets", TAMLO_AT(meets), "all targets are met at some factor"),
      field("unlimited", TAMLO_AT(unlimited), "they do not depend on these limits"),
      field("factor", TAMLO_AT(factor), "of all limits, the largest that meets the targets"),
      field("error", TAMLO_AT(error),
            "largest part of what a target allows that is used up there")};
};

// The fields of prove.

template <>
struct Fields<simulate::PlaceCoverage> : FieldsOf<simulate::PlaceCoverage> {
  static constexpr Field list[] = {
      field("at", TAMLO_AT(at), quantity_value, "the quantity"),
      field("bias", TAMLO_AT(bias), difference, "of the budget"),
      field("expanded", TAMLO_AT(expanded), difference, "uncertainty of the budget"),
      field("within", TAMLO_AT(within), "readings within bias and expanded uncertainty"),
      field("below", TAMLO_AT(below), "readings below them"),
      field("above", TAMLO_AT(above), "readings above them"),
      field("part", TAMLO_AT(part), "within, of all"),
      field("part_low", TAMLO_AT(interval.low),
            "of the interval that holds the probability 99 % of the time"),
      field("part_high", TAMLO_AT(interval.high), "of it")};
};

template <>
struct Fields<CoveredChannel> : FieldsOf<CoveredChannel> {
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(channel), "its name"),
      field("unit", TAMLO_AT(unit.symbol), "of the quantity"),
      field("coverage", TAMLO_AT(proof.claimed), "that the budget claims"),
      field("units", TAMLO_AT(proof.units), "virtual ones that were read"),
      field("holds", TAMLO_AT(holds),
            "no place holds fewer readings than claimed, as far as can be told"),
      field("places", TAMLO_AT(proof.places), "that were read")};
};

template <>
struct Fields<Covered> : FieldsOf<Covered> {
  static constexpr const char* command = "prove";
  static constexpr Field list[] = {field("seed", TAMLO_AT(seed), "of all that was drawn"),
                                   field("first", TAMLO_AT(first), "unit"),
                                   field("channels", TAMLO_AT(channels), "that were asked about")};
};

// The fields of an evaluation of tune.

template <>
struct Fields<budget::SpanPoint> : FieldsOf<budget::SpanPoint> {
  static constexpr Field list[] = {
      field("at", TAMLO_AT(at), quantity_value, "place of the quantity"),
      field("error", TAMLO_AT(error), difference, "|bias| + U, or what the target is held against"),
      field("worst_case", TAMLO_AT(worst_case), difference, "all limits at their ends"),
      field("zeroed", TAMLO_AT(zeroed), difference, "after an ideal zero adjustment"),
      field("two_point", TAMLO_AT(two_point), difference, "after an ideal two-point adjustment"),
      field("limit", TAMLO_AT(limit), difference, "what the target allows")};
};

template <>
struct Fields<chain::Passed> : FieldsOf<chain::Passed> {
  static constexpr Field list[] = {
      field("frequency", TAMLO_AT(frequency), in("Hz"), "or parts of the rate"),
      field("digital", TAMLO_AT(digital), "part that average and filter let through"),
      field("whole", TAMLO_AT(whole), "with what is before them")};
};

template <>
struct Fields<chain::Response> : FieldsOf<chain::Response> {
  static constexpr Field list[] = {
      field("rate_known", TAMLO_AT(rate_known), "else frequencies are parts of it"),
      field("passed", TAMLO_AT(passed), "from 0 to half the rate"),
      field("period", TAMLO_AT(period), in("s"), "between readings; or conversions"),
      field("answers", TAMLO_AT(answers), "of each reading after a step, in parts of it")};
};

template <>
struct Fields<Tuned> : FieldsOf<Tuned> {
  static constexpr const char* command = "tune";
  static Units units(const T& t) { return {.quantity = t.unit}; }
  static constexpr Field list[] = {
      field("check", TAMLO_AT(check), "as of check"),
      field("budget", TAMLO_AT(budget), "as of budget, of all channels"),
      field("channel", TAMLO_AT(channel), "that is in view, in what follows"),
      field("unit", TAMLO_AT(unit), "of the channel"),
      field("settings", TAMLO_AT(settings), "as of channel"),
      field("span", TAMLO_AT(span), "its error over the span"),
      field("response", TAMLO_AT(response), "of average and filter"),
      field("comparisons", TAMLO_AT(comparisons), "as of compare, of all channels with readings")};
};

}  // namespace tamlo::result
