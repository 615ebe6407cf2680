#include <algorithm>
#include <cmath>
#include <limits>

#include <glm/ext/vector_double3.hpp>

#include "base/dvec2.hpp"
#include "base/geometry.hpp"
#include "base/ray_hits.hpp"

namespace ambulon {
namespace {

using dvec3 = glm::dvec3;

dvec3 unit_direction(const Ray& ray) { return glm::normalize(dvec3(ray.direction)); }

/// The part of a ray, in metres, that is left when it is cut.
struct Part {
  double begins = 0, ends = std::numeric_limits<double>::infinity();

  /// Leaves what lies where `off + metres * way` is at most 0.
  void cut(double off, double way) {
    if (way > 0)
      ends = std::min(ends, -off / way);
    else if (way < 0)
      begins = std::max(begins, -off / way);
    else if (off > 0)
      ends = -1;
  }
  /// Leaves what lies within a circle around the origin.
  void cut_round(dvec2 off, dvec2 way, double radius) {
    const double a = glm::dot(way, way), b = glm::dot(off, way), c = glm::dot(off, off) - radius * radius;
    const double root = b * b - a * c;
    if (a == 0 ? c > 0 : root < 0) ends = -1;
    if (a == 0 || root < 0) return;
    begins = std::max(begins, (-b - std::sqrt(root)) / a);
    ends = std::min(ends, (-b + std::sqrt(root)) / a);
  }
};

}  // namespace

bool sound(const Ray& ray) {
  const dvec3 way(ray.direction);
  return finite(ray.from) && finite(ray.direction) && glm::dot(way, way) > 0;
}

vec3 along(const Ray& ray, double metres) { return vec3(dvec3(ray.from) + metres * unit_direction(ray)); }

std::optional<double> into_height(const Ray& ray, double z) {
  if (!sound(ray)) return {};
  const double off = z - ray.from.z, way = unit_direction(ray).z;
  if (off == 0) return 0.0;
  const double metres = way == 0 ? -1 : off / way;
  return metres >= 0 && std::isfinite(metres) ? std::optional(metres) : std::nullopt;
}

std::optional<double> into_column(const Ray& ray, std::span<const vec2> corners, float radius, float bottom,
                                  float top) {
  if (!sound(ray) || corners.empty()) return {};
  const dvec3 from(ray.from), way = unit_direction(ray);
  Part part;
  part.cut(from.z - top, way.z);
  part.cut(bottom - from.z, -way.z);
  if (corners.size() == 1)
    part.cut_round(dvec2(from) - dvec2(corners[0]), dvec2(way), radius);
  else
    for (std::size_t i = 0; i < corners.size(); ++i) {
      const dvec2 a(corners[i]), side = dvec2(corners[(i + 1) % corners.size()]) - a;
      part.cut(-cross(side, dvec2(from) - a), -cross(side, dvec2(way)));
    }
  return part.begins <= part.ends ? std::optional(part.begins) : std::nullopt;
}

}  // namespace ambulon
