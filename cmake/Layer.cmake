# metrodos_layer(NAME SOURCES... USES lower layers and packages): one static library for one layer of src/.
function(metrodos_layer name)
  cmake_parse_arguments(LAYER "" "" "SOURCES;USES" ${ARGN})
  add_library(metrodos_${name} STATIC ${LAYER_SOURCES})
  add_library(metrodos::${name} ALIAS metrodos_${name})
  target_include_directories(metrodos_${name} PUBLIC ${PROJECT_SOURCE_DIR}/src)
  target_link_libraries(metrodos_${name} PUBLIC ${LAYER_USES} PRIVATE metrodos_warnings)
endfunction()
