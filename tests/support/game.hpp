#pragma once
// A game that calls a world at random.

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include <fmt/format.h>
#include <glm/geometric.hpp>

#include "ambulon/ambulon.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/world/selection.hpp"

namespace ambulon {

/// Removes an NPC as it is destroyed.
struct Removes {
  Npc whom;
  ~Removes() { whom.remove(); }
};

/// Does something as it is destroyed.
struct Finally {
  std::function<void()> act;
  ~Finally() { act(); }
};

/// Random calls of a world, between ticks, from callbacks and from routines.
class Game {
 public:
  Game(World& world, BarrierGround& ground, std::vector<int> numbers)
      : world_(world), ground_(ground), numbers_(std::move(numbers)) {}

  bool over() const { return next_ >= numbers_.size(); }
  /// No more calls from now on.
  void end() { next_ = numbers_.size(); }
  int begun = 0, ended_once = 0;
  bool removed_wrongly = false;

  void act(int depth = 0) {
    if (over()) return;
    const Npc npc = somebody(), other = somebody();
    switch (draw(31)) {
      case 0: {
        const auto made = world_.add(
            {.at = place(), .body = {.radius = 0.2f}, .gait = {.speed = 1.f + static_cast<float>(draw(5))}});
        if (made) npcs_.push_back(*made);
        return;
      }
      case 1:
        return npc.remove();
      case 2:
        return follow(npc.go_to(place(), {.unreachable = policy()}), depth);
      case 3:
        return follow(npc.patrol(std::vector{place(), place()}, {.unreachable = policy()}), depth);
      case 4:
        return follow(npc.chase(other, {.act_within = 2, .unreachable = policy()}), depth);
      case 5:
        return follow(npc.follow(other, {.act_within = 2, .unreachable = policy()}), depth);
      case 6:
        return follow(npc.flee(other), depth);
      case 7:
        return follow(npc.roam({.pause = {0, 0.2f}, .unreachable = policy()}), depth);
      case 8:
        return follow(npc.escort(other, {.unreachable = policy()}), depth);
      case 9:
        return follow(npc.pause(0.05f * static_cast<float>(draw(9))), depth);
      case 10:
        return npc.cancel();
      case 11:
        return draw(2) == 0 ? npc.suspend() : npc.resume();
      case 12:
        (void)npc.teleport(place());
        return;
      case 13:
        (void)npc.set_gait({.speed = static_cast<float>(draw(9))});
        return;
      case 14:
        (void)npc.set_body(
            {.radius = 0.1f * static_cast<float>(draw(6)), .deck = draw(3) == 0 ? vec2(2) : vec2(0)});
        return;
      case 15:
        return world_.signal(draw(2) == 0 ? "bell" : "horn");
      case 16:
        return follow(npc.wait_for("bell"), depth);
      case 17: {
        if (barrier_) (void)ground_.remove(*barrier_);
        barrier_ = draw(2) == 0 ? std::optional<BarrierId>()
                                : ground_.put(*Barrier::disc(vec2(place()), draw(2) == 0 ? 0.7f : 4.f));
        return;
      }
      case 18: {
        if (!npc.alive()) return;
        const auto squad = draw(2) == 0 ? squad_ : *Squad::make({.unreachable = policy()});
        squad_ = squad;
        draw(2) == 0 ? squad->follow(other.id()) : (void)squad->go_to(place());
        return follow(npc.march(squad), depth);
      }
      case 19: {
        const auto clicks = std::make_shared<Clicks>();
        (void)clicks->click(place());
        return follow(npc.click_to_move(clicks, {.unreachable = policy()}), depth);
      }
      case 20: {
        const auto made =
            world_.add({.at = place(), .drive = draw(2) == 0 ? Drive::reported : Drive::advised});
        if (made) npcs_.push_back(*made);
        return;
      }
      case 21:
        (void)npc.report(place(), {.velocity = vec3(static_cast<float>(draw(5)), 0, 0)});
        return;
      case 22:
        return draw(3) == 0
                   ? npc.on_touch({})
                   : npc.on_touch([this, removes = std::make_shared<Removes>()](Npc, Npc met, float) {
                       if (draw(5) == 0) removes->whom = met;
                       act(2);
                     });
      case 23:
        (void)npc.push(vec2(draw(9) - 4, draw(9) - 4), 0.1f * static_cast<float>(draw(9)));
        return;
      case 24:
        return npc.on_removed([this, told = std::make_shared<int>(0),
                               kept = std::make_shared<Finally>([this] { act(2); })](Npc me) {
          if (++*told > 1 || me.alive()) removed_wrongly = true;
          act(2);
        });
      case 25:
        npc.set_tags(draw(2) == 0 ? Tags{} : world_.tag("cats").value());
        return npc.set_name(draw(2) == 0 ? "" : "ginger");
      case 26:
        (void)npc.set_drive(static_cast<Drive>(draw(3)));
        return;
      case 27:
        (void)npc.set_avoidance({.takes_part = draw(2) == 0, .priority = draw(3)});
        return npc.set_user_data(static_cast<std::uint64_t>(draw(5)));
      case 28:
        if (npc.alive()) return follow(npc.chase(World::one_of(world_.tag("cats").value())), depth);
        return;
      case 29:
        return follow(npc.go_to(other, {.within = 0.8f,
                                        .arrive_in = static_cast<float>(draw(3)),
                                        .facing = static_cast<float>(draw(7)),
                                        .unreachable = policy()}),
                      depth);
      default:
        if (!npc.alive()) return;
        start(npc, [this, other](Npc me) -> Routine {
          const Removes removes{draw(4) == 0 ? other : Npc()};
          for (;;) {
            act(1);
            (void)co_await me.go_to(place());
            (void)co_await any_of(me.pause(0.3f), me.until_near(other, 1), me.until_signal("bell"));
            co_await seconds(0.1f * static_cast<float>(draw(9)));
            act(1);
          }
        });
    }
  }

