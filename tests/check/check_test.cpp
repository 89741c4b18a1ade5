// SPDX-License-Identifier: Apache-2.0
#include "tamlo/check/check.hpp"

#include <gtest/gtest.h>

#include <functional>

#include "boards.hpp"

namespace tamlo::check {
namespace {

using testing::board;
using testing::Plain;
using testing::range;
using testing::value;

// Each entry of the catalogue: a board that raises it, its neighbour that does not, and what the
// remedy must name.
struct Entry {
  const char* identifier;
  Severity severity;
  std::function<model::Board()> raises;
  std::function<model::Board()> does_not;
  const char* remedy;
};

model::Board divided(const char* top, const char* span = "0..60 V",
                     const char* reference = "2.5 V") {
  return board({.reference = reference, .span = span, .top = top, .bottom = "10 kohm ±1 %"});
}
model::Board with_limit(model::Board b, const char* limit) {
  b.converters.front().input_limit = range(limit);
  return b;
}
model::Board with_target(model::Board b, const char* accuracy) {
  b.channels.front().target.accuracy = value(accuracy, "V").limits.front();
  return b;
}
model::Board with_convention(model::Convention convention) {
  auto b = board({.span = "0..2.4 V"});
  b.channels.front().scaling.convention = convention;
  return b;
}

model::Board attenuated(const char* chosen, const char* span) {
  auto b = board({.span = span});
  b.converters.front().attenuations = {
      {.name = "unity", .ratio = value("1", ""), .usable = range("0..2.45 V")},
      {.name = "quarter", .ratio = value("0.25", ""), .usable = range("0..9.6 V")}};
  b.channels.front().attenuation = chosen;
  return b;
}
// A sensor whose output falls: the low end of the span is at the top of the converter.
model::Board falling(const char* span) {
  auto b = board({.span = span});
  b.channels.front().sensor = model::StraightSensor{
      .sensitivity = value("-2 V", "V"), .offset = value("2.6 V", "V"), .at = 0.0};
  return b;
}
model::Board fed_from(const char* supply) {
  auto b = board({.reference = "2.5 V ±0.1 %", .span = "0..90 %"});
  b.references.push_back({.name = "supply", .voltage = value("2.4 V ±1 %", "V")});
  b.channels.front().sensor =
      model::Position{.resistance = value("10 kohm", "ohm"), .supply = supply};
  return b;
}

const Entry catalogue[] = {
    {"attenuation-exceeded", Severity::error, [] { return attenuated("unity", "0..3 V"); },
     [] { return attenuated("quarter", "0..3 V"); }, "attenuation = \"quarter\""},
    {"attenuation-exceeded", Severity::error, [] { return attenuated("quarter", "0..9.7 V"); },
     [] { return attenuated("quarter", "0..9.5 V"); }, "divide it before the pin"},
    {"attenuation-too-strong", Severity::advice, [] { return attenuated("quarter", "0..2.4 V"); },
     [] { return attenuated("unity", "0..2.4 V"); }, "attenuation = \"unity\""},
    {"sensor-not-ratiometric", Severity::advice, [] { return fed_from("supply"); },
     [] { return fed_from("ref"); }, "feed both from one reference"},
    // 60 V over 25 is 2.4 V; with the resistors at their worst 2.446 V.
    {"input-damage", Severity::error,
     [] { return with_limit(divided("240 kohm ±1 %"), "-0.3..2.43 V"); },
     [] { return with_limit(divided("240 kohm ±1 %"), "-0.3..2.45 V"); }, "raise the top"},
    {"input-damage", Severity::error,
     [] { return with_limit(board({.span = "-1..2 V"}), "-0.3..2.8 V"); },
     [] { return with_limit(board({.span = "-0.2..2 V"}), "-0.3..2.8 V"); }, "lift the signal"},
    {"input-damage", Severity::error,
     [] { return with_limit(board({.span = "0..2.4 V"}), "0..2.0 V"); },
     [] { return with_limit(board({.span = "0..2.0 V"}), "0..2.0 V"); },
     "put a divider before the converter that divides by at least 1.21"},
    {"span-beyond-range", Severity::error, [] { return divided("220 kohm"); },
     [] { return divided("250 kohm ±1 %"); }, "raise the top of the divider from 220 kohm"},
    {"span-beyond-range", Severity::error, [] { return board({.span = "-0.1..2.4 V"}); },
     [] { return board({.span = "0..2.4 V"}); }, "lift the signal by at least 100 mV"},
    {"span-beyond-range", Severity::error, [] { return falling("0..100 %"); },
     [] { return falling("10..100 %"); }, "put a divider before the converter"},
    {"clips-at-tolerance", Severity::warning, [] { return divided("232 kohm ±1 %"); },
     [] { return divided("240 kohm ±1 %"); }, "raise the top"},
    {"range-little-used", Severity::advice, [] { return board({.span = "0..1.2 V"}); },
     [] { return board({.span = "0..1.3 V"}); }, "attenuate less by up to 1.98"},
    {"target-below-resolution", Severity::error,
     [] { return with_target(board({.bits = 8, .span = "0..2.4 V"}), "±4 mV"); },
     [] { return with_target(board({.bits = 8, .span = "0..2.4 V"}), "±5 mV"); },
     "at least 9 bits"},
    {"count-convention", Severity::warning,
     [] { return with_convention(model::Convention::last_code); },
     [] { return with_convention(model::Convention::full_scale); }, "divide by 4096"},
};

const Finding* find(const std::vector<Finding>& findings, const std::string& identifier) {
  for (const auto& finding : findings) {
    if (finding.identifier == identifier) return &finding;
  }
  return nullptr;
}

TEST(Check, EveryFindingIsRaisedByItsBoardAndNotByItsNeighbour) {
  for (const auto& entry : catalogue) {
    const auto raised = check(chain::build(entry.raises(), "x"));
    const auto* finding = find(raised, entry.identifier);
    ASSERT_NE(finding, nullptr) << entry.identifier << " " << entry.remedy;
    EXPECT_EQ(finding->severity, entry.severity) << entry.identifier;
    EXPECT_NE(finding->remedy.find(entry.remedy), std::string::npos) << finding->remedy;
    EXPECT_FALSE(finding->found.empty() || finding->why.empty());
    EXPECT_EQ(find(check(chain::build(entry.does_not(), "x")), entry.identifier), nullptr)
        << entry.identifier << " " << entry.remedy;
  }
}

// The number in a remedy cures: the divider that is proposed raises the finding no more.
TEST(Check, TheProposedDividerCures) {
  const auto findings = check(chain::build(divided("220 kohm ±1 %"), "x"));
  const auto* finding = find(findings, "span-beyond-range");
  ASSERT_NE(finding, nullptr);
  const auto at = finding->remedy.find("at least ");
  const auto top = finding->remedy.substr(at + 9) + " ±1 %";
  const auto cured = check(chain::build(divided(top.c_str()), "x"));
  EXPECT_EQ(find(cured, "span-beyond-range"), nullptr) << top;
  EXPECT_EQ(find(cured, "clips-at-tolerance"), nullptr) << top;
}

TEST(Check, TheGravestComesFirst) {
  auto b = with_limit(board({.span = "0..1.2 V"}), "0..1.0 V");
  const auto findings = check(chain::build(b, "x"));
  ASSERT_GE(findings.size(), 2U);
  EXPECT_EQ(findings.front().severity, Severity::error);
  EXPECT_EQ(findings.back().severity, Severity::advice);
}

}  // namespace
}  // namespace tamlo::check
