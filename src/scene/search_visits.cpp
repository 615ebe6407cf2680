#include "scene/search_visits.hpp"

#include <algorithm>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "ground/mesh/convex_mesh.hpp"
#include "ground/mesh/mesh_search.hpp"
#include "ground/tiles/tile_layer.hpp"
#include "ground/tiles/tile_search.hpp"

namespace ambulon {

TileVisits search_visits(const TileGround& ground, const Spot& from, const Spot& to, const Body& body) {
  const TileMap& map = ground.layer(body.radius).map();
  TileSearch search;
  search.find(map, map.cell_of(from.piece), map.cell_of(to.piece));
  TileVisits visits{.cells = {}, .expanded = search.expanded()};
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x)
      if (search.noted({x, y})) visits.cells.push_back({x, y});
  return visits;
}

MeshVisits search_visits(const MeshGround& ground, const Spot& from, const Spot& to, const Body& body) {
  const ConvexMesh& mesh = ground.mesh(body);
  const auto place = [&](const Spot& spot) {
    return MeshSearch::Place{mesh.nearest_in(spot.piece, 1000.0 * dvec2(flat(spot.position))), spot.piece};
  };
  MeshSearch search;
  search.find(mesh, place(from), place(to), ground.crossings(body));
  MeshVisits visits{
      .times = std::vector<int>(mesh.polygons().size()), .max = 0, .expanded = search.expanded()};
  search.each_noted(
      [&](std::uint32_t polygon) { visits.max = std::max(visits.max, ++visits.times[polygon]); });
  return visits;
}

}  // namespace ambulon
