// CliRegisterTest: the command line over a fresh register, called as a shell calls it.
#pragma once

#include <gtest/gtest.h>
#include <sys/wait.h>

#include <cstdlib>
#include <fstream>
#include <map>
#include <string>

#include "support/test_database.h"

namespace iterandum::test {

class CliRegisterTest : public EngineTest {
 protected:
  // Through the shell, in the folder of the test; $DB is the database, `behind` what else the shell is to do with it.
  // What is said is in `out` and `err` afterwards.
  int run(const std::string& words, const std::string& behind = "", const std::string& binary = CLI_BINARY) {
    std::ofstream call(db.file("call"));
    call << "cd '" << db.file("") << "'\nexport XDG_STATE_HOME='" << db.file("state") << "' DB='" << db.address()
         << "'\n";
    for (const auto& [name, value] : variables) call << "export " << name << "='" << value << "'\n";
    call << "'" << binary << "' " << words << " > out 2> err " << behind << "\n";
    call.close();
    const int status = std::system(("bash '" + db.file("call") + "'").c_str());
    err = read("err");
    out = read("out");
    return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
  }
  // Runs the words that make changes.json, applies it, and gives these columns of the trees.
  std::string applied(const std::string& words, const std::string& columns) {
    if (const int status = run(words + " -o changes.json"); status != 0) return std::to_string(status) + ": " + err;
    if (const int status = run("apply $DB changes.json"); status != 0) {
      return "apply " + std::to_string(status) + ": " + out + err;
    }
    return db.rows("SELECT " + columns + " FROM tree ORDER BY tree_id");
  }
  [[nodiscard]] std::string read(const std::string& name) const {
    std::ifstream in(db.file(name), std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
  }
  void write(const std::string& name, const std::string& text) const {
    std::ofstream(db.file(name), std::ios::binary) << text;
  }
  [[nodiscard]] bool exists(const std::string& name) const { return std::ifstream(db.file(name)).good(); }

  TestDatabase db{smallRegister(GetParam()), GetParam()};
  std::map<std::string, std::string> variables;  // of the shell
  std::string out;
  std::string err;
};

}  // namespace iterandum::test
