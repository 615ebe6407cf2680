#include "scene/scorecard.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/geometry.hpp"
#include "crowd/neighbour_index.hpp"

namespace ambulon {
namespace {

constexpr double soon = 0.5;  // seconds between two reversals that count as a jitter
constexpr float worth_measuring =
    1.f;  // metres: shorter legs are not measured, and sliding counts per metre from there on
constexpr float speed_step = 0.05f;  // of the gait's speed: smaller reversals are ignored
constexpr float heading_step = radians(3.f);
constexpr float jammed = 0.3f;     // metres per second: slower hardly moves
constexpr float by_others = 0.5f;  // metres between the bodies of those in a jam
constexpr double long_jam = 5;     // seconds: those held up for less have no mean turning
constexpr float by_bend = 1.f;     // metres from a bend
constexpr float jump = 3.f;        // times the displacement of its speed: further in one tick is no walk
constexpr float touch = 1e-3f;     // metres: a smaller overlap is a contact

bool is_on_foot(Stance stance) {
  return stance != Stance::jumping && stance != Stance::dropping && stance != Stance::climbing;
}

}  // namespace

bool Scorecard::Trembling::see(float value, float threshold, double now) {
  if (!turns.see(value, threshold)) return false;
  const bool trembles = now - last_turn < soon;
  last_turn = now;
  return trembles;
}

Scorecard::Scorecard(Play& play) : play_(play), tracks_(play.npcs().size()) {
  for (std::size_t i = 0; i < tracks_.size(); ++i) {
    tracks_[i].position = play.npcs()[i].position();
    tracks_[i].facing = play.npcs()[i].motion().facing;
    by_slot_[play.npcs()[i].id().slot] = i;
  }
  see();
}

void Scorecard::see() {
  const Journal& journal = play_.world().journal();
  for (read_ = std::max(read_, journal.first()); read_ < journal.next(); ++read_) take(journal[read_]);
  for (std::size_t i = 0; i < tracks_.size(); ++i)
    if (play_.npcs()[i].alive()) watch(tracks_[i], play_.npcs()[i]);
  overlaps();
}

std::vector<BrokenLimit> Scorecard::broken() const {
  std::vector<BrokenLimit> broken;
  const auto hold = [&](std::string_view key, float max, auto&& value_of) {
    BrokenLimit worst{.limit = key, .npc = 0, .others = 0, .value = 0, .max = static_cast<double>(max)};
    std::size_t count = 0;
    for (std::size_t i = 0; i < tracks_.size(); ++i) {
      const double value = static_cast<double>(value_of(tracks_[i]));
      if (value <= worst.max) continue;
      ++count;
      if (value <= worst.value) continue;
      worst.npc = i;
      worst.value = value;
    }
    worst.others = count - std::min<std::size_t>(count, 1);
    if (count > 0) broken.push_back(worst);
  };
  const SceneLimits& limits = play_.scene().limits;
  hold("detour", limits.detour, [](const Track& track) { return track.score.detour; });
  hold("time_over_ideal", limits.time_over_ideal,
       [](const Track& track) { return track.score.time_over_ideal; });
  hold("deepest_overlap", limits.deepest_overlap,
       [](const Track& track) { return track.score.deepest_overlap; });
  hold("speed_jitters", limits.speed_jitters, [](const Track& track) { return track.score.speed_jitters; });
  hold("heading_jitters", limits.heading_jitters,
       [](const Track& track) { return track.score.heading_jitters; });
  hold("stuck_seconds", limits.stuck_seconds, [](const Track& track) { return track.score.stuck_seconds; });
  hold("bend_slowdown", limits.bend_slowdown, [](const Track& track) { return track.score.bend_slowdown; });
  hold("sliding", limits.sliding, [](const Track& track) { return track.score.sliding; });
  hold("vertical_speed", limits.vertical_speed,
       [](const Track& track) { return track.score.vertical_speed; });
  hold("jam_turning", limits.jam_turning, [](const Track& track) { return track.score.jam_turning; });
  hold("short_of_goal", limits.short_of_goal, [](const Track& track) { return track.score.short_of_goal; });
  hold("done_by", limits.done_by, [](const Track& track) { return track.busy_until; });
  return broken;
}

void Scorecard::take(const Note& note) {
  const auto index = by_slot_.find(note.who.slot);
  if (index == by_slot_.end() || play_.npcs()[index->second].id() != note.who) return;
  const Npc owner = play_.npcs()[index->second];
  Track& track = tracks_[index->second];
  const bool walks = note.event == Event::sets_out ||
                     (note.event == Event::ordered && (note.errand == "go_to" || note.errand == "patrol"));
  const bool there = note.event == Event::reached || note.event == Event::visited ||
                     (note.event == Event::ended && note.outcome.ending == Ending::arrived);
  if (note.event == Event::ended && note.outcome.ending == Ending::arrived && track.goal)
    track.score.short_of_goal =
        std::max(track.score.short_of_goal, glm::distance(*track.goal, owner.position()));
  if (note.event == Event::ordered)
    track.goal =
        note.errand == "go_to" && note.whom.generation == 0 ? std::optional(note.where) : std::nullopt;
  if (note.event == Event::boarded || note.event == Event::left_deck) {
    track.deck = note.event == Event::boarded ? note.whom : NpcId();
    track.deck_facing = vec2(0.f);
  }
  if (there && track.on_leg) end_leg(track, owner);
  if (walks || note.event == Event::ended || there) track.on_leg = false;
  // A leg begins with the first movement, so that pauses do not count.
  if (walks || note.event == Event::reached)
    track.leg_begins = note.whom.generation == 0;
  else if (note.event == Event::ended)
    track.leg_begins = false;
}

void Scorecard::end_leg(Track& track, Npc npc) {
  const Ground& ground = play_.world().ground();
  const float anywhere = std::numeric_limits<float>::infinity();
  const float shortest = ground.distance(ground.snap(track.from, anywhere, npc.body()).spot,
                                         ground.snap(npc.position(), anywhere, npc.body()).spot);
  if (shortest < worth_measuring) return;
  ++track.score.legs;
  track.shortest += shortest;
  const float last = flat_distance(npc.position(), track.position);  // in this tick
  track.walked += track.walked_xy + last - track.metres_then;
  track.ideal += shortest / track.fastest;
  track.took += play_.world().time() - track.began;
  track.score.detour = track.walked / track.shortest;
  track.score.time_over_ideal = track.took / track.ideal;
}

void Scorecard::watch(Track& track, Npc npc) {
  const Motion motion = npc.motion();
  const double now = play_.world().time();
  if (npc.busy()) track.busy_until = now;
  if (track.leg_begins && motion.speed() > 0.f) {
    track.leg_begins = false;
    track.on_leg = true;
    track.from = track.position;
    track.fastest = 0.f;
    track.began = now - 1.0 / play_.scene().rate;
    track.metres_then = track.walked_xy;
    track.up_to_speed = false;
  }
  watch_feet(track, npc, motion);
  watch_bend(track, npc, motion);
  track.fastest = std::max(track.fastest, npc.gait().speed);
  track.heading_sum += angle_between(track.facing, motion.facing);
  track.score.speed_jitters += track.speed.see(motion.speed(), speed_step * npc.gait().speed, now) ? 1U : 0U;
  track.score.heading_jitters += track.heading.see(track.heading_sum, heading_step, now) ? 1U : 0U;
  track.score.stuck_seconds = npc.statistics().held_seconds;
  track.position = motion.position;
  track.facing = motion.facing;
  track.stride_phase = motion.stride_phase;
  track.stance = motion.stance;
}

/// Returns the displacement in this tick by the deck on which it stands.
vec3 Scorecard::carried(Track& track) const {
  const auto deck = play_.world().others().find(track.deck);
  if (!deck) return vec3(0.f);
  vec3 moved(0.f);
  if (track.deck_facing != vec2(0.f)) {
    const vec2 off = flat(track.position - track.deck_position);
    const float ahead = glm::dot(track.deck_facing, off), left = cross(track.deck_facing, off);
    const vec2 now = ahead * deck->facing + left * vec2(-deck->facing.y, deck->facing.x);
    moved = deck->position - track.deck_position + lift(now - off);
  }
  track.deck_position = deck->position;
  track.deck_facing = deck->facing;
  return moved;
}

/// Compares the displacement with that of feet that stand still on the ground.
void Scorecard::watch_feet(Track& track, Npc npc, const Motion& motion) const {
  const float seconds = 1.f / static_cast<float>(play_.scene().rate);
  const vec3 way = motion.position - track.position - carried(track);
  const float metres = glm::length(way), metres_xy = glm::length(flat(way));
  const float turned = std::abs(angle_between(track.facing, motion.facing));
  const double now = play_.world().time();
  const bool slow =
      motion.speed() < jammed && glm::length(npc.wanted_velocity()) >= jammed &&
      !play_.world()
           .others()
           .near(motion.position,
                 {.radius = npc.body().radius + by_others, .height = npc.body().height, .except = npc.id()})
           .empty();
  if (!slow || track.jam_since < 0) track.jam_since = slow ? now : -1;
  if (slow && now - track.jam_since >= soon) {
    track.jam_seconds += seconds;
    track.jam_radians += turned;
    if (track.jam_seconds >= long_jam)
      track.score.jam_turning = degrees(static_cast<float>(track.jam_radians / track.jam_seconds));
  }
  const bool on_foot =
      is_on_foot(motion.stance) && is_on_foot(track.stance);  // also before the tick in which it lands
  const bool moved = metres < jump * std::max(npc.gait().speed, motion.speed()) * seconds;  // not teleported
  if (!on_foot || !moved || metres == 0.f) return;
  track.walked_xy += metres_xy;
  track.score.vertical_speed = std::max(track.score.vertical_speed, std::abs(way.z) / seconds);
  float cycles = motion.stride_phase - track.stride_phase;
  cycles -= std::floor(cycles);
  const vec2 facing = direction(track.facing + motion.facing, motion.facing);
  const vec2 forward = steps_aside(motion.stance) ? direction(flat(way), facing) : facing;
  const vec2 steps = cycles * motion.stride / metres * metres_xy * forward;
  track.slid += glm::length(flat(way) - steps);
  track.score.sliding = track.slid / std::max(track.walked_xy, static_cast<double>(worth_measuring));
}

/// Takes the speed within 1 m of a bend of its route, after it has reached its speed.
void Scorecard::watch_bend(Track& track, Npc npc, const Motion& motion) {
  const float part = motion.speed() / npc.gait().speed;
  track.up_to_speed = track.on_leg && (track.up_to_speed || part > 0.95f);
  const auto bends = npc.bends();
  if (!track.up_to_speed || bends.size() < 3 || flat_distance(motion.position, bends[1]) > by_bend ||
      flat_distance(bends.back(), motion.position) < by_bend + npc.gait().slowing_distance)
    return;
  track.score.bend_slowdown = std::max(track.score.bend_slowdown, 1.0 - static_cast<double>(part));
}

/// Counts new overlaps. NPCs that pass through each other, and decks with their riders, do not count.
void Scorecard::overlaps() {
  std::vector<NeighbourIndex::Entry> entries;
  float widest = 0.f;
  for (std::size_t i = 0; i < tracks_.size(); ++i) {
    const Npc npc = play_.npcs()[i];
    if (!npc.alive() || npc.body().deck.x > 0.f) continue;
    entries.push_back({flat(npc.position()), static_cast<std::uint32_t>(i)});
    widest = std::max(widest, npc.body().radius);
  }
  if (entries.empty()) return;
  index_.build(entries, std::max(0.1f, 2.f * widest));
  std::set<std::pair<std::size_t, std::size_t>> touching;
  for (const auto& entry : entries) {
    const std::size_t i = entry.name;
    const Npc npc = play_.npcs()[i];
    const Body body = npc.body();
    index_.near(entry.at, body.radius + widest, [&](std::uint32_t number, vec2 at) {
      const std::size_t j = index_.name(number);
      if (j <= i) return;
      const Npc second = play_.npcs()[j];
      const float depth = body.radius + second.body().radius - glm::length(at - entry.at);
      const float up = second.position().z - npc.position().z;
      if (depth <= touch || !share_height(up, body.height, second.body().height) ||
          body.passes.meet(second.tags()) || second.body().passes.meet(npc.tags()))
        return;
      touching.insert({i, j});
      for (const std::size_t each : {i, j}) {
        Score& score = tracks_[each].score;
        score.deepest_overlap = std::max(score.deepest_overlap, depth);
        if (!touching_.contains({i, j})) ++score.overlaps;
      }
    });
  }
  touching_ = std::move(touching);
}

}  // namespace ambulon
