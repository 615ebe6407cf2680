#include "ambulon/scene/play.hpp"

#include "quay.hpp"

namespace ambulon {
namespace {

/// A scene's play, and all sentences of its journal once it has been played.
struct Played {
  Scene scene;
  std::unique_ptr<Play> play;
  std::string told;

  Played(const std::string& text, double seconds)
      : scene(read_scene_text("format = \"ambulon-scene/1\"\nground = { open = true }\n[place]\ngate = [0, "
                              "0]\nlamp = [6, 0]\n" +
                                  text,
                              "test")
                  .value()),
        play(Play::put_up(scene).value()) {
    while (play->world().time() < seconds - 1e-6) play->tick();
    const Journal& journal = play->world().journal();
    for (auto number = journal.first(); number < journal.next(); ++number)
      told += play->sentence(journal[number]) + "\n";
  }
  Npc npc(const char* name) { return play->world().find(name); }
};

TEST(Play, WorksThroughAListAndStartsOverWhenAskedTo) {
  Played once(
      "[[npc]]\nname = \"cat\"\nat = \"gate\"\ndo = [ { go_to = \"lamp\" }, { turn_to = 90 }, { pause = 1, "
      "after = 0.5 } ]",
      60);
  EXPECT_FALSE(once.npc("cat").busy());
  EXPECT_NEAR(once.npc("cat").heading(), pi / 2, 0.02f);
  EXPECT_TRUE(contains(once.told, "cat was given the order go_to, to lamp"));
  Played over(
      "[[npc]]\nname = \"cat\"\nat = \"gate\"\nrepeat = true\ndo = [ { go_to = \"lamp\" }, { go_to = "
      "\"gate\" } ]",
      60);
  EXPECT_GT(over.npc("cat").tally().arrivals, 8U);
}

TEST(Play, ForAndUntilEndAStep) {
  Played play(R"([[npc]]
name = "cat"
at = "gate"
do = [ { wait_for = "never", for = 2 }, { patrol = ["gate", "lamp"], until = { signal = "bell" } }, { go_to = [50, 0], until = { near = "dog", distance = 3 } }, { turn_to = "dog" } ]
[[npc]]
name = "dog"
at = [20, 0]
[[event]]
at = 9
signal = "bell")",
              40);
  EXPECT_TRUE(contains(play.told, "cat's wait_for ended as cancelled"));
  EXPECT_TRUE(contains(play.told, "cat's patrol ended as cancelled"));
  EXPECT_LE(flat_distance(play.npc("cat").position(), {20, 0, 0}), 3.f);
  EXPECT_GT(flat_distance(play.npc("cat").position(), {20, 0, 0}), 2.5f);
}

TEST(Play, WhoIsSentElsewhereTakesUpItsWorkAgain) {
  Played play(R"([[npc]]
name = "porter"
at = "gate"
do = [ { patrol = ["gate", "lamp"] } ]
[[event]]
at = 5
send = { npc = "porter", to = [3, 9] }
[[event]]
at = 30
remove = "porter")",
              32);
  EXPECT_TRUE(contains(play.told, "porter's patrol ended as replaced: the order go_to took its place"));
  EXPECT_TRUE(contains(play.told, "porter's go_to ended as arrived"));
  const auto back = play.told.find("was given the order patrol", play.told.find("go_to ended as arrived"));
  EXPECT_NE(back, std::string::npos) << play.told;
  EXPECT_FALSE(play.play->npcs()[0].alive());
  EXPECT_GT(play.play->tally(0).metres, 20);  // remembered after it has gone
  EXPECT_EQ(play.play->world().size(), 0U);
}

TEST(Play, ASceneThatCannotBePutUpSaysWhereAndWhy) {
  const Scene scene =
      read_scene_text(
          "format = \"ambulon-scene/1\"\nground = { open = true }\n[[npc]]\nname = \"moth\"\nat = [2e5, 0]\n",
          "far.toml")
          .value();
  EXPECT_EQ(Play::put_up(scene).error().text,
            "far.toml:3:1: moth: (200000.00, 0.00) is off the ground; the nearest spot is (100000.00, 0.00), "
            "100000.00 m off");
}

TEST(Play, TheDemoRunsItsBeatsAndIsTheSameEachTime) {
  const auto ends = [] {
    const Scene scene = read_scene(AMBULON_SOURCE_DIR "/demo/lantern-quay.toml").value();
    const auto play = Play::put_up(scene).value();
    while (play->world().time() < scene.length) play->tick();
    std::vector<float> state;
    for (std::size_t i = 0; i < scene.npcs.size(); ++i) {
      EXPECT_GT(play->tally(i).arrivals, 0U) << scene.npcs[i].name;
      for (const Ending bad : {Ending::stuck, Ending::off_ground, Ending::no_way, Ending::refused})
        EXPECT_EQ(play->tally(i).endings[static_cast<std::size_t>(bad)], 0U) << scene.npcs[i].name;
      state.insert(state.end(),
                   {play->motion(i).position.x, play->motion(i).position.y, play->motion(i).heading()});
    }
    // The watch keeps its time: three laps of forty seconds.
    int laps = 0;
    const Journal& journal = play->world().journal();
    for (auto number = journal.first(); number < journal.next(); ++number)
      if (const Note& note = journal[number];
          note.event == Event::lap && play->sentence(note).starts_with("watch")) {
        EXPECT_NEAR(note.value, 40.f, 0.4f);
        ++laps;
      }
    EXPECT_GE(laps, 2);
    return state;
  };
  EXPECT_EQ(ends(), ends());
}

}  // namespace
}  // namespace ambulon
