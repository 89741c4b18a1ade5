# SPDX-License-Identifier: Apache-2.0
add_library(Boost::headers INTERFACE IMPORTED)
target_include_directories(Boost::headers SYSTEM INTERFACE ${TAMLO_CROSS_INCLUDE})
set(Boost_FOUND TRUE)
