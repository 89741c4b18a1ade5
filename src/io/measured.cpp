// SPDX-License-Identifier: Apache-2.0
// What a record measured, as a file that the other commands read.
#include "tamlo/io/detail/measured.hpp"

#include <fmt/format.h>

#include <filesystem>

#include "tamlo/chain/chain.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "toml_text.hpp"

namespace tamlo::io {

MeasuredFiles overlay_of(const record::Verdict& verdict, const chain::Chain& chain,
                         const std::string& path) {
  const auto measured = record::measured(chain, verdict);
  if (!measured.reason.empty()) {
    throw BadInput({{.file = "command line",
                     .path = "--write",
                     .problem = "nothing to write",
                     .hint = measured.reason}});
  }
  MeasuredFiles result;
  result.overlay = fmt::format("# Made by: tamlo record, {} samples of {}.\n[converter.{}]\n",
                               verdict.samples, chain.channel.name, toml_key(chain.converter.name));
  if (const auto& noise = measured.noise) {
    result.overlay += fmt::format("noise = \"{:.4g} LSB rms\"   # {:.4g} to {:.4g} LSB\n",
                                  noise->value, noise->low, noise->high);
    return result;
  }
  const auto name = name_of(path_of(path).stem()) + "_inl.csv";
  result.table_path = name_beside(path, name);
  result.table = fmt::format("{}code,inl [LSB]\n", MeasuredFiles::table_begins);
  for (const auto& point : measured.inl) {
    result.table += fmt::format("{:.0f},{:.4f}\n", point.code, point.inl);
  }
  result.overlay += fmt::format(
      "inl_table = {}\ninl = \"±{:.3g} LSB (k=1)\"   # what the samples leave open\ndnl = "
      "\"±{:.3g} "
      "LSB\"\n",
      toml_quoted(name), measured.inl_uncertainty, measured.dnl);
  if (measured.correction) {
    result.overlay += "\n" + correction_text(chain.channel.name, chain.channel.span.unit,
                                             *measured.correction, "offset and gain", "the record");
  }
  return result;
}

}  // namespace tamlo::io
