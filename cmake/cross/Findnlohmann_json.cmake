# SPDX-License-Identifier: Apache-2.0
add_library(nlohmann_json::nlohmann_json INTERFACE IMPORTED)
target_include_directories(nlohmann_json::nlohmann_json SYSTEM INTERFACE ${TAMLO_CROSS_INCLUDE})
set(nlohmann_json_FOUND TRUE)
