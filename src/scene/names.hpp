#pragma once
// The names of a scene, and the values that may refer to them: points, gaits, NPCs, tags.

#include <set>
#include <string>
#include <vector>

#include "scene/reader.hpp"

namespace ambulon::scene {

/// Reads references. All names are collected before anything that may refer to them is read.
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

  /// Also appends all points that are read as coordinates to `points`.
  void gather(std::vector<vec3>& points) { gathered_ = &points; }
  /// Reads [x, y], the name of a place, or (if allowed) of an NPC.
  ScenePoint point(const toml::node& node, const std::string& what, bool npc_allowed = true) const;
  /// Reads the name of an NPC.
  std::string npc(const Reader& reader, std::string_view key) const;
  /// Reads the name of an NPC or a tag.
  SceneTarget target(const toml::node& node, const std::string& what) const;
  /// Reads a list of tags, each of which an NPC must have.
  std::vector<std::string> tags(const Reader& reader, std::string_view key) const;

  /// Reads a gait as a table, or its name.
  Gait gait(const toml::node& node, const std::string& what) const;
  /// Reads some values of a gait as a table, or the name of a whole gait.
  GaitChange gait_change(const toml::node& node, const std::string& what) const;
  float facing(const toml::node& node, vec3 from, const std::string& what) const;
  double heading(const toml::node& node, const std::string& what) const;
  SceneCondition condition(const Reader& reader) const;

  const std::string& file() const { return file_; }

 private:
  void use_tag(const std::string& name) const;

  const std::string& file_;
  Scene& scene_;  // whose items are marked as used
  std::vector<std::string> npcs_, tags_;
  std::set<std::string> npc_set_;          // there may be thousands
  std::vector<vec3>* gathered_ = nullptr;  // points
};

/// Reads the ground of a scene file, from its top-level table.
SceneGround read_ground(const Reader& scene);

/// Reads the name of a terrain. Returns its number.
std::uint8_t read_terrain(const std::string& file, const toml::node& node, std::span<const Terrain> terrains);

/// Returns the place of `node` in the file.
FilePlace place_of(const toml::node& node);

/// Reads a waypoint that is written as a table; `pause` is its default.
Waypoint read_waypoint(const Names& names, const Reader& reader, Range pause);

/// Reads a `do` list.
std::vector<SceneStep> read_steps(const Names& names, const toml::node& node, const std::string& what);

}  // namespace ambulon::scene
