# Warnings are errors in our own code; packages are included as system headers.
add_library(metrodos_warnings INTERFACE)
target_compile_options(metrodos_warnings INTERFACE -Wall -Wextra -Wpedantic -Wconversion
  $<$<CXX_COMPILER_ID:GNU>:-Werror>
  # Several files compiled as one: each still has its own anonymous namespace in mind.
  $<$<AND:$<CXX_COMPILER_ID:GNU>,$<BOOL:${CMAKE_UNITY_BUILD}>>:-Wno-subobject-linkage>)
