// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/model/converter.hpp"

/// The second quantiser: what stands in the result register for each code (docs/method.md,
/// "Codes").
namespace tamlo {
namespace chain TAMLO_API {

/// Register value of a code, and the straight line that it follows on the whole.
struct RegisterFormat {
  std::vector<RegisterFormat> before{};  ///< formats that the code goes through before this one
  model::RegisterFormat reporting{};
  std::int64_t first_in = 0,
               last_in = 0;  ///< what this format takes in: codes, or what comes before
  double counts_low = 0.0, counts_per = 1.0;  ///< of what it takes in, for counts only
  // All of them together:
  std::int64_t first = 0, last = 0;        ///< codes of the converter
  double low_code = 0.0, high_code = 0.0;  ///< of the ends of the span; for counts only
  double per_code = 1.0;                   ///< counts that the firmware takes a code for
  double gain = 1.0;                       ///< counts to a code, on the whole
  double offset = 0.0;                     ///< so that gain * code + offset is right on average
  double width = 1.0;                      ///< codes: one quantiser as coarse as both together
  double step = 1.0;                       ///< codes from one reported value to the next
  std::int64_t occurring = 0;              ///< different values that can really occur
  std::int64_t first_reported = 0, last_reported = 0;
};

/// The law with its line and width, from all codes; at most 2^24 of them are tried, evenly spread.
/// `before` are formats that the code goes through first; none of them is of counts.
RegisterFormat report_law(const model::RegisterFormat& reporting, int resolution,
                          std::int64_t first, double low_code, double high_code,
                          const std::vector<model::RegisterFormat>& before = {});

/// True where the code itself is found, and where it is found at the top of a wider word.
bool reports_codes(const RegisterFormat& law);
bool reports_shifted(const RegisterFormat& law);

std::int64_t reported(const RegisterFormat& law, std::int64_t code);

/// True for a number that the firmware can find.
bool occurs(const RegisterFormat& law, double value);

/// The codes that are reported as `value`: first and last; first > last where none is.
struct Codes {
  std::int64_t first = 0, last = -1;
};
Codes codes_reported_as(const RegisterFormat& law, std::int64_t value);

}  // namespace chain
}  // namespace tamlo
