#pragma once
// The steps of a scene's NPCs, as orders and waits.

#include <cstdint>
#include <vector>

#include "ambulon/script/routine.hpp"

#include "scene/steps.hpp"

namespace ambulon {

class Play;

/// Runs the steps in order, `times` times; 0: for ever. If a round takes no time, since its orders fail or
/// are done at once, the next one waits: 1 s at first, then longer. All must outlive the routine.
Routine work_through(Play& play, Npc me, const std::vector<SceneStep>& steps, std::uint32_t times);

/// Returns the condition of an NPC in its world.
Condition condition(Npc me, const SceneCondition& what);

}  // namespace ambulon
