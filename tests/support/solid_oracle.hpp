#pragma once
// Levels of overlapping solids, and an oracle for their ground.

#include <algorithm>
#include <map>
#include <queue>
#include <string>
#include <string_view>

#include <fmt/format.h>
#include <glm/ext/vector_double3.hpp>

#include "ambulon/ground/mesh/mesh_ground.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "solid.hpp"

namespace ambulon {

/// Answers about solids from columns, 5 cm apart.
class Raster {
 public:
  static constexpr double size = 0.05, steepest = 0.7854;

  /// `slack`: metres by which all measures of the body are reduced; negative: increased.
  Raster(const std::vector<Solid>& solids, const Body& body, double slack)
      : solids_(solids),
        radius_(std::max(0.0, static_cast<double>(body.radius) - slack)),
        height_(static_cast<double>(body.height)),
        step_(static_cast<double>(body.step_up)),
        slack_(slack) {}

  /// Returns the heights of the floors at a point, from above.
  std::vector<double> floors(dvec2 at) const {
    const auto columns = columns_at(at);
    std::vector<double> floors;
    for (const Solid::Column& column : columns) {
      // Inside of another solid, unless that is a low step.
      const bool inside = std::ranges::any_of(columns, [&](const Solid::Column& other) {
        return &other != &column && other.bottom < column.top + 0.002 && other.top > column.top + 0.002 &&
               !(other.slope > steepest && other.top <= column.top + step_ + slack_);
      });
      if (column.slope <= steepest && !inside) floors.push_back(column.top);
    }
    std::ranges::sort(floors, std::greater<>());
    return floors;
  }

  /// Returns true if a body can stand there: it reaches all columns within its radius by steps, and none is
  /// obstructed.
  bool stands(glm::dvec3 at) const {
    std::map<std::pair<int, int>, double> reached;
    std::queue<std::pair<int, int>> open;
    const auto come_to = [&](int x, int y, double height, double step) {
      const dvec2 column = dvec2(at) + size * dvec2(x, y);
      for (const double floor : floors(column))
        if (std::abs(floor - height) <= step && !taken(column, floor)) {
          if (reached.emplace(std::pair(x, y), floor).second) open.emplace(x, y);
          return;
        }
    };
    const auto near = [&](int x, int y) { return size * std::hypot(x, y) <= radius_; };
    come_to(0, 0, at.z, 0.012);
    for (; !open.empty(); open.pop()) {
      const auto [x, y] = open.front();
      for (const auto& [dx, dy] : {std::pair(1, 0), {-1, 0}, {0, 1}, {0, -1}})
        if (near(x + dx, y + dy)) come_to(x + dx, y + dy, reached.at({x, y}), step_ + slack_);
    }
    const int reach = static_cast<int>(radius_ / size);
    for (int y = -reach; y <= reach; ++y)
      for (int x = -reach; x <= reach; ++x)
        if (near(x, y) && !reached.contains({x, y})) return false;
    return !reached.empty() && std::ranges::all_of(reached, [&](const auto& column) {  // no ledge either
      const auto [x, y] = column.first;
      return std::ranges::all_of(
          std::array{std::pair(x + 1, y), std::pair(x, y + 1)}, [&](const auto& beside) {
            const auto there = reached.find(beside);
            return there == reached.end() || std::abs(there->second - column.second) <= step_ + slack_;
          });
    });
  }

  /// Returns true if there is another floor closely above.
  bool covered(glm::dvec3 at) const {
    return std::ranges::any_of(floors(dvec2(at)),
                               [&](double floor) { return floor > at.z + 0.003 && floor < at.z + height_; });
  }

