# SPDX-License-Identifier: Apache-2.0
# Built from Debian's sources, for the other machine.
add_subdirectory(/usr/src/googletest/googletest ${CMAKE_BINARY_DIR}/googletest EXCLUDE_FROM_ALL)
set(GTest_FOUND TRUE)
