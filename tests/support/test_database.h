// A throw-away database in a folder of its own, and a small language for change sets and what came of them.
#pragma once

#include <filesystem>
#include <memory>
#include <string>

#include "core/apply/apply.h"
#include "core/changes/change_file.h"
#include "core/engines/session.h"
#include "support/engine.h"

namespace iterandum::test {

// A folder that goes with the object.
class TemporaryFolder {
 public:
  TemporaryFolder();
  TemporaryFolder(const TemporaryFolder&) = delete;
  TemporaryFolder& operator=(const TemporaryFolder&) = delete;
  ~TemporaryFolder();
  [[nodiscard]] std::string file(const std::string& name) const { return (path_ / name).string(); }

 private:
  std::filesystem::path path_;
};

// Keeps receipts as a test wants it, and counts what became of them.
class LambdaKeeper : public ReceiptKeeper {
 public:
  explicit LambdaKeeper(std::function<Status(const Receipt&, ReceiptStage)> keep) : keep_(std::move(keep)) {}
  Status keep(const Receipt& receipt, ReceiptStage stage) override { return keep_(receipt, stage); }
  Status confirm() override {
    ++confirmed;
    return confirmation;
  }
  void drop() override { ++dropped; }

  int confirmed = 0;
  int dropped = 0;
  Status confirmation;

 private:
  std::function<Status(const Receipt&, ReceiptStage)> keep_;
};

class TestDatabase {
 public:
  explicit TestDatabase(const std::string& schema = {}, Engine engine = Engine::Sqlite);
  TestDatabase(const TestDatabase&) = delete;
  TestDatabase& operator=(const TestDatabase&) = delete;
  ~TestDatabase();

  // Somebody else's connection: runs SQL, and stops the test when it fails.
  void run(const std::string& sql) const { other_->run(sql); }
  [[nodiscard]] std::string rows(const std::string& sql) const { return rowsText(other_->rows(sql)); }
  [[nodiscard]] std::string dump() const { return other_->dump(); }
  [[nodiscard]] std::string address() const { return other_->address(); }
  void empty() {
    forget();
    other_->empty();
  }

  [[nodiscard]] Session& session();
  [[nodiscard]] const Catalogue& catalogue();  // read anew after forget()
  void forget();
  [[nodiscard]] const std::string& path() const { return path_; }
  [[nodiscard]] std::string file(const std::string& name) const { return folder_.file(name); }

  // Lines like
  //   edit tree tree_id=7 condition:2->3 note->"x"     (from->to; without from it is not guarded)
  //   add tree tag="T9" species_id={"ref":"lime"} @label
  //   remove tree tree_id=7 tag:"T7"
  // Values are JSON without spaces. Stops the test when a line cannot be read.
  [[nodiscard]] static ChangeList changes(const std::string& lines);

  // What a review says, one finding a line: "cell-changed 0 tree[7].condition from=2 to=3 now=4"; "ready" when ready.
  [[nodiscard]] std::string review(const std::string& lines, bool rehearse = true);
  // The same for applying; "applied" when it was.
  [[nodiscard]] std::string apply(const std::string& lines, OnConflict onConflict = OnConflict::Stop);
  [[nodiscard]] std::string effects(const std::string& lines);
  // What the engine's plain client says to a script under default settings; empty when it went through.
  [[nodiscard]] std::string runInPlainClient(const std::string& script) const;
  // The receipt of the last apply().
  [[nodiscard]] const Receipt& receipt() const { return receipt_; }

 private:
  TemporaryFolder folder_;
  std::string path_;
  std::unique_ptr<OtherConnection> other_;
  std::unique_ptr<Session> session_;
  std::unique_ptr<Catalogue> catalogue_;
  Receipt receipt_;
};

[[nodiscard]] std::string findingsText(const Review& review);
}  // namespace iterandum::test
