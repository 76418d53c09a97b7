# Release builds carry the usual guards, and two builds of one commit give the same bytes wherever
# they are made.
set(CMAKE_POSITION_INDEPENDENT_CODE ON)
include(CheckPIESupported)
check_pie_supported(LANGUAGES CXX)

set(hardened $<AND:$<CONFIG:Release>,$<CXX_COMPILER_ID:GNU,Clang>>)
add_compile_options(
  "$<${hardened}:-fstack-protector-strong;-fstack-clash-protection>"
  "$<${hardened}:-U_FORTIFY_SOURCE;-D_FORTIFY_SOURCE=2>"
  "-ffile-prefix-map=${PROJECT_BINARY_DIR}=build;-ffile-prefix-map=${PROJECT_SOURCE_DIR}=.")
if(CMAKE_SYSTEM_PROCESSOR STREQUAL "x86_64")
  add_compile_options("$<${hardened}:-fcf-protection>")
endif()
add_link_options("$<${hardened}:LINKER:-z,relro,-z,now>")
