#pragma once
// The names of a scene, and the values that may name them: points, gaits, NPCs, tags.

#include <set>
#include <string>
#include <vector>

#include "reader.hpp"

namespace ambulon::scene {

/// Reads what names something else in the scene. All names are known before anything is read that
/// may use them.
class Names {
 public:
  Names(const std::string& file, Scene& scene) : file_(file), scene_(scene) {}

  void add_npc(const std::string& name) {
    npcs_.push_back(name);
    npc_set_.insert(name);
  }
  void add_tag(const std::string& name) { tags_.push_back(name); }
  bool is_npc(const std::string& name) const;
  bool is_tag(const std::string& name) const;
  bool is_place(const std::string& name) const;

  /// From now on adds all points with coordinates that are read to `points`.
  void gather(std::vector<vec3>& points) { gathered_ = &points; }
  /// [x, y], a place's name, or (when allowed) the name of an NPC.
  ScenePoint point(const toml::node& node, const std::string& what, bool npc_allowed = true) const;
  /// The name of an NPC under `key`.
  std::string npc(const Reader& reader, std::string_view key) const;
  /// The name of an NPC or a tag, as text.
  SceneTarget target(const toml::node& node, const std::string& what) const;
  /// The list of tags under `key`, each of which some NPC has.
  std::vector<std::string> tags(const Reader& reader, std::string_view key) const;

  /// A gait written out, or the name of one.
  Gait gait(const toml::node& node, const std::string& what) const;
  /// The values of a gait that are written out, or the whole gait of a name.
  GaitChange gait_change(const toml::node& node, const std::string& what) const;
  float facing(const toml::node& node, vec3 from, const std::string& what) const;
  double heading(const toml::node& node, const std::string& what) const;
  SceneCondition condition(const Reader& reader) const;

  const std::string& file() const { return file_; }

 private:
  void use_tag(const std::string& name) const;

  const std::string& file_;
  Scene& scene_;  // in which what is named is marked as used
  std::vector<std::string> npcs_, tags_;
  std::set<std::string> npc_set_;          // there may be thousands
  std::vector<vec3>* gathered_ = nullptr;  // points
};

/// The ground of the scene file whose top table is `scene`.
SceneGround read_ground(const Reader& scene);

/// The number of the terrain that `node` names.
std::uint8_t read_terrain(const std::string& file, const toml::node& node, std::span<const Terrain> terrains);

/// Where `node` stands.
FilePlace place_of(const toml::node& node);

/// Reads a waypoint written out, with that `pause` where it has none of its own.
Waypoint read_waypoint(const Names& names, const Reader& reader, Range pause);

/// Reads a `do` list.
std::vector<SceneStep> read_steps(const Names& names, const toml::node& node, const std::string& what);

}  // namespace ambulon::scene
