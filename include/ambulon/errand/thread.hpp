#pragma once

#include <array>

#include "ambulon/errand/target.hpp"
#include "ambulon/ground/tiles/tile_map.hpp"

namespace ambulon {

/// A cell where somebody who threads a maze chooses where to go on.
struct Junction {
  Cell cell;
  vec3 at{0.f};              ///< metres, its middle
  vec2 heading{0.f};         ///< unit vector in which it came; zero at the beginning
  std::array<vec2, 4> ways;  ///< unit vectors along the sides that are open, the one it came by left out
                             ///< unless it is the only one
  int count = 0;             ///< of ways, 1 to 4
};

/// A user's own choice at junctions.
class JunctionChooser {
 public:
  /// The number of the way to take, from 0; others are taken for the last. `random` is the NPC's own.
  virtual int choose(const Junction& junction, Random& random) = 0;

 protected:
  ~JunctionChooser() = default;
};

/// Where to go at a junction.
enum class ThreadChoice : std::uint8_t {
  random,  ///< each way as likely
  toward,  ///< the way whose next cell is nearest to the target
  away,    ///< the way whose next cell is furthest from it
  left,    ///< along the wall on its left hand
  right,   ///< along the wall on its right hand
};

/// Options of threading a maze.
struct ThreadOptions {
  ThreadChoice choice = ThreadChoice::random;
  Target target = {};              ///< of toward and away: an NPC, or one of those with a tag; when neither,
                                   ///< `point`
  std::optional<vec3> point = {};  ///< metres
  JunctionChooser* chooser =
      nullptr;                ///< decides instead of `choice`, when there is one; must outlive the order
  std::uint32_t choices = 0;  ///< done after so many; 0: goes on for ever
};

/// Threads the ways of a tile ground from middle to middle of cells: straight on while the way is
/// free, and at each cell with three or more open sides, or where it is blocked, it chooses anew; it turns
/// back only at dead ends. At the end of each tick it is exactly on its line, at any speed. Ends as done
/// after `choices`; is refused where the ground has no tiles. Shut in, it stands until a side opens.
class Thread final : public Errand {
 public:
  explicit Thread(const ThreadOptions& options) : options_(options), quarry_(options.target) {}

  std::string_view name() const override { return "thread"; }
  NpcId target() const override { return quarry_.now(); }
  Step step(const View& see, float seconds) override;
  Progress progress(const View&) const override { return {}; }
  std::string doing() const override { return "threading the maze"; }

 private:
  std::optional<Outcome> begin(const View& see);
  std::optional<Outcome> look(const View& see);
  void go(const View& see, float metres, vec2& at);
  vec2 choose(const View& see, const TileMap& cells, Cell here);
  vec2 chosen_of(const Junction& junction, const View& see);

  ThreadOptions options_;
  Quarry quarry_;
  bool begun_ = false;
  bool entering_ = true;  // on its way to the middle of its first cell
  Cell from_, to_;        // it is between their middles
  vec2 heading_{0.f};     // from the one to the other; zero when it stands
  float speed_ = 0.f;
  std::optional<vec2> target_;  // where it is, for toward and away
  std::uint32_t chosen_ = 0;    // so often
  std::uint32_t jumps_ = 0;
};

}  // namespace ambulon
