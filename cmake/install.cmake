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

# Packages: `cpack --config build/release/CPackConfig.cmake` makes both.
set(CPACK_GENERATOR TGZ DEB)
set(CPACK_PACKAGE_NAME dunefield)
set(CPACK_PACKAGE_CONTACT "Dunefield")
set(CPACK_PACKAGE_DESCRIPTION_SUMMARY "${PROJECT_DESCRIPTION}")
set(CPACK_RESOURCE_FILE_LICENSE ${PROJECT_SOURCE_DIR}/LICENSE)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS ON)
set(CPACK_PACKAGE_DIRECTORY ${PROJECT_BINARY_DIR}/packages)
include(CPack)
