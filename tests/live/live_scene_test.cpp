// Live scenes: commands, tuning through the scene's text, frames and updates.

#include "live/live_scene.hpp"

#include <arpa/inet.h>
#include <atomic>
#include <chrono>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <regex>
#include <set>
#include <sys/socket.h>
#include <thread>
#include <unistd.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "base/geometry.hpp"
#include "generate.hpp"
#include "live/server.hpp"
#include "own_folder.hpp"
#include "quay.hpp"
#include "scene/edit.hpp"

namespace ambulon {
namespace {

using nlohmann::json;

const std::string quay_text = R"(format = "ambulon-scene/1"   # the quay
title  = "Test quay"
rate   = 50

[ground]
plan = { outline = [[[0, 0], [20, 0], [20, 10], [0, 10]]] }

[place]
gate = [2, 5]      # where they come in
lamp = [16, 5]

[gait.stroll]
speed = 1.25       # at ease

[[npc]]
name = "porter"
at   = "gate"
gait = "stroll"
do   = [ { patrol = ["gate", "lamp", [16, 8]], pause = [1, 2] } ]

[[npc]]
name = "cat"       # no gait of its own
at   = [10, 2]
body = { radius = 0.2 }

[[npc]]
name = "tea-seller"
at   = [4, 8]
gait = { speed = 0.9 }
do   = [ { wait_for = "dawn" } ]
)";

/// A scene in its own file, played live.
struct Shown {
  std::filesystem::path file = own_folder() + "live.toml";
  std::unique_ptr<LiveScene> live;

