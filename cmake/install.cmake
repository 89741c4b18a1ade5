# SPDX-License-Identifier: Apache-2.0
include(CMakePackageConfigHelpers)

set(package_dir ${CMAKE_INSTALL_LIBDIR}/cmake/tamlo)
# A component is what find_package(tamlo COMPONENTS ...) may ask for: a user of the core needs nothing of the others.
set(components ${TAMLO_LIBRARIES})
if(TAMLO_SHARED)
  list(APPEND components shared)
endif()
foreach(component IN LISTS components)
  install(TARGETS tamlo_${component} EXPORT tamlo_${component}
          ARCHIVE COMPONENT libtamlo-dev
          LIBRARY COMPONENT libtamlo2 NAMELINK_COMPONENT libtamlo-dev)
  install(EXPORT tamlo_${component} NAMESPACE tamlo:: FILE tamlo-${component}.cmake DESTINATION ${package_dir}
          COMPONENT libtamlo-dev)
endforeach()
foreach(component_file "core|tamlo-core.pc" "shared|tamlo.pc")
  string(REPLACE "|" ";" component_file "${component_file}")
  list(POP_FRONT component_file component)
  if(component IN_LIST components)
    configure_file(cmake/${component_file}.in ${PROJECT_BINARY_DIR}/${component_file} @ONLY)
    install(FILES ${PROJECT_BINARY_DIR}/${component_file} DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig
            COMPONENT libtamlo-dev)
  endif()
endforeach()
install(DIRECTORY include/tamlo TYPE INCLUDE COMPONENT libtamlo-dev)
install(FILES ${PROJECT_BINARY_DIR}/generated/tamlo/version.hpp DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/tamlo COMPONENT libtamlo-dev)
configure_package_config_file(cmake/tamloConfig.cmake.in ${PROJECT_BINARY_DIR}/tamloConfig.cmake
                              INSTALL_DESTINATION ${package_dir})
write_basic_package_version_file(${PROJECT_BINARY_DIR}/tamloConfigVersion.cmake
                                 COMPATIBILITY SameMinorVersion)
install(FILES ${PROJECT_BINARY_DIR}/tamloConfig.cmake ${PROJECT_BINARY_DIR}/tamloConfigVersion.cmake
        DESTINATION ${package_dir} COMPONENT libtamlo-dev)
if(TAMLO_TOOL)
  install(TARGETS tamlo_tool COMPONENT tamlo)
  if(TARGET tamlo_page)
    install(TARGETS tamlo_page LIBRARY DESTINATION ${CMAKE_INSTALL_LIBDIR}/tamlo COMPONENT tamlo)
  endif()
  if(TARGET tamlo_ranks)
    install(TARGETS tamlo_ranks LIBRARY DESTINATION ${CMAKE_INSTALL_LIBDIR}/tamlo COMPONENT tamlo-mpi)
  endif()
  install(DIRECTORY ${PROJECT_BINARY_DIR}/share/tamlo TYPE DATA COMPONENT tamlo)
  if(TARGET tamlo_manual)
    install(DIRECTORY ${PROJECT_BINARY_DIR}/share/man/man1 ${PROJECT_BINARY_DIR}/share/man/man5
            DESTINATION ${CMAKE_INSTALL_MANDIR} COMPONENT tamlo FILES_MATCHING PATTERN "*.gz")
    set(completion ${PROJECT_BINARY_DIR}/share/completion)
    install(FILES ${completion}/tamlo.bash DESTINATION ${CMAKE_INSTALL_DATADIR}/bash-completion/completions RENAME tamlo COMPONENT tamlo)
    install(FILES ${completion}/tamlo.zsh DESTINATION ${CMAKE_INSTALL_DATADIR}/zsh/vendor-completions RENAME _tamlo COMPONENT tamlo)
    install(FILES ${completion}/tamlo.fish DESTINATION ${CMAKE_INSTALL_DATADIR}/fish/vendor_completions.d COMPONENT tamlo)
  endif()
  install(DIRECTORY share/parts DESTINATION ${CMAKE_INSTALL_DATADIR}/tamlo COMPONENT tamlo)
  install(DIRECTORY share/start DESTINATION ${CMAKE_INSTALL_DATADIR}/tamlo COMPONENT tamlo)
  install(DIRECTORY examples/boards/ DESTINATION ${CMAKE_INSTALL_DATADIR}/tamlo/examples COMPONENT tamlo)
  install(DIRECTORY examples/maps DESTINATION ${CMAKE_INSTALL_DATADIR}/tamlo/examples COMPONENT tamlo)
  install(DIRECTORY demo DESTINATION ${CMAKE_INSTALL_DATADIR}/tamlo COMPONENT tamlo PATTERN make_data EXCLUDE)
  install(FILES README.md DESTINATION ${CMAKE_INSTALL_DATAROOTDIR}/doc/tamlo COMPONENT tamlo)
endif()

if(PROJECT_IS_TOP_LEVEL AND TAMLO_TOOL)
  include(cmake/packages.cmake)
endif()
