#pragma once
// The keys of scene files and the members of gaits, bodies and orders, for reading and writing.

#include <span>
#include <string_view>

#include "ambulon/base/angle.hpp"
#include "ambulon/base/body.hpp"
#include "ambulon/motion/gait.hpp"

#include "scene/steps.hpp"

namespace ambulon::scene {

template <class Of>
struct Field {
  std::string_view key;
  float Of::* value;
  float unit = 1.f;  ///< unit of the file, in the unit of the code
};

inline constexpr Field<Gait> gait_fields[] = {
    {"speed", &Gait::speed},
    {"acceleration", &Gait::acceleration},
    {"braking", &Gait::braking},
    {"turn_rate", &Gait::turn_rate, radians(1.f)},
    {"slowing_distance", &Gait::slowing_distance},
    {"floor_speed", &Gait::floor_speed},
    {"stride", &Gait::stride},
    {"clearance", &Gait::clearance},
    {"rounding", &Gait::rounding},
    {"patience", &Gait::patience},
};

inline constexpr Field<Body> body_fields[] = {
    {"radius", &Body::radius},   {"height", &Body::height},       {"step_up", &Body::step_up},
    {"jump_up", &Body::jump_up}, {"drop_down", &Body::drop_down}, {"leap", &Body::leap},
};

inline constexpr Field<GoToOptions> go_to_fields[] = {{"within", &GoToOptions::within}};
inline constexpr Field<MarchOptions> march_fields[] = {{"within", &MarchOptions::within}};
inline constexpr Field<PatrolOptions> patrol_fields[] = {
    {"lap", &PatrolOptions::lap}, {"within", &PatrolOptions::within}, {"leg_time", &PatrolOptions::leg_time}};
inline constexpr Field<RoamOptions> roam_fields[] = {{"roam", &RoamOptions::radius},
                                                     {"not_nearer", &RoamOptions::not_nearer},
                                                     {"leg_time", &RoamOptions::leg_time},
                                                     {"within", &RoamOptions::within}};
inline constexpr Field<HopOptions> hop_fields[] = {{"leg_time", &HopOptions::leg_time},
                                                   {"within", &HopOptions::within}};
inline constexpr Field<FollowOptions> follow_fields[] = {
    {"stop", &FollowOptions::stop},
    {"resume", &FollowOptions::resume},
    {"replan_distance", &FollowOptions::replan_distance}};
inline constexpr Field<ChaseOptions> chase_fields[] = {{"reach", &ChaseOptions::reach},
                                                       {"give_up", &ChaseOptions::give_up},
                                                       {"foresight", &ChaseOptions::foresight},
                                                       {"replan_distance", &ChaseOptions::replan_distance}};
inline constexpr Field<FleeOptions> flee_fields[] = {{"reach", &FleeOptions::reach},
                                                     {"foresight", &FleeOptions::foresight}};
inline constexpr Field<EscortOptions> escort_fields[] = {
    {"leash", &EscortOptions::leash},
    {"within", &EscortOptions::within},
    {"replan_distance", &EscortOptions::replan_distance}};
inline constexpr Field<EaseToOptions> ease_to_fields[] = {{"seconds", &EaseToOptions::seconds}};
inline constexpr Field<SwayOptions> sway_fields[] = {{"frequency", &SwayOptions::frequency},
                                                     {"phase", &SwayOptions::phase, radians(1.f)}};
inline constexpr Field<PaceOptions> pace_fields[] = {{"gap", &PaceOptions::gap}};
inline constexpr Field<WanderOptions> wander_fields[] = {{"wander", &WanderOptions::turn, radians(1.f)},
                                                         {"every", &WanderOptions::every},
                                                         {"speed", &WanderOptions::speed},
                                                         {"radius", &WanderOptions::radius}};
inline constexpr Field<FlowOptions> flow_fields[] = {{"within", &FlowOptions::within}};
inline constexpr Field<SteerOptions> steer_fields[] = {{"budget", &SteerOptions::budget},
                                                       {"speed", &SteerOptions::speed},
                                                       {"min_speed", &SteerOptions::min_speed},
                                                       {"settle", &SteerOptions::settle},
                                                       {"queue_gap", &SteerOptions::queue_gap}};

inline std::span<const Field<GoToOptions>> fields_of(const GoToOptions&) { return go_to_fields; }
inline std::span<const Field<MarchOptions>> fields_of(const MarchOptions&) { return march_fields; }
inline std::span<const Field<PatrolOptions>> fields_of(const PatrolOptions&) { return patrol_fields; }
inline std::span<const Field<RoamOptions>> fields_of(const RoamOptions&) { return roam_fields; }
inline std::span<const Field<HopOptions>> fields_of(const HopOptions&) { return hop_fields; }
inline std::span<const Field<FollowOptions>> fields_of(const FollowOptions&) { return follow_fields; }
inline std::span<const Field<ChaseOptions>> fields_of(const ChaseOptions&) { return chase_fields; }
inline std::span<const Field<FleeOptions>> fields_of(const FleeOptions&) { return flee_fields; }
inline std::span<const Field<EscortOptions>> fields_of(const EscortOptions&) { return escort_fields; }
inline std::span<const Field<EaseToOptions>> fields_of(const EaseToOptions&) { return ease_to_fields; }
inline std::span<const Field<SwayOptions>> fields_of(const SwayOptions&) { return sway_fields; }
inline std::span<const Field<PaceOptions>> fields_of(const PaceOptions&) { return pace_fields; }
inline std::span<const Field<WanderOptions>> fields_of(const WanderOptions&) { return wander_fields; }
inline std::span<const Field<FlowOptions>> fields_of(const FlowOptions&) { return flow_fields; }
inline std::span<const Field<ThreadOptions>> fields_of(const ThreadOptions&) { return {}; }
inline std::span<const Field<SteerOptions>> fields_of(const SteerOptions&) { return steer_fields; }

}  // namespace ambulon::scene
