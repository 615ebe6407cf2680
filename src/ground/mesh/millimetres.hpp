#pragma once
// Conversions: metres in the interface, millimetres in meshes.

#include "ambulon/base/vec.hpp"

#include "base/dvec2.hpp"

namespace ambulon {

constexpr double per_metre = 1000.0;  // millimetres

inline dvec2 in_mm(vec2 metres) { return per_metre * dvec2(metres); }
inline vec2 in_metres(dvec2 mm) { return vec2(mm / per_metre); }

}  // namespace ambulon
