#include "ambulon/world/camera.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>
#include <glm/ext/matrix_clip_space.hpp>
#include <glm/ext/matrix_double4x4.hpp>
#include <glm/ext/matrix_float4x4.hpp>
#include <glm/ext/matrix_transform.hpp>
#include <glm/ext/vector_double3.hpp>
#include <glm/gtc/type_ptr.hpp>
#include <glm/matrix.hpp>

#include "ambulon/base/range.hpp"

#include "base/dvec2.hpp"
#include "base/geometry.hpp"

namespace ambulon {
namespace {

using glm::dmat4;
using glm::dvec3;
using glm::dvec4;
using Depth = ClipSpace::Depth;

constexpr double nearest = 0.05;     // metres from the eye: near limit
constexpr double farthest = 2e6;     // metres: far limit
constexpr float above_all = 5e5f;    // metres: height of an orthographic view straight down
constexpr float widest_view = 1e6f;  // metres

bool all_finite(const dmat4& matrix) {
  for (int column = 0; column < 4; ++column)
    for (int row = 0; row < 4; ++row)
      if (!std::isfinite(matrix[column][row])) return false;
  return true;
}

std::array<double, 16> numbers_of(const dmat4& matrix) {
  std::array<double, 16> numbers;
  std::copy_n(glm::value_ptr(matrix), numbers.size(), numbers.begin());
  return numbers;
}

dmat4 matrix_of(const std::array<double, 16>& numbers) { return glm::make_mat4(numbers.data()); }

std::string out_of_range(std::string_view what, double value, double min, double max) {
  return fmt::format("{} is {:g}; it must lie between {:g} and {:g}", what, value, min, max);
}

/// Returns the view matrix. Returns a problem if the camera has no direction.
Expected<dmat4> view_of(const Camera::Look& look) {
  if (!finite(look.eye) || !finite(look.target) || !finite(look.up))
    return problem("the camera's eye, target or up is not finite");
  const dvec3 way = dvec3(look.target) - dvec3(look.eye);
  if (!(glm::length(way) > 1e-6))
    return problem("the camera's eye is at its target, so it looks nowhere; move one of them");
  dvec3 up(look.up);
  if (!(glm::length(up) > 1e-6)) return problem("the camera's up has no direction; use (0, 0, 1)");
  if (glm::length(glm::cross(glm::normalize(way), glm::normalize(up))) < 1e-6)
    up = std::abs(way.y) < std::abs(way.z) ? dvec3(0, 1, 0) : dvec3(0, 0, 1);
  return glm::lookAtRH(dvec3(look.eye), dvec3(look.target), up);
}

}  // namespace

Camera::Camera(const dmat4& clip_of_point, const Screen& screen, const ClipSpace& clip, Axes axes)
    : clip_of_point_(numbers_of(clip_of_point)),
      point_of_clip_(numbers_of(glm::inverse(clip_of_point))),
      screen_(screen),
      clip_(clip),
      axes_(axes) {}

Expected<Camera> Camera::checked(const dmat4& clip_of_point, const Screen& screen, const ClipSpace& clip,
                                 Axes axes) {
  for (const float size : {screen.size.x, screen.size.y})
    if (!Range{1.f, 1e5f}.holds(size)) return problem(out_of_range("a side of the screen", size, 1, 1e5));
  if (!std::isfinite(screen.corner.x) || !std::isfinite(screen.corner.y))
    return problem("the corner of the screen is not finite");
  if (!all_finite(clip_of_point)) return problem("a number of the camera's matrices is not finite");
  const Camera camera(clip_of_point, screen, clip, axes);
  if (!all_finite(matrix_of(camera.point_of_clip_)))
    return problem(
        "the camera's matrices make the same of different points; check that projection and view are "
        "complete, and in columns");
  return camera;
}

Expected<Camera> Camera::perspective(const Look& look, float field_of_view, const Screen& screen) {
  const auto view = view_of(look);
  if (!view) return tl::unexpected(view.error());
  if (!Range{0.01f, 3.f}.holds(field_of_view))
    return problem(out_of_range("the field of view, in radians,", field_of_view, 0.01, 3));
  const double ratio = static_cast<double>(screen.size.x) / screen.size.y;
  if (!(ratio > 0)) return checked(*view, screen, {}, Axes::z_up);  // which names the invalid value
  return checked(glm::perspectiveRH_NO(double{field_of_view}, ratio, nearest, farthest) * *view, screen, {},
                 Axes::z_up);
}

Expected<Camera> Camera::orthographic(const Look& look, float height, const Screen& screen) {
  const auto view = view_of(look);
  if (!view) return tl::unexpected(view.error());
  if (height <= 0.f || !Range{0.f, widest_view}.holds(height))
    return problem(out_of_range("the height that the camera sees, in metres,", height, 0, widest_view));
  const double half = 0.5 * height, aside = half * screen.size.x / screen.size.y;
  return checked(glm::orthoRH_NO(-aside, aside, -half, half, 0.0, farthest) * *view, screen, {}, Axes::z_up);
}

Expected<Camera> Camera::flat(float scale, vec2 origin, const Screen& screen) {
  if (scale <= 0.f || !Range{0.f, 1e5f}.holds(scale))
    return problem(out_of_range("the scale, in pixels a metre,", scale, 0, 1e5));
  if (!std::isfinite(origin.x) || !std::isfinite(origin.y))
    return problem("the pixel of the origin is not finite");
  vec2 middle = screen.corner + 0.5f * screen.size - origin;
  if (screen.y_down) middle.y = -middle.y;
  middle /= scale;
  return orthographic({.eye = lift(middle, above_all), .target = lift(middle), .up = {0.f, 1.f, 0.f}},
                      screen.size.y / scale, screen);
}

Expected<Camera> Camera::of_matrices(const glm::mat4& view, const glm::mat4& projection, const Screen& screen,
                                     const ClipSpace& clip, Axes axes) {
  return checked(dmat4(projection) * dmat4(view), screen, clip, axes);
}

Expected<Ray> Camera::ray(vec2 point) const {
  dvec2 at = 2.0 * (dvec2(point) - dvec2(screen_.corner)) / dvec2(screen_.size) - 1.0;
  if (screen_.y_down != clip_.y_down) at.y = -at.y;
  const bool reversed = clip_.depth == Depth::one_to_zero;
  const double front = clip_.depth == Depth::minus_one_to_one ? -1 : reversed ? 1 : 0;
  const dmat4 point_of_clip = matrix_of(point_of_clip_);
  const dvec4 near = point_of_clip * dvec4(at, front, 1),
              far = point_of_clip * dvec4(at, reversed ? 0 : 1, 1);
  // Both points are visible, so their w components have the same sign. The far one may be infinite.
  const dvec3 from = dvec3(near) / near.w, way = near.w * dvec3(far) - far.w * dvec3(near);
  const Ray ray{from_axes(axes_, vec3(from)), from_axes(axes_, vec3(glm::normalize(way)))};
  if (!sound(ray))
    return problem(
        fmt::format("nothing can be seen at the point ({:g}, {:g}) of the window", point.x, point.y));
  return ray;
}

std::optional<vec2> Camera::point_of(vec3 at) const {
  const dvec4 clip = matrix_of(clip_of_point_) * dvec4(dvec3(to_axes(axes_, at)), 1);
  const double front = clip_.depth == Depth::minus_one_to_one ? clip.z + clip.w
                       : clip_.depth == Depth::zero_to_one    ? clip.z
                                                              : clip.w - clip.z;
  if (clip.w <= 0 || front < 0) return {};
  dvec2 part = 0.5 + 0.5 * dvec2(clip) / clip.w;
  if (screen_.y_down != clip_.y_down) part.y = 1 - part.y;
  const vec2 point(dvec2(screen_.corner) + part * dvec2(screen_.size));
  return std::isfinite(point.x) && std::isfinite(point.y) ? std::optional(point) : std::nullopt;
}

}  // namespace ambulon
