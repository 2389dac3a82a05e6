// SigningBox: who signed what is reviewed, what a signature is worth, and where one is given. Stands beside the groups.
#pragma once

#include <QWidget>
#include <memory>
#include <optional>
#include <vector>

#include "app/session/desk.h"
#include "core/signing/judged_signature.h"

class QComboBox;
class QFrame;
class QLabel;
class QLineEdit;
class QPushButton;

namespace iterandum {

class SigningBox : public QWidget {
  Q_OBJECT
 public:
  explicit SigningBox(Desk& desk, QWidget* parent = nullptr);

  // As the last review found them. `ready`: what is reviewed could be signed.
  void show(const std::vector<JudgedSignature>& judged, bool ready);
  // Where somebody signs; the keys they have are looked for meanwhile.
  void open();
  // Over these changes, under the name that is chosen. signed() or said() follows.
  void sign(const ChangeList& changes);

 signals:
  void signAsked();
  void done(const std::vector<iterandum::JudgedSignature>& judged);
  void said(const QString& message);

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void buildForm();
  void close();
  void takeKeys(const std::vector<SigningKey>& keys);
  [[nodiscard]] QString rulesInWords(SigningRule rule) const;

  Desk& desk_;
  std::vector<SigningKey> keys_;
  std::shared_ptr<Progress> progress_;
  bool ready_ = false;
  QLabel* words_;
  QPushButton* open_;
  QFrame* form_;
  QComboBox* name_;
  QLineEdit* says_;
  QComboBox* rule_;
  QPushButton* sign_;
};

}  // namespace iterandum
