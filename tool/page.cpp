// SPDX-License-Identifier: Apache-2.0
#include "tamlo/report/page.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "bench.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/output_file.hpp"
#include "tamlo/link/kept_blocks.hpp"
#include "tamlo/link/log.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"
#include "tamlo/version.hpp"

namespace tamlo::tool {
namespace {

struct PageArguments : MeterArguments {
  std::string coverage = "0.95", write;
};

constexpr int points_of_span = 201;
constexpr auto svg = report::Image::svg;

// Under the channel's own heading its name need not be said again.
report::Line without_name(report::Line line, const std::string& channel) {
  if (line.text.starts_with(channel + ": ")) line.text.erase(0, channel.size() + 2);
  return line;
}

// The nominal signal at every step, at both ends of the span.
std::vector<report::PageStep> path_of(const chain::Chain& chain) {
  const auto& span = chain.channel.span;
  const auto low = chain::trace(chain, span.low), high = chain::trace(chain, span.high);
  std::vector<report::PageStep> path;
  for (std::size_t i = 0; i < std::min(low.steps.size(), high.steps.size()); ++i) {
    const auto value = [](const chain::Step& step) {
      const auto text = quantity::significant(step.value, step.unit, 4);
      return step.unit.symbol.empty() ? text : text + " " + step.unit.symbol;
    };
    path.push_back({low.steps[i].stage, value(low.steps[i]), value(high.steps[i])});
  }
  return path;
}

report::PagePart budget_of(const model::Board& board, const chain::Chain& chain, double coverage,
                           report::PageChannel& into) {
  result::ChannelBudget result{.budget = budget::evaluate(chain, {.coverage = coverage})};
  result.advice = budget::advise(board, chain.channel.name, coverage);
  const auto& name = chain.channel.name;
  into.verdict = without_name(report::headline(result.budget), name);
  // Its headline stands above.
  auto reports = report::of(result, false);
  if (!reports.empty() && !reports.front().verdict.empty())
    reports.front().verdict.erase(reports.front().verdict.begin());
  return {.title = "Error budget",
          .reports = std::move(reports),
          .figures = {{report::plot_span(budget::over_span(chain, points_of_span, coverage), svg),
                       fmt::format("{}: bias and expanded uncertainty over the span, beside what "
                                   "the target allows; the table has the figures",
                                   name)},
                      {report::plot_contributions(result.budget, svg),
                       fmt::format("{}: the contributions of the sources at the worst place, as "
                                   "bars; the table has the figures",
                                   name)}}};
}

report::PagePart findings_of(const model::Board& board, const chain::Chain& chain,
                             report::PageChannel& into) {
  const auto check = result::check_of(board, {chain.channel.name});
  const auto errors = check.count(check::Severity::error),
             warnings = check.count(check::Severity::warning);
  into.checked =
      errors + warnings == 0 ? "sound" : fmt::format("{} errors, {} warnings", errors, warnings);
  return {.title = "What needs attention", .reports = {report::of(check)}};
}

report::PagePart comparison_part(const model::Board& board, const io::ReadingsFile& file,
                                 const io::ChannelReadings& of, const PageArguments& arguments,
                                 double coverage, report::PageChannel& into) {
  const auto bench = bench_of(board, file, of, arguments);
  const auto result = comparison_of(board, of, bench, coverage);
  const auto headline = without_name(report::headline(result.comparison), of.channel);
  // Of several units the first that fails, else the first.
  if (into.compared.text.empty() ||
      (headline.tone == report::Tone::bad && into.compared.tone != report::Tone::bad)) {
    into.compared = headline;
  }
  return {.title = "Beside the meter" + (of.unit.empty() ? "" : ", unit " + of.unit),
          .reports = report::of(result),
          .figures = {{report::plot(result.comparison, svg),
                       fmt::format("{}: differences from the meter beside what the budget and the "
                                   "meter allow; the table has the figures",
                                   of.channel)}}};
}

std::string quoted_word(const std::string& word) {
  return word.find_first_of(" '\"$&|;<>()*?") == std::string::npos ? word : "'" + word + "'";
}

std::string command_of(const PageArguments& arguments) {
  std::string text = "tamlo page";
  const auto add = [&](const std::string& word) { text += " " + quoted_word(word); };
  for (const auto& file : arguments.boards) add(file);
  if (!arguments.data.empty()) add(arguments.data);
  for (const auto& channel : arguments.channels) add("--channel"), add(channel);
  if (!arguments.meter.empty()) add("--meter"), add(arguments.meter);
  if (!arguments.meter_accuracy.empty()) add("--meter-accuracy"), add(arguments.meter_accuracy);
  if (arguments.coverage != "0.95") add("--coverage"), add(arguments.coverage);
  if (!arguments.write.empty()) add("--write"), add(arguments.write);
  return text;
}

// What the page says first.
std::string summary_of(const report::Page& page) {
  std::string text;
  for (const auto& channel : page.channels) {
    for (auto line : {channel.verdict, channel.compared}) {
      if (line.text.empty()) continue;
      line.text = channel.name + ": " + line.text;
      text += report::render(line, colour()) + "\n";
    }
  }
  return text;
}

int run_page(const PageArguments& arguments) {
  auto board = io::load_board(arguments.boards);
  const double coverage = coverage_of(arguments.coverage);
  const auto chains = chains_of(board, arguments);
  io::OutputFiles outputs({arguments.write});
  report::Page page{.title = board.title.empty() ? arguments.boards.front() : board.title,
                    .version = version,
                    .made = link::utc_now(),
                    .command = command_of(arguments)};
  auto files = arguments.boards;
  std::optional<io::ReadingsFile> readings;
  if (!arguments.data.empty()) {
    files.push_back(arguments.data);
    readings = readings_of(arguments.data, board);
    provide_meters(board, readings->channels, arguments);
  }
  for (const auto& file : files)
    page.inputs.push_back({file, link::identity_of(io::read_file(file))});
  bool met = true;
  for (const auto& chain : chains) {
    auto& channel = page.channels.emplace_back();
    channel.name = chain.channel.name;
    channel.measures = chain.channel.measures;
    channel.path = path_of(chain);
    channel.parts.push_back(findings_of(board, chain, channel));
    channel.parts.push_back(budget_of(board, chain, coverage, channel));
    met = met && channel.verdict.tone != report::Tone::bad;
    for (std::size_t i = 0; readings && i < readings->channels.size(); ++i) {
      const auto& of = readings->channels[i];
      if (of.channel != chain.channel.name) continue;
      channel.parts.push_back(comparison_part(board, *readings, of, arguments, coverage, channel));
      met = met && channel.compared.tone != report::Tone::bad;
    }
    report::PagePart settings{.title = "Settings, every default",
                              .reports = {report::of(result::settings_of(chain))},
                              .folded = true};
    if (!chain.firmware.digital.stages.empty()) {
      settings.figures.push_back(
          {report::plot_response(chain, svg),
           chain.channel.name + ": the gain of average and filter over frequency"});
    }
    channel.parts.push_back(std::move(settings));
  }
  const auto html = report::html_of(page);
  if (arguments.write.empty()) {
    print(html);
  } else {
    outputs.write(arguments.write, html);
    outputs.finish();
    print(summary_of(page) + "written: " + arguments.write + "\n");
  }
  return met ? done : missed;
}

void declare_page(Options& options, PageArguments& a) {
  declare_meter(options, a);
  options.group("Output");
  options.coverage(a.coverage);
  options.output("--write", a.write, {"FILE", "write to FILE.html", "standard output"});
}

}  // namespace

const Command page_command{
    .name = "page",
    .question = "one page with all of it, for a design review or a file of a unit",
    .examples = {"page demo/board.toml --channel pack_voltage",
                 "page demo/board.toml demo/readings.csv --write board.html"},
    .describe = [](Options& options) {
      return described<PageArguments>(options, declare_page, run_page);
    }};

}  // namespace tamlo::tool
