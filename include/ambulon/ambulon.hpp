#pragma once
// The whole core in one include.

#include "ambulon/errand/squad.hpp"
#include "ambulon/ground/field/flow_field.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/mesh/plan.hpp"
#include "ambulon/ground/open.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"
#include "ambulon/motion/steering.hpp"
#include "ambulon/script/routine.hpp"
#include "ambulon/world/camera.hpp"
#include "ambulon/world/debug_draw.hpp"
#include "ambulon/world/pick.hpp"
#include "ambulon/world/selection.hpp"
#include "ambulon/world/world.hpp"
