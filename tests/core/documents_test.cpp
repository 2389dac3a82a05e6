// Documents of random contents: what is written reads back as the same, in every form there is; and a document that was
// damaged is refused with its place or read as another good one, but never takes the program down.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <random>
#include <set>

#include "core/apply/receipt.h"
#include "core/changes/change_file.h"
#include "core/changes/gesture.h"

namespace iterandum::test {
namespace {

class Documents {
 public:
  explicit Documents(unsigned seed) : random_(seed) {}
  int below(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }

  std::string text() {
    static const char* const kParts[] = {
        "",     "a",    "Oak",   "'",   "\"", "\\",       "\n",           "\t",
        "null", "{}",   "[1]",   "0x1", "e",  "\xC3\xA9", "\xE2\x80\xAE", "\xF0\x9F\x8C\xB3",
        " ",    "\x01", "1e400", "-0",  "%s", "<b>"};
    std::string out;
    for (int i = below(5); i > 0; --i) out += kParts[below(static_cast<int>(std::size(kParts)))];
    return out;
  }
  // A name of at least one letter.
  std::string name() { return "c" + std::to_string(below(6)) + (below(6) == 0 ? text() : ""); }
  Value value() {
    switch (below(9)) {
      case 0:
        return Value();
      case 1:
        return Value::integer(static_cast<std::int64_t>(random_()) * (below(2) == 0 ? 1 : -1));
      case 2:
        return Value::boolean(below(2) == 0);
      case 3:
        return Value::real(static_cast<double>(static_cast<std::int64_t>(random_())) / 1e5);
      case 4:
        return Value::ofString(Value::Kind::Bytes, text() + std::string(1, '\0') + text());
      case 5:
        return Value::ofString(Value::Kind::Decimal, std::to_string(random_()) + std::to_string(random_()) + ".5");
      default:
        return Value::text(text());
    }
  }

  ChangeList changes() {
    ChangeList out;
    out.title = text();
    const int count = below(8);
    for (int i = 0; i < count; ++i) {
      Change change;
      change.action = static_cast<Action>(below(3));
      change.table = {below(3) == 0 ? "s" + text() : "", "t" + text()};
      if (change.action != Action::Add) {
        for (int k = 0; k <= below(2); ++k) {
          change.keyColumns.push_back("k" + std::to_string(k));
          change.key.push_back(value());
        }
      } else if (below(2) == 0) {
        change.label = "label " + std::to_string(i);
      }
      std::set<std::string> used;
      for (int c = change.action == Action::Edit ? 1 + below(3) : below(4); c > 0; --c) {
        CellChange cell;
        cell.column = name();
        if (!used.insert(cell.column).second) continue;
        cell.hasFrom = change.action == Action::Remove || (change.action == Action::Edit && below(3) != 0);
        if (cell.hasFrom) cell.from = value();
        if (change.action != Action::Remove) cell.to = value();
        change.cells.push_back(cell);
      }
      out.add(change);
    }
    return out;
  }

  ValueColumn column(std::size_t rows) {
    ValueColumn out;
    for (std::size_t r = 0; r < rows; ++r) out.push(value());
    return out;
  }

  Receipt receipt() {
    Receipt out;
    out.appliedAt = "2026-03-04T05:06:07Z";
    out.appliedBy = text();
    out.database = "sqlite:/" + text();
    out.title = text();
    std::uint32_t index = 0;
    for (int b = below(4); b > 0; --b) {
      ReceiptBlock block;
      block.action = static_cast<Action>(below(3));
      block.table = {"", "t" + std::to_string(below(3))};
      block.cascaded = block.action != Action::Add && below(3) == 0;
      const auto rows = static_cast<std::size_t>(1 + below(4));
      block.columns = {"id", "name", "x"};
      block.keyColumns = {"id"};
      block.keys = {column(rows)};
      block.anyTypeColumns = {"id", "name", "x"};
      block.written = block.action == Action::Edit ? std::vector<std::string>{"name"} : block.columns;
      for (std::size_t c = 0; c < block.columns.size(); ++c) {
        if (block.action != Action::Add) block.before.push_back(column(rows));
        if (block.action != Action::Remove) block.after.push_back(column(rows));
      }
      for (std::size_t r = 0; r < rows; ++r) {
        block.outcomes.push_back(static_cast<Outcome>(block.cascaded ? 0 : below(3)));
        block.changeIndex.push_back(index++);
      }
      out.blocks.push_back(std::move(block));
    }
    return out;
  }

  Gesture gesture() {
    Gesture out;
    out.title = text();
    for (int p = below(4); p > 0; --p) {
      GesturePart part;
      part.kind = static_cast<GesturePart::Kind>(below(8));
      part.table = {below(2) == 0 ? text() : "", "t" + text()};
      using Kind = GesturePart::Kind;
      const auto rows = static_cast<std::size_t>(1 + below(5));
      const bool ofNewRecords = part.kind == Kind::Add || part.kind == Kind::EditAdded || part.kind == Kind::DropAdded;
      for (std::size_t r = 0; ofNewRecords && r < rows; ++r) part.addedIds.push_back(1 + random_() % 1000);
      if (!ofNewRecords) {
        part.keyColumns = {"id"};
        part.keys = {column(rows)};
      }
      if (part.kind != Kind::Add && part.kind != Kind::DropAdded && part.kind != Kind::PutBack) part.column = name();
      if (part.kind == Kind::Edit || part.kind == Kind::KeepMine) part.from = column(rows);
      if (part.kind == Kind::Edit || part.kind == Kind::EditAdded) part.to = column(rows);
      if (part.kind == Kind::Remove) {
        part.recordColumns = {"id", "x"};
        part.records = {column(rows), column(rows)};
      }
      out.parts.push_back(std::move(part));
    }
    return out;
  }

