// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/math/detail/blocks.hpp"
#include "tamlo/quantity/value.hpp"

namespace tamlo::model {
struct Board;
}  // namespace tamlo::model

/// Search for settings and parts that meet the targets, with their cost (docs/method.md,
/// "Exploring").
namespace tamlo {
namespace explore TAMLO_API {

/// Correction of fixed errors, by the firmware or at the bench.
enum class Adjustment : std::uint8_t { none, zero, two_point, calibrated };
std::string_view name(Adjustment adjustment);

/// One value that a choice may take.
struct Option {
  std::string label{};                       ///< as it is shown
  std::vector<double> amounts{};             ///< of each of Space::amounts
  Adjustment adjustment = Adjustment::none;  ///< of a choice of it
};

/// Keys that change together, and what they may be.
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

/// Search space: choices, channels, amounts, and goals, which are to be small: "error", "latency",
/// or an amount's name.
struct Space {
  std::vector<Choice> choices{};
  std::vector<Amount> amounts{};
  std::vector<std::string> goals{};
  std::vector<std::string> channels{};  ///< and quantities, that are asked about
};

/// The option of each choice; nothing where the board's own value stands.
using Pick = std::vector<std::optional<std::size_t>>;
/// The board with those options. Throws tamlo::Error for one that is not sound.
using BoardOf = std::function<model::Board(const Pick&)>;

/// Returns the places at which an adjusted channel is evaluated. The ends of the codes are left
/// out: there readings are tried one by one.
std::vector<double> adjusted_places(const quantity::Range& span);

/// One choice of everything, with its figures.
struct Candidate {
  std::uint64_t number = 0;  ///< mixed radix of the choices in their order, the last the fastest
  std::vector<std::size_t> pick{};  ///< an option of each choice
  bool feasible = false;            ///< sound, all targets met, all limits kept
  /// The largest of the channels. Of one it is (|bias| + U) / allowed, 0 without an accuracy: as
  /// built at the worst place of the span, as budget finds it; after an adjustment at the worst of
  /// adjusted_places().
  double error = 0.0;
  double latency = 0.0;  ///< s, the largest of the channels
  /// SI, of each of Space::amounts. They are added as whole numbers of a decimal place, so that 0.1
  /// and 0.2 make 0.3; to 14 digits of the largest sum.
  std::vector<double> amounts{};
};

/// The least of one figure, and of those the first by the goals.
struct Best {
  std::string of{};  ///< "error", "latency", or an amount's name
  Candidate candidate{};
};

enum class Target : std::uint8_t { accuracy, latency, noise_free };
std::string_view name(Target target);

/// Cost of the next tighter target of a channel, among all candidates that meet everything.
struct TargetCost {
  std::string channel{};
  Target target = Target::accuracy;
  /// At the least sum of the first goal that is an amount: the tightest that is reached, as the
  /// part of what is allowed, in s, or in bits.
  double now = 0.0;
  Candidate at{};
  /// The next tighter that is to be had, and the first candidate that has it.
  std::optional<double> next{};
  std::optional<Candidate> next_at{};
};

/// A target that a candidate misses: the part of what is allowed, s, or bits.
struct TargetMiss {
  std::string channel{};
  Target target = Target::accuracy;
  double reached = 0.0, allowed = 0.0;
};

/// Result of a search.
struct Exploration {
  std::uint64_t candidates = 0, feasible = 0;
  std::uint64_t tried = 0;      ///< all, unless it was ended before
  std::uint64_t evaluated = 0;  ///< channels that are to be built and evaluated for all of them
  /// Feasible, and no other is as good in all goals and better in one; of equal ones the lowest
  /// number. By the first goal, then the next.
  std::vector<Candidate> front{};
  std::vector<Best> best{};
  /// Number of the amount that they cost: the first goal that is one; none without such a goal.
  std::optional<std::size_t> cost_amount{};
  std::vector<TargetCost> costs{};
  /// Candidates where nothing is feasible: the sound candidates of the least error, and the
  /// cheapest of them.
  std::vector<Candidate> nearest{};
  std::vector<TargetMiss> misses{};  ///< of the first of them, by the targets of the board as it is
  /// Candidate where nothing is feasible, and some meet all targets but not all limits on amounts:
  /// the one that exceeds a limit by the smallest part, and that amount.
  std::optional<Candidate> beyond_limits{};
  std::size_t exceeds = 0;
  /// Sound ones, evenly by their numbers, 4096 at most.
  std::vector<Candidate> behind{};
  /// Channels without a target of accuracy, on the board as it is: no error of theirs is known.
  std::vector<std::string> without_accuracy{};
  /// Flag of each choice: whether another option of it would change a goal or the feasibility of a
  /// candidate of the front.
  std::vector<bool> matters{};
};

/// Returns the Pareto front of all candidates, exactly, by any driver of the work. Each channel is
/// built and evaluated once for each combination of the choices that it depends on, 2^22 at most;
/// choices that do not couple are searched apart and put together (docs/method.md, "Exploring").
/// Errors are parts of what the target allows, delays are in s, amounts as given. `go_on` is asked
/// now and then, with the part that is done; false ends it with the candidates that were tried.
/// Throws ArgumentError for a space without choices, options or goals, with more than 2^53
/// candidates, more than 14 goals and amounts, or more combinations; and what `board` throws for
/// the board itself.
Exploration explore(const Space& space, const BoardOf& board,
                    const math::BlockDriver& driver = math::by_threads(1),
                    const std::function<bool(double)>& go_on = {});

/// The options of a candidate by its number. Throws ArgumentError for a number beyond the last.
std::vector<std::size_t> pick_of(const Space& space, std::uint64_t number);

/// The candidate of that number.
Candidate candidate_of(const Space& space, const BoardOf& board, std::uint64_t number);

/// By how much tolerances may grow together.
struct Loosest {
  bool meets = false;      ///< all targets are met at some factor from 1/1024 to 1024
  bool unlimited = false;  ///< at 1024 too: the targets do not depend on them
  double factor = 0.0;     ///< the largest that meets them, to 0.1 %
  double error = 0.0;      ///< the largest part of what a target allows, there
};

/// Returns the largest factor, 1/1024 to 1024 and to 0.1 %, by which tolerances may grow while
/// every channel meets its targets and check finds no error. By bisection: larger limits make no
/// reading surer. `board` gives the board with the limits times a factor; what it throws passes
/// through.
Loosest loosest(const std::function<model::Board(double)>& board,
                const std::vector<std::string>& channels);

}  // namespace explore
}  // namespace tamlo
