// The engines that the conformance tests run on, and somebody else's connection to a database of each.
#pragma once

#include <gtest/gtest.h>

#include <memory>
#include <string>
#include <vector>

#include "core/value/value_column.h"

namespace iterandum::test {

enum class Engine { Sqlite, PostgreSql, MariaDb };

[[nodiscard]] std::string engineName(Engine engine);

// Another connection than the one under test. Stops the test when SQL fails.
class OtherConnection {
 public:
  OtherConnection() = default;
  OtherConnection(const OtherConnection&) = delete;
  OtherConnection& operator=(const OtherConnection&) = delete;
  virtual ~OtherConnection() = default;

  // The database's address, as openSession() takes it.
  [[nodiscard]] virtual std::string address() const = 0;
  virtual void run(const std::string& sql) = 0;
  [[nodiscard]] virtual std::vector<ValueTuple> rows(const std::string& sql) = 0;
  // Everything the database holds, as text that is equal for equal contents.
  [[nodiscard]] virtual std::string dump() = 0;
  // Takes everything out of the database.
  virtual void empty() = 0;
};

// A database of its own for each object; it goes with it.
[[nodiscard]] std::unique_ptr<OtherConnection> otherSqlite(const std::string& path);
[[nodiscard]] std::unique_ptr<OtherConnection> otherPostgreSql();
// `server`: its address; empty: the one that the environment names.
[[nodiscard]] std::unique_ptr<OtherConnection> otherMariaDb(const std::string& server = {});

// One line for each row, values separated by '|', NULL as "-"; decimals without needless noughts.
[[nodiscard]] std::string rowsText(const std::vector<ValueTuple>& rows);

// The register of the tests, the same on every engine: species, trees, inspections, photos.
[[nodiscard]] std::string smallRegister(Engine engine);
extern const char* const kSmallRegister;  // SQLite's

// The engines at hand: SQLite, and each server whose address the environment gives (tools/servers starts them).
[[nodiscard]] std::vector<Engine> enginesAtHand();

[[nodiscard]] std::vector<Engine> serversAtHand();

class EngineTest : public ::testing::TestWithParam<Engine> {};

}  // namespace iterandum::test

// Runs the tests of a fixture that is derived from EngineTest on every engine at hand, or on the servers alone.
#define ITERANDUM_ON_ALL_ENGINES(fixture)                                                        \
  GTEST_ALLOW_UNINSTANTIATED_PARAMETERIZED_TEST(fixture);                                        \
  INSTANTIATE_TEST_SUITE_P(On, fixture, ::testing::ValuesIn(::iterandum::test::enginesAtHand()), \
                           [](const auto& tested) { return ::iterandum::test::engineName(tested.param); })
#define ITERANDUM_ON_SERVERS(fixture)                                                            \
  GTEST_ALLOW_UNINSTANTIATED_PARAMETERIZED_TEST(fixture);                                        \
  INSTANTIATE_TEST_SUITE_P(On, fixture, ::testing::ValuesIn(::iterandum::test::serversAtHand()), \
                           [](const auto& tested) { return ::iterandum::test::engineName(tested.param); })
