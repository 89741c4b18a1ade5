// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of explore.
namespace tamlo::result {

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
  static constexpr Field list[] = {
      field("channels", TAMLO_AT(channels), "that were asked about"),
      field("keys", TAMLO_AT(keys), ""),
      field("meets", TAMLO_AT(meets), "all targets are met at some factor"),
      field("unlimited", TAMLO_AT(unlimited), "they do not depend on these limits"),
      field("factor", TAMLO_AT(factor), "of all limits, the largest that meets the targets"),
      field("error", TAMLO_AT(error),
            "largest part of what a target allows that is used up there")};
};

}  // namespace tamlo::result
