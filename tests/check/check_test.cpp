// SPDX-License-Identifier: Apache-2.0
#include "tamlo/check/check.hpp"

#include <gtest/gtest.h>

#include <functional>

#include "boards.hpp"
#include "check/catalogue.hpp"

namespace tamlo::check {
namespace {

const Finding* find(const std::vector<Finding>& findings, const std::string& identifier) {
  for (const auto& finding : findings) {
    if (finding.identifier == identifier) return &finding;
  }
  return nullptr;
}

std::vector<Finding> found_on(const model::Board& board) {
  auto result = check(board, "x");
  for (const auto& quantity : board.quantities) {
    for (auto& finding : check(board, quantity)) result.push_back(std::move(finding));
  }
  return result;
}

TEST(Check, EveryFindingIsRaisedByItsBoardAndNotByItsNeighbour) {
  for (const auto& entry : catalogue) {
    const auto raised = found_on(entry.raises());
    const auto* finding = find(raised, entry.identifier);
    ASSERT_NE(finding, nullptr) << entry.identifier << " " << entry.remedy;
    EXPECT_EQ(finding->severity, entry.severity) << entry.identifier;
    EXPECT_NE(finding->remedy.find(entry.remedy), std::string::npos) << finding->remedy;
    EXPECT_FALSE(finding->found.empty() || finding->why.empty());
    EXPECT_EQ(find(found_on(entry.does_not()), entry.identifier), nullptr)
        << entry.identifier << " " << entry.remedy;
  }
}

// Every remedy that is named was tried on a copy: what does not cure there, or makes a reading less
// certain, is not advised.
TEST(Check, RemediesThatDoNotCureAreNotNamed) {
  // The upper fifth of the range: no gain brings it to more codes without leaving the range.
  const auto high_up = check(board({.span = "2.0..2.4 V"}), "x");
  ASSERT_NE(find(high_up, "range-little-used"), nullptr);
  EXPECT_EQ(find(high_up, "range-little-used")->remedy,
            "take off 2 V before the signal is amplified");
  // With two bits the unused ones are no more than there are.
  const auto tiny = check(board({.bits = 12, .span = "0..0.1 uV"}), "x");
  ASSERT_NE(find(tiny, "range-little-used"), nullptr);
  EXPECT_NE(find(tiny, "range-little-used")->why.find("12 of 12 bits"), std::string::npos);
  // A thermistor of 10 kohm that warms itself: the resistor that moves the pin most would be of
  // 1.7 ohm, and burn it.
  auto heated = board({.span = "0..100 degC"});
  heated.channels.front().sensor = model::Ntc{
      .law = model::Thermistor{.r25 = value("10 kohm ±1 %", "ohm"), .beta = value("3950 K", "K")},
      .dissipation = value("2 mW/K ±20 %", "W/K")};
  heated.channels.front().frontend = {
      model::SensorDivider{.bias_resistor = value("47 kohm ±0.1 %", "ohm"), .supply = "ref"}};
  const auto findings = check(heated, "x");
  if (const auto* advice = find(findings, "bias-resistor")) {
    const auto ohms = std::stod(advice->remedy.substr(advice->remedy.find("about ") + 6));
    EXPECT_GT(ohms, 1.1) << advice->remedy;
    EXPECT_NE(advice->remedy.find("kohm"), std::string::npos) << advice->remedy;
  }
  // All steps round already: rounding is not advised again.
  auto rounded = integers(32, false);
  auto& steps = rounded.channels.front().scaling.integer->steps;
  steps.back().round = true;
  steps.push_back({model::Operation::add, 3});
  for (const auto& finding : check(rounded, "x")) {
    EXPECT_EQ(finding.remedy.find("round = true"), std::string::npos) << finding.remedy;
  }
}

// A curved sensor behind a straight formula: the formula is to blame, and not the integers.
TEST(Check, AFormulaThatDoesNotFollowTheSensorIsNotARounding) {
  auto b = with(
      [&](Board&, Converter&, Channel& of) {
        of.sensor = model::Ntc{
            .law = model::Thermistor{.r25 = value("10 kohm", "ohm"), .beta = value("3950 K", "K")}};
        of.frontend = {
            model::SensorDivider{.bias_resistor = value("10 kohm", "ohm"), .supply = "ref"}};
        // Degrees in tenths, straight through both ends: 10 degC is code 2739, 45 degC 1242.
        of.scaling.integer =
            model::IntegerScaling{.steps = {{model::Operation::add, -2739},
                                            {model::Operation::multiply, -3500},
                                            {model::Operation::divide, 1497 * 10, 0, true},
                                            {model::Operation::add, 100}},
                                  .count = 0.1};
      },
      "10..45 degC");
  const auto findings = check(b, "x");
  EXPECT_EQ(find(findings, "integer-truncation"), nullptr);
  ASSERT_NE(find(findings, "scaling-off"), nullptr);
}

// The leads that a firmware takes off cost what their limits say, not what they are.
TEST(Check, LeadsCostTheirLimits) {
  auto b = platinum(2);
  auto& sensor = std::get<model::Platinum>(*b.channels.front().sensor);
  sensor.lead = value("1 ohm ±0.1 %", "ohm");
  EXPECT_EQ(find(check(b, "x"), "lead-resistance"), nullptr);
  sensor.lead = value("1 ohm ±50 %", "ohm");
  ASSERT_NE(find(check(b, "x"), "lead-resistance"), nullptr);
  EXPECT_NE(find(check(b, "x"), "lead-resistance")->found.find("the limits of the leads"),
            std::string::npos);
}

// The number in a remedy cures: the divider that is proposed raises the finding no more.
TEST(Check, TheProposedDividerCures) {
  const auto findings = check(divided("220 kohm ±1 %"), "x");
  const auto* finding = find(findings, "span-beyond-range");
  ASSERT_NE(finding, nullptr);
  const auto at = finding->remedy.find("at least ");
  const auto top = finding->remedy.substr(at + 9) + " ±1 %";
  const auto cured = check(divided(top.c_str()), "x");
  EXPECT_EQ(find(cured, "span-beyond-range"), nullptr) << top;
  EXPECT_EQ(find(cured, "clips-at-tolerance"), nullptr) << top;
}

TEST(Check, TheGravestComesFirst) {
  auto b = with_limit(board({.span = "0..1.2 V"}), "0..1.0 V");
  const auto findings = check(b, "x");
  ASSERT_GE(findings.size(), 2U);
  EXPECT_EQ(findings.front().severity, Severity::error);
  EXPECT_EQ(findings.back().severity, Severity::advice);
}

}  // namespace
}  // namespace tamlo::check
