# metrodos_layer(NAME SOURCES... USES lower layers and packages): one static library for one layer of src/.
function(metrodos_layer name)
  cmake_parse_arguments(LAYER "" "" "SOURCES;USES" ${ARGN})
  add_library(metrodos_${name} STATIC ${LAYER_SOURCES})
  add_library(metrodos::${name} ALIAS metrodos_${name})
  target_include_directories(metrodos_${name} PUBLIC ${PROJECT_SOURCE_DIR}/src)
  target_link_libraries(metrodos_${name} PUBLIC ${LAYER_USES} PRIVATE metrodos_warnings)
  # Reading these takes longer than compiling most files does.
  list(LENGTH LAYER_SOURCES count)
  if(count GREATER 7 AND LAYER_USES MATCHES "json|benchmark|probe" AND NOT CMAKE_UNITY_BUILD)
    target_precompile_headers(metrodos_${name} PRIVATE <nlohmann/json.hpp> <functional> <optional> <string> <vector>)
  endif()
endfunction()

# metrodos_glue(TARGET): code that carries things about, where the compiler's time matters more than the program's.
function(metrodos_glue target)
  target_compile_options(${target} PRIVATE $<$<CONFIG:Release>:-O1>)
endfunction()