  explicit Shown(const std::string& text = quay_text) {
    write(text);
    live = LiveScene::open(file).value();
  }
  ~Shown() {
    std::filesystem::remove(file);
    std::filesystem::remove(tuned());
  }
  std::filesystem::path tuned() const {
    return std::filesystem::path(file).replace_filename(file.stem().string() + "-tuned.toml");
  }
  void write(const std::string& text) {
    std::ofstream(file, std::ios::binary) << text;
    // Two writes within a second may give the same file time.
    std::filesystem::last_write_time(
        file, std::filesystem::file_time_type::clock::now() + std::chrono::seconds(++written));
  }
  int written = 0;
  Npc npc(const char* name) { return live->play().world().find(name); }
  void pass(double seconds) {
    for (double gone = 0; gone < seconds - 1e-9; gone += 0.1) live->pass(0.1, 10);
  }
  json done(const json& command, PageState* page = nullptr) {
    const auto answer = live->command(command.dump(), page);
    EXPECT_TRUE(answer) << command << ": " << (answer ? "" : answer.error().text);
    return answer ? json::parse(*answer) : json();
  }
  std::string refused(const std::string& command, PageState* page = nullptr) {
    const auto answer = live->command(command, page);
    EXPECT_FALSE(answer) << command;
    return answer ? "" : answer.error().text;
  }
};

TEST(Edit, ChangesOneValueAndNothingElse) {
  const auto edited = [](std::vector<std::string> path, std::string_view value) {
    const auto text = with_value(quay_text, path, value);
    return text ? *text : "problem: " + text.error().text;
  };
  const auto replaced = [](std::string_view from, std::string_view to) {
    std::string text = quay_text;
    return text.replace(text.find(from), from.size(), to);
  };
  EXPECT_EQ(edited({"rate"}, "60"), replaced("rate   = 50", "rate   = 60"));
  EXPECT_EQ(edited({"place", "gate"}, "[3, 5.5]"), replaced("[2, 5]  ", "[3, 5.5]  "));
  // A value found through a name: in the shared gait; in the place that a waypoint names; in the waypoint
  // itself.
  EXPECT_EQ(edited({"npc", "porter", "gait", "speed"}, "2"), replaced("1.25", "2"));
  EXPECT_EQ(edited({"npc", "porter", "do", "0", "patrol", "1"}, "[15, 4]"), replaced("[16, 5]", "[15, 4]"));
  EXPECT_EQ(edited({"npc", "porter", "do", "0", "patrol", "2"}, "[15, 4]"), replaced("[16, 8]", "[15, 4]"));
  EXPECT_EQ(edited({"npc", "porter", "do", "0", "pause", "1"}, "9"), replaced("[1, 2] }", "[1, 9] }"));
  EXPECT_EQ(edited({"npc", "0", "name"}, "\"bearer\""), replaced("\"porter\"", "\"bearer\""));
  // Missing keys are added in the right table.
  EXPECT_EQ(edited({"npc", "porter", "gait", "braking"}, "4"),
            replaced("[gait.stroll]\n", "[gait.stroll]\nbraking = 4\n"));
  EXPECT_EQ(edited({"npc", "cat", "body", "height"}, "0.3"),
            replaced("{ radius = 0.2 }", "{ radius = 0.2, height = 0.3 }"));
  EXPECT_EQ(edited({"npc", "cat", "gait", "speed"}, "3"),
            replaced("[[npc]]\nname = \"cat\"", "[[npc]]\ngait = { speed = 3 }\nname = \"cat\""));
  EXPECT_EQ(edited({"seed"}, "3"), "seed = 3\n" + quay_text);
  EXPECT_TRUE(contains(edited({"npc", "dog", "gait"}, "1"), "\"npc\" has no such entry; it should lead to"));
  EXPECT_TRUE(
      contains(edited({"npc", "cat", "at", "0", "x"}, "1"), "\"npc.cat.at.0\" has nothing inside of it"));
  EXPECT_TRUE(contains(edited({"rate"}, "= ="), "problem: the scene:3:"));
  EXPECT_TRUE(contains(edited({}, "1"), "no path"));
}

TEST(LiveScene, ASliderChangesTheGaitAtOnceAndTheOrderGoesOn) {
  Shown on;
  on.pass(3);
  const vec3 before = on.npc("porter").position();
  const float walked = static_cast<float>(on.npc("porter").statistics().metres);
  on.done({{"set", {{"path", {"npc", "porter", "gait", "speed"}}, {"value", 2.5}}}});
  EXPECT_EQ(on.npc("porter").gait().speed, 2.5f);
  EXPECT_EQ(on.npc("porter").position(), before);
  on.pass(2);
  EXPECT_GT(on.npc("porter").statistics().metres - walked, 4);
  EXPECT_TRUE(contains(on.live->text(), "speed = 2.5       # at ease"));
  EXPECT_EQ(count(on.live->play().world(), Event::ordered), 2);  // the patrol and the wait, as at first
  on.done({{"set", {{"path", {"npc", "cat", "body", "radius"}}, {"value", 0.4}}}});
  EXPECT_EQ(on.npc("cat").body().radius, 0.4f);
}

TEST(LiveScene, WhoseWorkWasChangedBeginsItAnewAndNobodyElse) {
  Shown on;
  on.pass(3);
  // the porter's waypoint, through the place's name
  on.done({{"set", {{"path", {"place", "lamp"}}, {"value", {12, 5}}}}});
  on.pass(1);
  const auto ordered = [&](const char* name) {
    int times = 0;
    const Journal& journal = on.live->play().world().journal();
    for (auto i = journal.first(); i < journal.next(); ++i)
      times += journal[i].event == Event::ordered && journal[i].who == on.npc(name).id();
    return times;
  };
  EXPECT_EQ(ordered("porter"), 2);
  EXPECT_EQ(ordered("tea-seller"), 1);
  EXPECT_EQ((*on.npc("porter").beat())[1].position.x, 12.f);
}

TEST(LiveScene, AFileThatIsChangedIsTakenUpAndOneThatIsBrokenIsTold) {
  Shown on;
  PageState page;
  (void)on.live->news(page, true);
  on.pass(2);
  const vec3 cat = on.npc("cat").position();
  on.write(quay_text + "\n[[npc]]\nname = \"dog\"\nat = [8, 8]\n");
  on.live->reload_if_changed();
  EXPECT_TRUE(on.npc("dog").alive());
  EXPECT_EQ(on.npc("cat").position(), cat);
  EXPECT_NEAR(on.live->play().world().time(), 2, 1e-6);
  on.write("format = \"ambulon-scene/1\"\n[ground\n");
  on.live->reload_if_changed();
  EXPECT_TRUE(on.npc("dog").alive());
  std::string remarks;
  for (const std::string& news : on.live->news(page, true))
    if (const json told = json::parse(news); told["type"] == "remark")
      remarks += told["text"].get<std::string>() + "\n";
  EXPECT_TRUE(contains(remarks, "is played as it is now")) << remarks;
  EXPECT_TRUE(contains(remarks, ".toml:2:")) << remarks;
  on.write(quay_text);  // without the dog
  on.live->reload_if_changed();
  EXPECT_FALSE(on.npc("dog").alive());
  std::string other_ground = quay_text;
  on.write(other_ground.replace(other_ground.find("[20, 10]"), 8, "[20, 12]"));
  on.live->reload_if_changed();
  EXPECT_EQ(on.live->play().world().time(), 0);  // it was restarted
}

TEST(LiveScene, EventsOfScenesHappenAtOnceAndAPlaceThatIsClickedIsReached) {
  Shown on;
  const json answer = on.done({{"click", {{"who", {"cat"}}, {"ray", {{14, 7, 5}, {0, 0, -1}}}}}});
  EXPECT_EQ(answer["done"], true);
  EXPECT_NEAR(answer["at"][1].get<double>(), 7, 1e-6);
  on.done({{"put", {{"barrier", "crate"}, {"box", {12, 4, 1, 3}}}}});
  on.pass(12);
  EXPECT_LT(flat_distance(on.npc("cat").position(), {14, 7, 0}), 0.31f);
  on.done({{"move", {{"barrier", "crate"}, {"to", {5, 5}}}}});
  on.done({{"take_away", "crate"}});
  EXPECT_TRUE(contains(on.refused(R"({"take_away":"crate"})"), "no event puts up a barrier of that name"));
  EXPECT_EQ(on.done({{"click", {{"who", {"cat"}}, {"ray", {{14, 7, 5}, {0, 0, 1}}}}}})["why"],
            "there is nothing but sky");
  on.done({{"suspend", "porter"}});
  EXPECT_TRUE(on.npc("porter").suspended());
}

TEST(LiveScene, AChangeOfTheWorldsOptionsRestartsTheScene) {
  for (const char* option : {"avoid = true", "patience = 9", "route_work = 500"}) {
    Shown on;
    on.pass(1);
    on.write(std::regex_replace(quay_text, std::regex("rate   = 50"), std::string("rate = 50\n") + option));
    on.live->reload_if_changed();
    EXPECT_EQ(on.live->play().world().time(), 0) << option;
    EXPECT_TRUE(on.live->play().scene().patience == 9 || on.live->play().scene().avoid ||
                on.live->play().scene().route_work == 500);
  }
}

TEST(LiveScene, PagesSeeTheWaypointsAsEventsLeaveThem) {
  Shown on;
  PageState page;
  const auto beat = [&]() -> json {
    for (const std::string& text : on.live->news(page, true))
      if (const json message = json::parse(text); message["type"] == "scene")
        return message["beats"][0]["points"];
    return {};
  };
  ASSERT_EQ(beat().size(), 3U);
  EXPECT_TRUE(beat().empty()) << "nothing is new";
  on.done({{"add_waypoint", {{"npc", "porter"}, {"at", {9, 9}}, {"before", 2}}}});
  on.done({{"move_waypoint", {{"npc", "porter"}, {"number", 1}, {"to", {3, 4}}}}});
  json points = beat();
  ASSERT_EQ(points.size(), 4U);
  EXPECT_EQ(points[0]["at"][0], 3);
  EXPECT_EQ(points[1]["at"][0], 9);
  EXPECT_TRUE(points[1]["path"].empty());
  EXPECT_EQ(points[2]["path"].back(), "1");  // in the file
  on.done({{"remove_waypoint", {{"npc", "porter"}, {"number", 3}}}});
  points = beat();
  ASSERT_EQ(points.size(), 3U);
  EXPECT_EQ(points[2]["path"].back(), "2");
  EXPECT_TRUE(contains(on.refused(R"({"remove_waypoint": {"npc": "porter", "number": 4}})", &page),
                       "porter has no waypoint 4; it has 3 now"));
  EXPECT_TRUE(beat().empty());
  on.done({{"restart", true}});
  EXPECT_EQ(beat()[0]["at"][0], 2);
}

TEST(LiveScene, TheClockPlaysPausesTicksAndBeginsTheSameAgain) {
  Shown on;
  on.pass(5);
  const vec3 first = on.npc("porter").position();
  on.done({{"play", false}});
  on.pass(1);
  EXPECT_EQ(on.npc("porter").position(), first);
  on.done({{"step", 5}});
  EXPECT_NEAR(on.live->play().world().time(), 5.1, 1e-6);
  on.done({{"restart", true}});
  on.done({{"play", true}});
  on.done({{"speed", 2}});
  on.pass(2.5);
  EXPECT_EQ(on.npc("porter").position(), first);
}

TEST(LiveScene, TellsAPageWhatIsNewAndFramesHoldWhereEverybodyIs) {
  Shown on;
  PageState page;
  std::vector<std::string> types;
  for (const std::string& news : on.live->news(page, true)) types.push_back(json::parse(news)["type"]);
  EXPECT_EQ(types, (std::vector<std::string>{"scene", "ground", "journal"}));
  EXPECT_TRUE(on.live->news(page, true).empty());
  on.done({{"watch", {{"npcs", {"porter"}}, {"neighbours", true}}}}, &page);
  on.pass(2);
  json closely;
  for (const std::string& news : on.live->news(page, true))
    if (json told = json::parse(news); told["type"] == "closely") closely = told["npcs"][0];
  EXPECT_EQ(closely["doing"], on.npc("porter").doing());
  EXPECT_EQ(closely["gait"]["speed"], 1.25);
  EXPECT_EQ(closely["goal"][0], 16.0);
  const std::string frame = on.live->frame();
  ASSERT_EQ(frame.size(), 32u + 3 * 20);
  double time = 0;
  float x = 0;
  std::memcpy(&time, frame.data(), 8);
  std::memcpy(&x, frame.data() + 32, 4);
  EXPECT_NEAR(time, 2, 1e-6);
  EXPECT_EQ(x, on.npc("porter").position().x);
}

TEST(LiveScene, WhatWasTunedIsKeptBesideTheFileOrTakenBack) {
  Shown on;
  on.done({{"set", {{"path", {"npc", "cat", "gait", "speed"}}, {"value", 3}}}});
  const json kept = on.done({{"save", true}});
  EXPECT_EQ(kept["file"], on.tuned().string());
  EXPECT_EQ(read_scene(on.tuned())->npcs[1].gait.speed, 3.f);
  EXPECT_EQ(read_scene(on.file)->npcs[1].gait.speed, Gait{}.speed);
  on.done({{"revert", true}});
  EXPECT_EQ(on.npc("cat").gait().speed, Gait{}.speed);
  EXPECT_EQ(on.live->text(), quay_text);
}

TEST(LiveScene, BrokenCommandsAreAnsweredAndChangeNothing) {
  Shown on;
  PageState page;
  const std::pair<const char*, const char*> all[] = {
      {"", "is a JSON object"},
      {"[1]", "is a JSON object"},
      {"{\"suspend\":", "is a JSON object"},
      {"{}", "the command is empty"},
      {R"({"play":true,"step":1})", "one key; this has play and step"},
      {R"({"jump":1})", "unknown key \"jump\" in event"},
      {R"({"suspend":"portr"})", "no NPC has that name (did you mean \"porter\"?)"},
      {R"({"play":"yes"})", "play must be true or false"},
      {R"({"step":0})", "it must lie between 1 and 1000"},
      {R"({"speed":1e9})", "it must lie between 0.05 and 20"},
      {R"({"speed":null})", "speed must be a number"},
      {R"({"set":{"path":["npc","cat","gait","speed"],"value":-1}})",
       "speed is -1; it must lie between 0.01 and 100"},
      {R"({"set":{"path":["npc","cat","gait","speed"],"value":null}})", "must be a finite number"},
      {R"({"set":{"path":["npc","cat","gait","sped"],"value":1}})", "unknown key \"sped\" in gait"},
      {R"({"set":{"path":7,"value":1}})", "set needs a path"},
      {R"({"set":3})", "not of the kind that is expected"},
      {R"({"watch":{"npcs":["nobody"]}})", "there is no NPC \"nobody\""},
      {R"({"watch":{"npcs":"cat"}})", "npcs must be a list"},
      {R"({"pick":{"ray":[[0,0],[1]]}})", "its direction must be [x, y] or [x, y, z]"},
      {R"({"search":{"npc":"cat"}})", "to must be [x, y] or [x, y, z]"},
      {R"({"field":{"to":[1,2]}})", "a flow field needs a ground of tiles"},
      {R"({"put":{"barrier":"b","box":[1,2,3]}})", "box has 3 numbers; it must have 4"},
      {R"({"click":{"who":["cat"],"ray":[[0,0,1],[0,0,0]]}})", "ray has no direction"},
  };
  const std::string before = on.live->frame();
  for (const auto& [command, why] : all)
    EXPECT_TRUE(contains(on.refused(command, &page), why)) << command << "\n" << on.refused(command, &page);
  EXPECT_EQ(on.live->frame(), before);
  EXPECT_EQ(on.live->text(), quay_text);
  EXPECT_TRUE(contains(on.refused(R"({"watch":{}})"), "watch is about a page"));
}

RC_GTEST_PROP(LiveScene, NoTextAtAllHarmsIt, ()) {
  static Shown on;
  std::string text = *rc::gen::container<std::string>(rc::gen::arbitrary<char>());
  const std::string whole = R"({"click":{"who":["cat"],"ray":[[14,7,5],[0,0,-1]],"hold":true},"page":1})";
  if (*rc::gen::arbitrary<bool>()) {
    text = whole;
    text[static_cast<std::size_t>(*rc::gen::inRange(0, static_cast<int>(text.size())))] =
        *rc::gen::arbitrary<char>();
  }
  (void)on.live->command(text);
  on.live->pass(0.02);
  RC_ASSERT(on.live->frame().size() == 32u + 3 * 20);
}

TEST(LiveScene, EveryDemoSceneIsWatchedTunedAndBegunAgain) {
  std::size_t scenes = 0;
  for (const auto& folder : {"/demo", "/demo/crowds"})
    for (const auto& entry : std::filesystem::directory_iterator(std::string(AMBULON_SOURCE_DIR) + folder)) {
      if (entry.path().extension() != ".toml") continue;
      const auto live = LiveScene::open(entry.path().string());
      ASSERT_TRUE(live) << live.error().text;
      ++scenes;
      PageState page;
      const auto look = [&] {
        std::set<std::string> told;
        for (const std::string& news : (*live)->news(page, true)) told.insert(json::parse(news)["type"]);
        EXPECT_GE((*live)->frame().size(), 32 + 20 * (*live)->play().npcs().size()) << entry.path();
        return told;
      };
      EXPECT_TRUE(look().contains("scene")) << entry.path();
      for (int i = 0; i < 3; ++i) (*live)->pass(0.1);
      const std::string first((*live)->play().scene().npcs.front().name);
      EXPECT_TRUE((*live)->command(
          json{{"watch", {{"npcs", {first}}, {"routes", true}, {"neighbours", true}}}}.dump(), &page))
          << entry.path();
      look();
      for (int i = 0; i < 3; ++i) {
        EXPECT_TRUE((*live)->command(R"({"restart": true})", &page)) << entry.path();
        (*live)->pass(0.1);
        EXPECT_TRUE(look().contains("scene")) << entry.path();
      }
    }
  EXPECT_GT(scenes, 15U);
}

TEST(LiveScene, NoNoteOfASceneThatBeganAgainIsLost) {
  Shown on;
  LiveScene* const live = on.live.get();
  PageState page;
  const auto notes = [&] {
    std::size_t count = 0;
    for (const std::string& news : live->news(page, true))
      if (const json message = json::parse(news); message["type"] == "journal")
        count += message["notes"].size();
    return count;
  };
  live->pass(0.1);
  const std::size_t first = notes();
  EXPECT_GT(first, 0U);
  ASSERT_TRUE(live->command(R"({"restart": true})", &page));
  live->pass(0.1);  // as many messages as before
  EXPECT_EQ(notes(), first);
}

TEST(LiveScene, WhatPagesSendCannotGrowWithoutEnd) {
  Shown on;
  const auto why_not = [&](const std::string& text) {
    const auto answer = on.live->command(text, nullptr);
    return answer ? std::string() : answer.error().text;
  };
  EXPECT_TRUE(contains(why_not(R"({"click": )" + std::string(25'000, '[') + std::string(25'000, ']') + "}"),
                       "too deeply"));
  EXPECT_FALSE(contains(why_not(R"({"click": ")" + std::string(100, '[') + "\"}"), "too deeply"));
  std::string why;
  for (int i = 0; i < 600 && why.empty(); ++i) why = why_not(fmt::format(R"({{"signal": "bell {}"}})", i));
  EXPECT_TRUE(contains(why, "500 different signals")) << why;
  why.clear();
  for (int i = 0; i < 600 && why.empty(); ++i)
    why = why_not(
        fmt::format(R"({{"put": {{"barrier": "crate {}", "box": [{}, 5, 0.2, 0.2]}}}})", i, 1 + i % 18));
  EXPECT_TRUE(contains(why, "500 barriers")) << why;
  why.clear();
  for (int i = 0; i < 1200 && why.empty(); ++i)
    why = why_not(R"({"add_waypoint": {"npc": "porter", "at": [3, 5]}})");
  EXPECT_TRUE(contains(why, "porter has 1000 waypoints")) << why;
  EXPECT_EQ(why_not(R"({"put": {"barrier": "crate 7", "box": [3, 5, 0.2, 0.2]}})"),
            "");  // it exists already
}

TEST(LiveServer, EndsHoweverEarlyItIsToldTo) {
  Shown on;
  LiveScene* const live = on.live.get();
  for (int i = 0; i < 40; ++i) {
    const auto server = LiveServer::open(*live, 0);
    ASSERT_TRUE(server) << server.error().text;
    int asked = 0;
    (*server)->run([&] { return asked++ >= i % 3; });
  }
}

/// A connection to a server on this machine.
int connection(const std::string& address) {
  const std::size_t colon = address.find(':', 8);
  sockaddr_in to{};
  to.sin_family = AF_INET;
  to.sin_port = htons(static_cast<std::uint16_t>(std::stoi(address.substr(colon + 1))));
  to.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  const int made = socket(AF_INET, SOCK_STREAM, 0);
  return connect(made, reinterpret_cast<const sockaddr*>(&to), sizeof to) == 0 ? made : -1;
}

/// A server that runs in its own thread.
struct Serving {
  Shown on;
  std::unique_ptr<LiveServer> server = LiveServer::open(*on.live, 0).value();
  std::string host = server->address().substr(7, server->address().find('/', 7) - 7);
  std::string token = server->address().substr(server->address().find('=') + 1);
  std::atomic<bool> stop = false;
  std::thread running{[this] { server->run([this] { return stop.load(); }); }};
  std::vector<int> open;

