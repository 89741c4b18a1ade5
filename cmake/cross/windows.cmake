# SPDX-License-Identifier: Apache-2.0
# Windows of 64 bits, by Debian's cross compiler, run by wine (scripts/prove windows). Of the libraries only headers
# are taken, from a folder of links: TAMLO_CROSS_INCLUDE. What is built needs no library beside it.
set(CMAKE_SYSTEM_NAME Windows)
set(CMAKE_SYSTEM_PROCESSOR AMD64)
set(CMAKE_C_COMPILER x86_64-w64-mingw32-gcc-posix)
set(CMAKE_CXX_COMPILER x86_64-w64-mingw32-g++-posix)
set(CMAKE_CXX_STANDARD_LIBRARIES "-static")
set(CMAKE_CROSSCOMPILING_EMULATOR wine)
list(APPEND CMAKE_MODULE_PATH ${CMAKE_CURRENT_LIST_DIR})
list(APPEND CMAKE_INCLUDE_PATH ${TAMLO_CROSS_INCLUDE})
