# Installs the build tree BUILD, builds the project OUTSIDE against it, and runs what comes out.
set(place ${BUILD}/tests/package)
file(REMOVE_RECURSE ${place})
function(run)
  execute_process(COMMAND ${ARGV} RESULT_VARIABLE result OUTPUT_VARIABLE output ERROR_VARIABLE output)
  if(NOT result EQUAL 0)
    message(FATAL_ERROR "${ARGV}\n${output}")
  endif()
endfunction()
run(${CMAKE_COMMAND} --install ${BUILD} --prefix ${place}/installed)
run(${CMAKE_COMMAND} -G Ninja -S ${OUTSIDE} -B ${place}/build -DCMAKE_PREFIX_PATH=${place}/installed
    -DCMAKE_CXX_COMPILER=${CXX} "-DCMAKE_CXX_FLAGS=${FLAGS}")
run(${CMAKE_COMMAND} --build ${place}/build)
run(${place}/build/outside)