  ~Serving() {
    for (const int each : open) close(each);
    end();
  }
  void end() {
    stop = true;
    if (running.joinable()) running.join();
  }
  /// A connection that sent a request, or nothing yet.
  int connect(const std::string& request = {}) {
    open.push_back(connection(server->address()));
    if (!request.empty()) {
      EXPECT_EQ(send(open.back(), request.data(), request.size(), 0), static_cast<ssize_t>(request.size()));
    }
    return open.back();
  }
  int get(const std::string& path) {
    return connect("GET " + path + " HTTP/1.1\r\nHost: " + host + "\r\nX-Token: " + token + "\r\n\r\n");
  }
  int post(const std::string& command) {
    return connect("POST /command HTTP/1.1\r\nHost: " + host + "\r\nX-Token: " + token +
                   "\r\nContent-Length: " + std::to_string(command.size()) + "\r\n\r\n" + command);
  }
  static std::string read(int from) {
    std::string text(4096, 0);
    const auto size = recv(from, text.data(), text.size(), 0);
    text.resize(size > 0 ? static_cast<std::size_t>(size) : 0);
    return text;
  }
};

TEST(LiveServer, ConnectionsThatSendNothingHoldNobodyUpForLong) {
  Serving serving;
  for (int i = 0; i < 200; ++i) serving.connect();
  const auto began = std::chrono::steady_clock::now();
  EXPECT_TRUE(contains(serving.read(serving.get("/page.css")), "200 OK"));
  EXPECT_LT(std::chrono::steady_clock::now() - began,
            std::chrono::seconds(5));  // not 5 s for each of the 200
}

/// The maximum number of pages, most of which read nothing: the others receive all, commands are answered,
/// and
/// one page too many is told why. After some have gone, a new page connects.
TEST(LiveServer, PagesThatDoNotReadHoldNobodyUp) {
  Serving serving;
  const int reads = serving.get("/stream");
  EXPECT_TRUE(contains(serving.read(reads), "200 OK"));
  std::vector<int> silent;
  for (int i = 0; i < 15; ++i) {
    silent.push_back(serving.get("/stream"));
    EXPECT_TRUE(contains(serving.read(silent.back()), "200 OK"));
  }
  const std::string late = serving.read(serving.get("/stream"));
  EXPECT_TRUE(contains(late, "503")) << late;
  std::size_t bytes = 0;
  for (int i = 0; i < 60; ++i) {
    const std::string told = serving.read(reads);
    ASSERT_FALSE(told.empty());
    bytes += told.size();
    if (i % 10 == 0) {
      EXPECT_TRUE(contains(serving.read(serving.post(R"({"suspend": "porter"})")), "200 OK"));
      EXPECT_TRUE(contains(serving.read(serving.post(R"({"suspend": 3})")), "400"));
    }
  }
  EXPECT_GT(bytes, 2000U);
  for (const int each : silent) shutdown(each, SHUT_RDWR);
  std::string again;
  for (int i = 0; i < 200 && !contains(again, "200 OK"); ++i) {
    std::this_thread::sleep_for(std::chrono::milliseconds(50));
    again = serving.read(serving.get("/stream"));
  }
  EXPECT_TRUE(contains(again, "200 OK")) << again;
  serving.end();  // pages that still do not read do not delay the end
}

}  // namespace
}  // namespace ambulon
