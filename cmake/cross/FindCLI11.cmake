# SPDX-License-Identifier: Apache-2.0
add_library(CLI11::CLI11 INTERFACE IMPORTED)
target_include_directories(CLI11::CLI11 SYSTEM INTERFACE ${TAMLO_CROSS_INCLUDE})
set(CLI11_FOUND TRUE)
