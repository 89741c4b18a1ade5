# SPDX-License-Identifier: Apache-2.0
add_library(Eigen3::Eigen INTERFACE IMPORTED)
target_include_directories(Eigen3::Eigen SYSTEM INTERFACE ${TAMLO_CROSS_INCLUDE}/eigen3)
set(Eigen3_FOUND TRUE)
