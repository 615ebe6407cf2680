#pragma once

#include <array>
#include <cstdint>
#include <optional>

#include "ambulon/base/axes.hpp"
#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/ray.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The viewport of a camera within a window. Window points are in pixels; integers lie between pixels, so the
/// centre of the first pixel is at (0.5, 0.5).
struct Screen {
  vec2 size{1280.f, 800.f};  ///< pixels, 1 to 1e5 each
  vec2 corner{0.f};          ///< pixels: its own origin in the window
  bool y_down = true;        ///< y runs downwards from the top, as in windows; false: upwards
};

/// The clip space of a game's projection matrix. OpenGL: the defaults. Direct3D and Metal: {zero_to_one}.
/// Vulkan: {zero_to_one, true}. Reversed depth: one_to_zero.
struct ClipSpace {
  /// The range of depths in clip space.
  enum class Depth : std::uint8_t {
    minus_one_to_one,  ///< from the near to the far plane
    zero_to_one,
    one_to_zero,  ///< the far plane may be infinitely far
  };
  Depth depth = Depth::minus_one_to_one;
  bool y_down = false;
};

/// A mapping between points of the world and points of a window. It needs no world.
///
///     const auto camera = ambulon::Camera::of_matrices(view, projection, {.size = {1920, 1080}});
///     if (const auto ray = camera->ray(mouse)) click(ambulon::pick(world.ground(), *ray).at);
class Camera {
 public:
  /// The position and direction of a camera.
  struct Look {
    vec3 eye{0.f, 0.f, 10.f};  ///< metres
    vec3 target{0.f};          ///< metres; not at `eye`
    vec3 up{0.f, 0.f, 1.f};  ///< the up direction of the picture; if it is the viewing direction, +y is used
  };

  // Each of these returns a problem if a number is out of range or not finite.

  /// Makes a perspective camera. `field_of_view`: radians from the lower to the upper edge, 0.01 to 3.
  static Expected<Camera> perspective(const Look& look, float field_of_view, const Screen& screen = {});
  /// Makes an orthographic camera. `height`: metres from the lower to the upper edge, above 0 to 1e6.
  static Expected<Camera> orthographic(const Look& look, float height, const Screen& screen = {});
  /// Makes a camera that looks straight down, +y upwards: `scale` pixels per metre (above 0 to 1e5), the
  /// origin of the world at pixel `origin`.
  static Expected<Camera> flat(float scale, vec2 origin, const Screen& screen = {});
  /// Makes a camera of a game's matrices, column-major as in GLM: `projection * view * point` is in clip
  /// space.
  static Expected<Camera> of_matrices(const glm::mat<4, 4, float>& view,
                                      const glm::mat<4, 4, float>& projection, const Screen& screen = {},
                                      const ClipSpace& clip = {}, Axes axes = Axes::z_up);

  /// Returns the ray of what is seen at a point of the window (pixels), which may be outside of the screen.
  /// The ray starts at the near plane and has a unit direction. Returns a problem if the point is not finite
  /// or too far off.
  Expected<Ray> ray(vec2 point) const;
  /// Returns the point of the window at which a point (metres) is seen; nothing if it is behind the camera or
  /// not finite.
  std::optional<vec2> point_of(vec3 at) const;

  const Screen& screen() const { return screen_; }

 private:
  using Matrix = std::array<double, 16>;  // column-major

  Camera(const glm::mat<4, 4, double>& clip_of_point, const Screen& screen, const ClipSpace& clip, Axes axes);
  static Expected<Camera> checked(const glm::mat<4, 4, double>& clip_of_point, const Screen& screen,
                                  const ClipSpace& clip, Axes axes);

  Matrix clip_of_point_, point_of_clip_;
  Screen screen_;
  ClipSpace clip_;
  Axes axes_;
};

}  // namespace ambulon
