// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/quantity/value.hpp"

namespace tamlo::model {
struct Board;
}  // namespace tamlo::model

/// Which settings and parts meet the targets, and at what cost (docs/method.md, "Exploring").
namespace tamlo {
namespace explore TAMLO_API {

/// What the firmware or the bench does about the errors that are fixed.
enum class Adjustment : std::uint8_t { none, zero, two_point };
std::string_view name(Adjustment adjustment);

/// One value that a choice may take.
struct Option {
  std::string label{};                       ///< as it is shown
  std::vector<double> amounts{};             ///< of each of Space::amounts
  Adjustment adjustment = Adjustment::none;  ///< of a choice of it
};

struct Choice {
  std::string name{};
  std::vector<std::string>
      keys{};  ///< of the board: "channel.pack_voltage.average"; none for adjustment
  std::vector<Option> options{};  ///< one or more
};

/// A number of the user's own, such as a price: a candidate's is the sum over its options.
struct Amount {
  std::string name{};
  quantity::Unit unit{};
  std::optional<double> limit{};  ///< SI, that it may not exceed
};

/// What is to be small: "error", "latency", or an amount's name.
struct Space {
  std::vector<Choice> choices{};
  std::vector<Amount> amounts{};
  std::vector<std::string> goals{};
  std::vector<std::string> channels{};  ///< that are asked about
};

/// The option of each choice; nothing where the board's own value stands.
using Pick = std::vector<std::optional<std::size_t>>;
/// The board with those options. Throws tamlo::Error for one that is not sound.
using BoardOf = std::function<model::Board(const Pick&)>;

/// Where the figures of an adjusted channel are looked at: the ends of the codes, where they are
/// tried reading by reading, are left out.
std::vector<double> adjusted_places(const quantity::Range& span);

/// Of one channel. The error is (|bias| + U) / allowed, 0 without an accuracy: as built at the
/// worst place of the span, as budget finds it; after an adjustment at the worst of
/// adjusted_places().
struct ChannelFigures {
  bool sound = false;  ///< there is such a board, and check finds no error of the channel
  bool meets = false;  ///< all its targets
  double error = 0.0;
  double latency = 0.0;  ///< s
};

struct Candidate {
  std::uint64_t number = 0;  ///< mixed radix of the choices in their order, the last the fastest
  std::vector<std::size_t> pick{};  ///< an option of each choice
  bool feasible = false;            ///< sound, all targets met, all limits kept
  double error = 0.0;               ///< the largest of the channels
  double latency = 0.0;             ///< s, the largest of the channels
  std::vector<double> amounts{};    ///< SI, of each of Space::amounts
};

/// A candidate as a point of a picture: its first two goals; the error where there is one goal.
struct Behind {
  double first = 0.0, second = 0.0;
  bool feasible = false;
};

struct Exploration {
  std::uint64_t candidates = 0, feasible = 0;
  std::uint64_t evaluated = 0;  ///< channels that were built and evaluated for them
  /// Feasible, and no other is as good in all goals and better in one; of equal ones the lowest
  /// number. By the first goal, then the next.
  std::vector<Candidate> front{};
  /// Where nothing is feasible: the sound candidates of the least error, and the cheapest of them.
  std::vector<Candidate> nearest{};
  /// Where nothing is feasible, and some meet all targets but not all limits on amounts: the one
  /// that exceeds a limit by the smallest part, and that amount.
  std::optional<Candidate> beyond_limits{};
  std::size_t exceeds = 0;
  /// Sound ones, evenly by their numbers, 4096 at most.
  std::vector<Behind> behind{};
  /// Channels without a target of accuracy, on the board as it is: no error of theirs is known.
  std::vector<std::string> without_accuracy{};
  /// Of each choice: whether some other option of it would change a goal or feasibility of a
  /// candidate of the front.
  std::vector<bool> matters{};
};

/// Tries everything: the front is that of all candidates, whatever the number of threads. What of
/// the choices a channel depends on is tried once for each combination, and no more than 2^22
/// combinations of a channel. Throws ArgumentError for a space without choices, options or goals,
/// or with more combinations; and what `board` throws for the board itself. `go_on` is asked now
/// and then, with the part that is done; false ends it with std::nullopt.
std::optional<Exploration> explore(const Space& space, const BoardOf& board, unsigned threads = 1,
                                   const std::function<bool(double)>& go_on = {});

/// The options of a candidate by its number. Throws ArgumentError for a number beyond the last.
std::vector<std::size_t> pick_of(const Space& space, std::uint64_t number);

/// The candidate of that number.
Candidate candidate_of(const Space& space, const BoardOf& board, std::uint64_t number);

}  // namespace explore
}  // namespace tamlo
