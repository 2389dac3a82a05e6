// ReviewPage: what is staged, read before it is applied: groups, findings with a way out of each, records before and
// after, statements, and what the database will do by itself.
#pragma once

#include <QWidget>
#include <optional>

#include "app/session/desk.h"
#include "core/changes/part_of_changes.h"
#include "core/review/groups.h"
#include "core/review/placed_comments.h"
#include "core/review/ways_out.h"
#include "core/signing/judged_signature.h"

class QButtonGroup;
class QCheckBox;
class QFrame;
class QHBoxLayout;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;
class QScrollArea;
class QVBoxLayout;

namespace iterandum {

class CommentBox;
class FindingEditor;
class SigningBox;

class ReviewPage : public QWidget {
  Q_OBJECT
 public:
  explicit ReviewPage(Desk& desk, QWidget* parent = nullptr);

  // Rehearses what is staged now and shows it.
  void rehearse();
  // Applies it all; applied() or a message follows.
  void apply();
  void putGroupBack();
  // Only the chosen groups, with what they cannot go without; again: all that is staged.
  void reviewPart();
  // Only these records, with what they cannot go without.
  void reviewPartOf(const std::vector<RecordRef>& records);
  // How many records the part has that is reviewed; nothing: all is.
  [[nodiscard]] std::optional<std::uint64_t> partRecords() const;
  void saveChangeFile(const QString& path);
  // Where somebody puts their name under what is reviewed.
  void openSigning();
  // Where somebody says something of one change, of the chosen group or of all of it.
  void openComment(std::optional<std::uint32_t> change = std::nullopt);
  // What would change, as a page to be printed and signed: a PDF where the name says so, else HTML.
  void savePaper(const QString& path);
  [[nodiscard]] bool busy() const { return progress_ != nullptr || desk_.applying().running(); }
  [[nodiscard]] bool ready() const {
    return review_ && review_->ready && !stale_ && !busy() && desk_.info().readOnly.empty();
  }
  void stop();
  // 0: records, 1: statements, 2: what the database will do by itself.
  void showView(int view);
  void focusTitle();
  // The title that a change file brings along, where none is typed.
  void proposeTitle(const QString& title);
  [[nodiscard]] bool hasGroup() const { return currentGroup() >= 0; }
  // To the first record of the chosen group in its sheet: one that needs a look before the others.
  void goToFirst();
  // Chooses the next group that needs a look.
  void nextMarked(bool backwards);
  [[nodiscard]] const std::optional<Review>& review() const { return review_; }
  [[nodiscard]] QString stateInWords() const;
  [[nodiscard]] std::size_t changeCount() const { return list_.count(); }
  [[nodiscard]] std::size_t blockingCount() const;

 signals:
  void stateChanged();
  void applied(const QString& message);
  void said(const QString& message);
  // The record is to be shown in its sheet, with this cell marked; no column: as a whole.
  void recordAsked(const RecordRef& record, const std::string& column);
  // The records of a table that the last review found something in.
  void findingsAsked(const TableName& table);
  // Records of a table with these values are to be shown in a sheet.
  void recordsAsked(const TableName& table, const NamedValues& values);
  // These records of one table are the same thing; the first is to stay.
  void mergeAsked(const TableName& table, const std::vector<ValueTuple>& keys);
  void menuAsked(const QPoint& where);
  void told(const QString& message);  // what is to be known, where nothing is amiss

