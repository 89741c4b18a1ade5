# SPDX-License-Identifier: Apache-2.0
# Debian packages: cpack in the folder of a build (scripts/package). Their dates are those of the commit.
set(CPACK_GENERATOR DEB)
set(CPACK_PACKAGE_NAME tamlo)
set(CPACK_PACKAGE_CONTACT "The Tamlo developers <tamlo@localhost.localdomain>")
set(CPACK_DEBIAN_PACKAGE_MAINTAINER ${CPACK_PACKAGE_CONTACT})
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_STRIP_FILES ON)
set(CPACK_DEB_COMPONENT_INSTALL ON)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(packages tamlo libtamlo-dev)
if(TAMLO_SHARED)
  list(APPEND packages libtamlo2)
  # What the library gives, by name: later packages see by it which version a program needs.
  # Only who packages has the program for it.
  find_program(TAMLO_GENSYMBOLS dpkg-gensymbols)
  set(symbols)
  if(TAMLO_GENSYMBOLS)
    set(symbols ${PROJECT_BINARY_DIR}/symbols)
    add_custom_command(TARGET tamlo_shared POST_BUILD
      COMMAND ${CMAKE_COMMAND} -E rm -f ${symbols}
      COMMAND ${TAMLO_GENSYMBOLS} -plibtamlo2 -v${PROJECT_VERSION} -e$<TARGET_FILE:tamlo_shared> -O${symbols})
  endif()
endif()
set(TAMLO_REFERENCE "" CACHE PATH "Pages of the calls, made by scripts/reference; they become libtamlo-doc")
if(TAMLO_REFERENCE)
  list(APPEND packages libtamlo-doc)
  install(DIRECTORY ${TAMLO_REFERENCE}/ DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/libtamlo-doc/html COMPONENT libtamlo-doc)
  install(DIRECTORY examples/ DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/libtamlo-doc/examples COMPONENT libtamlo-doc
          FILES_MATCHING PATTERN "*.cpp")
endif()
if(TARGET tamlo_ranks)
  list(APPEND packages tamlo-mpi)
endif()
if(TARGET tamlo_python)
  list(APPEND packages python3-tamlo)
endif()
set(CPACK_COMPONENTS_ALL ${packages})
set(CPACK_COMPONENTS_GROUPING ONE_PER_GROUP)

set(CPACK_DEBIAN_TAMLO_PACKAGE_NAME tamlo)
set(CPACK_DEBIAN_TAMLO_PACKAGE_SECTION electronics)
set(CPACK_DEBIAN_TAMLO_PACKAGE_SHLIBDEPS ON)
# Loaded when a command needs them.
set(CPACK_DEBIAN_TAMLO_PACKAGE_RECOMMENDS "gnuplot-nox | gnuplot, libsndfile1, libxlsxwriter4, libmodbus5, libncursesw6, libmuparser2v5")
set(CPACK_DEBIAN_TAMLO_PACKAGE_SUGGESTS "tamlo-mpi")

set(CPACK_DEBIAN_PYTHON3-TAMLO_PACKAGE_NAME python3-tamlo)
set(CPACK_DEBIAN_PYTHON3-TAMLO_PACKAGE_SECTION python)
set(CPACK_DEBIAN_PYTHON3-TAMLO_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_PYTHON3-TAMLO_PACKAGE_DEPENDS "python3 (>= 3.11), python3 (<< 3.12), python3-numpy")
set(CPACK_DEBIAN_PYTHON3-TAMLO_PACKAGE_RECOMMENDS "libmuparser2v5")
# Compiled at the installation, and gone with it.
foreach(script "postinst|py3compile" "prerm|py3clean")
  string(REPLACE "|" ";" script ${script})
  list(POP_FRONT script name)
  set(file ${PROJECT_BINARY_DIR}/python3-tamlo/${name})
  file(WRITE ${file} "#!/bin/sh\nset -e\n${script} -p python3-tamlo\n")
  file(CHMOD ${file} PERMISSIONS OWNER_READ OWNER_WRITE OWNER_EXECUTE GROUP_READ GROUP_EXECUTE WORLD_READ WORLD_EXECUTE)
  list(APPEND CPACK_DEBIAN_PYTHON3-TAMLO_PACKAGE_CONTROL_EXTRA ${file})
