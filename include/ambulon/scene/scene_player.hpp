#pragma once

#include <memory>
#include <optional>
#include <string>
#include <string_view>

#include "ambulon/base/public.hpp"
#include "ambulon/ground/barrier_ground.hpp"
#include "ambulon/world/camera.hpp"
#include "ambulon/world/world.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options for playing a scene.
struct ScenePlayerOptions {
  std::size_t journal = 4096;  ///< notes that the journal keeps
  Jobs jobs = {};              ///< of its world
};

/// Plays a scene file: its ground, its world, its NPCs with their steps, and its events.
///
///     auto scene = ambulon::ScenePlayer::open("market.toml");
///     if (!scene) return report(scene.error().text);
///     while (game_runs()) scene->tick();
///
/// 1. Problems of a file begin with its name, line and column.
/// 2. The game may give orders to the scene's NPCs: their steps go on when these have ended.
class ScenePlayer {
 public:
  /// Reads a scene file and starts it.
  static Expected<ScenePlayer> open(const std::string& file, const ScenePlayerOptions& options = {});
  /// The same for a text. `file`: the name for problems; files that the scene names are beside it.
  static Expected<ScenePlayer> of_text(std::string_view text, const std::string& file,
                                       const ScenePlayerOptions& options = {});
  ScenePlayer(ScenePlayer&& other) noexcept;
  ScenePlayer& operator=(ScenePlayer&& other) noexcept;
  ~ScenePlayer();

  /// Plays one tick of 1 / `rate` seconds.
  void tick();
  /// Returns the ticks per second.
  int rate() const;
  /// Runs an event at once, written as in a scene file but without `at`: `suspend = "cat"`. Returns a
  /// problem, and changes nothing, if it is wrong or names something that is not there.
  Expected<void> happen(std::string_view event);
  /// Reads the file again and goes on with it. NPCs whose description has changed adopt it where they are;
  /// their steps restart if they have changed. Returns a problem, and changes nothing, if the file is wrong
  /// or needs another world: if its ground, `avoid`, `patience` or `route_work` has changed.
  Expected<void> reload();
  /// The same with a text.
  Expected<void> reload_text(std::string_view text);

  World& world();
  const Ground& ground() const;
  /// Returns the ground for changes of its barriers; null if it takes none.
  BarrierGround* barrier_ground();
  /// Returns the barrier of that name, if it is on the ground.
  std::optional<BarrierId> barrier(std::string_view name) const;
  /// Returns a place of the scene, metres.
  std::optional<vec3> place(std::string_view name) const;
  /// Returns a camera of the scene; null if there is none of that name. Valid until `reload`.
  const Camera* camera(std::string_view name) const;
  /// Returns a note as a sentence with the names of places.
  std::string sentence(const Note& note) const;

 private:
  struct Playing;
  explicit ScenePlayer(std::unique_ptr<Playing> playing);

  std::unique_ptr<Playing> playing_;
};

}  // namespace ambulon
