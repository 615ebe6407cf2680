#pragma once

#include <cstdint>
#include <optional>

#include <glm/ext/matrix_double4x4.hpp>
#include <glm/ext/matrix_float4x4.hpp>

#include "ambulon/base/axes.hpp"
#include "ambulon/base/problem.hpp"
#include "ambulon/base/ray.hpp"

namespace ambulon {

/// The part of a window that a camera fills. Its points are in pixels, whole numbers between them: the first
/// pixel's middle is half a pixel from the corner.
struct Screen {
  vec2 size{1280.f, 800.f};  ///< pixels, 1 to 1e5 each
  vec2 corner{0.f};          ///< pixels: where its own corner lies in the window
  bool y_down = true;        ///< points count downwards from the top, as windows do; false: upwards
};

/// What a game's projection makes of depth and height. OpenGL's are the first two of what there is,
/// Direct3D's and Metal's {zero_to_one, false}, Vulkan's {zero_to_one, true}; with depth reversed,
/// one_to_zero.
struct ClipSpace {
  enum class Depth : std::uint8_t {
    minus_one_to_one,  ///< from the nearest to the farthest
    zero_to_one,
    one_to_zero,  ///< the farthest may be endlessly far
  };
  Depth depth = Depth::minus_one_to_one;
  bool y_down = false;
};

/// How a place is seen in a window, so that a point of the window can be followed to what is seen there.
/// Plain data without a world.
class Camera {
 public:
  /// Where it is and where it looks.
  struct Look {
    vec3 eye{0.f, 0.f, 10.f};  ///< metres
    vec3 target{0.f};          ///< metres; not where the eye is
    vec3 up{0.f, 0.f, 1.f};    ///< what is up in the picture; where it looks along that, +y is
  };

  /// What is further away looks smaller. `field_of_view`: radians from the lower to the upper edge, 0.01
  /// to 3. The problem when a number is out of range or not finite; the same below.
  static Expected<Camera> perspective(const Look& look, float field_of_view, const Screen& screen = {});
  /// What is further away does not. `height`: metres from the lower to the upper edge, above 0 to 1e6.
  static Expected<Camera> orthographic(const Look& look, float height, const Screen& screen = {});
  /// Straight from above, +y upwards: `scale` pixels a metre (above 0 to 1e5), the origin at pixel `origin`.
  static Expected<Camera> flat(float scale, vec2 origin, const Screen& screen = {});
  /// As the matrices of a game say, which make clip space of its points: `projection * view * point`, in
  /// columns, as GLM has them.
  static Expected<Camera> of_matrices(const glm::mat4& view, const glm::mat4& projection,
                                      const Screen& screen = {}, const ClipSpace& clip = {},
                                      Axes axes = Axes::z_up);

  /// The line along which all lies that is seen at a point of the window (pixels), which may lie beyond the
  /// screen; it begins at the nearest that is drawn and has a direction of length 1. The problem when the
  /// point is not finite or so far off that nothing could be seen there.
  Expected<Ray> ray(vec2 point) const;
  /// Where in the window a point (metres) is seen; nothing when it lies behind the camera or is not finite.
  std::optional<vec2> point_of(vec3 at) const;

  const Screen& screen() const { return screen_; }

 private:
  Camera(const glm::dmat4& clip_of_point, const Screen& screen, const ClipSpace& clip, Axes axes);
  static Expected<Camera> checked(const glm::dmat4& clip_of_point, const Screen& screen,
                                  const ClipSpace& clip, Axes axes);

  glm::dmat4 clip_of_point_, point_of_clip_;
  Screen screen_;
  ClipSpace clip_;
  Axes axes_;
};

}  // namespace ambulon
