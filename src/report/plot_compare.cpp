// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>

#include "gnuplot.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {

std::string plot(const meter::Comparison& c, Image image) {
  const auto difference = quantity::difference_unit(c.unit);
  const auto in = quantity::in_unit;
  auto rows = c.rows;
  std::ranges::stable_sort(rows, {}, &meter::Row::meter);

  std::string data = "$rows << EOD\n";
  for (const auto& row : rows) {
    data += fmt::format(
        "{:.17g} {:.17g} {:.17g} {:.17g} {:.17g} {} \"{}\"\n", in(row.meter, c.unit),
        in(row.difference, difference), in(row.guard_band, difference), in(row.limit, difference),
        in(row.expanded_channel, difference), static_cast<int>(row.verdict),
        fmt::format("at {}: {} from the meter, E_n {:.2f}, {}",
                    with_unit(aligned(row.meter, c.unit, row.meter, 4), c.unit),
                    amount(row.difference, c.unit), row.normalised_error, name(row.verdict)));
  }
  data += "EOD\n";

  const double left = in(rows.front().meter, c.unit), right = in(rows.back().meter, c.unit);
  const double margin = right > left ? 0.04 * (right - left) : 1.0;
  const auto allowed = c.has_target ? "allowed by the target" : "allowed: the budget itself";
  std::string script = data;
  script += fmt::format("set title {}\n", literal(headline(c).text));
  script += fmt::format("set xlabel {}\n", literal(heading("meter " + c.meter, c.unit)));
  script += fmt::format("set ylabel {}\n", literal(heading("reading - meter", difference)));
  script += fmt::format("set xrange [{:.17g}:{:.17g}]\n", left - margin, right + margin);
  script += common_look;
  script += "set offsets 0, 0, graph 0.06, graph 0.06\nplot ";
  if (rows.size() > 1) {
    script += fmt::format(
        "$rows using 1:(-$4):4 with filledcurves fillcolor '#e3edf5' title {}, "
        "$rows using 1:4 with lines linecolor '#7d9cb8' notitle, "
        "$rows using 1:(-$4) with lines linecolor '#7d9cb8' notitle, "
        "$rows using 1:5 with lines dashtype 2 linecolor '#7a7a7a' title {}, "
        "$rows using 1:(-$5) with lines dashtype 2 linecolor '#7a7a7a' notitle, ",
        literal(allowed), literal("budget of the channel"));
  } else {
    script += fmt::format(
        "$rows using 1:(0):4 with yerrorbars linewidth 8 pointtype 0 linecolor '#b9cfe2' title "
        "{}, ",
        literal(allowed));
  }
  // A thin line at zero, then one mark for each verdict, so that none depends on colour alone.
  script += "0 with lines linewidth 1.5 linecolor '#000000' notitle";
  struct Mark {
    meter::Verdict verdict;
    int shape;
    const char* colour;
  };
  for (const auto& [verdict, shape, colour] :
       {Mark{meter::Verdict::pass, 7, "#1b7a3d"}, Mark{meter::Verdict::undecided, 5, "#b07a00"},
        Mark{meter::Verdict::fail, 13, "#b3261e"}}) {
    if (std::ranges::find(rows, verdict, &meter::Row::verdict) == rows.end()) continue;
    script += fmt::format(
        ", $rows using 1:($6=={} ? $2 : 1/0):3 with yerrorbars linewidth 2 pointtype {} "
        "pointsize 1.4 linecolor '{}' title {}",
        static_cast<int>(verdict), shape, colour,
        literal(fmt::format("{}, with guard band", name(verdict))));
  }
  return draw(image, script + pointed_at("$rows using 1:2:7") + "\n");
}

}  // namespace tamlo::report
