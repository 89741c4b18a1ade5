# SPDX-License-Identifier: Apache-2.0
add_library(tomlplusplus::tomlplusplus INTERFACE IMPORTED)
target_include_directories(tomlplusplus::tomlplusplus SYSTEM INTERFACE ${TAMLO_CROSS_INCLUDE})
set(tomlplusplus_FOUND TRUE)
