// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/settings.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/meter/compare.hpp"

/// One JSON document for each command (share/tamlo/schema/). Figures of the quantity are in `unit`,
/// differences of degC in K; all others are SI. Fields are named as the C++ members. One channel
/// stands at the top of the document, several in `channels`. An infinite figure is null.
namespace tamlo::io {

std::string to_json(const std::vector<check::Finding>& findings,
                    const std::vector<std::string>& channels);
std::string to_json(const std::vector<chain::Chain>& chains);
std::string to_json(const chain::Chain& chain, const std::vector<chain::Walk>& walks,
                    const std::vector<chain::WalkBack>& walks_back);
/// `pairs`: each channel twice, as it is and as it was changed.
std::string to_json(const std::vector<budget::Budget>& budgets, bool pairs = false);
std::string to_json(const std::vector<meter::Comparison>& comparisons);

}  // namespace tamlo::io