  // One to three bytes changed, taken out or put in.
  std::string damaged(std::string document) {
    for (int n = 1 + below(3); n > 0 && !document.empty(); --n) {
      const auto at = static_cast<std::size_t>(below(static_cast<int>(document.size())));
      static const char kBytes[] = "{}[]\",:0\\e-\x80\xff\0n";
      const char byte = kBytes[below(static_cast<int>(sizeof kBytes - 1))];
      switch (below(4)) {
        case 0:
          document[at] = byte;
          break;
        case 1:
          document.erase(at, 1 + static_cast<std::size_t>(below(9)));
          break;
        case 2:
          document.insert(at, 1, byte);
          break;
        default:
          document.resize(at);
      }
    }
    return document;
  }

 private:
  std::mt19937_64 random_;
};

constexpr unsigned kRounds = 400;

TEST(DocumentsTest, AChangeFileReadsBackAsItWasWritten) {
  for (unsigned seed = 1; seed <= kRounds && !HasFailure(); ++seed) {
    Documents documents(seed);
    const ChangeList changes = documents.changes();
    const std::string document = writeChangeFile(changes);
    SCOPED_TRACE(document);
    const auto read = readChangeFile(document);
    ASSERT_TRUE(read.has_value()) << read.error().text();
    EXPECT_EQ(changes.count(), read->count());
    EXPECT_EQ(changes.title, read->title);
    const auto was = changes.inOrder();
    const auto is = read->inOrder();
    ASSERT_EQ(was.size(), is.size());
    for (std::size_t i = 0; i < was.size(); ++i) {
      EXPECT_EQ(was[i].second.table, is[i].second.table);
      EXPECT_EQ(was[i].second.label, is[i].second.label);
      ASSERT_EQ(was[i].second.cells.size(), is[i].second.cells.size());
      for (std::size_t c = 0; c < was[i].second.cells.size(); ++c) {
        EXPECT_EQ(was[i].second.cells[c].column, is[i].second.cells[c].column);
        EXPECT_EQ(was[i].second.cells[c].hasFrom, is[i].second.cells[c].hasFrom);
      }
    }
    EXPECT_EQ(document, writeChangeFile(*read));
  }
}

TEST(DocumentsTest, AReceiptReadsBackAsItWasWrittenInBothForms) {
  for (unsigned seed = 1; seed <= kRounds && !HasFailure(); ++seed) {
    Documents documents(seed);
    const Receipt receipt = documents.receipt();
    const std::string document = receiptJson(receipt);
    SCOPED_TRACE(document);
    const auto fromBytes = unpackReceipt(packReceipt(receipt));
    ASSERT_TRUE(fromBytes.has_value()) << fromBytes.error().text();
    EXPECT_EQ(document, receiptJson(*fromBytes));
    EXPECT_EQ(packReceipt(receipt), packReceipt(*fromBytes));
    const auto fromText = readReceiptJson(document);
    ASSERT_TRUE(fromText.has_value()) << fromText.error().text();
    EXPECT_EQ(receipt.appliedCount(), fromText->appliedCount());
    EXPECT_EQ(writeChangeFile(revertReceipt(receipt).changes).size() > 0,
              writeChangeFile(revertReceipt(*fromText).changes).size() > 0);
    EXPECT_EQ(revertReceipt(receipt).changes.count(), revertReceipt(*fromText).changes.count());
  }
}

TEST(DocumentsTest, AGestureUnpacksToWhatWasPacked) {
  for (unsigned seed = 1; seed <= kRounds && !HasFailure(); ++seed) {
    Documents documents(seed);
    const Gesture gesture = documents.gesture();
    const std::string packed = packGesture(gesture);
    const auto again = unpackGesture(packed);
    ASSERT_TRUE(again.has_value()) << again.error().text();
    EXPECT_EQ(gesture.title, again->title);
    EXPECT_EQ(gesture.parts.size(), again->parts.size());
    EXPECT_EQ(packed, packGesture(*again));
  }
}

TEST(DocumentsTest, WhatIsDamagedIsRefusedWithItsPlaceOrIsAnotherGoodDocument) {
  int refused = 0;
  for (unsigned seed = 1; seed <= 3 * kRounds && !HasFailure(); ++seed) {
    Documents documents(seed);
    const std::string file = documents.damaged(writeChangeFile(documents.changes()));
    const auto changes = readChangeFile(file);
    if (changes) {
      EXPECT_TRUE(readChangeFile(writeChangeFile(*changes)).has_value()) << file;
    } else {
      ++refused;
      EXPECT_EQ(ErrorKind::InvalidFile, changes.error().kind) << file;
      EXPECT_NE("", changes.error().place) << file;
      EXPECT_NE("", changes.error().message) << file;
    }
    const std::string paper = documents.damaged(receiptJson(documents.receipt()));
    if (const auto receipt = readReceiptJson(paper)) {
      EXPECT_TRUE(readChangeFile(writeChangeFile(revertReceipt(*receipt).changes)).has_value()) << paper;
    } else {
      ++refused;
      EXPECT_NE("", receipt.error().message) << paper;
    }
    if (const auto receipt = unpackReceipt(documents.damaged(packReceipt(documents.receipt())))) {
      (void)revertReceipt(*receipt);
    } else {
      ++refused;
    }
    if (!unpackGesture(documents.damaged(packGesture(documents.gesture())))) ++refused;
  }
  EXPECT_LT(static_cast<int>(kRounds), refused);
}

}  // namespace
}  // namespace iterandum::test
