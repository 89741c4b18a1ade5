# SPDX-License-Identifier: Apache-2.0
# The core on arm64, by Debian's cross compiler and user-mode emulation (scripts/prove arm64). Of the
# libraries only headers are taken, from a folder of links: TAMLO_CROSS_INCLUDE.
set(CMAKE_SYSTEM_NAME Linux)
set(CMAKE_SYSTEM_PROCESSOR aarch64)
set(CMAKE_CXX_COMPILER aarch64-linux-gnu-g++)
set(CMAKE_CROSSCOMPILING_EMULATOR qemu-aarch64;-L;/usr/aarch64-linux-gnu)
list(APPEND CMAKE_MODULE_PATH ${CMAKE_CURRENT_LIST_DIR})
list(APPEND CMAKE_INCLUDE_PATH ${TAMLO_CROSS_INCLUDE})
