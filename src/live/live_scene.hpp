#pragma once

#include <filesystem>
#include <memory>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "ambulon/scene/play.hpp"

namespace ambulon {

/// What a page that looks on wants to be told, and what it was told last.
struct PageState {
  std::vector<std::string> npcs = {};  ///< by name: those it looks at closely, at most 8
  bool routes = false;                 ///< the ways of all
  bool neighbours = false;             ///< who is near those it looks at
  std::uint64_t scene_seen = 0, play_seen = 0, ground_seen = 0, note_seen = 0;
  std::uint64_t message_seen = 0;
};

/// A scene that is played in real time, for onlookers, who may act on it. For one thread.
///
/// What is tuned is changed in the text of the scene, as one would write it, and the play goes on with the
/// changed scene; so it can be kept as a file, and what cannot be read is refused and changes nothing.
class LiveScene {
 public:
  /// Reads the scene and puts it up; the problem when that cannot be done.
  static Expected<std::unique_ptr<LiveScene>> open(const std::string& file);

  /// Lets `seconds` (0 to 1) of real time pass: plays what is due by then, unless it is paused. Ticks for
  /// which there is no time are left out after `budget` seconds of computing.
  void pass(double seconds, double budget = 0.1);
  /// Reads the file again when it was changed on disk. What is wrong with it is told to all; then all stays.
  void reload_if_changed();

  /// Carries out a command: a JSON object with one key, as docs/live.md lists them, and `page` where it is
  /// about that. Answers with a JSON object; the problem when it makes no sense, and then nothing was done.
  Expected<std::string> command(std::string_view json, PageState* page = nullptr);

  /// Where everybody is: 32 bytes and 20 for each NPC, as docs/live.md lists them.
  std::string frame();
  /// What there is new for a page, as JSON texts: the scene, the ground, notes of the journal, remarks; with
  /// `closely`, also how those are whom it looks at.
  std::vector<std::string> news(PageState& page, bool closely);

  const std::string& text() const { return text_; }  ///< of the scene, as it is played
  Play& play() { return *play_; }

 private:
  struct Command;
  explicit LiveScene(std::string file) : file_(std::move(file)) {}
  Expected<void> begin(const std::string& text);
  Expected<void> change_text(const std::string& text);
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
  std::string text_, kept_text_;  // kept: as the file has it
  std::shared_ptr<Scene> scene_;
  std::unique_ptr<Play> play_;
  bool playing_ = true;
  double speed_ = 1, due_ = 0;  // due: seconds of the scene that are still to be played
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