 private:
  // A record that points at one that is to go.
  struct ToRepoint {
    const Table* table = nullptr;
    ValueTuple key;
    std::size_t column = 0;  // of the table
    Value pointsAt;
  };
  // A part of what is staged.
  struct Part {
    SplitChanges split;
    ChangeSet changes;  // the part alone
    QString along;      // what came along, in words
  };
  // Of the gesture that holds what was not applied with a part.
  [[nodiscard]] static QString restTitle();
  void reviewAll();
  void reviewPicked(const std::vector<PickedChange>& picked);
  void showPart();
  bool eventFilter(QObject* watched, QEvent* event) override;
  // All groups below the head of a table.
  void chooseBelow(int head);
  [[nodiscard]] std::vector<int> chosenGroups() const;
  [[nodiscard]] QString alongInWords(const std::vector<PickedChange>& along) const;
  // What is reviewed: all that is staged, or a part.
  [[nodiscard]] const ChangeSet& reviewed() const { return part_ ? part_->changes : desk_.changes(); }
  void watchApplying();
  void proposeTitle();
  // What was typed, else what is proposed.
  [[nodiscard]] QString title() const;
  // A review, and the house rules that could not be read.
  struct Rehearsed {
    Review review;
    std::vector<std::string> unreadRules;
    std::vector<JudgedSignature> signatures;
    KeptSettings::Said said;  // as the store has it
  };
  void showSignatures();
  // --- comments ---
  void buildComments(QHBoxLayout* chipRow, QVBoxLayout* page);
  [[nodiscard]] std::set<std::string> spokenOf() const;
  void placeAllComments();
  // How many were said of a group, and of its records.
  [[nodiscard]] std::size_t commentsOf(int index) const;
  [[nodiscard]] QString commentLine(std::size_t index, const QString& of) const;
  // Of a group: the first records are shown with theirs beside them.
  void addComments(int index, std::size_t shownRecords);
  void followLink(const QString& link);
  void takeReview(Result<Rehearsed>&& review);
  void showGroups();
  void addGroupItem(int index);
  // What the database writes besides: an item for each table, above the groups.
  void addElsewhereItems();
  void showElsewhere(const WrittenElsewhere& written);
  [[nodiscard]] QString elsewhereTitle(const WrittenElsewhere& written) const;
  // The one that is chosen; null: none is.
  [[nodiscard]] const WrittenElsewhere* currentElsewhere() const;
  void addHead(const QString& text);
  // One record in a table of them; both as HTML.
  [[nodiscard]] static QString recordLine(const QString& name, const QString& cells, const QString& aside = {});
  [[nodiscard]] int currentGroup() const;
  void wantNames();
  void showGroup();
  void openGroupMenu(const QPoint& place);
  void addProblem(const QString& text);
  void addFindings(const ChangeGroup& group);
  void addFinding(const Finding& finding);
  using SharedFindings = std::shared_ptr<const std::vector<Finding>>;
  void addConflicts(const SharedFindings& all);
  // --- ways out ---
  [[nodiscard]] static QString wayInWords(WayOut way, const Finding& finding);
  // `box`: where the finding is shown.
  void takeWay(WayOut way, const Finding& finding, QFrame* box);
  [[nodiscard]] CellEdit wantedCell(const Finding& finding, Value to) const;
  void correctHere(const Finding& finding, QFrame* box);
  // Null: one is open there already.
  FindingEditor* openEditor(const Table& table, const RecordRef& record, int column, QFrame* box);
  void addAgain(const std::vector<Finding>& findings);
  void mergeWithHolder(const Finding& f);
  void addParent(const Finding& finding);
  void clearAll(const std::vector<Finding>& findings);
  // Mine, in all of these cells; of removals the records go all the same.
  void keepMine(const std::vector<Finding>& findings);
  void takeTheirs(const std::vector<Finding>& findings);
  void removeAllTheSame(const std::vector<Finding>& findings);
  // Whoever points at these records is to point at another one, which is chosen in an editor in `box`.
  void repoint(const std::vector<Finding>& findings, QFrame* box);
  void openRepointing(const std::vector<ToRepoint>& found, QFrame* box);
  [[nodiscard]] std::vector<ReferringRecords> referringTo(const std::vector<Finding>& findings) const;
  void letGo(const std::vector<Finding>& findings);
  void removeReferring(const std::vector<Finding>& findings);
  void addAllOf(const ChangeGroup& group, FindingKind kind, const SharedFindings& those);
  [[nodiscard]] std::set<WayOut> commonWays(const std::vector<Finding>& findings) const;
  [[nodiscard]] static QString kindInWords(FindingKind kind, int n);
  void addRecords(const ChangeGroup& group);
  void addStatements(const ChangeGroup& group);
  void addEffects(const ChangeGroup& group);
  void clearDetail();
  [[nodiscard]] QString groupTitle(const ChangeGroup& group) const;
  [[nodiscard]] QString shown(const TableName& table, const std::string& column, const Value& value) const;
  [[nodiscard]] bool inGroup(const ChangeGroup& group, std::uint32_t change, const std::string& column) const;
  void buildList();
  [[nodiscard]] QString recordName(std::uint32_t change) const;
  void loadNames();
  void keepFindings();

  static constexpr std::size_t kMostRecordsShown = 100;  // of a group

  Desk& desk_;
  std::optional<Part> part_;
  ChangeList list_;
  std::vector<RecordRef> refs_;  // by change index
  std::vector<Change> changes_;  // by change index
  std::vector<ChangeGroup> groups_;
  std::map<std::uint32_t, QString> names_;
  std::optional<Review> review_;
  std::vector<JudgedSignature> signatures_;
  std::vector<Comment> comments_;
  PlacedComments placed_;  // of the groups
  QString problem_;
  QString proposedTitle_;
  bool stale_ = true;
  std::uint64_t generation_ = 0;  // of what is staged: what is read for one is not staged upon another
  int view_ = 0;
  std::shared_ptr<Progress> progress_;
  QLabel* heading_;
  QLineEdit* title_;
  QCheckBox* copy_;  // only where the database can be copied
  SigningBox* signing_;
  QListWidget* groupList_;
  QLabel* groupHeading_;
  QButtonGroup* chips_;
  QPushButton* back_;
  QPushButton* only_;
  QPushButton* comment_ = nullptr;
  CommentBox* commentBox_ = nullptr;
  QLabel* partWords_;
  QScrollArea* scroll_;
  QVBoxLayout* detail_ = nullptr;
};

}  // namespace iterandum
