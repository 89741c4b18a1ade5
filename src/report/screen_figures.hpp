// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>

namespace tamlo::report {

// The rows of a figure, for a value that is read from across the room.
inline std::array<const char*, 5> rows_of_figure(char c) {
  switch (c) {
    case '0':
      return {"###", "# #", "# #", "# #", "###"};
    case '1':
      return {"  #", "  #", "  #", "  #", "  #"};
    case '2':
      return {"###", "  #", "###", "#  ", "###"};
    case '3':
      return {"###", "  #", "###", "  #", "###"};
    case '4':
      return {"# #", "# #", "###", "  #", "  #"};
    case '5':
      return {"###", "#  ", "###", "  #", "###"};
    case '6':
      return {"###", "#  ", "###", "# #", "###"};
    case '7':
      return {"###", "  #", "  #", "  #", "  #"};
    case '8':
      return {"###", "# #", "###", "# #", "###"};
    case '9':
      return {"###", "# #", "###", "  #", "###"};
    case '-':
      return {"   ", "   ", "###", "   ", "   "};
    case '.':
      return {" ", " ", " ", " ", "#"};
    default:
      return {" ", " ", " ", " ", " "};
  }
}

}  // namespace tamlo::report
