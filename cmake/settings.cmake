# SPDX-License-Identifier: Apache-2.0
# What every target of the project shares. Nothing here reaches a consumer, apart from the standard.

add_library(tamlo_settings INTERFACE)
target_compile_features(tamlo_settings INTERFACE cxx_std_20)
# The same objects serve programs, static and shared libraries; of a shared one others see what a public header
# declares (tamlo/export.hpp), and nothing of it is put in another's place.
set(CMAKE_POSITION_INDEPENDENT_CODE ON)
target_compile_options(tamlo_settings INTERFACE -fvisibility=hidden -fvisibility-inlines-hidden
                       $<$<CXX_COMPILER_ID:GNU>:-fno-semantic-interposition>)
# What the compiler writes of paths, in messages and for debuggers, is the same wherever the tree lies.
target_compile_options(tamlo_settings INTERFACE -ffile-prefix-map=${PROJECT_SOURCE_DIR}=. -ffile-prefix-map=${PROJECT_BINARY_DIR}=.)
# A room at a time is much to read: the compiler frees memory less often.
target_compile_options(tamlo_settings INTERFACE $<$<CXX_COMPILER_ID:GNU>:--param=ggc-min-heapsize=700000>)
# Reproducible to the bit on every instruction set: no contraction of a*b+c.
target_compile_options(tamlo_settings INTERFACE -ffp-contract=off)
# On Windows g++ 12 keeps values in registers over calls of its own copy of an inline function, and the linker may take
# another copy, which does not spare them.
if(WIN32)
  target_compile_options(tamlo_settings INTERFACE $<$<CXX_COMPILER_ID:GNU>:-fno-ipa-ra>)
endif()
if(TAMLO_X86_KERNELS)
  target_compile_definitions(tamlo_settings INTERFACE TAMLO_X86_KERNELS)
endif()
if(TAMLO_WARNINGS)
  target_compile_options(tamlo_settings INTERFACE -Wall -Wextra -Wpedantic -Wshadow -Wconversion)
  # g++ 12 sees an overlap in std::string's own operator+ (its bug 105651).
  target_compile_options(tamlo_settings INTERFACE $<$<CXX_COMPILER_ID:GNU>:-Wno-restrict>)
endif()
# A compiler cache is taken where there is one.
find_program(TAMLO_CCACHE ccache)
if(TAMLO_CCACHE AND PROJECT_IS_TOP_LEVEL AND NOT CMAKE_CXX_COMPILER_LAUNCHER)
  set(CMAKE_CXX_COMPILER_LAUNCHER ${TAMLO_CCACHE})
endif()
if(TAMLO_SANITIZE)
  set(flags -fsanitize=address,undefined -fno-sanitize=null,object-size -fno-sanitize-recover=all
      -fno-omit-frame-pointer)
  if(TAMLO_PLAIN_CORE)  # in a hurry: these find least of all, and take a quarter of the compiler's time
    list(APPEND flags -fno-sanitize=alignment,pointer-overflow,vptr)
  endif()
  # Instrumented, std::regex looks uninitialised to g++ 12.
  target_compile_options(tamlo_settings INTERFACE ${flags}
                         $<$<CXX_COMPILER_ID:GNU>:-Wno-maybe-uninitialized>)
  target_link_options(tamlo_settings INTERFACE ${flags})
endif()

# The rooms of the core that read bytes or hold much memory. With TAMLO_PLAIN_CORE they alone are built.
set(TAMLO_READS_BYTES "^src/(quantity|model|signal|record|firmware)/")

# For what puts words together and is never waited for: less of the optimiser. It changes no figure.
set(TAMLO_LIGHT $<$<CONFIG:Release>:-Og>)

# tamlo_rooms(<target> <sources>...): where CMAKE_UNITY_BUILD is on, the sources of a folder are compiled as one.
# What they include is then read once, and what many of them make, such as copies of a board, is made once.
function(tamlo_rooms target)
  set_target_properties(${target} PROPERTIES UNITY_BUILD_MODE GROUP)
  foreach(source ${ARGN})
    cmake_path(GET source PARENT_PATH folder)
    cmake_path(GET folder FILENAME room)
    set_source_files_properties(${source} PROPERTIES UNITY_GROUP "${room}")
    if(source MATCHES "_windows.cpp$")  # its headers define words such as "near"
      set_source_files_properties(${source} PROPERTIES SKIP_UNITY_BUILD_INCLUSION ON)
    endif()
  endforeach()
endfunction()

# tamlo_precompile(<target> <headers>...): where files are compiled one by one, what none of our changes
# touches is read once.
function(tamlo_precompile target)
  if(TAMLO_PRECOMPILE)
    target_precompile_headers(${target} PRIVATE ${ARGN})
    # With them g++ 12 sees writes beyond short strings that are none.
    target_compile_options(${target} PRIVATE $<$<CXX_COMPILER_ID:GNU>:-Wno-stringop-overflow>)
  endif()
endfunction()

