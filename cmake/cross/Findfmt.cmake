# SPDX-License-Identifier: Apache-2.0
add_library(fmt::fmt INTERFACE IMPORTED)
target_compile_definitions(fmt::fmt INTERFACE FMT_HEADER_ONLY)
target_include_directories(fmt::fmt SYSTEM INTERFACE ${TAMLO_CROSS_INCLUDE})
set(fmt_FOUND TRUE)
