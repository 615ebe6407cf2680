#include "ambulon/world/npc.hpp"

#include <cmath>

#include <fmt/format.h>

#include "ambulon/ground/field/flow_field.hpp"

#include "base/allowed.hpp"
#include "base/geometry.hpp"
#include "errand/chase.hpp"
#include "errand/click_to_move.hpp"
#include "errand/ease_to.hpp"
#include "errand/escort.hpp"
#include "errand/flee.hpp"
#include "errand/flow.hpp"
#include "errand/follow.hpp"
#include "errand/go_to.hpp"
#include "errand/go_to_npc.hpp"
#include "errand/hop.hpp"
#include "errand/march.hpp"
#include "errand/pace.hpp"
#include "errand/patrol.hpp"
#include "errand/pause.hpp"
#include "errand/roam.hpp"
#include "errand/steer.hpp"
#include "errand/sway.hpp"
#include "errand/thread.hpp"
#include "errand/turn_to.hpp"
#include "errand/wander.hpp"
#include "world/world_impl.hpp"

namespace ambulon {

// --- Order ------------------------------------------------------------------------------------

bool Order::running() const {
  return world_ != nullptr && world_->impl().state.npcs.knows(who_) &&
         world_->impl().state.npcs[who_.slot].errand &&
         world_->impl().state.npcs.state(who_.slot).serial == serial_;
}

std::optional<Outcome> Order::outcome() const {
  if (world_ == nullptr || serial_ == 0) return Outcome{.ending = Ending::gone, .cause = Cause::no_such_npc};
  if (!world_->impl().state.npcs.knows(who_))
    return Outcome{.ending = Ending::gone, .cause = Cause::npc_removed};
  const Orders::Ends* ends = world_->impl().orders.ends(who_.slot);
  if (ends != nullptr && ends->serial == serial_) return ends->last;
  return std::nullopt;
}

const Order& Order::on_end(std::function<void(Npc, const Outcome&)> then) const {
  if (world_ == nullptr) return *this;
  if (running())
    world_->impl().state.callbacks.on_end(who_.slot, std::move(then));
  else if (const auto ended = outcome(); ended && !world_->impl().closed())
    world_->impl().state.callbacks.call_later(npc(), *ended, std::move(then));
  return *this;
}

const Order& Order::on_act(std::function<void(Npc, Npc, bool)> then) const {
  if (running()) world_->impl().state.callbacks.on_act(who_.slot, std::move(then));
  return *this;
}

const Order& Order::time_limit(float seconds) const {
  if (running() && allowed::durations.holds(seconds))
    world_->impl().orders.set_time_limit(who_.slot, seconds);
  return *this;
}

const Order& Order::patience(float seconds) const {
  if (running() && allowed::patiences.holds(seconds)) world_->impl().orders.set_patience(who_.slot, seconds);
  return *this;
}

void Order::cancel(Cause cause) const {
  if (running()) world_->impl().orders.finish(who_.slot, {.ending = Ending::cancelled, .cause = cause});
}

Npc Order::npc() const { return world_ != nullptr ? Npc(*world_, who_) : Npc(); }

// --- Npc: orders ------------------------------------------------------------------------------

Order Npc::give(ErrandPtr errand) const {
  return world_ != nullptr ? world_->impl().orders.start(id_, std::move(errand)) : Order{};
}

Order Npc::go_to(vec3 goal, const GoToOptions& options) const { return order<GoTo>(goal, options); }

Order Npc::go_to_one(Target target, const GoToOptions& options) const {
  return order<GoToNpc>(target, options);
}

Order Npc::click_to_move(std::shared_ptr<Clicks> clicks, ClickToMoveOptions options) const {
  return order<ClickToMove>(std::move(clicks), options);
}

Order Npc::turn_to(vec3 point) const { return order<TurnTo>(point); }

Order Npc::turn_to_heading(float heading) const { return order<TurnTo>(heading); }

Order Npc::pause(float seconds) const { return order<Pause>(seconds); }

Order Npc::wait_for(std::string_view signal) const {
  if (world_ == nullptr) return {};
  Signals& signals = world_->impl().state.signals;
  const Signal number = signals.named(signal);
  return order<WaitFor>(number, signals.name(number));
}

Order Npc::patrol(BeatPtr beat, PatrolOptions options) const {
  if (world_ == nullptr) return {};
  return order<Patrol>(std::move(beat), options, world_->memory());
}

Order Npc::patrol(std::span<const vec3> points, PatrolOptions options) const {
  if (world_ == nullptr) return {};
  auto beat = make_beat(points, BeatOrder::around, BeatPath::straight, world_->memory());
  return patrol(beat ? BeatPtr(*beat) : BeatPtr(), options);
}

Order Npc::roam(const RoamOptions& options) const { return order<Roam>(options); }

Order Npc::hop(BeatPtr points, HopOptions options) const { return order<Hop>(std::move(points), options); }

Order Npc::hop(std::span<const vec3> points, HopOptions options) const {
  if (world_ == nullptr) return {};
  auto beat = make_beat(points, BeatOrder::shuffled, BeatPath::straight, world_->memory());
  return hop(beat ? BeatPtr(*beat) : BeatPtr(), options);
}

Order Npc::follow(Npc target, const FollowOptions& options) const {
  return follow(Target{.npc = target.id()}, options);
}

Order Npc::follow(Target target, const FollowOptions& options) const {
  return order<Follow>(target, options);
}

Order Npc::chase(Npc target, const ChaseOptions& options) const {
  return chase(Target{.npc = target.id()}, options);
}

Order Npc::chase(Target target, const ChaseOptions& options) const { return order<Chase>(target, options); }

Order Npc::flee(Npc target, const FleeOptions& options) const {
  return flee(Target{.npc = target.id()}, options);
}

Order Npc::flee(Target target, const FleeOptions& options) const { return order<Flee>(target, options); }

Order Npc::march(std::shared_ptr<Squad> squad, MarchOptions options) const {
  return order<March>(std::move(squad), options);
}

Order Npc::escort(Npc leader, const EscortOptions& options) const {
  return order<Escort>(leader.id(), options);
}

Order Npc::ease_to(vec3 to, EaseToOptions options) const { return order<EaseTo>(to, options); }

Order Npc::sway(const SwayOptions& options) const { return order<Sway>(options); }

Order Npc::pace(const PaceOptions& options) const { return order<Pace>(options); }

Order Npc::wander(const WanderOptions& options) const { return order<Wander>(options); }

Order Npc::flow(const FlowField& field, FlowOptions options) const { return order<Flow>(field, options); }

Order Npc::thread(const ThreadOptions& options) const { return order<Thread>(options); }

Order Npc::steer(BlendPtr blend, SteerOptions options) const {
  return order<Steer>(std::move(blend), options);
}

void Npc::cancel() const {
  if (busy())
    world_->impl().orders.finish(id_.slot, {.ending = Ending::cancelled, .cause = Cause::taken_back});
}

void Npc::suspend() const {
  if (alive()) world_->impl().orders.suspend(id_.slot, true);
}

void Npc::resume() const {
  if (alive()) world_->impl().orders.suspend(id_.slot, false);
}

bool Npc::suspended() const { return alive() && world_->impl().state.npcs[id_.slot].suspended; }

Expected<vec3> Npc::teleport(vec3 to) const {
  if (!alive()) return problem("the NPC is no longer in the world; there is nothing to teleport");
  return world_->impl().locomotion.teleport(id_.slot, to);
}

void Npc::on_touch(std::function<void(Npc, Npc, float)> then, Tags tags) const {
  if (alive()) world_->impl().contacts.on_touch(id_.slot, std::move(then), tags);
}

void Npc::on_removed(std::function<void(Npc)> then) const {
  if (alive()) world_->impl().state.callbacks.on_removed(id_.slot, std::move(then));
}

Expected<void> Npc::push(vec2 velocity, float seconds) const {
  if (!alive()) return problem("the NPC is no longer in the world; there is nothing to push");
  return world_->impl().locomotion.push(id_.slot, velocity, seconds);
}

void Npc::direct(std::unique_ptr<Script> script) const {
  if (alive()) world_->impl().direct(id_.slot, std::move(script));
}

Condition Npc::until_near(Npc other, float metres) const {
  return {world_, Condition::Kind::near, id_, other.id_, metres};
}

Condition Npc::until_apart(Npc other, float metres) const {
  return {world_, Condition::Kind::apart, id_, other.id_, metres};
}

Condition Npc::until_arrived(Npc other) const { return {world_, Condition::Kind::arrived, id_, other.id_}; }

Condition Npc::until_stuck(Npc other) const { return {world_, Condition::Kind::stuck, id_, other.id_}; }

Condition Npc::until_signal(std::string_view signal) const {
  const Signal number = world_ != nullptr ? world_->signal_named(signal) : Signal{};
  return {world_, Condition::Kind::signal, id_, {}, 0.f, number};
}

bool Npc::directed() const { return alive() && world_->impl().state.npcs[id_.slot].scripted; }

void Npc::remove() const {
  if (world_ != nullptr) world_->impl().remove(id_);
}

// --- Npc: queries -----------------------------------------------------------------------------

bool Npc::alive() const { return world_ != nullptr && world_->impl().state.npcs.knows(id_); }

std::string_view Npc::name() const { return alive() ? world_->impl().state.npcs.name(id_.slot) : ""; }

Motion Npc::motion() const {
  if (!alive()) return {};
  const Mover& mover = world_->impl().state.npcs[id_.slot];
  Motion motion = mover.motion;
  motion.position = mover.shown_position();
  return motion;
}

vec3 Npc::position() const { return motion().position; }

vec2 Npc::velocity() const { return motion().velocity; }

float Npc::heading() const { return motion().heading(); }

Body Npc::body() const { return alive() ? world_->impl().state.npcs[id_.slot].traits->body : Body{}; }

Gait Npc::gait() const { return alive() ? world_->impl().state.npcs[id_.slot].traits->gait : Gait{}; }

Tags Npc::tags() const { return alive() ? world_->impl().state.npcs[id_.slot].traits->tags : Tags{}; }

Avoidance Npc::avoidance() const {
  return alive() ? world_->impl().state.npcs[id_.slot].traits->avoidance : Avoidance{};
}

Drive Npc::drive() const { return alive() ? world_->impl().state.npcs[id_.slot].drive : Drive::own; }

int Npc::route_priority() const { return alive() ? world_->impl().state.npcs[id_.slot].route_priority() : 0; }

std::uint64_t Npc::user_data() const { return alive() ? world_->impl().state.npcs.user_data(id_.slot) : 0; }

Pose Npc::pose(float alpha) const {
  return alive() ? world_->impl().locomotion.pose(id_.slot, alpha) : Pose{};
}

float Pose::heading() const { return heading_of(facing); }

Statistics Npc::statistics() const {
  if (!alive()) return {};
  const Mover& mover = world_->impl().state.npcs[id_.slot];
  const NpcState& state = world_->impl().state.npcs.state(id_.slot);
  const Orders::Ends* ends = world_->impl().orders.ends(id_.slot);
  return {.metres = mover.metres,
          .moving_seconds = mover.moving_seconds,
          .top_speed = mover.top_speed,
          .held_seconds = state.held_seconds,
          .arrivals = state.arrivals,
          .endings = ends != nullptr ? ends->counts : decltype(Statistics::endings){}};
}

ErrandState Npc::errand() const {
  ErrandState state;
  if (!alive()) return state;
  if (const Orders::Ends* ends = world_->impl().orders.ends(id_.slot)) state.last = ends->last;
  if (const Errand* errand = world_->impl().state.npcs[id_.slot].errand) {
    const Motion motion = world_->impl().locomotion.seen_motion(id_.slot);
    state.name = errand->name();
    state.progress = errand->progress(world_->impl().orders.view_of(id_.slot, motion));
    state.goal = errand->goal();
    state.arrival_radius = errand->arrival_radius();
    state.target = errand->target();
    state.on_beat = errand->on_beat();
  }
  return state;
}

bool Npc::busy() const { return alive() && world_->impl().state.npcs[id_.slot].errand != nullptr; }

std::string Npc::doing() const {
  if (!alive()) return "gone";
  if (suspended()) return "suspended";
  const Errand* errand = world_->impl().state.npcs[id_.slot].errand;
  return errand != nullptr ? errand->doing() : "standing";
}

vec2 Npc::wanted_velocity() const {
  return alive() && busy() ? world_->impl().state.npcs[id_.slot].wanted : vec2(0.f);
}

std::span<const vec3> Npc::bends() const {
  if (!alive()) return {};
  const Errand* errand = world_->impl().state.npcs[id_.slot].errand;
  return errand != nullptr ? errand->bends() : std::span<const vec3>();
}

const Beat* Npc::beat() const {
  if (!alive()) return nullptr;
  const Errand* errand = world_->impl().state.npcs[id_.slot].errand;
  return errand != nullptr ? errand->beat() : nullptr;
}

// --- Npc: settings and bodies that the game moves ---------------------------------------------

Expected<void> Npc::set_gait(const Gait& gait) const {
  auto good = validate(gait);
  if (good && alive()) world_->impl().set_gait(id_.slot, gait);
  return good;
}

Expected<void> Npc::set_body(const Body& body) const {
  auto good = validate(body);
  if (good && alive()) world_->impl().locomotion.set_body(id_.slot, body);
  return good;
}

Expected<void> Npc::set_speed(float speed) const {
  Gait changed = gait();
  changed.speed = speed;
  return set_gait(changed);
}

Expected<void> Npc::set_avoidance(const Avoidance& avoidance) const {
  if (auto good = validate(avoidance); !good || !alive()) return good;
  Traits traits = *world_->impl().state.npcs[id_.slot].traits;
  traits.avoidance = avoidance;
  world_->impl().state.set_traits(id_.slot, traits);
  return {};
}

void Npc::set_tags(Tags tags) const {
  if (!alive()) return;
  Traits traits = *world_->impl().state.npcs[id_.slot].traits;
  const Tags before = std::exchange(traits.tags, tags);
  world_->impl().state.set_traits(id_.slot, traits);
  world_->impl().state.surroundings.retag(id_.slot, before);
}

Expected<void> Npc::set_route_priority(int priority) const {
  if (auto good = World::Impl::validate_route_priority(priority); !good || !alive()) return good;
  world_->impl().state.npcs[id_.slot].set_route_priority(priority);
  return {};
}

Expected<void> Npc::set_drive(Drive drive) const {
  return alive() ? world_->impl().set_drive(id_.slot, drive) : Expected<void>();
}

void Npc::set_user_data(std::uint64_t data) const {
  if (alive()) world_->impl().state.npcs.set_user_data(id_.slot, data);
}

void Npc::set_name(std::string_view name) const {
  if (alive()) world_->impl().state.npcs.set_name(id_.slot, name);
}

Advice Npc::advice() const {
  const bool any = alive() && world_->impl().state.npcs[id_.slot].drive == Drive::advised;
  return any ? world_->impl().locomotion.advised(id_.slot).advice : Advice{};
}

Expected<void> Npc::report(vec3 position, const ReportOptions& options) const {
  if (!std::isfinite(options.heading.value_or(0.f)))
    return problem("the reported heading is not finite; the NPC stays as it was reported last");
  if (!finite(options.velocity.value_or(vec3(0.f))))
    return problem("the reported velocity is not finite; the NPC stays as it was reported last");
  if (!finite(position))
    return problem("the reported position is not finite; the NPC stays where it was reported last");
  if (!alive()) return problem("the NPC is no longer in the world; stop reporting its body");
  if (world_->impl().state.npcs[id_.slot].drive == Drive::own)
    return problem(fmt::format(
        "{} is moved by Ambulon; add it with Drive::advised or Drive::reported to move it yourself", name()));
  world_->impl().locomotion.report(id_.slot, position, options);
  return {};
}

float Npc::random(float min, float max) const {
  return alive() ? world_->impl().state.npcs.state(id_.slot).random.within({min, max}) : min;
}

}  // namespace ambulon
