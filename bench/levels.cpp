// Levels of overlapping solids, floors in misaligned pieces, slopes and storeys, from 10,000 to 1,000,000
// triangles. The cost per square metre must not depend on the size. Baseline of the last column: the smallest
// level of the same run. `bench_levels [triangles]`.

#include <algorithm>
#include <chrono>
#include <cstdlib>

#include <fmt/format.h>

#include "ambulon/base/random.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/dvec2.hpp"
#include "base/tbb_jobs.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "seam_oracle.hpp"
#include "solid.hpp"

namespace ambulon::bench {
namespace {

constexpr float block_size = 10;  // metres

class Drawn final : public Choices {
 public:
  int whole(int min, int end) override {
    return min + static_cast<int>(random_.fraction() * static_cast<float>(end - min));
  }

 private:
  Random random_{11};
};

/// Appends a level, translated.
void add(Level& level, const Level& block, vec3 moved) {
  const auto first = static_cast<std::uint32_t>(level.corners.size());
  for (const vec3 corner : block.corners) level.corners.push_back(corner + moved);
  for (Level::Triangle triangle : block.triangles) {
    for (std::uint32_t& corner : triangle.corners) corner += first;
    level.triangles.push_back(triangle);
  }
}

/// A floor in pieces with solids on it, and on some of them a storey with a ramp.
Level block(Choices& choose) {
  Slabs floor;
  for (int y = 0; y < 4; ++y)
    for (int x = 0; x < 4; ++x) {
      const dvec2 low(2.5 * x, 2.5 * y);
      floor.slabs.push_back({low, low + dvec2(2.5, 0), low + 2.5, low + dvec2(0, 2.5)});
    }
  Level level;
  const Level pieces = cut_up(choose, floor, 1e-3, 0.0);
  add(level, pieces, {0, 0, -1.5f});  // their height is 1.5 m
  const auto turn = [&](std::size_t count) { return choose.index(count); };
  for (const Solid& solid : random_solids(choose)) add_solid(level, solid, turn);
  if (choose.whole(0, 3) == 0) {
    add_solid(level, between_rings(rectangle({7, 5, 2.8}, 6, 6, 0), rectangle({7, 5, 3}, 6, 6, 0)), turn);
    add_solid(level, wedge({1, 5, 0}, 6, 1.6, 3, 0), turn);
  }
  return level;
}

Level soup(std::size_t triangles) {
  Drawn choose;
  Level level;
  // The blocks lie in rings around the first, so that the level is square at any size.
  for (int ring = 0; level.triangles.size() < triangles; ++ring)
    for (int i = 0; i < std::max(1, 2 * ring); ++i) {
      const vec2 at = i < ring ? vec2(ring, i) : vec2(i - ring, ring);
      add(level, block(choose), lift(block_size * at));
      if (ring > 0 && i + 1 == 2 * ring) add(level, block(choose), lift(block_size * vec2(ring, ring)));
    }
  return level;
}

double seconds_to_build(const Level& level, Jobs jobs, const ConvexMesh*& mesh,
                        std::unique_ptr<MeshGround>& ground) {
  const auto began = std::chrono::steady_clock::now();
  ground = MeshGround::make(level, {}, std::move(jobs)).value();
  mesh = &ground->mesh({});
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
}

void levels(std::size_t max) {
  fmt::print(
      "levels    triangles    ground, m2    polygons/m2    patches/100 m2    one core, s    two cores, s    "
      "one / two    us/triangle    of the smallest\n");
  double smallest = 0;
  for (const std::size_t triangles : {10'000U, 30'000U, 100'000U, 300'000U, 1'000'000U}) {
    if (triangles > max) break;
    const Level level = soup(triangles);
    const ConvexMesh* mesh = nullptr;
    std::unique_ptr<MeshGround> ground;
    const double one = seconds_to_build(level, {}, mesh, ground),
                 two = seconds_to_build(level, tbb_jobs(), mesh, ground);
    std::size_t polygons = 0;
    for (const ConvexMesh::Polygon& polygon : mesh->polygons()) polygons += polygon.count > 0;
    const double area = mesh->area() / 1e6, each = 1e6 * one / static_cast<double>(level.triangles.size());
    if (smallest == 0) smallest = each;
    fmt::print("{:>19}{:>14.0f}{:>15.2f}{:>18.2f}{:>15.2f}{:>16.2f}{:>13.2f}{:>15.1f}{:>19.2f}\n",
               level.triangles.size(), area, static_cast<double>(polygons) / area,
               100 * mesh->patch_count() / area, one, two, one / two, each, each / smallest);
    std::fflush(stdout);
  }
}

}  // namespace
}  // namespace ambulon::bench

int main(int argc, char** argv) {
  ambulon::bench::levels(argc > 1 ? std::strtoull(argv[1], nullptr, 10) : 1'000'000);
  return 0;
}
