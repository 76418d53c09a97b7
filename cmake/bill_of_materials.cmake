# Writes what the program is linked with: bill-of-materials.json in the build folder, in the open
# format CycloneDX 1.5.
set(cgns_version "")
if(EXISTS "${CGNS_INCLUDE}/cgnslib.h")
  file(STRINGS "${CGNS_INCLUDE}/cgnslib.h" cgns_line REGEX "define CGNS_DOTVERS")
  string(REGEX MATCH "[0-9]+\\.[0-9]+" cgns_version "${cgns_line}")
endif()

set(bill "")
function(bill_add name version)
  if(NOT version)
    set(version "unknown")
  endif()
  string(APPEND bill ",\n    {\"type\": \"library\", \"name\": \"${name}\", \"version\": \"${version}\"}")
  set(bill "${bill}" PARENT_SCOPE)
endfunction()

bill_add(eigen "${Eigen3_VERSION}")
bill_add(fmt "${fmt_VERSION}")
bill_add(embree "${embree_VERSION}")
bill_add(nlohmann-json "${nlohmann_json_VERSION}")
bill_add(zlib "${ZLIB_VERSION_STRING}")
bill_add(pugixml "${pugixml_VERSION}")
bill_add(meshoptimizer "${meshoptimizer_VERSION}")
bill_add(cgns "${cgns_version}")
foreach(package Cairo Toml XxHash Sqlite MuParser NLopt HttpServer GLib)
  set(version "${${package}_VERSION}")
  string(TOLOWER "${package}" name)
  foreach(pair "toml=tomlplusplus" "httpserver=cpp-httplib" "glib=glib-2.0" "cairo=pangocairo")
    string(REGEX REPLACE "^${name}=(.*)$" "\\1" renamed "${pair}")
    if(NOT renamed STREQUAL pair)
      set(name "${renamed}")
    endif()
  endforeach()
  if(NOT version AND ${package}_pangocairo_VERSION)
    set(version "${${package}_pangocairo_VERSION}")
  endif()
  bill_add("${name}" "${version}")
endforeach()
if(OpenCASCADE_FOUND)
  bill_add(opencascade "${OpenCASCADE_VERSION}")
endif()
if(Assimp_FOUND)
  bill_add(assimp "${Assimp_VERSION}")
  bill_add(minizip "${Minizip_VERSION}")
endif()
if(MPI_CXX_FOUND)
  bill_add(mpi "${MPI_CXX_VERSION}")
endif()

# What is bundled into the pages.
file(READ "${PROJECT_SOURCE_DIR}/viewer/package.json" package_json)
string(JSON packages ERROR_VARIABLE none GET "${package_json}" dependencies)
if(NOT none)
  string(JSON count LENGTH "${packages}")
  math(EXPR last "${count} - 1")
  foreach(i RANGE ${last})
    string(JSON name MEMBER "${packages}" ${i})
    string(JSON version GET "${packages}" "${name}")
    bill_add("${name}" "${version}")
  endforeach()
endif()

string(REGEX REPLACE "^,\n" "" bill "${bill}")
file(CONFIGURE OUTPUT "${PROJECT_BINARY_DIR}/bill-of-materials.json" CONTENT
"{
  \"bomFormat\": \"CycloneDX\",
  \"specVersion\": \"1.5\",
  \"version\": 1,
  \"metadata\": {
    \"component\": {\"type\": \"application\", \"name\": \"dunefield\", \"version\": \"${PROJECT_VERSION}\"}
  },
  \"components\": [
${bill}
  ]
}
" @ONLY)
