// The words that the register of Quillhaven is made of. All names are invented, but for the botanical ones.
#pragma once

#include <array>
#include <string>
#include <vector>

namespace quillhaven {

struct Species {
  const char* name;
  const char* common;
  int tallest;  // metres
};

extern const std::vector<const char*> kDistricts;
extern const std::vector<const char*> kStreetFirst;
extern const std::vector<const char*> kStreetLast;
extern const std::vector<Species> kSpecies;
extern const std::vector<const char*> kCrews;
extern const std::vector<const char*> kRemarks;
extern const std::vector<const char*> kTasks;

}  // namespace quillhaven
