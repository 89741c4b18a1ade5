// SPDX-License-Identifier: Apache-2.0
#include "desk.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <functional>
#include <future>
#include <nlohmann/json.hpp>
#include <set>
#include <thread>

#include "installed.hpp"
#include "tamlo/explore/detail/dependence.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/detail/settings_text.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {

using result::json_text;

struct Desk::Request {
  std::vector<std::string> settings{};
  std::string channel{};
};

namespace {

constexpr int places_of_span = 21, steps_of_frequency = 300;
constexpr std::size_t most_settings = 4096;

// Ends an evaluation in whose place a newer one came.
struct Superseded {};

template <class List, class Text>
std::string array(const List& list, Text text) {
  std::string result = "[";
  for (const auto& each : list) result += (result.size() > 1 ? "," : "") + text(each);
  return result + "]";
}

std::string of_problems(const std::vector<Problem>& problems) {
  const auto one = [](const Problem& problem) {
    return fmt::format(R"({{"key":{},"text":{},"whole":{}}})", json_text(problem.path),
                       json_text(sentence(problem.problem, problem.hint)),
                       json_text(to_string(problem)));
  };
  return "{\"problems\":" + array(problems, one) + "}";
}

std::string of_problem(std::string_view text) {
  return of_problems({{.problem = std::string(text)}});
}

std::string named(std::string_view name, const report::Line& line) {
  return "{\"name\":" + json_text(name) + ",\"line\":" + report::json(line) + "}";
}

// Runs works on the processors that there are; `go_on` may throw between two of them.
void side_by_side(const std::vector<std::function<void()>>& works,
                  const std::function<void()>& go_on) {
  std::atomic<std::size_t> next = 0;
  const auto run = [&] {
    for (auto i = next++; i < works.size(); i = next++) {
      go_on();
      works[i]();
    }
  };
  std::vector<std::future<void>> others;
  const auto count = std::min<std::size_t>(works.size(), std::thread::hardware_concurrency());
  for (std::size_t i = 1; i < count; ++i) others.push_back(std::async(std::launch::async, run));
  run();
  for (auto& other : others) other.get();
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
  quantities_.clear();
}

Desk::Kept Desk::kept_of(const io::LoadedBoard& board, const chain::Chain& chain) const {
  const auto& name = chain.channel.name;
  return {.check = check::examine(board, {name}),
          .budget = budget::evaluate(
              chain, {.at = {},
                      .coverage = coverage_,
                      .rough_units = budget::rough_units_among(board.channels.size())}),
          .comparisons = comparisons_of(board, name)};
}

Desk::Seen Desk::seen_of(const io::LoadedBoard& board, const chain::Chain& chain) const {
  const auto units = budget::rough_units_among(board.channels.size());
  return {.settings = budget::settings(chain, {.rough_units = units}),
          .span = budget::along_span(budget::over_span(chain, places_of_span, coverage_, false)),
          .response = chain::response(chain, steps_of_frequency)};
}

std::vector<result::ChannelComparison> Desk::comparisons_of(const model::Board& as_it_is,
                                                            const std::string& channel) const {
  std::vector<result::ChannelComparison> result;
  if (readings_.empty()) return result;
  auto board = as_it_is;
  board.meters.insert(board.meters.end(), provided_.begin(), provided_.end());
  for (const auto& file : readings_) {
    for (const auto& readings : file.channels) {
      if (readings.channel != channel) continue;
      const auto bench = bench_of(board, file, readings, arguments_, coverage_);
      result.push_back({.board_unit = readings.unit, .comparison = meter::compare(bench.evidence)});
    }
  }
  return result;
}

std::string Desk::evaluate(const Request& request, std::uint64_t number) {
  const auto board = io::load_board(arguments_.boards, request.settings);
  if (board.chains.empty()) return of_problem("a board without channels");
  forget_changed(board, request.settings);
  board_ = board;
  settings_ = request.settings;
  const auto go_on = [&] {
    if (stopped_ || newest_ != number) throw Superseded{};
  };
  result::Tuned tuned{.check = {.parts = board.parts}};
  std::vector<std::string> headlines;
  std::vector<report::Report> shown, of_settings, beside;
  const auto* in_view = &board.chains.front();
  for (const auto& chain : board.chains) {
    if (chain.channel.name == request.channel) in_view = &chain;
  }
  const bool of_quantity = model::find(board.quantities, request.channel) != nullptr;
  // What is not known yet, each by itself.
  std::map<std::string, Kept> fresh;
  std::optional<Seen> seen;
  std::vector<std::function<void()>> works;
  const auto before = kept_.find(in_view->channel.name);
  if (!of_quantity && (before == kept_.end() || !before->second.seen))
    works.emplace_back([&] { seen = seen_of(board, *in_view); });
  for (const auto& chain : board.chains) {
    if (kept_.contains(chain.channel.name)) continue;
    auto& into = fresh[chain.channel.name];
    works.emplace_back([&] { into = kept_of(board, chain); });
  }
  side_by_side(works, go_on);
  kept_.merge(fresh);
  for (const auto& chain : board.chains) {
    const auto& kept = kept_.at(chain.channel.name);
    tuned.check.add(kept.check);
    tuned.budget.channels.push_back({.budget = kept.budget});
    headlines.push_back(named(chain.channel.name, report::headline(kept.budget)));
    for (const auto& comparison : kept.comparisons) tuned.comparisons.push_back(comparison);
  }
  if (!of_quantity) {
    auto& kept = kept_.at(in_view->channel.name);
    if (seen) kept.seen = std::move(seen);
    tuned.channel = in_view->channel.name;
    tuned.unit = in_view->channel.span.unit;
    tuned.settings = {kept.seen->settings};
    tuned.span = kept.seen->span;
    tuned.response = kept.seen->response;
    shown = {report::of(kept.budget)};
    of_settings = {report::of(kept.seen->settings)};
    for (const auto& each : kept.comparisons) beside.push_back(report::of(each.comparison));
  }
  for (const auto& quantity : board.quantities) {
    go_on();
    auto known = quantities_.find(quantity.name);
    if (known == quantities_.end())
      known = quantities_
                  .emplace(quantity.name,
                           budget::evaluate(quantity, board.chains, {.coverage = coverage_}))
                  .first;
    tuned.check.add(check::examine(board, {quantity.name}));
    tuned.budget.quantities.push_back(known->second);
    const auto comparisons = comparisons_of(board, quantity.name);
    tuned.comparisons.insert(tuned.comparisons.end(), comparisons.begin(), comparisons.end());
    if (quantity.name == request.channel) {
      for (const auto& each : comparisons) beside.push_back(report::of(each.comparison));
      shown = {report::of(known->second)};
    }
    headlines.push_back(named(quantity.name, report::headline(known->second)));
  }
  for (const auto& each : tuned.comparisons)
    headlines.push_back(named("", report::headline(each.comparison)));
  return fmt::format(
      R"({{"result":{},"board":{},"headlines":{},"budget":{},"settings":{},"comparison":{}}})",
      result::write(tuned, result::Format::json),
      io::board_as_json(arguments_.boards, request.settings),
      array(headlines, [](const std::string& text) { return text; }), report::json(shown),
      report::json(of_settings), report::json(beside));
}

std::string Desk::advise(const Request& request) {
  const auto board = io::load_board(arguments_.boards, request.settings);
  if (model::find(board.channels, request.channel) == nullptr) return "{\"budget\":[]}";
  const auto chain = chain::build(board, request.channel);
  const result::ChannelBudget advised{
      .budget = budget::evaluate(
          chain, {.at = budget::default_points(chain.channel.span), .coverage = coverage_}),
      .advice = budget::advise(board, request.channel, coverage_)};
  auto reports = report::of(advised);
  reports.erase(reports.begin());  // the budget itself
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
  const auto schema = io::read_file((installed("schema") / "board.json").string());
  return fmt::format(R"({{"schema":{},"board":{},"files":{},"title":{},"write":{}}})", schema,
                     io::board_as_json(arguments_.boards), array(arguments_.boards, json_text),
                     json_text(title_), json_text(arguments_.write));
}

std::string Desk::answer(std::string_view name, std::string_view body) {
  std::uint64_t number = newest_;
  if (name == "evaluate") number = ++newest_;
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
