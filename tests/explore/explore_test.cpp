// SPDX-License-Identifier: Apache-2.0
// The front of a search beside that of trying everything by public calls, on boards and choices
// that are drawn at random; what a candidate is; spaces that are none.
#include "tamlo/explore/explore.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <functional>
#include <random>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/budget/quantity_budget.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/error.hpp"
#include "tamlo/quantity/detail/number.hpp"

namespace tamlo::testing {
namespace {

using explore::Adjustment;
using Apply = std::function<void(model::Board&)>;

// Two channels that share a converter, each with what the other leaves in its capacitor.
model::Board two_channels() {
  auto result = pack_voltage();
  auto& adc = result.converters.front();
  adc.sampling_capacitor = 8e-12;
  adc.switch_resistance = 1e3;
  adc.clock = model::Clock{.source = 80e6, .divider = 8};
  adc.conversion = 13.0;
  auto& x = result.channels.front();
  x.sampling = 24.0;
  x.rate = 20e3;
  auto y = x;
  y.name = "y";
  y.span = range("0..16 V");
  std::get<model::Divider>(y.frontend.front()).top = value("56 kohm ±0.5 %", "ohm");
  y.target.latency = 5e-3;
  result.channels.push_back(y);
  return result;
}

struct MenuEntry {
  std::string key;
  std::vector<Apply> options;
};

template <class Set, class... Values>
MenuEntry entry(std::string key, Set set, Values... values) {
  return {std::move(key), {[set, values](model::Board& board) { set(board, values); }...}};
}

std::vector<MenuEntry> menu() {
  using model::Board;
  const auto divider = [](Board& b, std::size_t c) -> model::Divider& {
    return std::get<model::Divider>(b.channels[c].frontend.front());
  };
  return {
      entry(
          "converter.adc.resolution", [](Board& b, int bits) { b.converters[0].resolution = bits; },
          10, 12, 14),
      entry(
          "reference.ref.voltage",
          [](Board& b, const char* text) { b.references[0].voltage = value(text, "V"); },
          "2.5 V ±0.4 %", "2.5 V ±0.05 %", "2.6 V ±0.02 %"),
      entry(
          "channel.x.frontend.0.divider.top",
          [divider](Board& b, const char* text) { divider(b, 0).top = value(text, "ohm"); },
          "240 kohm ±1 %", "240 kohm ±0.1 %", "270 kohm ±0.1 %"),
      entry(
          "channel.y.frontend.0.divider.top",
          [divider](Board& b, const char* text) { divider(b, 1).top = value(text, "ohm"); },
          "56 kohm ±1 %", "56 kohm ±0.1 %", "62 kohm ±0.1 %"),
      entry(
          "channel.x.average", [](Board& b, int n) { b.channels[0].average.count = n; }, 1, 4, 64),
      entry(
          "channel.y.average", [](Board& b, int n) { b.channels[1].average.count = n; }, 1, 16,
          256),
      entry(
          "channel.x.sampling", [](Board& b, double n) { b.channels[0].sampling = n; }, 2.0, 24.0,
          400.0),
      entry(
          "channel.y.rate", [](Board& b, double rate) { b.channels[1].rate = rate; }, 5e3, 20e3,
          400e3),
      entry(
          "channel.y.target.accuracy",
          [](Board& b, const char* text) {
            b.channels[1].target.accuracy = value(text, "V").limits.front();
          },
          "±0.3 %", "±0.5 % of span"),
      // Only its price is anything to a channel.
      entry(
          "board.title", [](Board& b, const char* text) { b.title = text; }, "a", "b", "c"),
  };
}

// The same by public calls, one candidate at a time.
struct Brute {
  bool sound = true, feasible = true;
  double error = 0.0, latency = 0.0;
  int price = 0, power = 0;  // tenths
};

Brute tried(const model::Board& board, Adjustment adjustment) {
  Brute result;
  for (const auto& channel : board.channels) {
    try {
      const auto chain = chain::build(board, channel.name);
      const bool wrong = check::has_error(board, chain);
      // As built, the worst place of an ordinary budget; adjusted, the worst of some places.
      const auto budget = budget::evaluate(
          chain, {.at = adjustment == Adjustment::none ? std::vector{channel.span.middle()}
                                                       : explore::adjusted_places(channel.span),
                  .calibrated = adjustment == Adjustment::calibrated});
      const double latency = chain::dynamics(chain).latency;
      auto points = budget.points;
      if (adjustment == Adjustment::none) points = {budget.worst_place};
      double error = 0.0;
      bool met = !wrong;
      for (const auto& p : points) {
        const double bias = adjustment == Adjustment::none         ? p.bias
                            : adjustment == Adjustment::calibrated ? p.calibrated->bias
                            : adjustment == Adjustment::zero       ? p.adjusted_bias.zero
                                                                   : p.adjusted_bias.two_point;
        const double expanded = adjustment == Adjustment::none         ? p.expanded
                                : adjustment == Adjustment::calibrated ? p.calibrated->expanded
                                : adjustment == Adjustment::zero       ? p.adjusted.zero
                                                                       : p.adjusted.two_point;
        error = std::max(error, (std::abs(bias) + expanded) / p.limit.value());
        met = met && !p.overflows();
      }
      if (channel.target.latency && latency > *channel.target.latency) met = false;
      result.sound = result.sound && !wrong;
      result.feasible = result.feasible && met && error <= 1.0;
      if (!wrong) {
        result.error = std::max(result.error, error);
        result.latency = std::max(result.latency, latency);
      }
    } catch (const Error&) {
      result.sound = result.feasible = false;
    }
  }
  return result;
}

// A space of five of the menu's choices, with prices, and perhaps an adjustment.
struct Drawn {
  explore::Space space;
  std::vector<std::vector<Apply>> apply{};
};

// These boards are drawn, with so many choices: TAMLO_FIRST_BOARD, TAMLO_BOARDS (the last) and
// TAMLO_CHOICES in the environment ask for others.
std::uint32_t asked_for(const char* name, std::uint32_t ordinarily) {
  const char* const asked = std::getenv(name);
  return asked != nullptr ? static_cast<std::uint32_t>(std::atoi(asked)) : ordinarily;
}

Drawn drawn(std::uint32_t seed) {
  std::mt19937 random(seed);
  auto all = menu();
  std::ranges::shuffle(all, random);
  all.resize(asked_for("TAMLO_CHOICES", 4));
  Drawn result{.space = {.amounts = {{.name = "price"}, {.name = "power"}},
                         .goals = {"price", "error"},
                         .channels = {"x", "y"}}};
  if (seed % 3 == 0) result.space.goals.emplace_back("latency");
  if (seed % 4 == 0) result.space.amounts.front().limit = 1.2;
  if (seed % 5 == 1) result.space.amounts.back().limit = 0.5;
  if (seed % 7 == 3) result.space.goals = {"power", "latency", "price"};
  // Tenths: sums that binary numbers miss.
  const auto amounts = [&] {
    return std::vector{static_cast<double>(random() % 8) / 10.0,
                       static_cast<double>(random() % 3) / 10.0};
  };
  for (const auto& of : all) {
    explore::Choice choice{.name = of.key, .keys = {of.key}};
    for (std::size_t i = 0; i < of.options.size(); ++i) {
      choice.options.push_back({.label = std::to_string(i), .amounts = amounts()});
    }
    result.space.choices.push_back(choice);
    result.apply.push_back(of.options);
  }
  if (seed % 2 == 0) {
    explore::Choice choice{.name = "adjustment"};
    for (const auto of :
         {Adjustment::none, Adjustment::zero, Adjustment::two_point, Adjustment::calibrated}) {
      choice.options.push_back({.label = "", .amounts = amounts(), .adjustment = of});
    }
    result.space.choices.push_back(choice);
    result.apply.emplace_back(4);
  }
  return result;
}

TEST(Explore, TheFrontIsThatOfTryingEverything) {
  std::uint64_t feasible = 0;
  for (auto seed = asked_for("TAMLO_FIRST_BOARD", 1); seed <= asked_for("TAMLO_BOARDS", 2);
       ++seed) {
    const auto draws = drawn(seed);
    const auto& space = draws.space;
    const auto board_of = [&](const explore::Pick& pick) {
      auto board = two_channels();
      for (std::size_t i = 0; i < pick.size(); ++i) {
        const auto& apply = draws.apply[i];
        if (pick[i] && apply[*pick[i]]) apply[*pick[i]](board);
      }
      return board;
    };
    const auto found = explore::explore(space, board_of, math::by_threads(seed % 2 + 1));

    // Everything, in the same order.
    std::vector<Brute> all;
    std::vector<std::size_t> pick(space.choices.size(), 0);
    for (bool more = true; more;) {
      auto adjustment = Adjustment::none;
      explore::Pick of(pick.begin(), pick.end());
      Brute brute;
      int price = 0, power = 0;
      for (std::size_t i = 0; i < pick.size(); ++i) {
        const auto& amounts = space.choices[i].options[pick[i]].amounts;
        price += static_cast<int>(std::lround(10.0 * amounts[0]));
        power += static_cast<int>(std::lround(10.0 * amounts[1]));
        if (space.choices[i].keys.empty())
          adjustment = space.choices[i].options[pick[i]].adjustment;
      }
      brute = tried(board_of(of), adjustment);
      brute.price = price, brute.power = power;
      if (space.amounts[0].limit && price > 12) brute.feasible = false;
      if (space.amounts[1].limit && power > 5) brute.feasible = false;
      all.push_back(brute);
      more = false;
      for (std::size_t i = pick.size(); i-- > 0 && !more;) {
        more = ++pick[i] < space.choices[i].options.size();
        if (!more) pick[i] = 0;
      }
    }
    ASSERT_EQ(found.candidates, all.size());
    EXPECT_LE(found.evaluated, 2 * all.size()) << seed;
    EXPECT_EQ(found.feasible, static_cast<std::uint64_t>(std::ranges::count_if(
                                  all, [](const Brute& of) { return of.feasible; })))
        << seed;
    const auto has = [&](const Brute& of, const std::string& goal) {
      return goal == "error"     ? of.error
             : goal == "latency" ? of.latency
             : goal == "price"   ? of.price
                                 : of.power;
    };
    const auto no_worse = [&](const Brute& a, const Brute& b) {
      return std::ranges::all_of(space.goals,
                                 [&](const auto& goal) { return has(a, goal) <= has(b, goal); });
    };
    std::vector<std::uint64_t> front;
    for (std::size_t i = 0; i < all.size(); ++i) {
      bool kept = all[i].feasible;
      for (std::size_t k = 0; k < all.size() && kept; ++k) {
        if (k == i || !all[k].feasible || !no_worse(all[k], all[i])) continue;
        kept = no_worse(all[i], all[k]) && i < k;  // equal: the lowest number
      }
      if (kept) front.push_back(i);
    }
    std::vector<std::uint64_t> numbers;
    for (const auto& of : found.front) {
      numbers.push_back(of.number);
      // The same figures, to the last bit; and the same again when it is asked for by its number.
      EXPECT_EQ(of.error, all[of.number].error);
      if (space.choices.back().keys.size() == 1) {
        const auto board = board_of({of.pick.begin(), of.pick.end()});
        double error = 0.0;
        for (const auto& channel : board.channels) {
          const auto worst = budget::evaluate(chain::build(board, channel.name)).worst_place;
          error = std::max(error, (std::abs(worst.bias) + worst.expanded) / worst.limit.value());
        }
        EXPECT_EQ(of.error, error) << of.number;
      }
      EXPECT_EQ(of.latency, all[of.number].latency);
      EXPECT_EQ(of.amounts[0], all[of.number].price / 10.0);
      EXPECT_EQ(of.amounts[1], all[of.number].power / 10.0);
      const auto again = explore::candidate_of(space, board_of, of.number);
      EXPECT_EQ(again.error, of.error);
      EXPECT_EQ(again.pick, of.pick);
      EXPECT_TRUE(again.feasible);
    }
    std::ranges::sort(numbers);
    EXPECT_EQ(numbers, front) << seed;
    // The least of each figure.
    for (const auto& best : found.best) {
      double least = std::numeric_limits<double>::infinity();
      for (const auto& of : all) {
        if (of.feasible) least = std::min(least, has(of, best.of));
      }
      EXPECT_EQ(has(all[best.candidate.number], best.of), least) << seed << best.of;
    }
    EXPECT_EQ(found.best.size(), found.feasible > 0 ? 4u : 0u);
    feasible += found.feasible;
    EXPECT_EQ(found.front.empty() && !found.nearest.empty(),
              found.feasible == 0 && std::ranges::any_of(all, &Brute::sound))
        << seed;
  }
  // Of one board alone nothing may be feasible.
  const bool several = asked_for("TAMLO_FIRST_BOARD", 1) < asked_for("TAMLO_BOARDS", 2);
  EXPECT_TRUE(feasible > 5 || !several);
}

// What is asked for quickly is what the findings say.
TEST(Explore, ErrorsAreThoseOfCheck) {
  int wrong = 0;
  for (const auto& of : menu()) {
    for (const auto& option : of.options) {
      auto board = two_channels();
      option(board);
      for (const auto& channel : board.channels) {
        const auto findings = check::check(board, channel.name);
        const bool error = std::ranges::any_of(findings, [](const check::Finding& finding) {
          return finding.severity == check::Severity::error;
        });
        EXPECT_EQ(check::has_error(board, chain::build(board, channel.name)), error) << of.key;
        wrong += error ? 1 : 0;
      }
    }
  }
  EXPECT_GT(wrong, 0);
}

// A quantity of both is one more to be judged: by its own budget, wherever a channel of it changes.
TEST(Explore, AQuantityIsJudgedByItsOwnBudget) {
  auto board = two_channels();
  board.quantities = {{.name = "both", .expression = "x - y", .span = range("0..40 V")}};
  board.quantities.front().target.accuracy = value("±0.4 V", "V").limits.front();
  explore::Space space{.goals = {"error"}, .channels = {"both"}};
  std::vector<std::vector<Apply>> apply;
  for (const auto& of : menu()) {
    if (!of.key.ends_with("divider.top") && !of.key.ends_with("voltage")) continue;
    space.choices.push_back({.name = of.key, .keys = {of.key}, .options = {{}, {}, {}}});
    apply.push_back(of.options);
  }
  const auto board_of = [&](const explore::Pick& pick) {
    auto with = board;
    for (std::size_t i = 0; i < pick.size(); ++i) {
      if (pick[i]) apply[i][*pick[i]](with);
    }
    return with;
  };
  const auto found = explore::explore(space, board_of);
  ASSERT_EQ(found.candidates, 27U);
  EXPECT_EQ(found.evaluated, 27U);
  std::uint64_t feasible = 0;
  double least = HUGE_VAL;
  for (std::uint64_t number = 0; number < found.candidates; ++number) {
    const auto pick = explore::pick_of(space, number);
    const auto with = board_of({pick.begin(), pick.end()});
    const std::vector chains{chain::build(with, "x"), chain::build(with, "y")};
    const auto worst = budget::evaluate(with.quantities.front(), chains).worst();
    const bool sound = !check::has_error(with, chains[0]) && !check::has_error(with, chains[1]);
    const double error = worst.error() / worst.limit.value();
    if (sound && error <= 1.0) ++feasible, least = std::min(least, error);
  }
  EXPECT_EQ(found.feasible, feasible);
  ASSERT_FALSE(found.front.empty());
  EXPECT_EQ(found.front.front().error, least);
}

TEST(Explore, RefusesSpacesThatAreNone) {
  const auto board_of = [](const explore::Pick&) { return two_channels(); };
  const explore::Choice choice{
      .name = "a", .keys = {"channel.x.average"}, .options = {{.label = "1"}}};
  const explore::Space sound{.choices = {choice}, .goals = {"error"}, .channels = {"x"}};
  EXPECT_EQ(explore::explore(sound, board_of).tried, 1u);
  const auto refused = [&](const std::function<void(explore::Space&)>& change) {
    auto space = sound;
    change(space);
    EXPECT_THROW(explore::explore(space, board_of), ArgumentError);
  };
  refused([](auto& s) { s.choices.clear(); });
  refused([](auto& s) { s.choices[0].options.clear(); });
  refused([](auto& s) { s.goals = {"beauty"}; });
  refused([](auto& s) { s.channels = {"z"}; });
  refused([](auto& s) { s.amounts = {{.name = "price"}}; });
  refused([&](auto& s) {
    s.choices[0].options.assign(2000, {.label = ""});
    s.choices.assign(3, s.choices[0]);
  });
  EXPECT_THROW(explore::candidate_of(sound, board_of, 1), ArgumentError);
  // It is ended when it is asked to be.
  EXPECT_EQ(explore::explore(sound, board_of, math::by_threads(1), [](double) { return false; })
                .front.size(),
            1u);
}

// IEC 60063:2015, tables 1 and 2, by eye.
TEST(Preferred, NumbersOfTheSeries) {
  EXPECT_EQ(quantity::preferred_numbers(6), (std::vector<double>{1.0, 1.5, 2.2, 3.3, 4.7, 6.8}));
  EXPECT_EQ(quantity::preferred_numbers(3), (std::vector<double>{1.0, 2.2, 4.7}));
  const auto e48 = quantity::preferred_numbers(48);
  EXPECT_EQ((std::vector<double>{e48[0], e48[1], e48[2], e48[24], e48[47]}),
            (std::vector<double>{1.0, 1.05, 1.1, 3.16, 9.53}));
  const auto e192 = quantity::preferred_numbers(192);
  EXPECT_EQ(e192.size(), 192u);
  EXPECT_EQ((std::vector<double>{e192[1], e192[185], e192[191]}),
            (std::vector<double>{1.01, 9.2, 9.88}));
  EXPECT_TRUE(quantity::preferred_numbers(7).empty());
  const auto some = quantity::preferred_between(12, 820.0, 2200.0);
  ASSERT_EQ(some.size(), 6u);
  EXPECT_NEAR(some[1], 1000.0, 1e-9);
  EXPECT_TRUE(quantity::preferred_between(12, -1.0, 5.0).empty());
}

}  // namespace
}  // namespace tamlo::testing
