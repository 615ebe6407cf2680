#include "ambulon/scene/scene_player.hpp"

#include <algorithm>

#include "scene/play.hpp"
#include "scene/text_of_file.hpp"

namespace ambulon {

struct ScenePlayer::Playing {
  std::string file;
  std::shared_ptr<Scene> scene;
  std::unique_ptr<Play> play;
};

ScenePlayer::ScenePlayer(std::unique_ptr<Playing> playing) : playing_(std::move(playing)) {}
ScenePlayer::ScenePlayer(ScenePlayer&& other) noexcept = default;
ScenePlayer& ScenePlayer::operator=(ScenePlayer&& other) noexcept = default;
ScenePlayer::~ScenePlayer() = default;

Expected<ScenePlayer> ScenePlayer::open(const std::string& file, const ScenePlayerOptions& options) {
  return text_of_file(file).and_then([&](const std::string& text) { return of_text(text, file, options); });
}

Expected<ScenePlayer> ScenePlayer::of_text(std::string_view text, const std::string& file,
                                           const ScenePlayerOptions& options) {
  auto scene = read_scene_text(text, file);
  if (!scene) return tl::unexpected(scene.error());
  auto shared = std::make_shared<Scene>(std::move(*scene));
  auto play = Play::start(shared, options.journal, options.jobs);
  if (!play) return tl::unexpected(play.error());
  return ScenePlayer(std::make_unique<Playing>(file, std::move(shared), std::move(*play)));
}

void ScenePlayer::tick() { playing_->play->tick(); }

int ScenePlayer::rate() const { return playing_->scene->rate; }

Expected<void> ScenePlayer::happen(std::string_view event) {
  std::vector<std::string> barriers;
  for (const auto& [name, id] : playing_->play->barriers()) barriers.push_back(name);
  const auto read = read_event(std::string(event) + "\nat = 0", *playing_->scene, barriers);
  return read ? playing_->play->happen(*read) : tl::unexpected(read.error());
}

Expected<void> ScenePlayer::reload() {
  return text_of_file(playing_->file).and_then([this](const std::string& text) { return reload_text(text); });
}

Expected<void> ScenePlayer::reload_text(std::string_view text) {
  auto scene = read_scene_text(text, playing_->file, playing_->scene.get());
  if (!scene) return tl::unexpected(scene.error());
  auto shared = std::make_shared<Scene>(std::move(*scene));
  auto done = playing_->play->reload(shared);
  if (done) playing_->scene = std::move(shared);
  return done;
}

World& ScenePlayer::world() { return playing_->play->world(); }

const Ground& ScenePlayer::ground() const { return playing_->play->ground(); }

BarrierGround* ScenePlayer::barrier_ground() { return playing_->play->barrier_ground(); }

std::optional<BarrierId> ScenePlayer::barrier(std::string_view name) const {
  const auto& barriers = playing_->play->barriers();
  const auto found = barriers.find(std::string(name));
  return found != barriers.end() ? std::optional(found->second) : std::nullopt;
}

std::optional<vec3> ScenePlayer::place(std::string_view name) const {
  const auto& places = playing_->scene->places;
  const auto found = std::ranges::find(places, name, &Place::name);
  return found != places.end() ? std::optional(found->at) : std::nullopt;
}

const Camera* ScenePlayer::camera(std::string_view name) const {
  const auto& cameras = playing_->scene->cameras;
  const auto found = std::ranges::find(cameras, name, &SceneCamera::name);
  return found != cameras.end() ? &found->camera : nullptr;
}

std::string ScenePlayer::sentence(const Note& note) const { return playing_->play->sentence(note); }

}  // namespace ambulon
