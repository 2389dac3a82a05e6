#include "support/test_database.h"

#include <gtest/gtest.h>

#include <cstdlib>
#include <fstream>
#include <iterator>

#include "core/engines/common/address.h"
#include "core/engines/connection_trial.h"

namespace iterandum::test {
namespace {

void require(bool condition, const std::string& message) {
  if (!condition) throw std::runtime_error(message);
}

std::string inQuotes(const std::string& s) { return "\"" + s + "\""; }

std::vector<std::string> words(const std::string& line) {
  std::vector<std::string> out;
  std::string word;
  bool open = false;
  for (const char c : line) {
    if (c == '"') open = !open;
    if (c == ' ' && !open) {
      if (!word.empty()) out.push_back(std::move(word));
      word.clear();
    } else {
      word += c;
    }
  }
  if (!word.empty()) out.push_back(std::move(word));
  return out;
}

// One line of the small language as a change of a change file.
std::string changeJson(const std::string& line) {
  const std::vector<std::string> w = words(line);
  require(w.size() >= 2, "cannot read: " + line);
  std::string key;
  std::string cells;
  std::string label;
  const auto add = [](std::string& to, const std::string& piece) { to += (to.empty() ? "" : ",") + piece; };
  for (std::size_t i = 2; i < w.size(); ++i) {
    const std::string& word = w[i];
    if (word[0] == '@') {
      label = word.substr(1);
      continue;
    }
    const std::size_t name = word.find_first_of("=:-");
    const std::string column = word.substr(0, name);
    const std::string rest = word.substr(name + 1);
    if (word[name] == '=') {
      add(w[0] == "add" ? cells : key, inQuotes(column) + ":" + (w[0] == "add" ? "{\"to\":" + rest + "}" : rest));
    } else if (word[name] == '-') {
      add(cells, inQuotes(column) + ":{\"to\":" + rest.substr(1) + "}");
    } else if (w[0] == "remove") {
      add(cells, inQuotes(column) + ":{\"from\":" + rest + "}");
    } else {
      const std::size_t arrow = rest.find("->");
      add(cells, inQuotes(column) + ":{\"from\":" + rest.substr(0, arrow) + ",\"to\":" + rest.substr(arrow + 2) + "}");
    }
  }
  std::string out = "{\"action\":" + inQuotes(w[0]) + ",\"table\":" + inQuotes(w[1]);
  if (!label.empty()) out += ",\"label\":" + inQuotes(label);
  if (!key.empty()) out += ",\"key\":{" + key + "}";
  return out + ",\"cells\":{" + cells + "}}";
}

}  // namespace

TemporaryFolder::TemporaryFolder() {
  std::string name = (std::filesystem::temp_directory_path() / "iterandum-test-XXXXXX").string();
  require(mkdtemp(name.data()) != nullptr, "no temporary folder");
  path_ = name;
}

TemporaryFolder::~TemporaryFolder() {
  std::error_code ignored;
  std::filesystem::remove_all(path_, ignored);
}

TestDatabase::TestDatabase(const std::string& schema, Engine engine) : path_(folder_.file("register.sqlite")) {
  if (engine == Engine::Sqlite) other_ = otherSqlite(path_);
  if (engine == Engine::PostgreSql) other_ = otherPostgreSql();
  if (engine == Engine::MariaDb) other_ = otherMariaDb();
  if (!schema.empty()) run(schema);
}

TestDatabase::~TestDatabase() {
  // Ours goes first: a database that somebody is in cannot be dropped.
  forget();
}

Session& TestDatabase::session() {
  if (!session_) {
    auto opened = openSession(other_->address());
    require(opened.has_value(), opened ? "" : opened.error().text());
    session_ = std::move(*opened);
  }
  return *session_;
}

const Catalogue& TestDatabase::catalogue() {
  if (!catalogue_) {
    Progress progress;
    auto read = session().readCatalogue(progress);
    require(read.has_value(), read ? "" : read.error().text());
    catalogue_ = std::make_unique<Catalogue>(std::move(*read));
  }
  return *catalogue_;
}

void TestDatabase::forget() {
  session_.reset();
  catalogue_.reset();
}

ChangeList TestDatabase::changes(const std::string& lines) {
  std::string list;
  for (std::size_t at = 0; at < lines.size();) {
    const std::size_t end = std::min(lines.find('\n', at), lines.size());
    const std::string line = lines.substr(at, end - at);
    if (line.find_first_not_of(' ') != std::string::npos) list += (list.empty() ? "" : ",\n") + changeJson(line);
    at = end + 1;
  }
  auto changes = readChangeFile("{\"format\":\"iterandum-changes\",\"version\":1,\"changes\":[" + list + "]}");
  require(changes.has_value(), changes ? "" : changes.error().text() + " in " + list);
  return std::move(*changes);
}

std::string findingsText(const Review& review) {
  std::string out;
  for (const Finding& f : review.findings) {
    std::string line =
        std::string(findingName(f.kind)) + " " + std::to_string(f.change) + " " + displayName(f.table) + "[";
    for (std::size_t k = 0; k < f.key.size(); ++k) line += (k ? "," : "") + canonicalText(f.key[k]);
    line += "]";
    if (!f.column.empty()) line += "." + f.column;
    const auto add = [&](const char* name, const std::optional<Value>& v) {
      if (v) line += std::string(" ") + name + "=" + (v->isNull() ? "-" : canonicalText(*v));
    };
    add("from", f.from);
    add("to", f.to);
    add("now", f.now);
    if (f.rows) line += " rows=" + std::to_string(*f.rows) + " in " + displayName(*f.fromTable);
    if (!f.blocks) line += " (note)";
    out += line + "\n";
  }
  if (review.ready) out += "ready\n";
  if (!out.empty()) out.pop_back();
  return out;
}

std::string TestDatabase::review(const std::string& lines, bool rehearse) {
  Progress progress;
  ReviewOptions options;
  options.rehearse = rehearse;
  options.lockTimeout = std::chrono::milliseconds(200);
  const auto review = reviewChanges(session(), catalogue(), changes(lines), options, progress);
  return review ? findingsText(*review) : "error: " + review.error().text();
}

std::string TestDatabase::runInPlainClient(const std::string& script) const {
  std::string client = "sqlite3 '" + path_ + "'";
  if (const auto parts = serverAddress(address());
      parts && !parts->hosts[0].port.empty() && isServerAddress(address())) {
    client = address().rfind("postgresql:", 0) == 0 ? "psql -X -q '" + address() + "'"
                                                    : "mariadb --no-defaults -u" + parts->user + " -h127.0.0.1 -P" +
                                                          parts->hosts[0].port + " " + parts->database;
  }
  std::ofstream(file("script.sql")) << script;
  const int status = std::system((client + " < '" + file("script.sql") + "' > '" + file("said") + "' 2>&1").c_str());
  std::ifstream said(file("said"));
  // psql goes on after an error, and ends well.
  const std::string words(std::istreambuf_iterator<char>(said), {});
  return status == 0 && words.find("ERROR") == std::string::npos ? "" : "the client failed: " + words;
}

std::string TestDatabase::effects(const std::string& lines) {
  Progress progress;
  const auto review = reviewChanges(session(), catalogue(), changes(lines), {}, progress);
  if (!review) return "error: " + review.error().text();
  std::string out;
  for (const Effect& e : review->effects) {
    out += (out.empty() ? "" : "\n") + std::string(effectName(e.kind)) + " " + std::to_string(e.change) + " " +
           displayName(e.table);
    if (!e.column.empty()) out += "." + e.column;
    out += e.kind == Effect::Kind::DatabaseSet ? " " + canonicalText(e.from) + "->" + canonicalText(e.to)
                                               : " rows=" + std::to_string(e.rows);
  }
  return out;
}

std::string TestDatabase::apply(const std::string& lines, OnConflict onConflict) {
  Progress progress;
  ApplyOptions options;
  options.onConflict = onConflict;
  options.appliedBy = "steward";
  options.lockTimeout = std::chrono::milliseconds(200);
  auto result = applyChanges(session(), catalogue(), changes(lines), options, progress);
  if (!result) return "error: " + result.error().text();
  if (!result->receipt) return findingsText(result->review);
  receipt_ = std::move(*result->receipt);
  return "applied";
}

}  // namespace iterandum::test
