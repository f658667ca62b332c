# metrodos_text(FILE HEADER FUNCTION SOURCE): a source that returns the text of FILE, a path under data/, from the function of layer
# probe that HEADER declares: for what has to be there where no data is, in an agent of one file.
function(metrodos_text file header function source)
  set(path ${CMAKE_CURRENT_FUNCTION_LIST_DIR}/../data/${file})
  set_property(DIRECTORY APPEND PROPERTY CMAKE_CONFIGURE_DEPENDS ${path})
  file(READ ${path} TEXT)
  configure_file(${CMAKE_CURRENT_FUNCTION_LIST_DIR}/text.cpp.in ${source} @ONLY)
endfunction()
