// Which tables and views end up, by whatever way, in storage that cannot roll back: their own, that of tables below a
// view, that of tables which triggers write, at any depth. Internal to engines/mariadb.
#pragma once

#include <set>
#include <string>
#include <utility>

#include "core/engines/mariadb/maria_handle.h"

namespace iterandum {

class StayingStorage {
 public:
  using Names = std::set<std::pair<std::string, std::string>>;  // schema and table, in small letters
  explicit StayingStorage(Names names) : names_(std::move(names)) {}
  [[nodiscard]] bool reaches(const std::string& schema, const std::string& table) const;

 private:
  Names names_;
};

[[nodiscard]] Result<StayingStorage> readStayingStorage(MariaHandle& handle, Progress& progress);

}  // namespace iterandum
