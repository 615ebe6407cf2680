# Installs the build tree BUILD and builds the project OUTSIDE against it; then builds OUTSIDE with the sources SOURCES as
# a part of it. Runs what comes out.
set(place ${BUILD}/tests/package)
file(REMOVE_RECURSE ${place})
function(run)
  execute_process(COMMAND ${ARGV} RESULT_VARIABLE result OUTPUT_VARIABLE output ERROR_VARIABLE output)
  if(NOT result EQUAL 0)
    message(FATAL_ERROR "${ARGV}\n${output}")
  endif()
endfunction()
run(${CMAKE_COMMAND} --install ${BUILD} --prefix ${place}/installed)
set(same -DCMAKE_CXX_COMPILER=${CXX} "-DCMAKE_CXX_FLAGS=${FLAGS}")
run(${CMAKE_COMMAND} -G Ninja -S ${OUTSIDE} -B ${place}/build -DCMAKE_PREFIX_PATH=${place}/installed ${same})
run(${CMAKE_COMMAND} --build ${place}/build)
run(${place}/build/outside)
run(${place}/build/with_scene ${SOURCES}/demo/lantern-quay.toml ${place}/quay.png)
# Configuring shows what is asked for and what would be built; the core itself is built often enough.
run(${CMAKE_COMMAND} -G Ninja -S ${OUTSIDE} -B ${place}/part -DSOURCES=${SOURCES} ${same})
run(env PKG_CONFIG_PATH=${place}/installed/${LIB}/pkgconfig pkg-config --static --exists --print-errors ambulon ambulon_scene ambulon_draw)
