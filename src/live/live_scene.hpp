#pragma once

#include <filesystem>
#include <memory>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "scene/play.hpp"
#include "scene/scorecard.hpp"

namespace ambulon {

/// The subscriptions of a page, and what it was sent last.
struct PageState {
  std::vector<std::string> npcs = {};  ///< names of at most 8 NPCs that are sent in detail
  bool routes = false;                 ///< all routes
  bool neighbours = false;             ///< neighbours of those NPCs
  std::uint64_t scene_seen = 0, play_seen = 0, ground_seen = 0, note_seen = 0;
  std::uint64_t message_seen = 0;
};

/// A scene played in real time, with pages that watch and act on it. Not thread-safe.
///
/// Tuning changes the text of the scene, and the play continues with the changed scene. So a tuned scene can
/// be saved as a file, and a text that cannot be read is refused and changes nothing.
class LiveScene {
 public:
  /// Reads and starts a scene. Returns a problem if that fails.
  static Expected<std::unique_ptr<LiveScene>> open(const std::string& file);

  /// Advances by `seconds` (0 to 1) of real time, unless paused. Ticks that would exceed `budget` seconds of
  /// computing are dropped.
  void pass(double seconds, double budget = 0.1);
  /// Reads the file again if it has changed on disk. If it has mistakes, pages are told, and the scene stays.
  void reload_if_changed();

  /// Runs a command: a JSON object with one key, see docs/live.md. `page`: the page that subscriptions apply
  /// to. Returns a JSON object, or a problem; then nothing was changed.
  Expected<std::string> command(std::string_view json, PageState* page = nullptr);

  /// Returns the positions of all NPCs: 32 bytes and 20 for each NPC, see docs/live.md.
  std::string frame();
  /// Returns what is new for a page, as JSON texts: scene, ground, notes, messages; with `closely` also the
  /// details of its NPCs.
  std::vector<std::string> news(PageState& page, bool closely);

  const std::string& text() const { return text_; }  ///< of the scene as it is played
  Play& play() { return *play_; }

 private:
  struct Command;
  explicit LiveScene(std::string file) : file_(std::move(file)) {}
  Expected<void> begin(const std::string& text);
  Expected<void> change_text(const std::string& text);
  void tick();
  std::string scene_message();
  std::string ground_message();
  std::string closely_message(const PageState& page);
  std::string journal_message(PageState& page);
  std::uint64_t scene_revision() const { return scene_revision_base_ + play_->waypoint_changes(); }
  std::uint64_t ground_revision() const { return ground_revision_base_ + play_->ground().revision(); }
  void announce(std::string text);
  std::string too_much(const SceneEvent& event);

  std::string file_;
  std::filesystem::file_time_type written_ = {};
  std::string text_, kept_text_;  // kept: of the file
  std::shared_ptr<Scene> scene_;
  std::unique_ptr<Play> play_;
  std::unique_ptr<Scorecard> scores_;  // while pages watch characters
  double scores_until_ = 0;            // seconds of the scene
  bool playing_ = true;
  double speed_ = 1, due_ = 0;  // due: seconds of the scene still to be played
  std::uint64_t scene_revision_base_ = 1, ground_revision_base_ = 1, plays_ = 0;
  struct Message {
    std::uint64_t number;
    std::string text;
  };
  std::vector<Message> messages_;
  std::uint64_t next_message_ = 1;
  std::set<std::string> signals_;  // given by pages
};

}  // namespace ambulon
