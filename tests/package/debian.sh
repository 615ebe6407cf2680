#!/usr/bin/env bash
# Makes the Debian packages of a shared build, unpacks them into a scratch root, and uses them there: a project outside
# builds against the shared libraries, and the tool, if it was built, plays a scene. `debian.sh BUILD`, a folder of the
# preset `debian` or `packages`.
set -euo pipefail
build=$(realpath "$1")
sources=$(realpath "$(dirname "$0")/../..")
rm -rf "$build/packages" "$build/root" "$build/outside"
(cd "$build" && cpack -B packages >/dev/null)
for package in "$build"/packages/*.deb; do dpkg-deb -x "$package" "$build/root"; done
library=$(echo "$build"/root/usr/lib/*/)
export LD_LIBRARY_PATH=$library
if [[ -x $build/root/usr/bin/ambulon ]]; then "$build/root/usr/bin/ambulon" run "$sources/demo/ferry.toml" >/dev/null; fi
cmake -G Ninja -S "$sources/tests/package" -B "$build/outside" -DCMAKE_PREFIX_PATH="$build/root/usr" >/dev/null
cmake --build "$build/outside" >/dev/null
"$build/outside/outside"
"$build/outside/with_scene" "$sources/demo/ferry.toml" "$build/ferry.png"
# Nothing of the packages that the core is built with is asked of its users, and nothing internal is visible.
if readelf -d "$library/libambulon.so" | grep -E "SONAME" | grep -qv "libambulon.so.1"; then exit 1; fi
if nm -DC --defined-only "$library/libambulon.so" | grep -E "ClipperLib|ambulon::Surveyor|ambulon::World::Impl" >&2; then
  echo "the library shows what it is made of" >&2
  exit 1
fi
echo "the packages work: $(cd "$build/packages" && ls *.deb | tr '\n' ' ')"
