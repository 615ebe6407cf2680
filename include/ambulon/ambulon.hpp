#pragma once
// The whole core in one include.

#include "ambulon/ground/open.hpp"
#include "ambulon/script/routine.hpp"
#include "ambulon/world/pick.hpp"
#include "ambulon/world/selection.hpp"
#include "ambulon/world/world.hpp"
