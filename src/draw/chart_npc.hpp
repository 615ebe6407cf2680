#pragma once

#include "ambulon/base/public.hpp"
#include "ambulon/world/npc.hpp"

#include "draw/chart.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Returns an NPC with its goal and target for a chart, without trail and colour.
ChartNpc chart_npc(Npc npc);

}  // namespace ambulon
