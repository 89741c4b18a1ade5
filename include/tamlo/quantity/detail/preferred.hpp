// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <vector>

#include "tamlo/export.hpp"

namespace tamlo {
namespace quantity TAMLO_API {

/// The preferred numbers of a series from 1 up to below 10, IEC 60063:2015: of 3, 6, 12 or 24 the
/// rounded ones of tradition, of 48, 96 or 192 those of three digits. Empty for another count.
std::vector<double> preferred_numbers(int count);

/// Those of all decades between two positive numbers, ends included.
std::vector<double> preferred_between(int count, double low, double high);

}  // namespace quantity
}  // namespace tamlo
