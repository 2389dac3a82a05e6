# Tests by suite: one process for each suite, and for each engine of a suite that runs on several. Starting a program
# that is built with the sanitizers takes about as long as a test does.

# tests_by_suite(TARGET [WITHOUT FILTER] [ENVIRONMENT NAME=VALUE…])
function(tests_by_suite target)
  cmake_parse_arguments(given "" "WITHOUT" "ENVIRONMENT" ${ARGN})
  # Which suites there are is known when the tests are run.
  set(listing ${CMAKE_CURRENT_BINARY_DIR}/${target}_by_suite.cmake)
  file(GENERATE OUTPUT ${listing} CONTENT
"set(program [==[$<TARGET_FILE:${target}>]==])
set(without [==[${given_WITHOUT}]==])
set(environment [==[${given_ENVIRONMENT}]==])
include([==[${CMAKE_CURRENT_FUNCTION_LIST_DIR}/list_suites.cmake]==])
")
  set_property(DIRECTORY APPEND PROPERTY TEST_INCLUDE_FILES ${listing})
endfunction()
