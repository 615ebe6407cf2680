// The program, driven as a user drives it: arguments in; text, files and exit code out.

#include <array>
#include <chrono>
#include <csignal>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <sstream>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

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
  const std::string out = testing::TempDir() + "out." + std::to_string(getpid()), remarks = out + ".remarks";
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
  const fs::path trace = fs::path(testing::TempDir()) / "trace.jsonl";
  const Result result = ambulon("run " + demo + " --for 30 --every 0.5 --json --trace " + trace.string());
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
  const std::string out = testing::TempDir() + "interrupted.json";
  const pid_t child = fork();
  if (child == 0) {
    if (std::freopen(out.c_str(), "w", stdout) == nullptr ||
        std::freopen("/dev/null", "w", stderr) == nullptr)
      _exit(9);
    execl(AMBULON_TOOL, "ambulon", "run", demo.c_str(), "--for", "2000000", "--json", nullptr);
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
  const Result all = ambulon("journal " + demo + " --for 30");
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
    const fs::path file = fs::path(testing::TempDir()) / (std::string("quay.") + ending);
    fs::remove(file);
    const Result result = ambulon("draw " + demo + " -o " + file.string() + " --at 20 --trail --json");
    EXPECT_EQ(result.code, 0) << result.remarks;
    EXPECT_EQ(json::parse(result.out)["picture"], file.string());
    EXPECT_GT(fs::file_size(file), 10'000U);
  }
}

TEST(Tool, WhatCannotBeDoneExitsWithTwoAndSaysWhy) {
  const std::pair<const char*, const char*> wrong[] = {
      {"", "no command is given; it must be one of run, journal, draw, schema"},
      {"walk scene.toml", "there is no command \"walk\"; it must be one of run, journal, draw, schema"},
      {"run DEMO --speed 3", "--speed"},
      {"run", "scene"},
      {"run no-such.toml", "no-such.toml: cannot be read"},
      {"run DEMO --for nan", "--for"},
      {"run DEMO --for -1", "--for"},
      {"run DEMO --every 0", "--every"},
      {"run DEMO --trace /no/such/folder/trace", "/no/such/folder/trace: the trace cannot be written there"},
      {"journal DEMO --npc lamplighte",
       "has no NPC named \"lamplighte\"; it has lamplighter, porter, watch, apprentice"},
      {"draw DEMO", "--output"},
      {"draw DEMO -o quay.gif", "must end in .png or .svg"},
      {"draw DEMO -o quay.png --width 3", "--width"},
      {"draw DEMO -o /no/such/folder/quay.png", "cannot be written"},
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
