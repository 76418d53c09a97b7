set(prefix ${BUILD}/outside)
file(REMOVE_RECURSE ${prefix})
foreach(step
    "${CMAKE_COMMAND};--install;${BUILD};--prefix;${prefix}/installed"
    "${CMAKE_COMMAND};-S;${SOURCE};-B;${prefix}/build;-G;Ninja;-DCMAKE_PREFIX_PATH=${prefix}/installed;-DCMAKE_BUILD_TYPE=Release"
    "${CMAKE_COMMAND};--build;${prefix}/build"
    "${prefix}/build/outside")
  execute_process(COMMAND ${step} RESULT_VARIABLE result OUTPUT_VARIABLE out ERROR_VARIABLE out)
  if(NOT result EQUAL 0)
    message(FATAL_ERROR "${step}\n${out}")
  endif()
endforeach()
