include(GNUInstallDirs)
include(CMakePackageConfigHelpers)

install(TARGETS dunefield EXPORT DunefieldTargets ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR})
install(TARGETS dunefield_tool RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR})
install(DIRECTORY ${PROJECT_SOURCE_DIR}/dunefield DESTINATION ${CMAKE_INSTALL_INCLUDEDIR} FILES_MATCHING PATTERN "*.hpp")
install(EXPORT DunefieldTargets NAMESPACE Dunefield:: DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/Dunefield)
configure_package_config_file(${CMAKE_CURRENT_LIST_DIR}/DunefieldConfig.cmake.in ${PROJECT_BINARY_DIR}/DunefieldConfig.cmake
  INSTALL_DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/Dunefield)
write_basic_package_version_file(${PROJECT_BINARY_DIR}/DunefieldConfigVersion.cmake COMPATIBILITY SameMinorVersion)
install(FILES ${PROJECT_BINARY_DIR}/DunefieldConfig.cmake ${PROJECT_BINARY_DIR}/DunefieldConfigVersion.cmake
  DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/Dunefield)
