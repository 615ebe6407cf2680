#pragma once

#include "ambulon/errand/errand.hpp"

namespace ambulon {

/// How the speed of a glide runs from its beginning to its end.
enum class Ease : std::uint8_t {
  linear,  ///< the same all the way
  in,      ///< begins slowly
  out,     ///< ends slowly
  in_out,  ///< begins and ends slowly
};

/// When one who glides turns to where it goes.
enum class GlideTurn : std::uint8_t {
  first,  ///< before it sets off, within the time
  going,  ///< on the way
  never,  ///< keeps its heading
};

/// Options of gliding.
struct GlideOptions {
  float seconds = 1.f;  ///< for the whole of it, 0.001 to 1e6
  Ease ease = Ease::in_out;
  GlideTurn turn = GlideTurn::going;
  bool anywhere = false;  ///< over what is no ground, too, and up and down: a raft, a lift
};

/// Moves in a straight line to a point in a given time, whatever that takes. The gait's speed and
/// acceleration do not count, only its turn rate. Ends as arrived, or as blocked when the line
/// leaves the ground.
class Glide final : public Errand {
 public:
  Glide(vec3 to, GlideOptions options) : to_(to), options_(options) {}

  std::string_view name() const override { return "glide"; }
  std::optional<vec3> goal() const override { return to_; }
  Step step(const View& see, float seconds) override;
  Progress progress(const View& see) const override;

 private:
  std::optional<Outcome> begin(const View& see);

  vec3 to_, from_{0.f};
  GlideOptions options_;
  float turning_ = 0.f;  // seconds of the time spent on turning first
  double gone_ = -1;     // seconds; negative: not begun
  std::uint64_t revision_ = 0;
};

/// The part of the way, 0 to 1, gone after `part` of the time, 0 to 1.
float eased(Ease ease, float part);

}  // namespace ambulon
