#pragma once
// Convex solids, as triangles of a level and as column queries.

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>
#include <optional>
#include <vector>

#include <glm/ext/vector_double3.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "choices.hpp"
#include "level_maker.hpp"

namespace ambulon {

/// A convex solid: its corners, and its faces as rings of corner numbers that face outwards.
struct Solid {
  std::vector<glm::dvec3> corners;
  std::vector<std::vector<std::uint32_t>> faces;

  glm::dvec3 normal(const std::vector<std::uint32_t>& face) const {
    return glm::normalize(
        glm::cross(corners[face[1]] - corners[face[0]], corners[face[2]] - corners[face[0]]));
  }
  void face_outwards() {
    glm::dvec3 middle(0.0);
    for (const glm::dvec3& corner : corners) middle += corner / static_cast<double>(corners.size());
    for (auto& face : faces)
      if (glm::dot(normal(face), middle - corners[face[0]]) > 0) std::ranges::reverse(face);
  }

  /// Returns where a vertical line enters and leaves, and the slope there in radians.
  struct Column {
    double bottom, top, slope;
  };
  std::optional<Column> column(dvec2 at) const {
    constexpr double far = std::numeric_limits<double>::infinity();
    Column column{-far, far, 0};
    for (const auto& face : faces) {
      const glm::dvec3 out = normal(face);
      const double left = glm::dot(out, corners[face[0]]) - glm::dot(dvec2(out), at);
      if (std::abs(out.z) < 1e-9) {
        if (left < 0) return {};
      } else if (out.z > 0) {
        if (left / out.z < column.top) column.top = left / out.z, column.slope = std::acos(out.z);
      } else {
        column.bottom = std::max(column.bottom, left / out.z);
      }
    }
    return column.bottom <= column.top ? std::optional(column) : std::nullopt;
  }
};

/// Returns the solid between two rings with as many corners; common corners make it pointed.
inline Solid between_rings(std::vector<glm::dvec3> bottom, const std::vector<glm::dvec3>& top) {
  Solid solid{std::move(bottom), {}};
  const auto count = static_cast<std::uint32_t>(solid.corners.size());
  solid.corners.insert(solid.corners.end(), top.begin(), top.end());
  std::vector<std::uint32_t> below, above;
  for (std::uint32_t i = 0; i < count; ++i) {
    below.push_back(i), above.push_back(count + i);
    const std::uint32_t next = (i + 1) % count;
    solid.faces.push_back({i, next, count + next, count + i});
  }
  solid.faces.push_back(below), solid.faces.push_back(above);
  solid.face_outwards();
  return solid;
}

inline std::vector<glm::dvec3> rectangle(glm::dvec3 centre, double length, double width, double heading) {
  std::vector<glm::dvec3> ring;
  for (const auto& [x, y] : {std::pair(-0.5, -0.5), {0.5, -0.5}, {0.5, 0.5}, {-0.5, 0.5}})
    ring.push_back(centre + glm::dvec3(std::cos(heading) * x * length - std::sin(heading) * y * width,
                                       std::sin(heading) * x * length + std::cos(heading) * y * width, 0));
  return ring;
}

/// A ramp that rises along its length from its toe.
inline Solid wedge(glm::dvec3 centre, double length, double width, double rise, double heading) {
  Solid solid{rectangle(centre, length, width, heading), {}};
  for (const std::size_t high : {1U, 2U})
    solid.corners.push_back(solid.corners[high] + glm::dvec3(0, 0, rise));
  solid.faces = {{0, 1, 2, 3}, {0, 4, 5, 3}, {1, 2, 5, 4}, {0, 1, 4}, {3, 5, 2}};
  solid.face_outwards();
  return solid;
}

inline Solid pyramid(std::vector<glm::dvec3> base, glm::dvec3 apex) {
  Solid solid{std::move(base), {{0, 1, 2, 3}, {0, 1, 4}, {1, 2, 4}, {2, 3, 4}, {3, 0, 4}}};
  solid.corners.push_back(apex);
  solid.face_outwards();
  return solid;
}

/// Rotates it about its first corner: along x and along y, radians.
inline Solid tilted(Solid solid, double by_x, double by_y) {
  for (glm::dvec3& corner : solid.corners) {
    const glm::dvec3 off = corner - solid.corners[0];
    const glm::dvec3 once(off.x * std::cos(by_x) - off.z * std::sin(by_x), off.y,
                          off.x * std::sin(by_x) + off.z * std::cos(by_x));
    const double y = once.y * std::cos(by_y) - once.z * std::sin(by_y);
    const double z = once.y * std::sin(by_y) + once.z * std::cos(by_y);
    if (&corner != &solid.corners[0]) corner = solid.corners[0] + glm::dvec3(once.x, y, z);
  }
  return solid;
}

/// Adds it to a level; `turn` decides how faces of more than three corners are divided.
inline void add_solid(Level& level, const Solid& solid, const std::function<std::size_t(std::size_t)>& turn) {
  for (std::vector<std::uint32_t> face : solid.faces) {
    std::ranges::rotate(face, face.begin() + static_cast<std::ptrdiff_t>(turn(face.size())));
    const auto first = static_cast<std::uint32_t>(level.corners.size());
    for (const std::uint32_t corner : face) level.corners.push_back(vec3(solid.corners[corner]));
    for (std::uint32_t i = 2; i < face.size(); ++i)
      level.triangles.push_back({{first, first + i - 1, first + i}});
  }
}

/// Boxes, ramps, tilted slabs, prisms and pyramids that touch, overlap and contain each other. No slope is
/// near the limit.
inline std::vector<Solid> random_solids(Choices& choose) {
  std::vector<Solid> solids;
  const auto any = [&](double min, double max) { return choose.any(min, max); };
  if (choose.whole(0, 4) > 0)
    solids.push_back(between_rings(rectangle({4, 4, -1}, 9, 9, 0), rectangle({4, 4, 0}, 9, 9, 0)));
  for (int left = choose.whole(1, 9); left > 0; --left) {
    glm::dvec3 centre(any(0, 8), any(0, 8), choose.of({0.0, 0.0, 0.0, -0.3, 0.5, 1.0, 2.0, 3.0}));
    double length = any(0.4, 4), width = any(0.4, 4), heading = any(0, 6.28);
    const double high = choose.of({0.1, 0.2, 0.3, 0.6, 1.0, 2.0, 3.0});
    if (choose.flag()) {  // beside others, or on top of the last one
      centre.x = std::round(centre.x), centre.y = std::round(centre.y);
      length = std::ceil(length), width = std::ceil(width), heading = 0;
      if (choose.flag() && !solids.empty()) centre.z = solids.back().corners.back().z;
    }
    const std::vector<glm::dvec3> base = rectangle(centre, length, width, heading);
    const auto raised = [&](double up) {
      std::vector<glm::dvec3> ring = base;
      for (glm::dvec3& corner : ring) corner.z += up;
      return ring;
    };
    Solid solid;
    switch (choose.whole(0, 5)) {
      case 0:
        solid = wedge(centre, length, width, length * any(0.1, 0.9), heading);
        break;
      case 1:
        solid = tilted(between_rings(base, raised(std::min(high, 0.4))), any(-0.6, 0.6), any(-0.6, 0.6));
        break;
      case 2: {
        std::vector<glm::dvec3> bottom, top;
        const double taper = choose.flag() ? any(0.3, 1) : 1.0;
        const int corners = choose.whole(3, 8);
        for (int i = 0; i < corners; ++i) {
          const glm::dvec3 off(
              0.5 * length * dvec2(unit(6.2831853f * static_cast<float>(i) / static_cast<float>(corners))),
              0);
          bottom.push_back(centre + off);
          top.push_back(centre + taper * off + glm::dvec3(0, 0, high));
        }
        solid = between_rings(std::move(bottom), top);
        break;
      }
      case 3:
        solid = pyramid(base, centre + glm::dvec3(any(-0.2, 0.2) * length, any(-0.2, 0.2) * width, high));
        break;
      default:
        solid = between_rings(base, raised(high));
    }
    const bool doubtful = std::ranges::any_of(solid.faces, [&](const auto& face) {
      return std::abs(std::acos(solid.normal(face).z) - 0.7854) < 0.05;
    });
    if (!doubtful) solids.push_back(std::move(solid));
  }
  return solids;
}

}  // namespace ambulon
