// Looking writes nothing: every statement that `tables`, `show` and a review without a rehearsal send is read off the
// line, and is one that reads, inside a transaction that the server itself holds read-only.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <fstream>
#include <set>

#include "support/proxy.h"
#include "support/test_database.h"

namespace iterandum::test {
namespace {

using ::testing::HasSubstr;

std::uint32_t bigEndian(const std::string& bytes, std::size_t at) {
  std::uint32_t out = 0;
  for (std::size_t i = 0; i < 4; ++i) out = out << 8U | static_cast<unsigned char>(bytes[at + i]);
  return out;
}

// PostgreSQL, protocol 3.0: a start without a type, then a type, a length and what it says.
std::vector<std::string> postgreSqlStatements(const std::string& spoken) {
  std::vector<std::string> out;
  std::size_t at = spoken.size() < 4 ? spoken.size() : bigEndian(spoken, 0);
  while (at + 5 <= spoken.size()) {
    const char type = spoken[at];
    const std::size_t length = bigEndian(spoken, at + 1);
    std::string said = spoken.substr(at + 5, length - 4);
    if (type == 'P') said = said.substr(said.find('\0') + 1);  // behind the name of what is prepared
    if (type == 'Q' || type == 'P') out.push_back(said.substr(0, said.find('\0')));
    at += 1 + length;
  }
  return out;
}

// MariaDB: three bytes of length, a number, then a command. The first packet answers the greeting.
std::vector<std::string> mariaDbStatements(const std::string& spoken) {
  std::vector<std::string> out;
  for (std::size_t at = 0; at + 4 <= spoken.size();) {
    const auto byte = [&](std::size_t i) {
      return static_cast<std::size_t>(static_cast<unsigned char>(spoken[at + i]));
    };
    const std::size_t length = byte(0) | byte(1) << 8U | byte(2) << 16U;
    const bool command = byte(3) == 0 && length > 0;  // a conversation begins anew
    const char type = command ? spoken[at + 4] : '\0';
    if (command && (type == 0x03 || type == 0x16)) out.push_back(spoken.substr(at + 5, length - 1));
    at += 4 + length;
  }
  return out;
}

std::string upper(std::string text) {
  for (char& c : text) c = static_cast<char>(c >= 'a' && c <= 'z' ? c - 32 : c);
  return text;
}

std::string firstWord(const std::string& statement) {
  const std::size_t begin = statement.find_first_not_of(" \n(");
  return begin == std::string::npos ? ""
                                    : upper(statement.substr(begin, statement.find_first_of(" \n;(", begin) - begin));
}

class CliLookingTest : public EngineTest {
 protected:
  // Gives what the line carried, in order.
  std::vector<std::string> statementsOf(const std::string& before, const std::string& after) {
    std::string address = db.address();
    const std::size_t colon = address.find(':', address.find('@'));
    const std::size_t slash = address.find('/', colon);
    Proxy line(static_cast<unsigned>(std::stoul(address.substr(colon + 1, slash - colon - 1))), 0);
    address.replace(colon + 1, slash - colon - 1, std::to_string(line.port()));
    address.replace(address.find('@') + 1, colon - address.find('@') - 1, "127.0.0.1");
    const bool postgreSql = GetParam() == Engine::PostgreSql;
    if (postgreSql) address += (address.find('?') == std::string::npos ? "?" : "&") + std::string("sslmode=disable");
    const std::string command = "XDG_STATE_HOME='" + db.file("state") + "' " CLI_BINARY " " + before + " '" + address +
                                "' " + after + " > '" + db.file("out") + "' 2> '" + db.file("err") + "'";
    EXPECT_EQ(0, std::system(command.c_str())) << command;
    std::vector<std::string> out;
    for (const std::string& spoken : line.spoken()) {
      for (std::string& s : postgreSql ? postgreSqlStatements(spoken) : mariaDbStatements(spoken))
        out.push_back(std::move(s));
    }
    return out;
  }

