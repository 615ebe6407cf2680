#pragma once

#include <memory>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/errand/way.hpp"

namespace ambulon {

/// Where somebody is pointed to: the places that were clicked, in turn, or where the pointer is held. Shared
/// by the game, which changes it at any time, and a `ClickToMove`.
class Clicks {
 public:
  explicit Clicks(std::pmr::memory_resource* memory = std::pmr::get_default_resource()) : places_(memory) {}

  /// Go there (metres), instead of anywhere else. The problem, and no change, when it is not finite; the same
  /// below.
  Expected<vec3> click(vec3 at) { return set(at, false); }
  /// Go there when all before are done: a way station.
  Expected<vec3> add(vec3 at);
  /// The pointer is held there: go there, stand there, and come along wherever it is held next.
  Expected<vec3> hold(vec3 at) { return set(at, true); }
  /// The pointer was let go: where it was last is a click.
  void release();
  /// The first of the places was reached or given up.
  void done();

  /// Those still to go to; the first is the goal.
  std::span<const vec3> places() const { return places_; }
  bool held() const { return held_; }
  /// Grows with each change.
  std::uint32_t revision() const { return revision_; }

 private:
  Expected<vec3> set(vec3 at, bool held);

  std::pmr::vector<vec3> places_;
  bool held_ = false;
  std::uint32_t revision_ = 1;
};

/// Options of going where was clicked.
struct ClickToMoveOptions {
  float within = 0.3f;  ///< metres from a place that count as there, 0.001 to 1000
  float every = 0.1f;   ///< seconds at the least from planning to planning while the pointer moves, 0 to 10
  /// `refuse` leaves the place out; while the pointer is held, it stays with where that was before.
  Unreachable unreachable = Unreachable::nearest;
};

/// Walks to where was clicked, place by place, and follows the pointer while it is held.
/// Ends as arrived at the last place (its cause says so when it is only the nearest spot to it), as
/// off_ground or no_way when the last place was refused, or as stuck. Without a place it is refused.
class ClickToMove final : public Errand {
 public:
  ClickToMove(std::shared_ptr<Clicks> clicks, ClickToMoveOptions options)
      : clicks_(std::move(clicks)), options_(options) {}

  std::string_view name() const override { return "click_to_move"; }
  std::optional<vec3> goal() const override;
  float arrival_radius() const override { return options_.within; }
  Step step(const View& see, float seconds) override;
  bool give_up(const View& see, const Outcome& why) override;
  Progress progress(const View& see) const override;
  std::optional<float> left(const View& see) const override;
  std::span<const vec3> bends() const override { return way_.bends_ahead(); }
  std::string doing() const override;

 private:
  std::optional<Outcome> mistake() const;
  std::optional<Outcome> plan(const View& see);
  std::optional<Outcome> lay(const View& see, vec3 place);
  std::optional<Outcome> arrive(const View& see);

  std::shared_ptr<Clicks> clicks_;
  ClickToMoveOptions options_;
  std::uint32_t planned_revision_ = 0;  // of the clicks; 0: nothing was planned yet
  double next_plan_ = 0;                // seconds: not before, while the pointer moves
  std::optional<vec3> goal_;            // where the way leads
  bool standing_ = false;               // where the pointer is held
  std::uint32_t visits_ = 0;
  Way way_;
};

}  // namespace ambulon
