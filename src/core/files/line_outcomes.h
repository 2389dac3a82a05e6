// What becomes of each line of a file that is held against a table.
#pragma once

#include <cstdint>
#include <deque>
#include <memory>
#include <string>
#include <unordered_map>
#include <vector>

namespace iterandum {

// A few words, where there are any: of a million lines most have none.
class LineWords {
 public:
  LineWords() = default;
  LineWords& operator=(std::string words) {
    words_ = std::make_shared<const std::string>(std::move(words));
    return *this;
  }
  [[nodiscard]] const std::string& text() const {
    static const std::string kNone;
    return words_ ? *words_ : kNone;
  }

 private:
  std::shared_ptr<const std::string> words_;
};

// What becomes of a line.
struct LineOutcome {
  enum class Kind : std::uint8_t {
    Changes,
    AlreadySo,
    New,
    NoRecord,
    Several,  // records are named by it
    Twice,    // another line names the same record
    Refused   // `words`
  };
  std::uint64_t line = 0;
  Kind kind = Kind::AlreadySo;
  LineWords words;  // Changes: the columns; Twice: the other line; Refused: why

  [[nodiscard]] bool failed() const { return kind >= Kind::NoRecord; }
};

// "no record is named by it", "changes condition, note": for messages and reports. `lineWord`: what a line is called.
[[nodiscard]] std::string inWords(const LineOutcome& outcome, const char* lineWord);

// The outcomes of the lines that are not so already: eight bytes each, however many, and the words of each once. In the
// order of the file after sort(). Lines count to 32 bits.
class LineOutcomes {
  struct Kept {
    std::uint32_t line;
    std::uint32_t kind : 3;
    std::uint32_t words : 29;  // position in words_ + 1; 0: none
  };

 public:
  void add(std::uint32_t line, LineOutcome::Kind kind, std::string words = {});
  void sort();
  // Takes away what is kept of these lines, which ascend.
  void erase(const std::vector<std::uint32_t>& lines);

  // A line that is not here is so already. REQUIRES: sort() after the last add().
  [[nodiscard]] LineOutcome of(std::uint64_t line) const;
  [[nodiscard]] std::size_t size() const { return kept_.size(); }

  class const_iterator {
   public:
    LineOutcome operator*() const { return from_->outcome(*at_); }
    const_iterator& operator++() {
      ++at_;
      return *this;
    }
    bool operator==(const const_iterator& other) const { return at_ == other.at_; }

   private:
    friend class LineOutcomes;
    const_iterator(const LineOutcomes* from, const std::deque<Kept>::const_iterator& at) : from_(from), at_(at) {}
    const LineOutcomes* from_;
    std::deque<Kept>::const_iterator at_;
  };
  [[nodiscard]] const_iterator begin() const { return {this, kept_.begin()}; }
  [[nodiscard]] const_iterator end() const { return {this, kept_.end()}; }

 private:
  [[nodiscard]] LineOutcome outcome(const Kept& kept) const;

  std::deque<Kept> kept_;  // which grows without being moved
  std::vector<LineWords> words_;
  std::unordered_map<std::string, std::uint32_t> columns_;  // of a million lines most change the same columns
};

}  // namespace iterandum
