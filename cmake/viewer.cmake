# The page's 3-D view is TypeScript, bundled by Node.js (18 or later) and built into the library.
# Without Node.js, or without its packages, the library is whole but for that view.
option(DUNEFIELD_VIEWER "Build the page's 3-D view (needs Node.js)" ON)
set(DUNEFIELD_VIEWER_BUNDLE "")
set(viewer ${PROJECT_SOURCE_DIR}/viewer)
find_program(NODE_PROGRAM NAMES node nodejs)
find_program(NPM_PROGRAM npm)

if(DUNEFIELD_VIEWER AND NODE_PROGRAM AND NPM_PROGRAM)
  set(installed ${viewer}/node_modules/.package-lock.json)
  if(NOT EXISTS ${installed} OR ${viewer}/package-lock.json IS_NEWER_THAN ${installed})
    message(STATUS "Installing the packages of the 3-D view")
    execute_process(COMMAND ${NPM_PROGRAM} ci --ignore-scripts --no-audit --no-fund
      WORKING_DIRECTORY ${viewer} RESULT_VARIABLE failed OUTPUT_QUIET ERROR_VARIABLE why)
    file(TOUCH_NOCREATE ${installed})
  endif()
  if(failed)
    message(WARNING "The report's 3-D view is left out, its packages cannot be installed: ${why}")
  else()
    set(DUNEFIELD_VIEWER_BUNDLE ${PROJECT_BINARY_DIR}/viewer/viewer.js)
    file(GLOB viewer_sources CONFIGURE_DEPENDS ${viewer}/src/*.ts)
    add_custom_command(OUTPUT ${DUNEFIELD_VIEWER_BUNDLE}
      COMMAND ${NODE_PROGRAM} build.mjs ${PROJECT_BINARY_DIR}/viewer
      DEPENDS ${viewer_sources} ${viewer}/build.mjs ${viewer}/package-lock.json
      WORKING_DIRECTORY ${viewer} COMMENT "Bundling the 3-D view" VERBATIM)
    add_custom_target(dunefield_viewer DEPENDS ${DUNEFIELD_VIEWER_BUNDLE})
  endif()
elseif(DUNEFIELD_VIEWER)
  message(STATUS "Node.js is not installed: the report's 3-D view is left out")
endif()
