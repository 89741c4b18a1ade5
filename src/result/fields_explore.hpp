// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of explore.
namespace tamlo::result {

template <>
struct Fields<ExploredChoice> : FieldsOf<ExploredChoice> {
  static constexpr Field list[] = {
      field("name", TAMLO_GET(t.name), "of the choice"),
      field("value", TAMLO_GET(t.value), "its label, or what is set of the board")};
};

template <>
struct Fields<ExploredAmount> : FieldsOf<ExploredAmount> {
  static constexpr Field list[] = {
      field("name", TAMLO_GET(t.name), "of the number"),
      field("value", TAMLO_GET(t.value), "summed over the choices, in the unit"),
      field("unit", TAMLO_GET(t.unit), "none for a bare number")};
};

template <>
struct Fields<ExploredCandidate> : FieldsOf<ExploredCandidate> {
  static constexpr Field list[] = {
      field("number", TAMLO_GET(t.number), "mixed radix of the choices, the last the fastest"),
      field("feasible", TAMLO_GET(t.feasible), "sound, all targets met, all limits kept"),
      field("error", TAMLO_GET(t.error), "largest part of what a target allows that is used up"),
      field("latency", TAMLO_GET(t.latency), in("s"), "the largest of the channels"),
      field("amounts", TAMLO_GET(t.amounts), "numbers of the user's own"),
      field("choices", TAMLO_GET(t.choices), "in the order of the file")};
};

template <>
struct Fields<ExploredBest> : FieldsOf<ExploredBest> {
  static constexpr Field list[] = {
      field("least", TAMLO_GET(t.least), "error, latency, or a number of the user's own"),
      field("candidate", TAMLO_GET(t.candidate), "of those, the first by the goals")};
};

template <>
struct Fields<ExploredCost> : FieldsOf<ExploredCost> {
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.channel), "whose target it is"),
      field("target", TAMLO_GET(t.target), "of the channel"),
      field("now", TAMLO_GET(t.now),
            "reached at the least cost: the part of what is allowed, seconds, or bits"),
      field("cost", TAMLO_GET(t.cost), "the least with which everything is met"),
      field("number", TAMLO_GET(t.number), "of that candidate"),
      field("next", TAMLO_GET(t.next), "the next tighter that can be reached"),
      field("next_cost", TAMLO_GET(t.next_cost), "of it"),
      field("next_number", TAMLO_GET(t.next_number), "of that candidate")};
};

template <>
struct Fields<Explored> : FieldsOf<Explored> {
  static constexpr Field list[] = {
      field("channels", TAMLO_GET(t.channels), "that were asked about"),
      field("goals", TAMLO_GET(t.goals), "what is to be least"),
      field("candidates", TAMLO_GET(t.candidates), "all combinations"),
      field("tried", TAMLO_GET(t.tried), "of them: all, unless it was ended before"),
      field("feasible", TAMLO_GET(t.feasible), "of those that were tried"),
      field("evaluated", TAMLO_GET(t.evaluated), "channels that were built for them"),
      field("without_accuracy", TAMLO_GET(t.without_accuracy),
            "channels without a target of accuracy: no error of theirs is known"),
      field("front", TAMLO_GET(t.front), "no other is as good in all goals, and better in one"),
      field("best", TAMLO_GET(t.best), "the least of each figure"),
      field("cost_of", TAMLO_GET(t.cost_of), "the number that costs are in, with its unit"),
      field("costs", TAMLO_GET(t.costs), "what the next tighter target costs"),
      field("nearest", TAMLO_GET(t.nearest),
            "where nothing is feasible: the least error at each price"),
      field("never_matter", TAMLO_GET(t.never_matter), "choices that change no goal of the front"),
      field("relax_first", TAMLO_GET(t.relax_first), "where nothing is feasible")};
};

template <>
struct Fields<LoosenedKey> : FieldsOf<LoosenedKey> {
  static constexpr Field list[] = {
      field("key", TAMLO_GET(t.key), "of the board"),
      field("as_it_is", TAMLO_GET(t.as_it_is), "its value"),
      field("loosest", TAMLO_GET(t.loosest),
            "with its limits times the factor, rounded down to three digits")};
};

template <>
struct Fields<Loosened> : FieldsOf<Loosened> {
  static constexpr Field list[] = {
      field("channels", TAMLO_GET(t.channels), "that were asked about"),
      field("keys", TAMLO_GET(t.keys), ""),
      field("meets", TAMLO_GET(t.meets), "all targets are met at some factor"),
      field("unlimited", TAMLO_GET(t.unlimited), "they do not depend on these limits"),
      field("factor", TAMLO_GET(t.factor), "of all limits, the largest that meets the targets"),
      field("error", TAMLO_GET(t.error),
            "largest part of what a target allows that is used up there")};
};

}  // namespace tamlo::result
