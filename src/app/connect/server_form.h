// ServerForm: a database on a server, in its parts. It makes the address from the parts, without the password, and
// takes an address apart.
#pragma once

#include <QWidget>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace iterandum {

class ServerForm : public QWidget {
  Q_OBJECT
 public:
  explicit ServerForm(QWidget* parent = nullptr);

  // Fills the parts in. A password in the address goes to its own field; one that was typed for another server or user
  // is forgotten. False when it names no server.
  bool setAddress(const QString& address);
  [[nodiscard]] QString address() const;
  [[nodiscard]] QString password() const;
  [[nodiscard]] bool wantsRemembering() const;
  void focusPassword();
  void forgetPassword();

 signals:
  void changed();
  void submitted();

 private:
  enum class Kind { PostgreSql, MariaDb };
  void showKind();
  void addRow(const QString& label, QWidget* field, const char* name, int row, int column);
  [[nodiscard]] Kind kind() const;
  void setParameter(const QString& name, const QString& value);

  QPushButton* kinds_[2];
  QLineEdit* host_;
  QLineEdit* port_;
  QLineEdit* database_;
  QLineEdit* user_;
  QLineEdit* password_;
  QComboBox* tls_;
  QLineEdit* authority_;
  QLineEdit* seconds_;
  QCheckBox* remember_;
  QStringList others_;  // parameters of the address that the form has no field for, as they were written
  bool filling_ = false;
};

}  // namespace iterandum
