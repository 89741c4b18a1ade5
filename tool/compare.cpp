// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/compare.hpp"

#include <algorithm>
#include <optional>

#include "bench.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

struct CompareArguments : MeterArguments {
  std::string since, apart, coverage = "0.95", plot, picture;
  Form format{};
  bool all = false;
};

}  // namespace

meter::Drift drift_since(const model::Board& board, const io::ReadingsFile& earlier,
                         const Bench& bench, const MeterArguments& arguments,
                         const std::string& apart, double coverage) {
  const auto& readings = bench.of;
  const auto same = std::ranges::find_if(earlier.channels, [&](const auto& other) {
    return other.channel == readings.channel && other.unit == readings.unit;
  });
  if (same == earlier.channels.end()) {
    refuse("--since",
           "no readings of " + readings.channel +
               (readings.unit.empty() ? "" : ", unit " + readings.unit),
           "a file with readings of the same channel and unit");
  }
  const auto before = bench_of(board, earlier, *same, arguments, coverage);
  auto elapsed = meter::elapsed_between(before.evidence.readings(), bench.evidence.readings());
  if (!apart.empty()) {
    elapsed = value_of("--elapsed", apart, quantity::unit("year"));
  }
  if (!elapsed || !(*elapsed > 0.0)) {
    refuse("--since", elapsed ? "a file that is not earlier" : "rows without a time",
           "a column \"time\" in both files, or --elapsed \"1 year\"");
  }
  return meter::drift(before.evidence, bench.evidence, *elapsed);
}

namespace {

// Of units among many their verdicts, and what is out of the ordinary; once what is so of all.
report::Report in_short(const std::vector<report::Report>& units) {
  report::Report result;
  const auto of_all = [&](const report::Line& line) {
    return std::ranges::all_of(units, [&](const auto& unit) {
      return std::ranges::find(unit.verdict, line.text, &report::Line::text) != unit.verdict.end();
    });
  };
  for (const auto& unit : units) {
    for (const auto& line : unit.verdict) {
      const bool first = &line == &unit.verdict.front();
      const bool ordinary = line.tone == report::Tone::plain || line.tone == report::Tone::good;
      if (first || !(ordinary || of_all(line))) result.verdict.push_back(line);
      if (&unit == &units.front() && !first && !ordinary && of_all(line)) {
        result.remarks.push_back(line);
      }
    }
  }
  result.remarks.push_back({"row by row: --all"});
  return result;
}

int shown(const result::Comparisons& results, const Form& format, bool all) {
  std::vector<report::Report> reports;
  std::vector<report::Report> units;
  for (const auto& unit : results.units) reports.push_back(report::of(unit));
  for (const auto& result : results.channels) {
    const auto& channel = result.comparison.channel;
    const bool many = std::ranges::find(results.units, channel, &meter::ChannelUnits::channel) !=
                      results.units.end();
    for (auto& report : report::of(result)) {
      if (many && !all) {
        units.push_back(std::move(report));
      } else {
        reports.push_back(std::move(report));
      }
    }
  }
  if (!units.empty()) reports.push_back(in_short(units));
  show(results, reports, format, [&] {
    std::vector<report::Judged> judged;
    for (const auto& each : results.channels) {
      const auto unit = each.board_unit.empty() ? "" : ", unit " + each.board_unit;
      judged.push_back({each.comparison.channel + unit, report::headline(each.comparison)});
    }
    return report::junit("tamlo compare", judged);
  });
  const auto fails = [](const result::ChannelComparison& r) {
    return r.comparison.summary.verdict == meter::Verdict::fail;
  };
  return std::ranges::any_of(results.channels, fails) ? missed : done;
}

int run_compare(const CompareArguments& arguments) {
  auto board = io::load_board(arguments.boards);
  const double coverage = coverage_of(arguments.coverage);
  const auto file = readings_of(arguments.data, board, arguments);
  const auto channels = wanted(file, arguments);
  provide_meters(board, channels, arguments);
  const bool units_drawn = arguments.picture == "units";
  check_picture("--plot", arguments.plot, units_drawn ? 1 : channels.size());
  io::OutputFiles outputs({arguments.plot});

  std::optional<io::ReadingsFile> earlier;
  if (!arguments.since.empty()) earlier = further_readings_of(arguments.since, board, arguments);
  result::Comparisons results;
  std::vector<Bench> benches;
  for (const auto& channel : channels) {
    const auto& bench = benches.emplace_back(bench_of(board, file, channel, arguments, coverage));
    auto result = comparison_of(board, file, bench);
    if (earlier && !bench.evidence.of_quantity()) {
      result.drift = drift_since(board, *earlier, bench, arguments, arguments.apart, coverage);
    }
    results.channels.push_back(std::move(result));
  }
  results.units = io::over_units(benches);
  const auto& several = results.units;
  if (!arguments.plot.empty()) {
    if (units_drawn && several.empty()) {
      refuse("--plot-kind", "units", "readings of three units or more, by a column \"unit\"");
    }
    const auto chart = units_drawn
                           ? report::chart_of_units(several.front().units, several.front().channel,
                                                    several.front().unit)
                       : arguments.picture == "normalised"
                           ? report::chart_of_normalised(results.channels.front().comparison)
                           : report::chart_of(results.channels.front().comparison);
    outputs.write(arguments.plot, report::draw(chart, *report::image_of(arguments.plot)));
  }
  outputs.finish();
  return shown(results, arguments.format, arguments.all);
}

void declare_compare(Options& options, CompareArguments& a) {
  declare_meter(options, a);
  options.group("Change with time");
  options.input("--since", a.since, {"FILE", "earlier readings of the same units: what changed?"});
  options.option("--elapsed", a.apart,
                 {"TIME", "between the two, such as \"1 year\"", "by their columns \"time\""});
  options.only_with("--since", {"--elapsed"});
  options.group("Output");
  options.coverage(a.coverage);
  options.plot(a.plot, a.picture, {"differences", "normalised", "units"}, "differences");
  options.flag("--all", a.all, {"", "of three units or more the rows of each, too"});
  options.format_of_verdicts(a.format);
}

}  // namespace

result::ChannelComparison comparison_of(const model::Board& board, const io::ReadingsFile& file,
                                        const Bench& bench) {
  return {
      .board_unit = bench.of.unit,
      .comparison = meter::compare(bench.evidence),
      .diagnosis = meter::diagnose(board, bench.evidence, io::others_of(board, file, bench.of))};
}

int show_comparisons(const model::Board& board, const std::string& path,
                     const MeterArguments& arguments, double coverage, const Form& format) {
  result::Comparisons results;
  const auto file = io::load_readings(path, board);
  for (const auto& argument : wanted(file, arguments)) {
    const auto bench = bench_of(board, file, argument, arguments, coverage);
    results.channels.push_back(comparison_of(board, file, bench));
  }
  return shown(results, format, false);
}

extern const Command compare_command{
    .name = "compare",
    .question = "does the channel agree with the meter, and if not, which part is at fault?",
    .examples =
        {R"(compare demo/board.toml demo/readings.csv)",
         R"(compare demo/board.toml demo/readings_later.csv --since demo/readings.csv --elapsed "1 year")"},
    .describe = [](Options& options) {
      return described<CompareArguments>(options, declare_compare, run_compare);
    }};

}  // namespace tamlo::tool
