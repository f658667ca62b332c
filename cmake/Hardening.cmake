# What is shipped is built so that a fault in it is harder to use. Builds for tests and sanitizers are not: they shall see
# faults as they are. Position-independent executables are the compiler's default in Debian; scripts/check-hardened looks.
set(METRODOS_HARDENED -fstack-protector-strong -fstack-clash-protection -U_FORTIFY_SOURCE -D_FORTIFY_SOURCE=2 -D_GLIBCXX_ASSERTIONS)
if(CMAKE_SYSTEM_PROCESSOR MATCHES "x86_64|AMD64|i.86")
  list(APPEND METRODOS_HARDENED -fcf-protection=full)
elseif(CMAKE_SYSTEM_PROCESSOR MATCHES "aarch64|arm64")
  list(APPEND METRODOS_HARDENED -mbranch-protection=standard)
endif()
foreach(option ${METRODOS_HARDENED})
  add_compile_options($<$<CONFIG:Release>:${option}>)
endforeach()
add_link_options($<$<CONFIG:Release>:-Wl,-z,relro,-z,now,-z,noexecstack>)
