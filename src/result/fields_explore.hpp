// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of explore.
namespace tamlo::result {

template <>
struct Fields<ExploredChoice> {
  using T = ExploredChoice;
  static constexpr auto list =
      std::make_tuple(field("name", &T::name, "of the choice"),
                      field("value", &T::value, "its label, or what is set of the board"));
};

template <>
struct Fields<ExploredAmount> {
  using T = ExploredAmount;
  static constexpr auto list =
      std::make_tuple(field("name", &T::name, "of the number"),
                      field("value", &T::value, "summed over the choices, in the unit"),
                      field("unit", &T::unit, "none for a bare number"));
};

template <>
struct Fields<ExploredCandidate> {
  using T = ExploredCandidate;
  static constexpr auto list = std::make_tuple(
      field("number", &T::number, "mixed radix of the choices, the last the fastest"),
      field("feasible", &T::feasible, "sound, all targets met, all limits kept"),
      field("error", &T::error, "largest part of what a target allows that is used up"),
      field("latency", &T::latency, in("s"), "the largest of the channels"),
      field("amounts", &T::amounts, "numbers of the user's own"),
      field("choices", &T::choices, "in the order of the file"));
};

template <>
struct Fields<ExploredBest> {
  using T = ExploredBest;
  static constexpr auto list =
      std::make_tuple(field("least", &T::least, "error, latency, or a number of the user's own"),
                      field("candidate", &T::candidate, "of those, the first by the goals"));
};

template <>
struct Fields<ExploredCost> {
  using T = ExploredCost;
  static constexpr auto list = std::make_tuple(
      field("channel", &T::channel, "whose target it is"),
      field("target", &T::target, "of the channel"),
      field("now", &T::now,
            "reached at the least cost: the part of what is allowed, seconds, or bits"),
      field("cost", &T::cost, "the least with which everything is met"),
      field("number", &T::number, "of that candidate"),
      field("next", &T::next, "the next tighter that can be reached"),
      field("next_cost", &T::next_cost, "of it"),
      field("next_number", &T::next_number, "of that candidate"));
};

template <>
struct Fields<Explored> {
  using T = Explored;
  static constexpr auto list = std::make_tuple(
      field("channels", &T::channels, "that were asked about"),
      field("goals", &T::goals, "what is to be least"),
      field("candidates", &T::candidates, "all combinations"),
      field("tried", &T::tried, "of them: all, unless it was ended before"),
      field("feasible", &T::feasible, "of those that were tried"),
      field("evaluated", &T::evaluated, "channels that were built for them"),
      field("without_accuracy", &T::without_accuracy,
            "channels without a target of accuracy: no error of theirs is known"),
      field("front", &T::front, "no other is as good in all goals, and better in one"),
      field("best", &T::best, "the least of each figure"),
      field("cost_of", &T::cost_of, "the number that costs are in, with its unit"),
      field("costs", &T::costs, "what the next tighter target costs"),
      field("nearest", &T::nearest, "where nothing is feasible: the least error at each price"),
      field("never_matter", &T::never_matter, "choices that change no goal of the front"),
      field("relax_first", &T::relax_first, "where nothing is feasible"));
};

template <>
struct Fields<LoosenedKey> {
  using T = LoosenedKey;
  static constexpr auto list = std::make_tuple(
      field("key", &T::key, "of the board"), field("as_it_is", &T::as_it_is, "its value"),
      field("loosest", &T::loosest,
            "with its limits times the factor, rounded down to three digits"));
};

template <>
struct Fields<Loosened> {
  using T = Loosened;
  static constexpr auto list = std::make_tuple(
      field("channels", &T::channels, "that were asked about"), field("keys", &T::keys, ""),
      field("meets", &T::meets, "all targets are met at some factor"),
      field("unlimited", &T::unlimited, "they do not depend on these limits"),
      field("factor", &T::factor, "of all limits, the largest that meets the targets"),
      field("error", &T::error, "largest part of what a target allows that is used up there"));
};

}  // namespace tamlo::result