endforeach()
set(CPACK_COMPONENT_PYTHON3-TAMLO_DESCRIPTION "Error budgets for analog channels, and their proof on the bench, from
Python: budgets, searches, comparisons, calibrations and records as
objects, with samples as arrays.")

set(CPACK_DEBIAN_TAMLO-MPI_PACKAGE_NAME tamlo-mpi)
set(CPACK_DEBIAN_TAMLO-MPI_PACKAGE_SECTION electronics)
set(CPACK_DEBIAN_TAMLO-MPI_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_TAMLO-MPI_PACKAGE_DEPENDS "tamlo (= ${PROJECT_VERSION}), openmpi-bin")
set(CPACK_COMPONENT_TAMLO-MPI_DESCRIPTION "Lets long searches and proofs of tamlo run on several machines
under mpirun.")
set(CPACK_COMPONENT_TAMLO_DESCRIPTION "From one description of a board: which resolution, reference,
attenuation, rate and filter each channel needs, how wrong its reading can
be, which registers and code the firmware needs, and whether a board does
what its budget said.")

set(CPACK_DEBIAN_LIBTAMLO-DEV_PACKAGE_NAME libtamlo-dev)
set(CPACK_DEBIAN_LIBTAMLO-DEV_PACKAGE_SECTION libdevel)
# The static libraries need fmt, and that of files toml++; no public header needs another's.
set(CPACK_DEBIAN_LIBTAMLO-DEV_PACKAGE_DEPENDS "libfmt-dev (>= 9), libmuparser2v5")
set(CPACK_DEBIAN_LIBTAMLO-DEV_PACKAGE_RECOMMENDS "libtomlplusplus-dev")
if(TAMLO_SHARED)
  string(APPEND CPACK_DEBIAN_LIBTAMLO-DEV_PACKAGE_DEPENDS ", libtamlo2 (= ${PROJECT_VERSION})")
endif()
set(CPACK_COMPONENT_LIBTAMLO-DEV_DESCRIPTION "Headers, static and shared libraries, a CMake package with
components and files for pkg-config: the chain of a channel, its
budget, comparison with a meter, calibration, records, firmware
arithmetic.")

set(CPACK_DEBIAN_LIBTAMLO2_PACKAGE_NAME libtamlo2)
set(CPACK_DEBIAN_LIBTAMLO2_PACKAGE_SECTION libs)
set(CPACK_DEBIAN_LIBTAMLO2_PACKAGE_SHLIBDEPS ON)
file(WRITE ${PROJECT_BINARY_DIR}/shlibs "libtamlo 2 libtamlo2 (>= ${PROJECT_VERSION})\n")
file(WRITE ${PROJECT_BINARY_DIR}/triggers "activate-noawait ldconfig\n")
set(CPACK_DEBIAN_LIBTAMLO2_PACKAGE_CONTROL_EXTRA ${symbols} ${PROJECT_BINARY_DIR}/shlibs ${PROJECT_BINARY_DIR}/triggers)
set(CPACK_DEBIAN_LIBTAMLO2_PACKAGE_RECOMMENDS "libsndfile1, libxlsxwriter4, libmodbus5, libmuparser2v5")
set(CPACK_COMPONENT_LIBTAMLO2_DESCRIPTION "Error budgets for analog channels, and their proof on the bench: the
library, shared.")

set(CPACK_DEBIAN_LIBTAMLO-DOC_PACKAGE_NAME libtamlo-doc)
set(CPACK_DEBIAN_LIBTAMLO-DOC_PACKAGE_SECTION doc)
set(CPACK_DEBIAN_LIBTAMLO-DOC_PACKAGE_ARCHITECTURE all)
set(CPACK_COMPONENT_LIBTAMLO-DOC_DESCRIPTION "Each call of the library: units, shapes, valid range, errors, accuracy
and source; and examples.")

# What Debian expects beside each package.
file(WRITE ${PROJECT_BINARY_DIR}/copyright
"Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/
Upstream-Name: tamlo

Files: *
Copyright: 2026 The Tamlo developers
License: Apache-2.0
 On Debian systems the full text of the Apache License, version 2.0, is in
 /usr/share/common-licenses/Apache-2.0.
")
find_program(gzip gzip REQUIRED)
string(TIMESTAMP day "%a, %d %b %Y %H:%M:%S +0000" UTC)  # of SOURCE_DATE_EPOCH
file(WRITE ${PROJECT_BINARY_DIR}/changelog
"tamlo (${PROJECT_VERSION}) unstable; urgency=medium

  * As CHANGELOG.md of the sources says.

 -- ${CPACK_PACKAGE_CONTACT}  ${day}
")
execute_process(COMMAND ${gzip} -9nc ${PROJECT_BINARY_DIR}/changelog OUTPUT_FILE ${PROJECT_BINARY_DIR}/changelog.gz
                COMMAND_ERROR_IS_FATAL ANY)
foreach(package IN LISTS packages)
  # The project has no address.
  file(WRITE ${PROJECT_BINARY_DIR}/overrides/${package} "${package}: bogus-mail-host *\n${package}: bogus-mail-host-in-debian-changelog *\n")
  install(FILES ${PROJECT_BINARY_DIR}/overrides/${package} DESTINATION ${CMAKE_INSTALL_DATADIR}/lintian/overrides
          COMPONENT ${package})
  install(FILES ${PROJECT_BINARY_DIR}/copyright ${PROJECT_BINARY_DIR}/changelog.gz
          DESTINATION ${CMAKE_INSTALL_DATAROOTDIR}/doc/${package} COMPONENT ${package})
endforeach()
include(CPack)