# tamlo_library(<name> <sources>... [LIGHT <sources>...]): the library tamlo_<name>, static unless BUILD_SHARED_LIBS, alias tamlo::<name>.
function(tamlo_library name)
  cmake_parse_arguments(PARSE_ARGV 1 arg "" "" LIGHT)
  if(TAMLO_PLAIN_CORE AND name STREQUAL core)
    list(FILTER arg_UNPARSED_ARGUMENTS INCLUDE REGEX "${TAMLO_READS_BYTES}")
    list(FILTER arg_LIGHT INCLUDE REGEX "${TAMLO_READS_BYTES}")
  endif()
  add_library(tamlo_${name} ${arg_UNPARSED_ARGUMENTS})
  add_library(tamlo::${name} ALIAS tamlo_${name})
  set_target_properties(tamlo_${name} PROPERTIES EXPORT_NAME ${name})
  tamlo_sources(tamlo_${name} ${arg_UNPARSED_ARGUMENTS})
  target_include_directories(tamlo_${name} PRIVATE ${PROJECT_SOURCE_DIR}/src)
  set(includes $<BUILD_INTERFACE:${PROJECT_SOURCE_DIR}/include> $<BUILD_INTERFACE:${PROJECT_BINARY_DIR}/generated>)
  target_include_directories(tamlo_${name} PUBLIC ${includes} $<INSTALL_INTERFACE:${CMAKE_INSTALL_INCLUDEDIR}>)
  if(arg_LIGHT)
    add_library(tamlo_${name}_light OBJECT ${arg_LIGHT})
    tamlo_sources(tamlo_${name}_light ${arg_LIGHT})
    foreach(source ${arg_LIGHT})
      set(group others)
      if(source MATCHES "${TAMLO_READS_BYTES}")
        set(group reads_bytes)
      endif()
      set_source_files_properties(${source} PROPERTIES UNITY_GROUP ${group})
    endforeach()
    target_link_libraries(tamlo_${name}_light PRIVATE $<GENEX_EVAL:$<TARGET_PROPERTY:tamlo_${name},LINK_LIBRARIES>>)
    target_include_directories(tamlo_${name}_light PRIVATE ${includes} ${PROJECT_SOURCE_DIR}/src)
    target_compile_options(tamlo_${name}_light PRIVATE ${TAMLO_LIGHT})
    target_sources(tamlo_${name} PRIVATE $<TARGET_OBJECTS:tamlo_${name}_light>)
  endif()
endfunction()

function(tamlo_sources target)
  target_compile_features(${target} PUBLIC cxx_std_20)
  target_link_libraries(${target} PRIVATE $<BUILD_INTERFACE:tamlo_settings>)
  tamlo_rooms(${target} ${ARGN})
  tamlo_precompile(${target} <fmt/format.h> <algorithm> <cmath> <functional> <optional> <string> <variant> <vector>)
endfunction()

# tamlo_kernels(<library> <sources>...): loops that are compiled once for each set of instructions, in the
# namespace TAMLO_SET, for vectors of TAMLO_WIDTH doubles; which of them runs is chosen on the machine. Without
# TAMLO_X86_KERNELS the base alone, by what the compiler makes of vectors.
# The two options of arithmetic change no result: they let the compiler take several elements at once.
function(tamlo_kernels name)
  set(sets "base|2|")
  if(TAMLO_X86_KERNELS)
    set(sets "base|2|-msse2" "avx2|4|-mavx2" "avx512|8|-mavx512f -mavx512dq -mavx512bw -mprefer-vector-width=512")
  endif()
  set(kernels ${ARGN})
  if(TAMLO_PLAIN_CORE)
    list(FILTER kernels INCLUDE REGEX "${TAMLO_READS_BYTES}")
  endif()
  foreach(set_width_flags IN LISTS sets)
    string(REPLACE "|" ";" parts "${set_width_flags}")
    list(GET parts 0 set)
    list(GET parts 1 width)
    list(LENGTH parts length)
    set(flags "")
    if(length GREATER 2)
      list(GET parts 2 flags)
    endif()
    separate_arguments(flags)
    add_library(tamlo_${name}_${set} OBJECT ${kernels})
    target_compile_options(tamlo_${name}_${set} PRIVATE -O3 -fno-math-errno -fno-trapping-math ${flags})
    target_compile_definitions(tamlo_${name}_${set} PRIVATE TAMLO_SET=${set} TAMLO_WIDTH=${width})
    target_include_directories(tamlo_${name}_${set} PRIVATE ${PROJECT_SOURCE_DIR}/include ${PROJECT_SOURCE_DIR}/src)
    target_link_libraries(tamlo_${name}_${set} PRIVATE tamlo_settings fmt::fmt)
    set_target_properties(tamlo_${name}_${set} PROPERTIES UNITY_BUILD OFF)
    target_sources(tamlo_${name} PRIVATE $<TARGET_OBJECTS:tamlo_${name}_${set}>)
  endforeach()
endfunction()
