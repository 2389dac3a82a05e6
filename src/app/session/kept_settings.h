// KeptSettings: what is kept for a database besides what is staged for it: its mark, saved scopes, recipes, house
// rules, lenses, stated references, how records are called, how sheets lie. What is changed here is on disk soon after,
// by the store's own thread. Lives on the interface thread.
#pragma once

#include <QObject>
#include <functional>
#include <map>
#include <memory>
#include <set>
#include <string>
#include <vector>

#include "app/session/lenses.h"
#include "app/session/store_thread.h"
#include "core/changes/comment.h"
#include "core/signing/judged_signature.h"
#include "core/store/store.h"

namespace iterandum {

class KeptSettings : public QObject {
  Q_OBJECT
 public:
  // As the store has it.
  struct Restored {
    DatabaseMark mark;
    std::vector<SavedScope> scopes;
    std::vector<Recipe> recipes;
    std::vector<HouseRule> houseRules;
    std::vector<Lens> lenses;
    std::vector<Form> forms;
    std::vector<StatedReference> references;
    std::map<std::string, std::vector<std::string>> readable;
    std::map<std::string, std::string> layouts;
    std::set<std::string> toldCode;
    std::string openSheets;
    std::map<std::string, std::string> choices;
  };

  explicit KeptSettings(std::shared_ptr<StoreThread> storeThread) : storeThread_(std::move(storeThread)) {}

  // On the store's thread.
  [[nodiscard]] static Result<Restored> read(Store& store, const std::string& address);
  // For which database; nothing is kept before.
  void setAddress(const std::string& address) { address_ = address; }
  void take(Restored&& restored);
  // Lenses are fitted to it.
  void useCatalogue(std::shared_ptr<const Catalogue> catalogue);

  [[nodiscard]] const DatabaseMark& mark() const { return all_.mark; }
  void setMark(const DatabaseMark& mark);
  [[nodiscard]] const std::vector<SavedScope>& scopes() const { return all_.scopes; }
  void saveScope(const SavedScope& scope);
  void forgetScope(const std::string& name);
  [[nodiscard]] const std::vector<Recipe>& recipes() const { return all_.recipes; }
  void saveRecipe(const Recipe& recipe);
  void forgetRecipe(const std::string& name);
  // What records must hold besides what the database asks for; reviewing and applying hold to it.
  [[nodiscard]] const std::vector<HouseRule>& houseRules() const { return all_.houseRules; }
  // Takes the place of one with the same name.
  void saveHouseRules(const std::vector<HouseRule>& rules);
  void forgetHouseRule(const std::string& name);
  // Through which lenses columns are looked at.
  [[nodiscard]] Lenses& lenses() { return lenses_; }
  // Each takes the place of the one of its column.
  void saveLenses(const std::vector<Lens>& lenses);
  void forgetLens(const std::string& table, const std::string& column);
  // How the card of a table is laid out.
  [[nodiscard]] const std::vector<Form>& forms() const { return all_.forms; }
  // As it fits the table now.
  [[nodiscard]] Form form(const Table& table) const;
  // Each takes the place of the one of its table.
  void saveForms(const std::vector<Form>& forms);
  void forgetForm(const Table& table);
  // How the columns of a table's sheet lay when it was last closed, in the window's own words; empty: never.
  [[nodiscard]] std::string layout(const Table& table) const;
  void keepLayout(const Table& table, const std::string& layout);
  // The sheets that were open when the window last left this database, in the window's own words.
  [[nodiscard]] const std::string& openSheets() const { return all_.openSheets; }
  void keepOpenSheets(const std::string& sheets);
  // What somebody chose, under the choice's name; empty: never.
  [[nodiscard]] std::string choice(const std::string& name) const;
  void keepChoice(const std::string& name, const std::string& chosen);
  // Those whose names begin so, by the rest of the name.
  [[nodiscard]] std::map<std::string, std::string> choicesUnder(const std::string& beginning) const;
  // Whether a copy of the whole database is kept before anything is applied to it.
  [[nodiscard]] bool copiesFirst() const;
  void setCopiesFirst(bool copies);
  // What is applied to the database, and who signed what is staged for it.
  [[nodiscard]] SigningRule signingRule() const;
  [[nodiscard]] std::vector<Signature> signatures() const;
  void addSignatures(const std::vector<Signature>& signatures);
  // What was said of what is staged, in the order in which it was said.
  [[nodiscard]] std::vector<Comment> comments() const;
  void addComments(const std::vector<Comment>& comments);
  void takeBackComment(const Comment& comment);
  // What was signed was applied, and what was said is on the receipt, but for these comments.
  void forgetSaid(const std::vector<Comment>& left);
  // Signatures, comments and the rule for applying, as they are in the store by now: other windows add to them.
  struct Said {
    std::vector<Signature> signatures;
    std::map<std::string, std::string> choices;
  };
  [[nodiscard]] static Result<Said> readSaid(Store& store, const std::string& address);
  // How often any of it was changed here. What was read before the last change is not taken.
  [[nodiscard]] std::uint64_t saidSoFar() const { return said_; }
  void takeSaid(const Said& said, std::uint64_t asOf);
  // By which columns the records of a table are called where something points at them; by the table's name.
  [[nodiscard]] const std::map<std::string, std::vector<std::string>>& readable() const { return all_.readable; }
  // None: as it was.
  void chooseReadable(const Table& table, const std::vector<std::string>& columns);
  // What of the database's own code (running_code.h) nobody was told about yet; from now on they are.
  [[nodiscard]] std::vector<std::string> tellOnce(const std::vector<std::string>& code);
  [[nodiscard]] const std::vector<StatedReference>& statedReferences() const { return all_.references; }
  // The catalogue is another one afterwards, and its tables too: referencesChanged() says so.
  void stateReference(const StatedReference& reference);
  void forgetReference(const StatedReference& reference);

 signals:
  void markChanged();
  void scopesChanged();
  void recipesChanged();
  void houseRulesChanged();
  void formsChanged();
  void readableChanged();
  void commentsChanged();
  void referencesChanged();
  void storeFailed(const QString& message);

 private:
  void keep(std::function<Status(Store&)> work);
  // Here at once, and in the store upon whatever others kept there meanwhile.
  void amend(const char* name, const std::function<std::string(const std::string& kept)>& amend);
  void useLenses(std::vector<Lens> lenses);

  std::shared_ptr<StoreThread> storeThread_;
  std::string address_;
  std::shared_ptr<const Catalogue> catalogue_;
  std::uint64_t said_ = 0;
  Restored all_;  // the lenses of it are with lenses_
  Lenses lenses_;
};

}  // namespace iterandum
