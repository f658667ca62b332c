# metrodos_guest_page(FILE): a source with the text of data/guest/page.html.
function(metrodos_guest_page file)
  set(page ${CMAKE_CURRENT_FUNCTION_LIST_DIR}/../data/guest/page.html)
  set_property(DIRECTORY APPEND PROPERTY CMAKE_CONFIGURE_DEPENDS ${page})
  file(READ ${page} GUEST_PAGE)
  configure_file(${CMAKE_CURRENT_FUNCTION_LIST_DIR}/guest_page.cpp.in ${file} @ONLY)
endfunction()
