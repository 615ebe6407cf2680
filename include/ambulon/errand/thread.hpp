#pragma once

#include <array>
#include <cstdint>
#include <optional>

#include "ambulon/base/public.hpp"
#include "ambulon/base/random.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/errand/target.hpp"
#include "ambulon/ground/tiles/cell.hpp"

namespace AMBULON_PUBLIC ambulon {

/// A cell at which an NPC in a maze chooses where to go.
struct Junction {
  Cell cell;
  vec3 at{0.f};              ///< metres, the centre of the cell
  vec2 heading{0.f};         ///< unit vector of its last step; zero at the beginning
  std::array<vec2, 4> ways;  ///< unit vectors towards the open sides. The side it came from is left out
                             ///< unless it is the only one
  int count = 0;             ///< of `ways`, 1 to 4
};

/// The game's own choice at junctions.
class JunctionChooser {
 public:
  /// Returns an index into `Junction::ways`; any other number means the last one. `random` is the NPC's own.
  virtual int choose(const Junction& junction, Random& random) = 0;

 protected:
  ~JunctionChooser() = default;
};

/// Where to go at a junction.
enum class ThreadChoice : std::uint8_t {
  random,  ///< each side is equally likely
  toward,  ///< the side whose next cell is nearest to the target
  away,    ///< the side whose next cell is furthest from the target
  left,    ///< along the wall on the left
  right,   ///< along the wall on the right
};

/// Options of `Npc::thread`, which walks through a maze of tiles from cell centre to cell centre.
///
/// 1. The NPC walks straight on. It chooses at cells with three or more open sides and where it is blocked,
///    and turns back only at dead ends.
/// 2. At the end of each tick it is exactly on its line, at any speed.
/// 3. Enclosed on all sides, it stands until a side opens.
/// 4. The order ends as `done` after `choices`, and is refused if the ground has no tiles.
struct ThreadOptions {
  ThreadChoice choice = ThreadChoice::random;
  Target target = {};                  ///< of `toward` and `away`
  std::optional<vec3> point = {};      ///< metres: of `toward` and `away` if there is no target
  JunctionChooser* chooser = nullptr;  ///< replaces `choice`; must outlive the order
  std::uint32_t choices = 0;           ///< after which the order is done; 0: endless
};

}  // namespace ambulon
