// A folder for the files of one run of a test program, gone when it ends. Tests run side by side, each in a
// process of its own, so that names in a folder all share would be written by two at once.
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
