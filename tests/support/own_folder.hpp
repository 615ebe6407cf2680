// A temporary folder for one test process; it is removed at the end. Tests run in parallel, so a shared
// folder would be written by two at once.
#pragma once

#include <filesystem>
#include <string>
#include <unistd.h>

#include <gtest/gtest.h>

// Its path, with a slash at the end.
inline const std::string& own_folder() {
  struct Folder {
    std::string path = testing::TempDir() + "ambulon-" + std::to_string(getpid()) + "/";
    Folder() { std::filesystem::create_directories(path); }
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;
    ~Folder() {
      std::error_code ignored;
      std::filesystem::remove_all(path, ignored);
    }
  };
  static const Folder folder;
  return folder.path;
}
