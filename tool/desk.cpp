// SPDX-License-Identifier: Apache-2.0
#include "desk.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <functional>
#include <nlohmann/json.hpp>
#include <set>

#include "installed.hpp"
#include "tamlo/explore/detail/dependence.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/detail/overlays.hpp"
#include "tamlo/math/detail/blocks.hpp"
#include "tamlo/report/reports.hpp"
#include "tamlo/result/detail/json_text.hpp"

namespace tamlo::tool {

using result::json_list, result::json_text;

struct Desk::Request {
  std::vector<std::string> settings{};
  std::string channel{};
};

namespace {

constexpr int places_of_span = 21, steps_of_frequency = 300;
// A curve is good to 2 % of U where it is drawn: what is told in numbers takes ten times as many.
constexpr std::uint64_t units_of_span = 2000;
constexpr std::size_t most_settings = 4096;

// Ends an evaluation in whose place a newer one came.
struct Superseded {};

template <class T>
void append(std::vector<T>& to, const std::vector<T>& from) {
  to.insert(to.end(), from.begin(), from.end());
}

std::string of_problems(const std::vector<Problem>& problems) {
  const auto one = [](const Problem& problem) {
    return fmt::format(R"({{"key":{},"text":{},"whole":{}}})", json_text(problem.path),
                       json_text(sentence(problem.problem, problem.hint)),
                       json_text(to_string(problem)));
  };
  return "{\"problems\":" + json_list(problems, one) + "}";
}

std::string of_problem(std::string_view text) {
  return of_problems({{.problem = std::string(text)}});
}

std::string named(std::string_view name, const report::Line& line) {
  return "{\"name\":" + json_text(name) + ",\"line\":" + report::json(line) + "}";
}

// Keys of settings that only one of both has.
std::set<std::string> changed_keys(const std::vector<std::string>& before,
                                   const std::vector<std::string>& after) {
  std::set<std::string> changed;
  const auto lacking = [&](const std::vector<std::string>& from, const auto& in) {
    for (const auto& setting : from) {
      if (std::ranges::find(in, setting) == in.end())
        changed.insert(setting.substr(0, setting.find('=')));
    }
  };
  lacking(before, after);
  lacking(after, before);
  return changed;
}

}  // namespace

Desk::Desk(DeskArguments arguments)
    : arguments_(std::move(arguments)), coverage_(coverage_of(arguments_.coverage)) {
  board_ = io::load_board(arguments_.boards);
  title_ = board_->title;
  model::Board board = *board_;
  for (const auto& path : arguments_.readings) {
    readings_.push_back(readings_of(path, board, arguments_));
    provide_meters(board, readings_.back().channels, arguments_);
  }
  provided_.assign(board.meters.begin() + static_cast<std::ptrdiff_t>(board_->meters.size()),
                   board.meters.end());
}

void Desk::forget_changed(const io::LoadedBoard& board, const std::vector<std::string>& settings) {
  const auto changed = changed_keys(settings_, settings);
  if (changed.empty()) return;
  const bool all = std::ranges::any_of(changed, explore::reorders);
  std::erase_if(kept_, [&](const auto& each) {
    const auto* before = model::find(board_->channels, each.first);
    const auto* after = model::find(board.channels, each.first);
    if (all || before == nullptr || after == nullptr) return true;
    return std::ranges::any_of(changed, [&](const std::string& key) {
      return explore::may_change(key, *board_, *before) || explore::may_change(key, board, *after);
    });
  });
  kept_quantities_.clear();
}

Desk::Kept Desk::kept_of(const io::LoadedBoard& board, const chain::Chain& chain) const {
  const auto& name = chain.channel.name;
  return {.check = check::examine(board, {name}),
          .budget = budget::evaluate(
              chain, {.coverage = coverage_,
                      .rough_units = budget::rough_units_among(board.channels.size())}),
          .comparisons = comparisons_of(board, name)};
}

Desk::Seen Desk::seen_of(const io::LoadedBoard& board, const chain::Chain& chain) const {
  const auto units = budget::rough_units_among(board.channels.size());
  return {.settings = budget::settings(chain, {.rough_units = units}),
          .span = budget::along_span(budget::over_span(
              chain, places_of_span,
              {.coverage = coverage_, .search = false, .rough_units = units_of_span})),
          .response = chain::response(chain, steps_of_frequency)};
}

std::vector<result::ChannelComparison> Desk::comparisons_of(const model::Board& as_it_is,
                                                            const std::string& channel) const {
  std::vector<result::ChannelComparison> result;
  if (readings_.empty()) return result;
  auto board = as_it_is;
  append(board.meters, provided_);
  for (const auto& file : readings_) {
    for (const auto& readings : file.channels) {
      if (readings.channel != channel) continue;
      const auto bench = bench_of(board, file, readings, arguments_, coverage_);
      result.push_back({.board_unit = readings.unit, .comparison = meter::compare(bench.evidence)});
    }
  }
  return result;
}

Desk::KeptQuantity Desk::kept_of(const io::LoadedBoard& board,
                                 const model::Quantity& quantity) const {
  return {.check = check::examine(board, {quantity.name}),
          .budget = budget::evaluate(quantity, board.chains, {.coverage = coverage_}),
          .comparisons = comparisons_of(board, quantity.name)};
}

// What is not known yet, each by itself on the processors that there are; also what the channel in
// view is asked for in full, where there is one.
void Desk::complete(const chain::Chain* in_view, std::uint64_t number) {
  const auto& board = *board_;
  std::map<std::string, Kept> channels;
  std::map<std::string, KeptQuantity> quantities;
  std::optional<Seen> seen;
  std::vector<std::function<void()>> works;
  if (in_view != nullptr) {
    const auto known = kept_.find(in_view->channel.name);
    if (known == kept_.end() || !known->second.seen)
      works.emplace_back([&] { seen = seen_of(board, *in_view); });
  }
  const auto add = [&](const auto& of, const std::string& name, const auto& known, auto& fresh) {
    if (known.contains(name)) return;
    works.emplace_back(
        [this, &board, of = &of, into = &fresh[name]] { *into = kept_of(board, *of); });
  };
  for (const auto& chain : board.chains) add(chain, chain.channel.name, kept_, channels);
  for (const auto& quantity : board.quantities)
    add(quantity, quantity.name, kept_quantities_, quantities);
  const auto go_on = [&](double) { return !stopped_ && newest_ == number; };
  if (!go_on(0.0) || !math::each_by_processors(
                         works.size(), [&](std::size_t i) { works[i](); }, go_on))
    throw Superseded{};
  kept_.merge(channels);
  kept_quantities_.merge(quantities);
  if (seen) kept_.at(in_view->channel.name).seen = std::move(seen);
}

std::string Desk::evaluate(const Request& request, std::uint64_t number) {
  auto next = io::load_board(arguments_.boards, request.settings);
  if (next.chains.empty()) return of_problem("a board without channels");
  forget_changed(next, request.settings);
  board_ = std::move(next);
  settings_ = request.settings;
  const auto& board = *board_;
  const chain::Chain* in_view = nullptr;
  if (model::find(board.quantities, request.channel) == nullptr) {
    const auto found =
        std::ranges::find(board.chains, request.channel,
                          [](const chain::Chain& chain) { return chain.channel.name; });
    in_view = found != board.chains.end() ? &*found : &board.chains.front();
  }
  complete(in_view, number);
  result::Tuned tuned{.check = {.parts = board.parts}};
  std::vector<std::string> headlines;
  std::vector<report::Report> shown, of_settings, beside;
  const auto add = [&](const std::string& name, const auto& kept, bool viewed) {
    tuned.check.add(kept.check);
    append(tuned.comparisons, kept.comparisons);
    headlines.push_back(named(name, report::headline(kept.budget)));
    if (!viewed) return;
    shown = {report::of(kept.budget)};
    for (const auto& each : kept.comparisons) beside.push_back(report::of(each.comparison));
  };
  for (const auto& chain : board.chains) {
    const auto& kept = kept_.at(chain.channel.name);
    tuned.budget.channels.push_back({.budget = kept.budget});
    add(chain.channel.name, kept, &chain == in_view);
  }
  for (const auto& quantity : board.quantities) {
    const auto& kept = kept_quantities_.at(quantity.name);
    tuned.budget.quantities.push_back(kept.budget);
    add(quantity.name, kept, quantity.name == request.channel);
  }
  if (in_view != nullptr) {
    const auto& seen = *kept_.at(in_view->channel.name).seen;
    tuned.channel = in_view->channel.name;
    tuned.unit = in_view->channel.span.unit;
    tuned.settings = {seen.settings};
    tuned.span = seen.span;
    tuned.response = seen.response;
    of_settings = {report::of(seen.settings)};
  }
  for (const auto& each : tuned.comparisons)
    headlines.push_back(named("", report::headline(each.comparison)));
  return fmt::format(
      R"({{"result":{},"board":{},"headlines":{},"budget":{},"settings":{},"comparison":{}}})",
      result::write(tuned, result::Format::json),
      io::board_as_json(arguments_.boards, request.settings),
      json_list(headlines, [](const std::string& text) { return text; }), report::json(shown),
      report::json(of_settings), report::json(beside));
}

std::string Desk::advise(const Request& request) {
  const auto board = io::load_board(arguments_.boards, request.settings);
  std::vector<report::Report> reports;
  for (const auto& chain : board.chains) {
    if (chain.channel.name != request.channel) continue;
    reports = report::of(
        result::ChannelBudget{.budget = budget::evaluate(chain, {.coverage = coverage_}),
                              .advice = budget::advise(board, request.channel, coverage_)});
    reports.erase(reports.begin());  // the budget itself
  }
  return "{\"advice\":" + report::json(reports) + "}";
}

std::string Desk::write(const Request& request) {
  const auto text = io::overlay_of(request.settings);
  if (!arguments_.write.empty()) {
    io::OutputFiles outputs({arguments_.write});
    outputs.write(arguments_.write, text);
    outputs.finish();
  }
  return fmt::format(R"({{"text":{},"file":{}}})", json_text(text), json_text(arguments_.write));
}

std::string Desk::start() {
  const auto schema = io::read_file(installed("schema") + "/board.json");
  return fmt::format(R"({{"schema":{},"board":{},"files":{},"title":{},"write":{}}})", schema,
                     io::board_as_json(arguments_.boards), json_list(arguments_.boards, json_text),
                     json_text(title_), json_text(arguments_.write));
}

std::string Desk::answer(std::string_view name, std::string_view body) {
  const auto number = name == "evaluate" ? ++newest_ : 0;
  try {
    if (name == "start") return start();
    Request request;
    const auto json = nlohmann::json::parse(body, nullptr, false, false);
    const auto texts = [](const nlohmann::json& list) {
      return list.is_array() && list.size() <= most_settings &&
             std::ranges::all_of(list, [](const auto& each) { return each.is_string(); });
    };
    if (!json.is_object() || !json.contains("settings") || !texts(json["settings"]) ||
        (json.contains("channel") && !json["channel"].is_string()))
      return of_problem(
          "a request that is none: {\"settings\": [\"KEY=VALUE\"], \"channel\": "
          "\"NAME\"}");
    request.settings = json["settings"].get<std::vector<std::string>>();
    request.channel = json.value("channel", "");
    if (name == "evaluate") {
      const std::lock_guard lock(mutex_);
      return evaluate(request, number);
    }
    if (name == "advise") return advise(request);
    if (name == "write") return write(request);
    return of_problem("a request of another name: start, evaluate, advise or write");
  } catch (const Superseded&) {
    return "{\"superseded\":true}";
  } catch (const io::BadInput& error) {
    return of_problems(error.problems);
  } catch (const std::exception& error) {
    return of_problem(error.what());
  }
}

}  // namespace tamlo::tool
