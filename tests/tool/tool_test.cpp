// The program, used as users use it: arguments in; text, files and exit code out.

#include <array>
#include <chrono>
#include <csignal>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <set>
#include <sstream>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include "base/geometry.hpp"
#include "own_folder.hpp"

namespace {

using nlohmann::json;
namespace fs = std::filesystem;

const std::string demo = AMBULON_SOURCE_DIR "/demo/lantern-quay.toml";

struct Result {
  int code;
  std::string out, remarks;
};

std::string file_text(const fs::path& file) {
  std::stringstream text;
  text << std::ifstream(file).rdbuf();
  return text.str();
}

Result ambulon(const std::string& arguments) {
  const std::string out = own_folder() + "out", remarks = out + ".remarks";
  const int status =
      std::system((std::string(AMBULON_TOOL) + " " + arguments + " >" + out + " 2>" + remarks).c_str());
  return {WEXITSTATUS(status), file_text(out), file_text(remarks)};
}

std::vector<json> lines(const std::string& text) {
  std::vector<json> all;
  std::istringstream stream(text);
  for (std::string line; std::getline(stream, line);) all.push_back(json::parse(line));
  return all;
}

TEST(Run, PrintsOneJsonDocumentThatAgreesWithItsTrace) {
  const fs::path trace = fs::path(own_folder()) / "trace.jsonl";
  const Result result =
      ambulon("run " + demo + " --duration 30 --every 0.5 --json --trace " + trace.string());
  ASSERT_EQ(result.code, 0) << result.remarks;
  EXPECT_EQ(result.remarks, "");
  const json document = json::parse(result.out);
  EXPECT_EQ(document["scene"], "Lantern Quay");
  EXPECT_EQ(document["seconds"], 30);
  EXPECT_EQ(document["ticks"], 1800);
  ASSERT_EQ(document["npcs"].size(), 4U);

  const auto samples = lines(file_text(trace));
  EXPECT_EQ(samples.size(), 61U * 4U);
  for (const json& npc : document["npcs"]) {
    double walked = 0;
    json before;
    for (const json& sample : samples) {
      if (sample["npc"] != npc["name"]) continue;
      EXPECT_TRUE(sample.contains("t") && sample.contains("heading_deg") && sample.contains("speed") &&
                  sample.contains("stance") && sample.contains("doing"));
      EXPECT_LE(sample["speed"].get<double>(), npc["top_speed"].get<double>() + 0.01);
      if (!before.is_null())
        walked += std::hypot(sample["at"][0].get<double>() - before["at"][0].get<double>(),
                             sample["at"][1].get<double>() - before["at"][1].get<double>());
      before = sample;
    }
    EXPECT_EQ(before["at"], npc["at"]);
    EXPECT_EQ(before["doing"], npc["doing"]);
    EXPECT_NEAR(walked, npc["walked"].get<double>(), 0.03 * walked + 0.1) << npc["name"];
    EXPECT_GT(npc["arrivals"].get<int>(), 0);
    EXPECT_TRUE(npc["outcomes"].is_object() && npc["mean_speed"].is_number());
  }
}

TEST(Run, PrintsATableWithARowForEachCharacterAndNothingElseWhenPiped) {
  const Result result = ambulon("run " + demo);
  EXPECT_EQ(result.code, 0);
  EXPECT_EQ(result.remarks, "");
  EXPECT_EQ(result.out.find("Lantern Quay: 120.00 s played in 7200 ticks\n"), 0U);
  for (const char* word : {"walked", "reached", "orders ended", "lamplighter", "porter", "watch",
                           "apprentice", "gone", "1 arrived, 1 replaced"})
    EXPECT_NE(result.out.find(word), std::string::npos) << word;
}

TEST(Run, CtrlCEndsALongRunWithWhatWasPlayedSoFar) {
  const std::string out = own_folder() + "interrupted.json";
  const pid_t child = fork();
  if (child == 0) {
    if (std::freopen(out.c_str(), "w", stdout) == nullptr ||
        std::freopen("/dev/null", "w", stderr) == nullptr)
      _exit(9);
    execl(AMBULON_TOOL, "ambulon", "run", demo.c_str(), "--duration", "2000000", "--json", nullptr);
    _exit(9);
  }
  std::this_thread::sleep_for(std::chrono::milliseconds(1500));
  kill(child, SIGINT);
  int status = 0;
  waitpid(child, &status, 0);
  ASSERT_TRUE(WIFEXITED(status));
  EXPECT_EQ(WEXITSTATUS(status), 0);
  const json document = json::parse(file_text(out));
  EXPECT_GT(document["seconds"].get<double>(), 1);
  EXPECT_LT(document["seconds"].get<double>(), 2'000'000);
}

TEST(JournalCommand, TellsWhatHappenedInOrderOfTime) {
  const Result all = ambulon("journal " + demo + " --duration 30");
  EXPECT_EQ(all.code, 0);
  EXPECT_NE(all.out.find("lamplighter reached waypoint 1 of 5, lamp-1\n"), std::string::npos) << all.out;
  EXPECT_NE(all.out.find("the signal \"bell\" was given\n"), std::string::npos);
  double before = 0;
  for (const json& entry : lines(ambulon("journal " + demo + " --json").out)) {
    EXPECT_GE(entry["t"].get<double>(), before);
    before = entry["t"];
  }
  EXPECT_GT(before, 100);
  for (const json& entry : lines(ambulon("journal " + demo + " --json --npc watch").out))
    EXPECT_EQ(entry["npc"], "watch");
}

TEST(DrawCommand, MakesPngAndSvg) {
  for (const char* ending : {"png", "svg"}) {
    const fs::path file = fs::path(own_folder()) / (std::string("quay.") + ending);
    fs::remove(file);
    const Result result = ambulon("draw " + demo + " -o " + file.string() + " --time 20 --trail --json");
    EXPECT_EQ(result.code, 0) << result.remarks;
    EXPECT_EQ(json::parse(result.out)["picture"], file.string());
    EXPECT_GT(fs::file_size(file), 10'000U);
  }
}

TEST(Run, KeepsAScoreOfEachCharacter) {
  const json npcs = json::parse(ambulon("run " + demo + " --json").out)["npcs"];
  for (const json& npc : npcs) {
    const json& score = npc["scorecard"];
    EXPECT_GT(score["legs"].get<int>(), 0) << npc["name"];
    // On open ground there are no detours: straight legs are straight, and the watch's curve is slightly
    // longer.
    EXPECT_NEAR(score["detour"].get<double>(), 1.03, 0.04) << npc["name"];
    EXPECT_GT(score["time_over_ideal"].get<double>(), 1.0) << npc["name"];
    EXPECT_EQ(score["heading_jitters"], 0) << npc["name"];
    EXPECT_LT(score["speed_jitters"].get<int>(), 5)
        << npc["name"];  // the watch is slightly faster in its bends
    EXPECT_EQ(score["stuck_seconds"], 0);
  }
}

std::string write_file(const char* name, const std::string& text) {
  const std::string file = own_folder() + name;
  std::ofstream(file) << text;
  return file;
}
const std::string shed_map = "type octile\nheight 4\nwidth 6\nmap\n......\n.TTT..\n...T..\n@@.T..\n";

TEST(Route, SaysWhereAWayLeadsAndExitsWithOneWhereNoneDoes) {
  const std::string map = write_file("shed.map", shed_map);
  const auto ask = [&](const std::string& how) { return ambulon("route " + map + " --json " + how); };
  const json taut = json::parse(ask("--from 2.5,0.5 --to 4.5,0.5").out);
  EXPECT_EQ(taut["outcome"], "complete");
  EXPECT_EQ(taut["bends"].front(), json::parse("[2.5, 0.5, 0.0]"));
  EXPECT_EQ(taut["bends"].back(), json::parse("[4.5, 0.5, 0.0]"));
  EXPECT_GT(taut["expanded"].get<int>(), 0);
  EXPECT_GT(taut["microseconds"].get<double>(), 0);
  const double cells = json::parse(ask("--from 2.5,0.5 --to 4.5,0.5 --shape cells").out)["length_xy"];
  EXPECT_FLOAT_EQ(static_cast<float>(cells), 12);
  EXPECT_LT(taut["length_xy"].get<double>(), 11.4);
  for (const char* shape : {"centred", "rounded"}) {
    const json shaped = json::parse(ask(std::string("--from 2.5,0.5 --to 4.5,0.5 --shape ") + shape).out);
    EXPECT_NE(shaped["bends"], taut["bends"]);
    EXPECT_EQ(shaped["outcome"], "complete");
  }
  EXPECT_GT(
      json::parse(
          ask("--from 0.5,3.5 --to 5.5,0.5 --radius 0.1 --no-diagonals --shape cells").out)["length_xy"],
      7.9);

  const Result wide = ask("--from 2.5,3.5 --to 0.5,1.5 --radius 0.9");
  EXPECT_EQ(wide.code, 1);
  EXPECT_EQ(json::parse(wide.out)["outcome"], "off_ground");
  const std::string parted = write_file("parted.map", "type octile\nheight 1\nwidth 5\nmap\n..T..\n");
  const Result partial = ambulon("route " + parted + " --from 0.5,0.5 --to 4.5,0.5");
  EXPECT_EQ(partial.code, 1);
  EXPECT_EQ(partial.out.find("partial: 1.19 m to the nearest spot that can be reached, 2.81 m off"), 0U)
      << partial.out;
  EXPECT_EQ(json::parse(ambulon("route " + parted + " --from 1.69,0.5 --to 4.5,0.5 --json").out)["outcome"],
            "no_route");
}

TEST(Route, HoldsWholeFilesOfQueriesAgainstTheirLengths) {
  const std::string map = write_file("shed.map", shed_map);
  const std::string good = write_file("good.scen",
                                      "version 1\n0\tshed.map\t6\t4\t0\t0\t5\t3\t7.41421356\n"
                                      "0\tshed.map\t6\t4\t2\t3\t0\t1\t4.00000000\n");
  const Result all = ambulon("route " + map + " --json --scen " + good + " --scen " + good);
  EXPECT_EQ(all.code, 0) << all.out << all.remarks;
  const auto entries = lines(all.out);
  ASSERT_EQ(entries.size(), 5U);
  EXPECT_EQ(entries[0]["expected"], 7.41421356);
  EXPECT_NEAR(entries[0]["length"].get<double>(), 7.41421356, 1e-8);
  EXPECT_EQ(entries[4]["queries"], 4);
  EXPECT_EQ(entries[4]["mismatches"], 0);
  EXPECT_LE(entries[4]["p50_us"].get<double>(), entries[4]["p99_us"].get<double>());
  const std::string bad = write_file("bad.scen", "version 1\n0\tshed.map\t6\t4\t0\t0\t5\t3\t6\n");
  const Result wrong = ambulon("route " + map + " --scen " + bad);
  EXPECT_EQ(wrong.code, 1);
  EXPECT_NE(wrong.out.find("bad.scen:2: the shortest route is 7.41421356; the file says 6.00000000\n"),
            std::string::npos);
  EXPECT_NE(wrong.out.find("1 queries, 1 mismatch\n"), std::string::npos);
  const std::string torn = write_file("torn.scen", "version 1\n0\tshed.map\t6\t4\t0\n");
  EXPECT_EQ(ambulon("route " + map + " --scen " + torn).code, 2);
  EXPECT_EQ(ambulon("route " + map + " --from 1,1").code, 2);
  EXPECT_EQ(ambulon("route " + map + " --from 1,x --to 2,2").code, 2);
}

TEST(Route, AnswersPairsOfPointsOnAPlan) {
  const std::string plan = (fs::path(AMBULON_SOURCE_DIR) / "demo" / "plans" / "quay.toml").string();
  const std::string pairs =
      write_file("pairs.csv", "28,21.5,0,35,5,0\n\n35,5,0, 28,21.5,0\n2,5.8,0,15,25,0\n-5,0,0,1,1,0\n");
  const Result all = ambulon("route " + plan + " --json --queries " + pairs);
  EXPECT_EQ(all.code, 1) << all.remarks;
  const auto entries = lines(all.out);
  ASSERT_EQ(entries.size(), 5U);
  EXPECT_EQ(entries[0]["outcome"], "complete");
  EXPECT_NEAR(entries[0]["length_xy"].get<double>(), entries[1]["length_xy"].get<double>(), 1e-3);
  EXPECT_EQ(entries[3]["outcome"], "off_ground");
  EXPECT_EQ(entries[4]["queries"], 4);
  EXPECT_EQ(entries[4]["complete"], 3);
  EXPECT_EQ(entries[4]["off_ground"], 1);
  EXPECT_LE(entries[4]["p50_us"].get<double>(), entries[4]["p99_us"].get<double>());
  const Result read = ambulon("route " + plan + " --queries " + pairs);
  EXPECT_NE(read.out.find("4 queries: 3 complete, 0 partial, 0 no_route, 1 off_ground\n"), std::string::npos);
  for (const char* torn :
       {"1,2,3\n", "1,2,3,4,5,six\n", "1,2,3,4,5,6,7\n", "1;2;3;4;5;6\n", "1,2,3,4,5,nan\n"}) {
    const Result refused = ambulon("route " + plan + " --queries " + write_file("torn.csv", torn));
    EXPECT_EQ(refused.code, 2) << torn;
    EXPECT_NE(refused.remarks.find("torn.csv:1: "), std::string::npos) << refused.remarks;
  }
  // The side door is 1.2 m wide.
  const std::string through = "route " + plan + " --from 28,21.5 --to 35,5 --radius ";
  EXPECT_EQ(ambulon(through + "0.58").code, 0);
  EXPECT_TRUE(ambulon(through + "0.61").out.starts_with("partial: "));
}

TEST(Build, TellsWhatHasBecomeOfALevelAndSavesIt) {
  const std::string level = AMBULON_SOURCE_DIR "/demo/levels/lantern-quay.gltf",
                    scene = AMBULON_SOURCE_DIR "/demo/quay-level.toml";
  const std::string file = own_folder() + "built.obj";
  const Result built = ambulon("build " + scene + " --json -o " + file);
  ASSERT_EQ(built.code, 0) << built.remarks;
  const json report = json::parse(built.out);
  EXPECT_EQ(report["triangles"], 1898);
  EXPECT_NEAR(report["area"].get<double>(), 928, 2);  // no roofs without stairs
  EXPECT_EQ(report["left_out"]["components"], 17);
  EXPECT_NEAR(report["left_out"]["area"].get<double>(), 83, 1);
  EXPECT_GT(fs::file_size(file), 10'000U);
  EXPECT_TRUE(report["open_pieces"].empty());
  const auto area = [&](const std::string& options) {
    return json::parse(ambulon("build --json " + options).out)["area"].get<double>();
  };
  EXPECT_GT(area(scene + " --body radius=0.1,height=1.7"), report["area"].get<double>());
  // --closed changes no ground, but names the water, which is a sheet.
  EXPECT_EQ(area(level), area(level + " --closed"));
  const double whole = area(level), hall = area(level + " --reach-from 10,12");
  EXPECT_LT(hall, whole - 80);
  EXPECT_GT(area(level + " --reach-from 10,12 --reach-from 29,7,3"), hall + 50);
  const Result closed = ambulon("build --closed --json " + level);
  EXPECT_EQ(closed.code, 1);
  EXPECT_EQ(json::parse(closed.out)["open_pieces"][0]["fault"], "an edge has only one triangle");
  EXPECT_NE(ambulon("build --closed " + level).out.find("not closed  2 triangles from number 25 on"),
            std::string::npos);
  const std::string ramp = own_folder() + "ramp.obj";  // 30 degrees, Y up
  std::ofstream(ramp) << "v 0 0 0\nv 0 0 -4\nv 4 2.3094 -4\nv 4 2.3094 0\nf 4 3 2 1\n";
  EXPECT_GT(area(ramp + " --max-slope 31"), 5);
  EXPECT_EQ(area(ramp + " --max-slope 29"), 0);
  const auto flat_enough = [&](const std::string& options) {
    return json::parse(ambulon("build --json " + level + options).out)["flat_enough"].get<int>();
  };
  EXPECT_EQ(flat_enough("") - flat_enough(" --decor lantern"), 18 * 2);  // each has a lid
  for (const auto& [arguments, expected] :
       {std::pair{level + " --decor lamp", "fits \"lamp\" in decor"},
        {level + " --reach-from here", "\"here\" is not a point; write it as x,y or x,y,z"},
        {AMBULON_SOURCE_DIR "/demo/handcarts.toml --reach-from 1,1", "is a plan; --reach-from needs"},
        {level + " --body width=1", "\"width=1\" is none of radius"},
        {demo, "its ground is open; only levels and plans are built"},
        {level + " -o built.tea", "is not the name of a .obj, .gltf or .glb file"}}) {
    const Result refused = ambulon("build " + arguments);
    EXPECT_EQ(refused.code, 2) << arguments;
    EXPECT_NE(refused.remarks.find(expected), std::string::npos) << refused.remarks;
  }
  // From floor to floor.
  const Result up = ambulon("route " + scene + " --from 10,12 --to 29,7,3 --json");
  EXPECT_EQ(up.code, 0);
  EXPECT_NEAR(json::parse(up.out)["bends"].back()[2].get<double>(), 3, 1e-3);
}

TEST(Build, SavesGroundsForScenesToNameThatKnowWhenTheyAreOutdated) {
  const fs::path folder = fs::path(own_folder()) / "built";
  fs::create_directories(folder);
  const std::string level = (folder / "quay.gltf").string(), ground = (folder / "quay.ground").string(),
                    scene = (folder / "night.toml").string();
  fs::copy_file(AMBULON_SOURCE_DIR "/demo/levels/lantern-quay.gltf", level,
                fs::copy_options::overwrite_existing);
  const std::string body = " --body jump_up=1,drop_down=2,leap=2.2";
  const json report = json::parse(ambulon("build --json " + level + body + " -o " + ground).out);
  EXPECT_GT(report["crossings"]["leap"], 4);
  EXPECT_FALSE(report["crossings"].contains("ladder"));
  // From roof to roof, the same on both.
  const std::string way = " --json --from 19.3,6.5,3 --to 16,5,3" + body;
  json built = json::parse(ambulon("route " + ground + way).out),
       fresh = json::parse(ambulon("route " + level + way).out);
  ASSERT_EQ(built["crossings"].size(), 1U);
  EXPECT_EQ(built["crossings"][0]["kind"], "leap");
  EXPECT_EQ(built["bends"], fresh["bends"]);

  std::ofstream(scene)
      << "format = \"ambulon-scene/1\"\n[ground]\nbuilt = \"quay.ground\"\n[[npc]]\nname = \"cat\"\n"
         "at = [10, 12, 0]\ndo = [ { go_to = [4, 12, 0] } ]\n";
  EXPECT_EQ(ambulon("check " + scene).code, 0);
  EXPECT_EQ(ambulon("run " + scene).code, 0);
  std::ofstream(level, std::ios::app) << "\n";
  const Result older = ambulon("check " + scene);
  EXPECT_EQ(older.code, 1);
  EXPECT_NE(older.out.find("the ground is older than " + level), std::string::npos) << older.out;
  fs::resize_file(ground, fs::file_size(ground) / 2);
  const Result torn = ambulon("run " + scene);
  EXPECT_EQ(torn.code, 2);
  EXPECT_NE(torn.remarks.find("night.toml:3:9"), std::string::npos) << torn.remarks;
  EXPECT_NE(torn.remarks.find("it was cut short"), std::string::npos) << torn.remarks;
}

TEST(DrawCommand, ShowsWhatAPlanHoldsAndSaysWhatItNeedsForThat) {
  const std::string carts = (fs::path(AMBULON_SOURCE_DIR) / "demo" / "handcarts.toml").string();
  const std::string file = own_folder() + "carts.svg";
  std::set<std::uintmax_t> sizes;
  for (const char* what :
       {"polygons", "clearance", "components", "rejected", "search --from 2,5.8 --to 35,5"}) {
    const Result result = ambulon("draw " + carts + " -o " + file + " --show " + what);
    EXPECT_EQ(result.code, 0) << result.remarks;
    sizes.insert(fs::file_size(file));
  }
  EXPECT_EQ(sizes.size(), 5U);  // all pictures differ
  const Result flow = ambulon("draw " + carts + " -o " + file + " --show flow --to 1,1");
  EXPECT_EQ(flow.code, 2);
  EXPECT_NE(flow.remarks.find("--show flow needs a ground of tiles; this one is a plan"), std::string::npos);
  const std::string level = (fs::path(AMBULON_SOURCE_DIR) / "demo" / "quay-level.toml").string();
  for (const char* what :
       {"heights", "rejected", "polygons --z-range 2.5,4", "search --from 10,12 --to 29,7,3"}) {
    EXPECT_EQ(ambulon("draw " + level + " -o " + file + " --show " + what).code, 0) << what;
    sizes.insert(fs::file_size(file));
  }
  EXPECT_EQ(sizes.size(), 9U);
  EXPECT_EQ(ambulon("draw " + level + " -o " + file + " --z-range 3,1").code, 2);
}

TEST(DrawCommand, ShowsWhatTilesHoldAndSaysWhatItNeedsForThat) {
  const std::string maze = (fs::path(AMBULON_SOURCE_DIR) / "demo" / "crate-maze.toml").string();
  const std::string file = own_folder() + "maze.svg";
  std::set<std::uintmax_t> sizes;
  for (const char* what : {"clearance", "components", "distance --to 29.5,1.5", "flow --to 29.5,1.5",
                           "search --from 1.5,1.5 --to 29.5,1.5"}) {
    const Result result = ambulon("draw " + maze + " -o " + file + " --show " + what);
    EXPECT_EQ(result.code, 0) << result.remarks;
    sizes.insert(fs::file_size(file));
  }
  EXPECT_EQ(sizes.size(), 5U);  // all pictures differ
  EXPECT_EQ(ambulon("draw " + maze + " -o " + file + " --show flow").remarks,
            "ambulon: --show flow needs --to x,y\n");
  EXPECT_EQ(ambulon("draw " + demo + " -o " + file + " --show clearance").code, 2);
}

/// The demo scenes that hold their score to limits, as paths below `demo/` without extension.
std::vector<std::string> scenes_with_limits() {
  const fs::path folder = fs::path(AMBULON_SOURCE_DIR) / "demo";
  std::vector<std::string> scenes;
  for (const auto& entry : fs::recursive_directory_iterator(folder))
    if (entry.path().extension() == ".toml" &&
        file_text(entry.path()).find("\n[limits]") != std::string::npos)
      scenes.push_back(fs::relative(entry.path(), folder).replace_extension());
  std::ranges::sort(scenes);
  return scenes;
}

class Demo : public testing::TestWithParam<std::string> {};

TEST_P(Demo, KeepsItsLimits) {
  const Result result = ambulon("run " AMBULON_SOURCE_DIR "/demo/" + GetParam() + ".toml");
  EXPECT_EQ(result.code, 0) << result.remarks << result.out;
  EXPECT_NE(result.out.find("\nlimits     all kept\n"), std::string::npos);
}

INSTANTIATE_TEST_SUITE_P(Scenes, Demo, testing::ValuesIn(scenes_with_limits()), [](const auto& scene) {
  std::string name = scene.param;
  std::ranges::replace_if(name, [](char c) { return c == '/' || c == '-'; }, '_');
  return name;
});

TEST(Run, NamesTheLimitsThatAreBroken) {
  const std::string crowds = AMBULON_SOURCE_DIR "/demo/crowds/";
  const std::string scene = own_folder() + "hasty.toml";
  std::string text = file_text(crowds + "antipodes.toml");
  text.replace(text.find("done_by         = 12"), 20, "done_by         = 2 ");
  std::ofstream(scene) << text;
  const Result told = ambulon("run " + scene), machine = ambulon("run " + scene + " --json");
  EXPECT_EQ(told.code, 1);
  EXPECT_NE(told.out.find("limits     broken\n  done_by: "), std::string::npos);
  EXPECT_NE(told.out.find(", at most 2; and 7 more\n"), std::string::npos);
  EXPECT_EQ(machine.code, 1);
  const json broken = json::parse(machine.out)["broken_limits"];
  ASSERT_EQ(broken.size(), 1U);
  EXPECT_EQ(broken[0]["limit"], "done_by");
  EXPECT_EQ(broken[0]["others"], 7);
  EXPECT_GT(broken[0]["value"], 8);
}

TEST(Check, FindsNothingInTheDemoScenesAndExitsWithZero) {
  for (const auto& entry : fs::directory_iterator(fs::path(AMBULON_SOURCE_DIR) / "demo")) {
    if (entry.path().extension() != ".toml") continue;  // drafts are in their own folder
    const Result result = ambulon("check " + entry.path().string());
    EXPECT_EQ(result.code, 0) << result.out << result.remarks;
    EXPECT_NE(result.out.find("nothing found"), std::string::npos);
  }
}

TEST(Check, PrintsWhereWhatWhyAndWhatWouldDoAndExitsWithOne) {
  const std::string scene = own_folder() + "unused.toml";
  std::ofstream(scene) << "format = \"ambulon-scene/1\"\nground = { open = true }\n[place]\ngate = [1, 2]\n";
  const Result text = ambulon("check " + scene), machine = ambulon("check " + scene + " --json");
  EXPECT_EQ(text.code, 1);
  EXPECT_NE(text.out.find(scene + ":4:8: the place gate is not used\n    why: "), std::string::npos)
      << text.out;
  EXPECT_NE(text.out.find(": 1 finding\n"), std::string::npos);
  EXPECT_EQ(machine.code, 1);
  const json finding = json::parse(machine.out)["findings"][0];
  EXPECT_EQ(finding["line"], 4);
  EXPECT_EQ(finding["what"], "the place gate is not used");
  EXPECT_EQ(finding["try"], "use it, or leave it out");
}

TEST(Compare, SetsTwoCharactersSideBySideInATableAndAPicture) {
  const std::string scene = AMBULON_SOURCE_DIR "/demo/follow-and-arrive.toml";
  const std::string picture = own_folder() + "compared.png";
  const Result result = ambulon("compare " + scene + " --npc ambler --npc hurrier --json -o " + picture);
  ASSERT_EQ(result.code, 0) << result.remarks;
  const json both = json::parse(result.out)["compared"];
  EXPECT_EQ(both[0]["npc"], "ambler");
  EXPECT_LT(both[1]["arrived_after"].get<double>(), both[0]["arrived_after"].get<double>() - 1);
  EXPECT_NEAR(both[0]["walked"].get<double>(), both[1]["walked"].get<double>(), 0.2);
  EXPECT_GT(fs::file_size(picture), 20'000U);
  const Result table = ambulon("compare " + scene + " " + demo + " --npc courier --npc porter");
  EXPECT_EQ(table.code, 0) << table.remarks;
  for (const char* word :
       {"courier", "porter", "difference", "walked, m", "arrived after, s", "overshoot, m", "sliding, m/m"})
    EXPECT_NE(table.out.find(word), std::string::npos) << word;
}

TEST(Compare, SetsARecordedRunBesideTheRunOfNow) {
  const std::string trace = own_folder() + "before.jsonl", picture = own_folder() + "before.png";
  ASSERT_EQ(ambulon("run " + demo + " --duration 30 --every 0.0167 --trace " + trace).code, 0);
  const std::string command = "compare " + demo + " --npc porter --duration 30 --before ";
  const Result result = ambulon(command + trace + " --json -o " + picture);
  ASSERT_EQ(result.code, 0) << result.remarks;
  const json both = json::parse(result.out)["compared"];
  EXPECT_GT(both[0]["walked"].get<double>(), 10);
  EXPECT_NEAR(both[0]["walked"].get<double>(), both[1]["walked"].get<double>(), 0.01);
  EXPECT_NEAR(both[0]["turned_deg"].get<double>(), both[1]["turned_deg"].get<double>(), 1);
  EXPECT_TRUE(both[0]["sliding"].is_null()) << "a trace does not say it";
  EXPECT_LT(both[1]["sliding"].get<double>(), 0.02);
  EXPECT_GT(fs::file_size(picture), 20'000U);

  const std::string whole = file_text(trace), broken = own_folder() + "broken.jsonl";
  const std::string lines_of_3 =
      whole.substr(0, whole.find('\n', whole.find('\n', whole.find('\n') + 1) + 1) + 1);
  for (std::size_t cut = 0; cut < lines_of_3.size(); cut += 7) {
    std::ofstream(broken) << lines_of_3.substr(0, cut);
    const Result refused = ambulon(command + broken + " --json");
    const bool whole_lines = cut > 0 && (lines_of_3[cut - 1] == '\n' || lines_of_3[cut] == '\n');
    const bool has_porter = lines_of_3.substr(0, cut).find("\"porter\"") != std::string::npos;
    EXPECT_EQ(refused.code, whole_lines && has_porter ? 0 : 2) << cut << refused.remarks;
    EXPECT_EQ(refused.remarks.find("terminate"), std::string::npos);
  }
}

TEST(Tool, WhatCannotBeDoneExitsWithTwoAndSaysWhy) {
  const std::pair<const char*, const char*> wrong[] = {
      {"live no/such.toml", "no/such.toml: cannot be read"},
      {"live DEMO --port 70000", "\"70000\" is not a number between 0 and 65535"},
      {"",
       "no command is given; it must be one of run, journal, draw, route, build, check, compare, live, "
       "schema"},
      {"walk scene.toml",
       "there is no command \"walk\"; it must be one of run, journal, draw, route, build, check, compare, "
       "live, schema"},
      {"run DEMO --speed 3", "--speed"},
      {"run", "scene"},
      {"run no-such.toml", "no-such.toml: cannot be read"},
      {"run DEMO --duration nan", "--duration"},
      {"run DEMO --duration -1", "--duration"},
      {"run DEMO --every 0", "--every"},
      {"run DEMO --trace /no/such/folder/trace", "/no/such/folder/trace: the trace cannot be written there"},
      {"journal DEMO --npc lamplighte",
       "has no NPC named \"lamplighte\"; it has lamplighter, porter, watch, apprentice"},
      {"draw DEMO", "--output"},
      {"draw DEMO -o quay.gif", "must end in .png or .svg"},
      {"draw DEMO -o quay.png --width 3", "--width"},
      {"draw DEMO -o /no/such/folder/quay.png", "cannot be written"},
      {"check no-such.toml", "no-such.toml: cannot be read"},
      {"compare DEMO --npc porter", "compare needs two characters"},
      {"compare DEMO --npc porter --npc watch --before x", "takes one scene and one character"},
      {"compare DEMO --npc porter --before no/such.jsonl", "no/such.jsonl: cannot be read"},
      {"compare DEMO --npc porter --npc porer", "has no character \"porer\"; it has lamplighter, porter"},
      {"compare DEMO --npc porter --npc watch --duration 0", "--duration"},
  };
  for (const auto& [arguments, why] : wrong) {
    std::string line = arguments;
    if (const auto at = line.find("DEMO"); at != std::string::npos) line.replace(at, 4, demo);
    const Result result = ambulon(line);
    EXPECT_EQ(result.code, 2) << arguments;
    EXPECT_EQ(result.out, "") << arguments;
    EXPECT_NE(result.remarks.find(why), std::string::npos) << arguments << ": " << result.remarks;
  }
}

TEST(Tool, HelpVersionAndSchemaGoToStandardOutput) {
  EXPECT_NE(ambulon("--help").out.find("journal"), std::string::npos);
  EXPECT_EQ(ambulon("--version").out, "ambulon 0.1.0\n");
  EXPECT_EQ(json::parse(ambulon("schema").out)["title"], "Ambulon scene");
}

}  // namespace
