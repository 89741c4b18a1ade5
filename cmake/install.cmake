# SPDX-License-Identifier: Apache-2.0
include(CMakePackageConfigHelpers)

set(package_dir ${CMAKE_INSTALL_LIBDIR}/cmake/tamlo)
set(targets tamlo_core)
if(TAMLO_FILES)
  list(APPEND targets tamlo_io tamlo_link tamlo_result tamlo_report)
endif()
install(TARGETS ${targets} EXPORT tamloTargets)
install(EXPORT tamloTargets NAMESPACE tamlo:: DESTINATION ${package_dir})
install(DIRECTORY include/tamlo ${PROJECT_BINARY_DIR}/generated/tamlo TYPE INCLUDE)
configure_package_config_file(cmake/tamloConfig.cmake.in ${PROJECT_BINARY_DIR}/tamloConfig.cmake
                              INSTALL_DESTINATION ${package_dir})
write_basic_package_version_file(${PROJECT_BINARY_DIR}/tamloConfigVersion.cmake
                                 COMPATIBILITY SameMinorVersion)
install(FILES ${PROJECT_BINARY_DIR}/tamloConfig.cmake ${PROJECT_BINARY_DIR}/tamloConfigVersion.cmake
        DESTINATION ${package_dir})
if(TAMLO_TOOL)
  install(TARGETS tamlo_tool)
  install(TARGETS tamlo_page LIBRARY DESTINATION ${CMAKE_INSTALL_LIBDIR}/tamlo)
  if(TARGET tamlo_ranks)
    install(TARGETS tamlo_ranks LIBRARY DESTINATION ${CMAKE_INSTALL_LIBDIR}/tamlo)
  endif()
  install(DIRECTORY ${PROJECT_BINARY_DIR}/share/tamlo TYPE DATA)
  install(DIRECTORY share/start DESTINATION ${CMAKE_INSTALL_DATADIR}/tamlo)
  install(DIRECTORY examples/boards/ DESTINATION ${CMAKE_INSTALL_DATADIR}/tamlo/examples)
  install(FILES demo/board.toml demo/first_unit.toml demo/first_unit.csv demo/readings.csv demo/steady.raw demo/live.toml demo/lines.txt demo/choices.toml DESTINATION ${CMAKE_INSTALL_DATADIR}/tamlo/demo)
endif()
