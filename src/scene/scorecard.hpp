#pragma once

#include <set>

#include "ambulon/base/public.hpp"
#include "ambulon/scene/play.hpp"

#include "crowd/neighbour_index.hpp"
#include "scene/turns.hpp"

namespace AMBULON_PUBLIC ambulon {

/// How well one NPC got about.
struct Score {
  std::uint32_t legs = 0;       ///< walks from a start to a goal or a waypoint, of 1 m and more
  double detour = 0;            ///< metres walked over the shortest way, of those legs; 0: there were none
  double time_over_ideal = 0;   ///< their seconds over those at the gait's full speed; 0: none
  std::uint32_t overlaps = 0;   ///< times its body began to overlap another's
  float deepest_overlap = 0.f;  ///< metres
  std::uint32_t speed_jitters = 0;    ///< times its speed turned up and down again within half a second
  std::uint32_t heading_jitters = 0;  ///< times it turned to one side and to the other within half a second
  double stuck_seconds = 0;           ///< in which its body was held fast
};

/// A limit of the scene (`SceneLimits`) that somebody does not keep.
struct BrokenLimit {
  std::string_view limit;  ///< its key
  std::size_t npc;         ///< whose number in the scene; of those who break it, the first of the worst
  std::size_t others;      ///< who break it, too
  double value;            ///< of that one
  double max;              ///< the limit
};

/// Watches a play and keeps the score of each of its NPCs.
class Scorecard {
 public:
  /// The play must outlive it, and have a journal.
  explicit Scorecard(Play& play);

  /// To be called after each tick.
  void see();

  /// The score of NPC `index` up to now, or up to when it was removed.
  const Score& score(std::size_t index) const { return tracks_[index].score; }

  /// The limits of the scene that were broken up to now.
  std::vector<BrokenLimit> broken() const;

 private:
  /// Finds turns that follow each other too soon.
  struct Trembling {
    Turns turns;
    double last_turn = -1e9;  // seconds
    bool see(float value, float threshold, double now);
  };

  struct Track {
    Score score;
    vec3 position{0.f};  // at the tick before
    bool leg_begins = false, on_leg = false;
    vec3 from{0.f};
    double began = 0, metres_then = 0;
    float fastest = 0.01f;  // its gait in the course of the leg
    double shortest = 0, walked = 0, ideal = 0, took = 0;
    Trembling speed, heading;
    double busy_until = 0;    // seconds: when it had an order last
    float heading_sum = 0.f;  // radians turned, counted on beyond a full turn
    vec2 facing{1.f, 0.f};
  };

  void take(const Note& note);
  void end_leg(Track& track, Npc npc);
  void watch(Track& track, Npc npc);
  void overlaps();

  Play& play_;
  std::vector<Track> tracks_;
  std::uint64_t read_ = 0;  // notes of the journal
  NeighbourIndex index_;
  std::set<std::pair<std::size_t, std::size_t>> touching_;
};

}  // namespace ambulon
