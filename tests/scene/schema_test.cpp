// The JSON Schema in docs/ agrees with the reader: the schema accepts all that the reader accepts, and
// refuses
// all that a schema can refuse.

#include <filesystem>
#include <fstream>
#include <sstream>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <toml++/toml.h>
#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validator.hpp>

#include "scene/scene.hpp"

namespace ambulon {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

std::string file_text(const fs::path& file) {
  std::stringstream text;
  text << std::ifstream(file).rdbuf();
  return text.str();
}

json as_json(const std::string& toml_text) {
  std::stringstream text;
  text << toml::json_formatter(toml::parse(toml_text));
  return json::parse(text.str());
}

bool fits_schema(const json& document) {
  static const json schema_json = json::parse(scene_schema());
  valijson::Schema schema;
  valijson::SchemaParser().populateSchema(valijson::adapters::NlohmannJsonAdapter(schema_json), schema);
  return valijson::Validator().validate(schema, valijson::adapters::NlohmannJsonAdapter(document), nullptr);
}

const std::string top = "format = \"ambulon-scene/1\"\nground = { open = true }\n[place]\ngate = [2, 3]\n";

TEST(Schema, TheOneInDocsIsTheOneTheProgramPrints) {
  EXPECT_EQ(file_text(fs::path(AMBULON_SOURCE_DIR) / "docs/scene.schema.json"), scene_schema())
      << "run: build/bin/ambulon schema > docs/scene.schema.json";
}

TEST(Schema, EveryDemoSceneFits) {
  int scenes = 0;
  for (const auto& entry : fs::recursive_directory_iterator(fs::path(AMBULON_SOURCE_DIR) / "demo")) {
    const fs::path folder = entry.path().parent_path().filename();
    if (entry.path().extension() != ".toml" || (folder != "demo" && folder != "crowds")) continue;
    ++scenes;
    EXPECT_TRUE(read_scene(entry.path().string())) << entry.path();
    EXPECT_TRUE(fits_schema(as_json(file_text(entry.path())))) << entry.path();
  }
  EXPECT_GE(scenes, 1);
}

TEST(Schema, RefusesWhatTheReaderRefuses) {
  const auto npc = [](const std::string& rest) {
    return top + "[[npc]]\nname = \"cat\"\nat = \"gate\"\n" + rest;
  };
  const std::string broken[] = {
      "ground = { open = true }",
      "format = \"ambulon-scene/9\"\nground = { open = true }",
      "format = \"ambulon-scene/1\"",
      std::string("title = 3\n").append(top),
      std::string("rate = 0\n").append(top),
      std::string("tilte = \"x\"\n").append(top),
      top + "low = [1]",
      top + "[gait.run]\nspeed = -1",
      top + "[gait.run]\nsped = 1",
      top + "[[npc]]\nname = \"cat\"",
      npc("body = { radius = 0 }"),
      npc("do = []\n[[event]]\nat = 1"),
      npc("do = [ { goto = \"gate\" } ]"),
      npc("do = [ { go_to = \"gate\", turn_to = 3 } ]"),
      npc("do = [ { patrol = [] } ]"),
      npc("do = [ { patrol = [\"gate\"], order = \"round\" } ]"),
      npc("do = [ { pause = [1, 2, 3] } ]"),
      npc("do = [ { pause = 1, until = {} } ]"),
      npc("[[event]]\nat = 1\nsignal = \"bell\"\nremove = \"cat\""),
  };
  for (const std::string& text : broken) {
    EXPECT_FALSE(read_scene_text(text, "x")) << text;
    EXPECT_FALSE(fits_schema(as_json(text))) << text;
  }
}

TEST(Schema, TakesWhatTheReaderTakes) {
  const std::string good[] = {
      top,
      top +
          "[[npc]]\nname = \"cat\"\nat = [1, 2, 3]\ngait = { speed = 2 }\ndo = [ { turn_to = 90 }, { turn_to "
          "= \"gate\", time_limit = 3 }, { pause = [1, 2], until = { signal = \"bell\" } } ]",
      top +
          "[[npc]]\nname = \"cat\"\nat = \"gate\"\ndo = [ { patrol = [\"gate\", { at = [1, 2], facing = 90 "
          "}, [3, 4]], pause = 2 }, { wait_for = \"bell\", after = 1 } ]",
      top +
          "[[npc]]\nname = \"cat\"\nat = \"gate\"\n[[event]]\nat = 0\nsend = { npc = \"cat\", to = [9, 9] }",
  };
  for (const std::string& text : good) {
    const auto scene = read_scene_text(text, "x");
    EXPECT_TRUE(scene) << scene.error().text;
    EXPECT_TRUE(fits_schema(as_json(text))) << text;
  }
}

}  // namespace
}  // namespace ambulon