  /// Returns true if a straight walk leads over columns in which the body can stand.
  bool walks(glm::dvec3 at, dvec2 way) const {
    const int steps = std::max(1, static_cast<int>(glm::length(way) / size));
    const dvec2 from(at);
    for (int i = 1; i <= steps; ++i) {
      const dvec2 here = from + static_cast<double>(i) / steps * way;
      const auto all = floors(here);
      const auto next =
          std::ranges::find_if(all, [&](double z) { return std::abs(z - at.z) <= step_ + slack_; });
      if (next == all.end()) return false;
      at = glm::dvec3(here, *next);
      if (!stands(at) || covered(at)) return false;
    }
    return true;
  }

 private:
  std::vector<Solid::Column> columns_at(dvec2 at) const {
    std::vector<Solid::Column> columns;
    for (const Solid& solid : solids_)
      if (const auto column = solid.column(at)) columns.push_back(*column);
    return columns;
  }
  bool taken(dvec2 at, double floor) const {
    return std::ranges::any_of(columns_at(at), [&](const Solid::Column& column) {
      return column.bottom <= floor + height_ - slack_ && column.top >= floor + step_ + slack_;
    });
  }

  const std::vector<Solid>& solids_;
  double radius_, height_, step_, slack_;
};

/// Returns what is wrong with the ground, which must be that of the union of the solids; empty if nothing.
inline std::string mistake_on_solids(Choices& choose) {
  const std::vector<Solid> solids = random_solids(choose);
  Level level;
  for (const Solid& solid : solids)
    add_solid(level, solid, [&](std::size_t count) { return choose.index(count); });
  if (level.triangles.empty()) return {};
  const Body body{.radius = choose.of({0.15f, 0.3f, 0.5f}), .height = choose.of({1.f, 1.7f})};
  const auto ground = MeshGround::make(level, {.closed = choose.flag()}).value();
  if (!ground->open_pieces().empty()) return "a closed solid counts as open";
  const Raster strict(solids, body, -0.09), lenient(solids, body, 0.09);
  for (int i = 0; i < 8; ++i) {
    const Solid& solid = solids[choose.index(solids.size())];
    const double x = choose.any(-0.5, 8.5);
    const dvec2 somewhere(x, choose.any(-0.5, 8.5));
    const auto column = solid.column(somewhere);
    if (!column || column->slope > Raster::steepest) continue;
    const glm::dvec3 at(somewhere, column->top);
    if (strict.covered(at) || lenient.covered(at)) continue;  // what lies above is walked on
    const Snap snap = ground->snap(vec3(at), 0, body);
    const bool stands = snap.found && flat_distance(snap.spot.position, vec3(at)) < 1e-3f &&
                        std::abs(snap.spot.position.z - vec3(at).z) < 0.05f;
    const auto inside = [&](const Raster& raster, double x_off = 0, double y_off = 0) {  // of another solid
      return std::ranges::none_of(raster.floors(somewhere + dvec2(x_off, y_off)),
                                  [&](double floor) { return std::abs(floor - at.z) < 0.004; });
    };
    // The ground is built in millimetres: a point that is closer to the edge of another solid may be on it.
    const auto on_edge = [&](const Raster& raster) {
      constexpr double off = 0.0025;
      return inside(raster, off, 0) || inside(raster, -off, 0) || inside(raster, 0, off) ||
             inside(raster, 0, -off);
    };
    const auto here = [&](std::string_view what) {
      return fmt::format("{} at ({:.4f}, {:.4f}, {:.4f})", what, at.x, at.y, at.z);
    };
    if (stands && (inside(lenient) || !lenient.stands(at))) return here("there is ground");
    if (!stands && !inside(strict) && !on_edge(strict) && strict.stands(at))
      return here("there is no ground");
    if (!stands) continue;
    const float length = choose.between(0.1f, 1.2f);
    const vec2 way = length * unit(choose.between(0, 6.28f));
    const Stretch walk = ground->straight(snap.spot, way);
    if (!walk.free && strict.stands(at) && strict.walks(at, dvec2(way))) return here("a walk is cut short");
  }
  return {};
}

}  // namespace ambulon
