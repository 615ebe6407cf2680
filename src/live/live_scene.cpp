#include "live/live_scene.hpp"

#include <algorithm>
#include <chrono>

#include <fmt/format.h>

#include "scene/text_of_file.hpp"

namespace ambulon {
namespace {

constexpr std::size_t notes_kept = 20'000;  // of the journal
constexpr std::size_t remarks_kept = 50;

}  // namespace

Expected<std::unique_ptr<LiveScene>> LiveScene::open(const std::string& file) {
  auto text = text_of_file(file);
  if (!text) return tl::unexpected(text.error());
  std::unique_ptr<LiveScene> live(new LiveScene(file));
  std::error_code ignored;
  live->written_ = std::filesystem::last_write_time(file, ignored);
  live->kept_text_ = *text;
  if (auto begun = live->begin(*text); !begun) return tl::unexpected(begun.error());
  return live;
}

/// Starts the scene of that text. Changes nothing if it cannot be started.
Expected<void> LiveScene::begin(const std::string& text) {
  auto scene = read_scene_text(text, file_);
  if (!scene) return tl::unexpected(scene.error());
  auto shared = std::make_shared<Scene>(std::move(*scene));
  auto play = Play::start(shared, notes_kept);
  if (!play) return tl::unexpected(play.error());
  if (play_) ground_revision_base_ += play_->ground().revision() + 1;
  if (play_) scene_revision_base_ += play_->waypoint_changes() + 1;
  scores_.reset();
  play_ = std::move(*play);
  scene_ = std::move(shared);
  text_ = text;
  due_ = 0;
  ++plays_;
  return {};
}

/// Continues with the scene of that text; restarts if its ground differs.
Expected<void> LiveScene::change_text(const std::string& text) {
  auto scene = read_scene_text(text, file_, scene_.get());
  if (!scene) return tl::unexpected(scene.error());
  if (!scene->same_world(*scene_)) {
    if (auto begun = begin(text); !begun) return begun;
    announce("the ground, `avoid`, `patience` or `route_work` was changed, so the scene was restarted");
    return {};
  }
  auto shared = std::make_shared<Scene>(std::move(*scene));
  if (auto taken = play_->reload(shared); !taken) return taken;
  scores_.reset();  // there may be more characters now
  scene_ = std::move(shared);
  text_ = text;
  ++scene_revision_base_;
  return {};
}

void LiveScene::tick() {
  play_->tick();
  if (play_->world().time() > scores_until_) scores_.reset();
  if (scores_) scores_->see();
}

void LiveScene::pass(double seconds, double budget) {
  using Clock = std::chrono::steady_clock;
  if (!playing_ || !(seconds > 0)) return;
  due_ += std::min(seconds, 1.0) * speed_;
  const double tick_seconds = 1.0 / scene_->rate;
  const auto began = Clock::now();
  while (due_ >= tick_seconds - 1e-9) {  // with a tolerance, since sums of tenths would lack a tick
    due_ -= tick_seconds;
    tick();
    if (std::chrono::duration<double>(Clock::now() - began).count() > budget) due_ = std::min(due_, 0.0);
  }
}

void LiveScene::reload_if_changed() {
  std::error_code error;
  const auto written = std::filesystem::last_write_time(file_, error);
  if (error || written == written_) return;
  written_ = written;
  const auto text = text_of_file(file_);
  if (!text || *text == kept_text_) return;
  kept_text_ = *text;
  if (const auto changed = change_text(*text); !changed)
    announce(changed.error().text);
  else
    announce(fmt::format("{} was changed and is played as it is now", file_));
}

void LiveScene::announce(std::string text) {
  messages_.push_back({next_message_++, std::move(text)});
  if (messages_.size() > remarks_kept) messages_.erase(messages_.begin());
}

}  // namespace ambulon
