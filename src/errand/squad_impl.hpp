#pragma once

#include <optional>
#include <vector>

#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/squad.hpp"

#include "errand/retry.hpp"
#include "route/route_service.hpp"

namespace ambulon {

/// The implementation of `Squad`. Its members (`March`) call it once a tick.
class Squad::Impl {
 public:
  explicit Impl(const SquadOptions& options) : options_(options) {}

  Expected<void> go_to(vec3 goal);
  void follow(NpcId leader);
  Expected<void> follow(vec3 point);
  std::size_t size() const { return members_.size(); }

  void join(NpcId who);
  void leave(NpcId who);
  /// Advances the squad to the present moment. Returns why it cannot go on, if so.
  std::optional<Outcome> go_on(const View& see);
  /// Returns true while it has no route and tries again later.
  bool waits() const { return failed_ && retry_.waits(); }
  /// Returns the place of a member, on the ground.
  vec3 place_of(const View& see);
  /// Returns the unit direction of travel at that member.
  vec2 direction_at(const View& see) const;
  /// Returns true when the squad is at its goal, and members only have to take their places.
  bool at_goal() const { return leads_ == Leads::goal && planned_ && guide_ >= length_; }

 private:
  enum class Leads : std::uint8_t { nobody, goal, npc, point };

  struct Member {
    NpcId who;
    vec2 offset{0.f};     // metres: ahead of the guide, and to its left
    float along = 0.f;    // metres along the path
    float abreast = 1.f;  // fraction of the sideways offset that there is room for
    float shift = 0.f;    // metres to the left, where there is more room
    bool placed = false;  // its offset is assigned
  };

  /// How the widest rank fits the ground.
  struct Fit {
    float part = 1.f;   // fraction of its width
    float shift = 0.f;  // metres to the left
  };

  const Member* find(NpcId who) const;
  std::optional<Outcome> plan(const View& see);
  void try_to_plan(const View& see);
  std::optional<Outcome> plan_route(const View& see, vec3 middle);
  bool find_route(const View& see, vec3 middle, const Spot& to, Route& route);
  std::vector<vec2> places() const;
  void take_places(const View& see);
  void look_for_opening(const View& see);
  void measure();
  void walk_on(float seconds);
  void trail(vec3 at);
  void line_up(const View& see, float seconds);
  vec3 point_at(float along) const;
  vec2 direction_along(float along) const;
  Fit fit_at(const View& see, float along) const;

  SquadOptions options_;
  Leads leads_ = Leads::nobody;
  vec3 goal_{0.f};  // or the followed point
  NpcId leader_;
  std::vector<Member> members_;    // by place: front ranks first, and within a rank from the middle
  bool planned_ = false;           // since members or the goal changed
  std::optional<Outcome> failed_;  // why it has no route, until it tries again
  Retry retry_;
  RouteTicket asked_;                  // a pending request for its route
  NpcId asker_;                        // the member that requested it
  std::uint64_t ground_revision_ = 0;  // at the time of the plan
  bool opened_ = false;                // ground that may allow a shorter route
  double next_opening_look_ = 0;       // seconds: next check for a shorter route
  float opening_wait_ = 1.f;           // seconds: doubles each time that there was none
  double seen_at_ = -1;                // seconds
  std::vector<vec3> path_;             // metres
  std::vector<float> along_;           // arc length of each point, metres
  float length_ = 0.f;                 // metres of the path
  float guide_ = 0.f;                  // metres along the path: the centre of the squad
  // metres per second: the slowest member's speed, of the last tick and of this one
  float pace_ = 0.f, next_pace_ = 0.f;
  float left_ = 0.f, right_ = 0.f;    // metres from the centre to the ends of the widest rank
  float lag_ = 0.f, next_lag_ = 0.f;  // metres by which the last member is behind
};

}  // namespace ambulon