  static void expectOnlyReading(const std::vector<std::string>& statements) {
    static const std::set<std::string> kReads = {"SELECT", "WITH",  "SHOW",     "SET",     "BEGIN", "START",
                                                 "COMMIT", "FETCH", "ROLLBACK", "DECLARE", "CLOSE", "DEALLOCATE"};
    bool readOnly = false;
    for (const std::string& statement : statements) {
      SCOPED_TRACE(statement);
      const std::string word = firstWord(statement);
      const std::string text = upper(statement);
      EXPECT_TRUE(kReads.contains(word)) << word;
      if (word == "BEGIN" || word == "START") {
        EXPECT_THAT(text, HasSubstr("READ ONLY"));
        readOnly = true;
      }
      if (word == "COMMIT" || word == "ROLLBACK") readOnly = false;
      // What the register holds is read inside such a transaction alone.
      const bool ofTheRegister =
          text.find("TREE_ID") != std::string::npos || text.find("SPECIES_ID") != std::string::npos;
      EXPECT_TRUE(readOnly || !ofTheRegister);
      EXPECT_EQ(std::string::npos, text.find(" INTO ")) << "a SELECT that makes something";
      EXPECT_EQ(std::string::npos, text.find("FOR UPDATE"));
      EXPECT_EQ(std::string::npos, text.find("NEXTVAL("));
    }
  }

  TestDatabase db{smallRegister(GetParam()), GetParam()};
};
ITERANDUM_ON_SERVERS(CliLookingTest);

TEST_P(CliLookingTest, TablesSendsNothingThatWrites) {
  for (const std::string format : {"table", "json"}) {
    const auto statements = statementsOf("tables", "--format " + format);
    EXPECT_FALSE(statements.empty());
    expectOnlyReading(statements);
  }
}

TEST_P(CliLookingTest, ShowSendsNothingThatWrites) {
  const std::string before = db.dump();
  std::size_t ofTheRegister = 0;
  for (const std::string words :
       {"tree", "tree --limit 2 --format csv", "tree --where 'note contains x' --sort tag:desc",
        "tree --where 'species.name not lime' --columns tag,species.name --format json", "species",
        "inspection --format csv"}) {
    SCOPED_TRACE(words);
    const auto statements = statementsOf("show", words);
    expectOnlyReading(statements);
    ofTheRegister +=
        static_cast<std::size_t>(std::count_if(statements.begin(), statements.end(), [](const std::string& s) {
          return upper(s).find("TREE_ID") != std::string::npos;
        }));
  }
  EXPECT_LT(4U, ofTheRegister) << "the statements were not read off the line";
  EXPECT_EQ(before, db.dump());
}

TEST_P(CliLookingTest, AReviewWithoutARehearsalSendsNothingThatWrites) {
  std::ofstream(db.file("changes.json"))
      << R"({"format":"iterandum-changes","version":1,"changes":[{"action":"edit","table":"tree","key":{"tree_id":7},)"
      << R"("cells":{"condition":{"from":2,"to":3}}},{"action":"remove","table":"photo","key":{"photo_id":1}}]})";
  const auto statements = statementsOf("review --no-rehearsal", "'" + db.file("changes.json") + "'");
  expectOnlyReading(statements);
  EXPECT_FALSE(statements.empty());
}

// A file has no line to listen to: it is the same to the last byte, and nothing lies beside it.
TEST(CliLookingAtAFileTest, ItStaysTheSameToTheLastByte) {
  TestDatabase db(kSmallRegister);
  db.run("CREATE VIEW report AS SELECT tree_id, tag FROM tree");
  const auto read = [&] {
    std::ifstream in(db.path(), std::ios::binary);
    return std::string(std::istreambuf_iterator<char>(in), {});
  };
  const std::string before = read();
  const auto written = std::filesystem::last_write_time(db.path());
  for (const std::string words : {"tables {}", "tables {} --format json", "show {} tree", "show {} report --format csv",
                                  "show {} tree --where 'species.name not lime' --sort tag:desc"}) {
    std::string command = words;
    command.replace(command.find("{}"), 2, "'" + db.path() + "'");
    ASSERT_EQ(0, std::system((CLI_BINARY " " + command + " > /dev/null").c_str())) << command;
    EXPECT_EQ(before, read()) << command;
  }
  EXPECT_EQ(written, std::filesystem::last_write_time(db.path()));
  for (const char* beside : {"-journal", "-wal", "-shm"}) EXPECT_FALSE(std::filesystem::exists(db.path() + beside));
}

}  // namespace
}  // namespace iterandum::test
