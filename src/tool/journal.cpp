#include <algorithm>
#include <vector>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "commands.hpp"
#include "options.hpp"
#include "player.hpp"

namespace ambulon::tool {
namespace {

/// Options of `ambulon journal`.
struct JournalRequest {
  std::string scene;
  std::string npc;
  std::optional<double> seconds;
  bool json = false;
};

int journal(const JournalRequest& request) {
  // The notes are read after each tick, which writes far fewer.
  auto player = Player::open(request.scene, 65'536);
  if (!player) return exit_could_not;
  const bool known =
      request.npc.empty() ||
      std::ranges::any_of(player->scene().npcs, [&](const SceneNpc& npc) { return npc.name == request.npc; });
  if (!known) {
    std::vector<std::string_view> names;
    for (const SceneNpc& npc : player->scene().npcs) names.push_back(npc.name);
    announce(fmt::format("{} has no NPC named \"{}\"; it has {}", request.scene, request.npc,
                         fmt::join(names, ", ")));
    return exit_could_not;
  }

  const Play& play = player->play();
  std::uint64_t read = 0;
  std::vector<Note> notes;
  const auto print_new = [&] {
    const Journal& journal = player->world().journal();
    notes.clear();
    for (read = std::max(read, journal.first()); read < journal.next(); ++read)
      notes.push_back(journal[read]);
    // Within a tick the notes of each NPC are written together; this sorts them by time.
    std::ranges::stable_sort(notes, {}, &Note::time);
    for (const Note& note : notes) {
      const auto owner = std::ranges::find(play.npcs(), note.who, &Npc::id);
      const std::string who =
          owner == play.npcs().end()
              ? ""
              : player->scene().npcs[static_cast<std::size_t>(owner - play.npcs().begin())].name;
      if (!request.npc.empty() && who != request.npc) continue;
      const std::string sentence = play.sentence(note);
      if (request.json)
        fmt::print("{}\n", nlohmann::ordered_json{{"t", std::round(note.time * 1e4) / 1e4},
                                                  {"npc", who},
                                                  {"event", name(note.event)},
                                                  {"sentence", sentence}}
                               .dump());
      else
        fmt::print("{:>9.2f}  {}\n", note.time, sentence);
    }
  };
  if (!player->play(request.seconds.value_or(player->scene().length), print_new, true))
    remark_stopped(player->world().time());
  return exit_done;
}

}  // namespace

void add_journal(CLI::App& app, int& exit_code) {
  const auto request = std::make_shared<JournalRequest>();
  CLI::App* journal_command =
      add_command(app, "journal", "play a scene and print what happened and why", request->scene);
  journal_command->add_option("--npc", request->npc, "only this character")->type_name("NAME");
  journal_command
      ->add_option("--duration", request->seconds, "duration to play; by default the scene's length")
      ->check(number_between(0.001, month))
      ->type_name("SECONDS");
  journal_command->add_flag("--json", request->json, "print JSON Lines");
  journal_command->callback([request, &exit_code] { exit_code = journal(*request); });
}

}  // namespace ambulon::tool
