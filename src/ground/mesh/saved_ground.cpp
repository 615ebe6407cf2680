// Serialisation of a mesh ground.

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "ambulon/base/problem.hpp"

#include "base/checksum.hpp"
#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "bytes.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/level_index.hpp"
#include "ground/mesh/mesh_crossings.hpp"
#include "ground/mesh/mesh_ground_impl.hpp"
#include "ground/mesh/patch.hpp"
#include "ground/mesh/survey.hpp"
#include "ground/mesh/triangulation.hpp"

namespace ambulon {
namespace {

constexpr std::string_view mark = "ambulon-ground/3\n";
constexpr std::size_t head = mark.size() + 16;  // mark, length of the rest, checksum
constexpr std::size_t max_sizes = 64;           // of bodies

// --- Input of the ground ----------------------------------------------------------------------

void write(ByteWriter& out, PlanPoint point) { out.put(point.x), out.put(point.y); }
PlanPoint point_from(ByteReader& in) {
  PlanPoint point;
  point.x = in.get<int>(), point.y = in.get<int>();
  const auto near = [](int value) { return value >= -PlanPoint::max && value <= PlanPoint::max; };
  in.check(near(point.x) && near(point.y));
  return point;
}

float cost_from(ByteReader& in) {
  const auto cost = in.get<float>();
  in.check(cost >= 1.f && cost <= 255.f);
  return cost;
}

void write(ByteWriter& out, const Outlines& outlines) {
  out.put_count(outlines.size());
  for (const auto& outline : outlines) {
    out.put_count(outline.size());
    for (const PlanPoint point : outline) write(out, point);
  }
}
Outlines outlines_from(ByteReader& in) {
  Outlines outlines(in.count(4));
  for (auto& outline : outlines) {
    outline.resize(in.count(8));
    for (PlanPoint& point : outline) point = point_from(in);
    in.check(outline.size() >= 3);
  }
  return outlines;
}

void write(ByteWriter& out, const FloorSurface::Facet& facet) {
  for (const PlanPoint corner : facet.corners) write(out, corner);
  for (const int height : facet.heights) out.put(height);
}
void facet_from(ByteReader& in, FloorSurface::Facet& facet) {
  for (PlanPoint& corner : facet.corners) corner = point_from(in);
  for (int& height : facet.heights) {
    height = in.get<int>();
    in.check(height >= -PlanPoint::max && height <= PlanPoint::max);
  }
}

void write(ByteWriter& out, const std::vector<Plan::Ring>& rings) {
  out.put_count(rings.size());
  for (const Plan::Ring& ring : rings) {
    out.put_count(ring.size());
    for (const vec2 point : ring) out.put(point);
  }
}
std::vector<Plan::Ring> rings_from(ByteReader& in) {
  std::vector<Plan::Ring> rings(in.count(4));
  for (Plan::Ring& ring : rings) {
    ring.resize(in.count(8));
    for (vec2& point : ring) point = in.get<vec2>();
  }
  return rings;
}

void write(ByteWriter& out, const Plan& plan) {
  write(out, plan.outlines), write(out, plan.holes), write(out, plan.solids);
  out.put_count(plan.walls.size());
  for (const Plan::Wall& wall : plan.walls) {
    out.put(wall.thickness);
    write(out, {wall.line});
  }
  out.put_count(plan.regions.size());
  for (const Plan::Region& region : plan.regions) {
    out.put(region.cost);
    write(out, {region.ring});
  }
}
Plan plan_from(ByteReader& in) {
  Plan plan{.outlines = rings_from(in), .holes = rings_from(in), .solids = rings_from(in)};
  plan.walls.resize(in.count(8));
  for (Plan::Wall& wall : plan.walls) {
    wall.thickness = in.get<float>();
    auto lines = rings_from(in);
    if (in.check(lines.size() == 1)) wall.line = std::move(lines[0]);
  }
  plan.regions.resize(in.count(8));
  for (Plan::Region& region : plan.regions) {
    region.cost = in.get<float>();
    auto rings = rings_from(in);
    if (in.check(rings.size() == 1)) region.ring = std::move(rings[0]);
  }
  return plan;
}

constexpr std::uint8_t up_and_steep = 2;  // flags of a facet; 1: it faces up

void write(ByteWriter& out, const LevelIndex& level) {
  out.put(level.gap());
  out.put_count(level.reach_from().size());
  for (const vec3 place : level.reach_from()) out.put(place);
  out.put_count(level.facets().size());
  for (const LevelIndex::Facet& facet : level.facets()) {
    write(out, facet);
    out.put(facet.floor), out.put(facet.steep ? up_and_steep : static_cast<std::uint8_t>(facet.up));
    out.put(facet.cost), out.put(facet.shell);
  }
}
LevelIndex level_from(ByteReader& in) {
  const auto gap = in.get<int>();
  in.check(gap >= 0 && gap <= 200);
  std::vector<vec3> reach_from(in.count(12));
  for (vec3& place : reach_from) {
    place = in.get<vec3>();
    in.check(finite(place) && glm::all(glm::lessThanEqual(glm::abs(place), vec3(LevelIndex::furthest))));
  }
  std::vector<LevelIndex::Facet> facets(in.count(46));
  for (LevelIndex::Facet& facet : facets) {
    facet_from(in, facet);
    facet.floor = in.get<bool>();
    const auto up = in.get<std::uint8_t>();
    in.check(up <= up_and_steep);
    facet.up = up != 0, facet.steep = up == up_and_steep;
    facet.cost = cost_from(in);
    facet.shell = in.get<std::uint32_t>();
    const std::int64_t area = turn(facet.corners[0], facet.corners[1], facet.corners[2]);
    in.check(area > 0 || (area == 0 && !facet.floor && !facet.steep));
  }
  if (in.failed()) facets.clear();
  return {gap, std::move(facets), std::move(reach_from)};
}

// --- Patches ----------------------------------------------------------------------------------

void write(ByteWriter& out, const PatchPolygons& polygons, const std::vector<FloorPart>& floors) {
  out.put_count(polygons.corners.size());
  for (const PlanPoint corner : polygons.corners) write(out, corner);
  out.put_count(polygons.count());
  for (std::size_t i = 0; i < polygons.count(); ++i) {
    out.put_count(polygons.first[i + 1] - polygons.first[i]);
    if (polygons.floor.empty()) continue;
    const auto& surface = polygons.floors[polygons.floor[i]];
    out.put_count(
        static_cast<std::size_t>(std::ranges::find(floors, surface, &FloorPart::surface) - floors.begin()));
  }
  out.put_count(polygons.cost.size());
  for (const float cost : polygons.cost) out.put(cost);
  for (const PatchPolygons::Side& side : polygons.sides) out.put(side.corner), out.put(side.across);
}

/// Returns true if a polygon is counter-clockwise, convex and has an area.
bool convex(const PatchPolygons& polygons, std::size_t polygon) {
  const std::uint32_t first = polygons.first[polygon], end = polygons.first[polygon + 1];
  const auto corner = [&](std::uint32_t i) {
    return polygons.corners[polygons.sides[first + i % (end - first)].corner];
  };
  std::int64_t min = 0, max = 0;
  double turned = 0;
  for (std::uint32_t i = 0; i < end - first; ++i) {
    const PlanPoint a = corner(i), b = corner(i + 1), c = corner(i + 2);
    const std::int64_t turn_here = turn(a, b, c);
    min = std::min(min, turn_here), max = std::max(max, turn_here);
    const dvec2 in = to_vec(b) - to_vec(a), out = to_vec(c) - to_vec(b);
    if (a == b) return false;
    turned += std::atan2(cross(in, out), glm::dot(in, out));
  }
  return min >= 0 && max > 0 && turned < 7;  // one full turn
}

PatchPolygons polygons_from(ByteReader& in, const Square& square, const std::vector<FloorPart>& floors,
                            bool of_level) {
  PatchPolygons made;
  made.corners.resize(in.count(8));
  for (PlanPoint& corner : made.corners) {
    corner = point_from(in);
    in.check(square.size == 0 || (corner.x >= square.low.x && corner.y >= square.low.y &&
                                  std::int64_t{corner.x} <= std::int64_t{square.low.x} + square.size &&
                                  std::int64_t{corner.y} <= std::int64_t{square.low.y} + square.size));
  }
  const std::size_t count = in.count(of_level ? 8 : 4);
  std::uint64_t sides = 0;
  for (std::size_t i = 0; i < count; ++i) {
    made.first.push_back(static_cast<std::uint32_t>(sides));
    const auto of_it = in.get<std::uint32_t>();
    sides += of_it;
    in.check(of_it >= 3 && sides <= in.left() / 8);
    if (!of_level) continue;
    made.floor.push_back(in.get<std::uint32_t>());
    in.check(made.floor.back() < floors.size());
  }
  made.cost.resize(in.count(4));
  for (float& cost : made.cost) cost = cost_from(in);
  in.check(made.cost.empty() || made.cost.size() == count);
  if (in.failed()) return {};
  if (count > 0) made.first.push_back(static_cast<std::uint32_t>(sides));
  if (of_level)
    for (const FloorPart& floor : floors) made.floors.push_back(floor.surface);
  for (std::uint64_t i = 0; i < sides; ++i) {
    const auto corner = in.get<std::uint32_t>();
    made.sides.push_back({corner, in.get<std::uint32_t>()});
    in.check(corner < made.corners.size());
  }
  const auto end_of = [&](std::size_t side, std::size_t polygon) {
    return made.sides[side + 1 == made.first[polygon + 1] ? made.first[polygon] : side + 1].corner;
  };
  std::vector<std::uint32_t> polygon_of(made.sides.size());
  for (std::uint32_t i = 0; i < count; ++i)
    std::fill(polygon_of.begin() + made.first[i], polygon_of.begin() + made.first[i + 1], i);
  for (std::uint32_t i = 0; i < count && !in.failed(); ++i) {
    in.check(convex(made, i));
    for (std::uint32_t side = made.first[i]; side < made.first[i + 1] && !in.failed(); ++side) {
      const std::uint32_t across = made.sides[side].across;
      if (across == PatchPolygons::none || !in.check(across < made.sides.size())) continue;
      const std::uint32_t other = polygon_of[across];
      in.check(other != i && made.sides[across].across == side);
      in.check(made.corners[made.sides[across].corner] == made.corners[end_of(side, i)] &&
               made.corners[end_of(across, other)] == made.corners[made.sides[side].corner]);
    }
  }
  return in.failed() ? PatchPolygons() : made;
}

void write(ByteWriter& out, const FloorPart& floor) {
  write(out, floor.free);
  const auto facets = floor.surface ? floor.surface->facets() : std::span<const FloorSurface::Facet>();
  out.put_count(facets.size());
  for (const FloorSurface::Facet& facet : facets) write(out, facet);
  out.put_count(floor.costly.size());
  for (const CostlyOutlines& each : floor.costly) {
    out.put(each.cost);
    write(out, each.outlines);
  }
}
FloorPart floor_from(ByteReader& in, const Square& square, bool of_level) {
  FloorPart floor{.free = outlines_from(in), .surface = {}};
  std::vector<FloorSurface::Facet> facets(in.count(36));
  for (FloorSurface::Facet& facet : facets) {
    facet_from(in, facet);
    in.check(turn(facet.corners[0], facet.corners[1], facet.corners[2]) > 0);
  }
  if (in.check(facets.empty() != of_level) && of_level)
    floor.surface = std::make_shared<const FloorSurface>(square, std::move(facets));
  floor.costly.resize(in.count(8));
  for (CostlyOutlines& each : floor.costly) {
    each.cost = cost_from(in);
    each.outlines = outlines_from(in);
  }
  return floor;
}

void write(ByteWriter& out, const MeshCrossing& crossing) {
  out.put(static_cast<std::uint8_t>(crossing.kind));
  for (const MeshCrossing::End* end : {&crossing.from, &crossing.to}) out.put(end->at), out.put(end->height);
  out.put(crossing.over), out.put(crossing.cost);
}
/// Its polygons are found later.
MeshCrossing crossing_from(ByteReader& in) {
  MeshCrossing crossing;
  const auto kind = in.get<std::uint8_t>();
  in.check(kind <= static_cast<std::uint8_t>(Passage::door));
  crossing.kind = static_cast<Passage>(kind);
  const auto number = [&] {
    const auto value = in.get<double>();
    in.check(std::abs(value) <= 4.0 * PlanPoint::max);
    return value;
  };
  for (MeshCrossing::End* end : {&crossing.from, &crossing.to}) {
    end->at.x = number(), end->at.y = number();
    end->height = number();
  }
  crossing.over = number(), crossing.cost = number();
  in.check(crossing.cost >= glm::distance(crossing.from.at, crossing.to.at));
  return crossing;
}

void write(ByteWriter& out, const PatchGrid& grid) {
  write(out, grid.low);
  out.put(grid.size), out.put(grid.across), out.put(grid.up);
}
PatchGrid grid_from(ByteReader& in) {
  PatchGrid grid;
  grid.low = point_from(in);
  grid.size = in.get<int>(), grid.across = in.get<int>(), grid.up = in.get<int>();
  const auto fits = [&](int low, int count) {
    return count >= 1 &&
           std::int64_t{low} + std::int64_t{grid.size} * count <= std::numeric_limits<int>::max();
  };
  in.check(grid.size >= 0 && fits(grid.low.x, grid.across) && fits(grid.low.y, grid.up));
  in.check(grid.size > 0 || (grid.across == 1 && grid.up == 1));
  // Each cell takes some bytes, which bounds their number.
  if (!in.check(static_cast<std::size_t>(grid.across) <=
                in.left() / static_cast<std::size_t>(std::max(1, grid.up))))
    return {};
  return grid;
}

/// Returns true if a square lies in a grid cell.
bool inside(const Square& square, const PatchGrid& grid, std::uint32_t cell) {
  if (grid.size == 0) return square.size == 0;
  const Square around = grid.square(cell);
  return square.size > 0 && square.low.x >= around.low.x && square.low.y >= around.low.y &&
         std::int64_t{square.low.x} + square.size <= std::int64_t{around.low.x} + around.size &&
         std::int64_t{square.low.y} + square.size <= std::int64_t{around.low.y} + around.size;
}

}  // namespace

// --- A layer ----------------------------------------------------------------------------------

void MeshGroundImpl::put_layer(ByteWriter& out, const BodySize& size, const Layer& layer) {
  for (const float metres : {size.radius, size.height, size.step_up, size.jump_up, size.drop_down, size.leap})
    out.put(metres);
  out.put_count(layer.left_out.components), out.put(layer.left_out.area);
  const ConvexMesh& mesh = layer.mesh;
  write(out, mesh.grid());
  for (std::uint32_t cell = 0; cell < mesh.grid().count(); ++cell) {
    out.put_count(mesh.first_of(cell + 1) - mesh.first_of(cell));
    for (std::uint32_t patch = mesh.first_of(cell); patch < mesh.first_of(cell + 1); ++patch) {
      write(out, mesh.square(patch).low);
      out.put(mesh.square(patch).size);
      out.put_count(layer.free[patch].size());
      for (const FloorPart& floor : layer.free[patch]) write(out, floor);
      write(out, mesh.polygons_in(patch), layer.free[patch]);
      const auto found = layer.found.empty() ? std::vector<MeshCrossing>() : layer.found[patch];
      out.put_count(found.size());
      for (const MeshCrossing& crossing : found) write(out, crossing);
    }
  }
}

std::unique_ptr<MeshGroundImpl::Layer> MeshGroundImpl::layer_from(ByteReader& in, BodySize& size) const {
  const auto metres = [&](float max) {
    const auto value = in.get<float>();
    in.check(value >= 0.f && value <= max);
    return value;
  };
  size = {.radius = metres(50), .height = metres(100), .step_up = metres(100)};
  size.jump_up = metres(100), size.drop_down = metres(1000), size.leap = metres(100);
  const LeftOut left_out{.components = in.get<std::uint32_t>(), .area = in.get<double>()};
  in.check(left_out.area >= 0 && std::isfinite(left_out.area));
  const PatchGrid grid = grid_from(in);
  in.check(grid.size > 0 || !of_level());
  if (in.failed()) return nullptr;
  std::vector<std::vector<Square>> squares(grid.count());
  std::vector<std::vector<FloorPart>> free;
  std::vector<PatchPolygons> made;
  std::vector<std::vector<MeshCrossing>> found;
  for (std::uint32_t cell = 0; cell < grid.count() && !in.failed(); ++cell)
    for (std::size_t i = in.count(12); i > 0 && !in.failed(); --i) {
      Square square;
      square.low = point_from(in);
      square.size = in.get<int>();
      if (!in.check(inside(square, grid, cell))) break;
      squares[cell].push_back(square);
      auto& floors = free.emplace_back(in.count(8));
      for (FloorPart& floor : floors) floor = floor_from(in, square, of_level());
      made.push_back(polygons_from(in, square, floors, of_level()));
      auto& crossings = found.emplace_back(in.count(1));
      for (MeshCrossing& crossing : crossings) crossing = crossing_from(in);
    }
  if (in.failed()) return nullptr;
  auto layer = std::make_unique<Layer>(
      Layer{std::move(free), ConvexMesh(grid, squares, std::move(made), builder_.step_between(size))});
  layer->left_out = left_out;
  if (of_level()) layer->found = std::move(found);
  for (auto& crossings : layer->found)
    std::erase_if(crossings, [&](MeshCrossing& crossing) { return !find_again(layer->mesh, crossing); });
  put_together(*layer, size);
  return layer;
}

// --- The whole --------------------------------------------------------------------------------

Expected<std::vector<std::byte>> MeshGroundImpl::save(std::string_view source,
                                                      std::uint64_t source_sum) const {
  if (!barriers().empty())
    return problem(
        fmt::format("a ground with {} barriers on it; take them away before it is saved", barriers().size()));
  ByteWriter out;
  out.put(source);
  out.put(source_sum);
  out.put(of_level());
  if (level_)
    write(out, *level_);
  else
    write(out, plan_);
  out.put_count(placed_.size());
  for (const PlacedCrossing& placed : placed_) {
    const Crossing& crossing = placed.crossing;
    out.put(static_cast<std::uint8_t>(crossing.kind));
    out.put(crossing.from), out.put(crossing.to);
    out.put(crossing.both_ways), out.put(crossing.cost), out.put(placed.shut);
  }
  out.put_count(layers_.count());
  for (std::uint16_t i = 0; i < layers_.count(); ++i) put_layer(out, layers_[i], *layers_[i].made);
  ByteWriter all;
  for (const char each : mark) all.put(static_cast<std::uint8_t>(each));
  all.put(std::uint64_t{out.bytes().size()});
  all.put(checksum(out.bytes()));
  all.bytes().insert(all.bytes().end(), out.bytes().begin(), out.bytes().end());
  return std::move(all.bytes());
}

namespace {

/// Returns the bytes after mark, length and checksum; a problem if these are wrong.
Expected<std::span<const std::byte>> rest_of(std::span<const std::byte> bytes) {
  const std::string_view text(reinterpret_cast<const char*>(bytes.data()), bytes.size());
  if (bytes.empty()) return problem("there is nothing in it");
  if (!text.starts_with(mark.substr(0, mark.find('/'))))
    return problem("it is not a saved ground, which would begin with \"ambulon-ground\"");
  if (!text.starts_with(mark))
    return problem(
        fmt::format("it is of another version than {}; build it again", mark.substr(0, mark.size() - 1)));
  ByteReader in(bytes.subspan(mark.size()));
  const auto length = in.get<std::uint64_t>(), sum = in.get<std::uint64_t>();
  if (in.failed() || length != bytes.size() - head)
    return problem(fmt::format("it has {} bytes where it should have {}; it was cut short or added to",
                               bytes.size(), in.failed() ? head : length + head));
  if (checksum(bytes.subspan(head)) != sum) return problem("its checksum is not right: it was damaged");
  return bytes.subspan(head);
}

}  // namespace

Expected<std::unique_ptr<MeshGround>> MeshGround::restore(std::span<const std::byte> bytes, Jobs jobs,
                                                          SavedFrom* saved_from) {
  const auto rest = rest_of(bytes);
  if (!rest) return tl::unexpected(rest.error());
  ByteReader in(*rest);
  const auto nonsense = [] { return problem("what it says makes no sense, though its checksum is right"); };
  SavedFrom from{.source = in.text()};
  from.source_sum = in.get<std::uint64_t>();
  std::unique_ptr<MeshGroundImpl> ground;
  if (in.get<bool>()) {
    ground.reset(new MeshGroundImpl(level_from(in), std::move(jobs)));
  } else {
    Plan plan = plan_from(in);
    if (in.failed() || !check_plan(plan)) return nonsense();
    ground.reset(new MeshGroundImpl(std::move(plan)));
  }
  for (std::size_t i = in.count(31); i > 0 && !in.failed(); --i) {
    Crossing crossing;
    const auto kind = in.get<std::uint8_t>();
    in.check(kind <= static_cast<std::uint8_t>(Passage::door));
    crossing.kind = static_cast<Passage>(kind);
    crossing.from = in.get<vec3>(), crossing.to = in.get<vec3>();
    crossing.both_ways = in.get<bool>(), crossing.cost = in.get<float>();
    const auto id = in.failed() ? problem("") : ground->place(crossing);
    if (in.get<bool>() && id) (void)ground->shut(*id);
    in.check(id.has_value());
  }
  const std::size_t sizes = in.count(1);
  in.check(sizes <= max_sizes);
  for (std::size_t i = 0; i < sizes && !in.failed(); ++i) {
    BodySize size;
    auto layer = ground->layer_from(in, size);
    if (in.failed()) break;
    (void)ground->layers_.number_for(size, [&] { return std::move(layer); });
  }
  in.check(in.left() == 0);
  if (in.failed()) return nonsense();
  if (saved_from != nullptr) *saved_from = std::move(from);
  return ground;
}

}  // namespace ambulon
