// SPDX-License-Identifier: Apache-2.0
#pragma once

/// The door: the calls of the job, in its order. Headers that are in no folder `detail` are
/// promised to users; a source that needs one call alone includes its header.
///
/// | step | call | library |
/// |---|---|---|
/// | load a board, or describe it (quantity/in_code.hpp) | io::load_board | tamlo::io |
/// | is it sound? | check::check | tamlo::core |
/// | one channel of it | chain::build | tamlo::core |
/// | how wrong can its reading be? | budget::evaluate | tamlo::core |
/// | which parts and settings meet the target? | explore::explore | tamlo::core |
/// | integers for the firmware, and their C | firmware::plan, firmware::c_code | tamlo::core |
/// | readings beside a meter | meter::compare, meter::diagnose | tamlo::core |
/// | a correction, and what it leaves | meter::calibrate | tamlo::core |
/// | captured samples | record::judge | tamlo::core |
/// | any result as JSON, CSV or Markdown | result::write | tamlo::result |
#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/explore/explore.hpp"
#include "tamlo/firmware/c_code.hpp"
#include "tamlo/firmware/plan.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/meter/calibrate.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/diagnose.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/model/validate.hpp"
#include "tamlo/quantity/in_code.hpp"
#include "tamlo/record/verdict.hpp"
#include "tamlo/result/results.hpp"