 private:
  int draw(int end) { return over() ? 0 : numbers_[next_++] % end; }
  Unreachable policy() { return static_cast<Unreachable>(draw(3)); }
  vec3 place() {
    const auto x = static_cast<float>(draw(12)), y = static_cast<float>(draw(12));
    return {x, y, 0};
  }
  Npc somebody() {
    return npcs_.empty() ? Npc() : npcs_[static_cast<std::size_t>(draw(static_cast<int>(npcs_.size())))];
  }
  void follow(const Order& order, int depth) {
    if (!order.npc().alive()) return;
    ++begun;
    const auto times = std::make_shared<int>(0);
    order.on_end([this, times, depth](Npc, const Outcome&) {
      ended_once += ++*times == 1 ? 1 : -1000;
      if (depth < 2) act(depth + 1);
    });
    if (draw(3) == 0)
      order.on_act([this, kept = std::make_shared<Finally>([this] { act(2); })](Npc, Npc, bool) { act(2); });
    if (draw(5) == 0) order.time_limit(0.2f);
    if (draw(5) == 0) order.patience(0.3f);
    if (draw(7) == 0) order.cancel();
  }

  World& world_;
  BarrierGround& ground_;
  std::vector<int> numbers_;
  std::size_t next_ = 0;
  std::vector<Npc> npcs_;
  std::optional<BarrierId> barrier_;
  std::shared_ptr<Squad> squad_ = *Squad::make();
};

/// The result of a game.
struct Played {
  std::string told;   ///< the journal, and the final positions
  std::string wrong;  ///< empty: no defect
};

/// Plays the game in two worlds on one ground.
inline Played play_game(const std::vector<int>& numbers, bool avoid, float tick, const Jobs& jobs) {
  const auto ground = MeshGround::make(Plan{.outlines = {{{-1, -1}, {13, -1}, {13, 13}, {-1, 13}}},
                                            .solids = {{{4, 4}, {6, 4}, {6, 7}, {4, 7}}}})
                          .value();
  Played played;
  World first({.ground = ground.get(), .avoid = avoid, .jobs = jobs}),
      second({.ground = ground.get(), .seed = 2, .avoid = !avoid, .jobs = jobs});
  const auto half = static_cast<std::ptrdiff_t>(numbers.size() / 2);
  Game games[] = {{first, *ground, {numbers.begin(), numbers.begin() + half}},
                  {second, *ground, {numbers.begin() + half, numbers.end()}}};
  World* worlds[] = {&first, &second};
  for (int i = 0; i < 60 && !(games[0].over() && games[1].over()); ++i)
    for (std::size_t k = 0; k < 2; ++k) {
      for (int n = 0; n < 4; ++n) games[k].act();
      if (!worlds[k]->tick(tick)) played.wrong = "a tick was refused";
    }
  for (std::size_t k = 0; k < 2; ++k) {
    World& world = *worlds[k];
    EventCursor cursor;
    if (world.events(cursor).size() + cursor.lost != world.journal().next())
      played.wrong = "events are missing";
    world.each([&](Npc npc) {
      const vec3 drawn = npc.pose(0.5f).position;
      if (!(glm::length(drawn) < 1e6f)) played.wrong = "a pose is no place";
      played.told += fmt::format("{} {} {}\n", npc.position().x, npc.position().y, npc.position().z);
    });
    games[k].end();
    world.each([](Npc npc) { npc.remove(); });
    (void)world.tick(tick);
    double time = 0;
    for (auto number = world.journal().first(); number < world.journal().next(); ++number) {
      const Note& note = world.journal()[number];
      if (note.time < time) played.wrong = "the journal goes back: " + world.sentence(note);
      time = note.time;
      played.told += world.sentence(note) + "\n";
    }
    if (games[k].ended_once != games[k].begun)
      played.wrong = fmt::format("{} of {} orders ended once", games[k].ended_once, games[k].begun);
    if (games[k].removed_wrongly) played.wrong = "a removal was told twice, or too early";
    if (world.size() != 0) played.wrong = "somebody is left";
  }
  return played;
}

}  // namespace ambulon
